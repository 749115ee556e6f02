"""Tests of shifts."""
import unittest
from datetime import datetime, timedelta

from roster.config import read
from roster.shifts import rested, wants_nights


class ShiftTest(unittest.TestCase):
    def test_rest(self):
        ended = datetime(2026, 3, 1, 22)
        self.assertFalse(rested(ended, ended + timedelta(hours=8)))

    def test_answer(self):
        self.assertTrue(wants_nights("yes"))

    def test_config(self):
        self.assertEqual(read("[roster]\nport = north")["port"], "north")
