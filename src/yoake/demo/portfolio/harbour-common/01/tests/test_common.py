"""Tests of what is shared."""
import unittest

from harbour_common.mapping import Watched
from harbour_common.plugins import found, version


class CommonTest(unittest.TestCase):
    def test_watched(self):
        told = []
        watched = Watched(told.append)
        watched["berth"] = "A"
        self.assertEqual(told, ["berth"])

    def test_found(self):
        self.assertTrue(found("json"))
        self.assertIsNone(version("no-such-harbour"))
