"""Tests of fares."""
import unittest

from desk.sales.fares import card_fields, fare, signature


class FareTest(unittest.TestCase):
    def test_children_pay_less(self):
        self.assertEquals(fare("child", 2), 14.0)

    def test_signature_is_base64(self):
        self.assertRegexpMatches(signature("till 4")[0], r"^[A-Za-z0-9+/=]+$")

    def test_card_fields(self):
        self.assert_(card_fields("text/plain; charset=utf-8")[1])
