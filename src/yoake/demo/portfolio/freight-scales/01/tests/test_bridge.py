"""Tests of the weighbridge."""
import unittest

from scales.bridge import heavier, read


class BridgeTest(unittest.TestCase):
    def test_limit(self):
        self.assertEqual(read("[bridge]\nlimit = 40"), 40)

    def test_heavier(self):
        self.assertEqual(heavier({"a": 3, "b": 9}, 5), ["b"])
