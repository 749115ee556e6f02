"""Tests of the feed."""
import asyncio
import unittest

from tide_feed.almanac import columns, levels, period
from tide_feed.gauge import poll


class FeedTest(unittest.TestCase):
    def test_poll(self):
        found = asyncio.get_event_loop().run_until_complete(poll(["north"]))
        self.assertEqual(found, {"north": 2.4})

    def test_almanac(self):
        self.assertEqual(period(4, 6), 12)
        self.assertEqual(columns(levels), ["text"])
        self.assertEqual(levels("<day><l>1.5</l></day>"), [1.5])


def suite():
    return unittest.makeSuite(FeedTest)
