"""Serve the newest levels."""
import asyncio

from tide_feed.gauge import poll

if __name__ == "__main__":
    loop = asyncio.get_event_loop()
    loop.run_until_complete(poll(["north", "south"], loop=loop))
