"""What was computed lately, by all it depends on: the newest few, for who looks at the next window of the same thing."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class Memo(Generic[T]):
    """At most ``most`` values. ``get`` makes one that is not there; several threads may ask."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._held: dict[Hashable, T] = {}
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The value under this key; ``make`` runs outside of the lock, so two may make the same at once."""
        with self._lock:
            if key in self._held:
                value = self._held[key] = self._held.pop(key)  # the youngest again
                return value
        value = make()
        with self._lock:
            self._held[key] = value
            while len(self._held) > self._most:
                del self._held[next(iter(self._held))]
        return value
