"""Tests of lamps."""
import unittest

from lamp.watch import dark


class WatchTest(unittest.TestCase):
    def test_dark(self):
        self.assertEqual(dark([("b", False), ("a", False), ("c", True)]), ["a", "b"])
