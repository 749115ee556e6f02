"""The errors a person can meet, as a tree; each sentence says what happened and what to do.

YoakeError
├── BadInput            something given to us cannot be read
│   ├── BadCoordinate   a coordinate, line or target that is none
│   ├── BadSource       a folder, repository, ref or archive that cannot be scanned
│   └── BadKnowledge    a knowledge file that breaks its format
├── BadRecords          the file of records cannot be read or written
├── NotFound            a record that does not exist
├── Conflict            the request meets a state in which it cannot be done
│   └── Outdated        somebody else changed the record meanwhile
├── NotSignedIn         nobody is known to ask, or the wrong one
├── NotAllowed          somebody asks for what their role may not do
├── InUse               another running Yoake has what is asked for
├── LimitReached        work that took more time or memory than it may
├── TooLarge            a question with more answers than can be looked through
└── Stopped             a person stopped the work
"""

from __future__ import annotations


class YoakeError(Exception):
    """Base of all errors meant for a person."""


class BadInput(YoakeError):
    """Something given to us cannot be read; ``faults`` lists every fault of the one input."""

    def __init__(self, message: str, faults: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.faults = faults or (message,)


class BadCoordinate(BadInput):
    """A coordinate, line or target that is none."""


class BadSource(BadInput):
    """A folder, repository, ref or archive that cannot be scanned."""


class BadKnowledge(BadInput):
    """A knowledge file that breaks its format."""


class BadRecords(YoakeError):
    """The file of records cannot be read or written."""


class NotFound(YoakeError):
    """A record that does not exist."""


class Conflict(YoakeError):
    """The request meets a state in which it cannot be done."""


class Outdated(Conflict):
    """Somebody else changed the record meanwhile. ``current``: how it is now, None where it is gone."""

    def __init__(self, message: str, current: object) -> None:
        super().__init__(message)
        self.current = current


class NotSignedIn(YoakeError):
    """Nobody is known to ask, or with the wrong secret."""


class NotAllowed(YoakeError):
    """Somebody asks for what their role may not do."""


class InUse(YoakeError):
    """Another running Yoake has what is asked for."""


class LimitReached(YoakeError):
    """Work that took more time or memory than it may."""


class TooLarge(YoakeError):
    """A question with more answers than can be looked through."""


class Stopped(YoakeError):
    """A person stopped the work."""
