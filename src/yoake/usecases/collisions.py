"""Two people on one record: who writes on a version that is not the newest is told, with what stands there now."""

from __future__ import annotations

from yoake.core.values.errors import Outdated


def expect(seen: int | None, now: int, what: str, current: object) -> None:
    """Raises Outdated when ``seen``, the version a change was begun on, is not the one there is ``now``.

    0 stands for a record that does not exist; None for somebody who writes whatever is there.
    """
    if seen is not None and seen != now:
        raise Outdated(f"Somebody else changed {what} meanwhile. Nothing was written.", current)
