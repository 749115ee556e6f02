"""Tests of items."""
import unittest

from lost.items import Item, label


class ItemTest(unittest.TestCase):
    def test_label(self):
        self.assertEqual(label(Item("umbrella", "Skerry")), "umbrella (Skerry)")
