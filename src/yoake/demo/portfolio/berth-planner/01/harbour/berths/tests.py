"""Tests of berths."""
import unittest

from harbour.berths.allocation import allocate


class AllocationTest(unittest.TestCase):
    def test_longest_vessel_first(self):
        plan = allocate([("A", 40.0), ("B", 25.0)], [("Skerry", 22.5), ("Marram", 31.0)])
        self.assertEquals(plan["Marram"], "A")
        self.assertEquals(plan["Skerry"], "B")

    def test_no_berth_no_place(self):
        self.assertFalse(allocate([("A", 10.0)], [("Marram", 31.0)]))
