"""The rules of a gateway as they stand in their file: read again when it changes; a file that is wrong changes nothing."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import structlog

from yoake.core.values.errors import BadInput
from yoake.formats.crossing_rules import read_rules

if TYPE_CHECKING:
    from yoake.core.crossing.rules import CrossingRules

log = structlog.get_logger()


class RulesFile:
    """``rules`` is what holds now. Raises BadInput when it cannot be read at first."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._seen = self._stamp()
        self.rules = read_rules(self._text())
        self.fault = ""

    def _text(self) -> str:
        try:
            return self.path.read_text("utf-8")
        except (OSError, UnicodeDecodeError) as error:
            raise BadInput(f"The rules {self.path} cannot be read: {error}.") from error

    def _stamp(self) -> tuple[int, int, int]:
        try:
            found = self.path.stat()
        except OSError:
            return (0, 0, 0)
        return (found.st_mtime_ns, found.st_size, found.st_ino)

    def look(self) -> CrossingRules | None:
        """New rules, if the file changed and is right."""
        stamp = self._stamp()
        if stamp == self._seen:
            return None
        self._seen = stamp
        try:
            self.rules = read_rules(self._text())
        except BadInput as error:
            self.fault = str(error)
            log.warning("rules not taken; the ones before hold", file=str(self.path), faults=list(error.faults))
            return None
        self.fault = ""
        log.info("rules taken", file=str(self.path), routes=len(self.rules.routes))
        return self.rules
