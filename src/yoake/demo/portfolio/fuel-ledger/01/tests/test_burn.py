"""Tests of burn rates."""
import asyncio
import unittest

from ledger.burn import rate, rates


class BurnTest(unittest.TestCase):
    def test_rate(self):
        self.assertEqual(rate(90, 4), 22.5)
        self.assertEqual(rate(90, 0), 0.0)

    def test_rates(self):
        self.assertEqual(asyncio.run(rates({"Skerry": (90, 4)})), {"Skerry": 22.5})
