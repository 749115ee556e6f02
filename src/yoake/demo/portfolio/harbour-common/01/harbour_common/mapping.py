"""A mapping that tells when it changes; works on every Python we have."""
import sys

if sys.version_info >= (3, 3):
    from collections.abc import MutableMapping
else:
    from collections import MutableMapping


class Watched(MutableMapping):
    def __init__(self, told):
        self._values, self._told = {}, told

    def __getitem__(self, key):
        return self._values[key]

    def __setitem__(self, key, value):
        self._values[key] = value
        self._told(key)

    def __delitem__(self, key):
        del self._values[key]

    def __iter__(self):
        return iter(self._values)

    def __len__(self):
        return len(self._values)
