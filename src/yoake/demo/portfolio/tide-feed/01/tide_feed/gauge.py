"""Ask the gauges; written before async was a word."""
import asyncio
import asyncore
import telnetlib
from collections import Callable, Iterable


@asyncio.coroutine
def read(name):
    yield from asyncio.sleep(0)
    return name, 2.4


@asyncio.coroutine
def poll(names, loop=None):
    levels = {}
    for name in names:
        key, level = yield from read(name)
        levels[key] = level
    return levels


def dial(host, on_line):
    if not isinstance(on_line, Callable):
        raise TypeError("on_line must be callable")
    return telnetlib.Telnet(host)


class Listener(asyncore.dispatcher):
    def handle_read(self):
        self.recv(512)


def several(levels):
    return isinstance(levels, Iterable)
