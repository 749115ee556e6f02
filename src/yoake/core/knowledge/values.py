"""What functions and methods give back: the class under whose name the members of such a value are looked up."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Final

from yoake.core.knowledge.models import RuleFile, unfolded

if TYPE_CHECKING:
    from yoake.core.contract.path_style import PathStyle

_CALL: Final = "__call__"
_MOST: Final = 12  # calls in one path that are followed


class Values:
    """``returns`` and ``same`` of rule files of one language, put together."""

    def __init__(self, files: Iterable[RuleFile], style: PathStyle) -> None:
        self._style = style
        self._returns: dict[str, str] = {}
        self._same: dict[str, str] = {}
        for file in files:
            for into, held in ((self._returns, file.returns), (self._same, file.same)):
                for written, path in held.items():
                    into.update(dict.fromkeys(unfolded(written), path))

    def plain(self, path: str) -> str:
        """A path as rules name it: values under the name of their class, without calls and defaults."""
        return self.told(path).replace("()", "")

    def told(self, path: str) -> str:
        """``lib.load().sort().x`` → ``lib.Frame.x``, as far as it is known what is given back; else the path as it is."""
        parts = path.split("()")
        if len(parts) > _MOST:
            return path
        head, again = self._named(parts[0]), False
        for rest in parts[1:]:
            asked = self._member(head)
            made = self._returns.get(f"{asked}.{_CALL}" if again else asked, head)
            again = not rest  # what was given back is called itself
            head = made if again else self._named(f"{made}(){rest}")
        return head

    def _member(self, path: str) -> str:
        return path.replace("()", "")

    def _named(self, path: str) -> str:
        """A path under its usual name: what only reexports, and a module that is its own default, left out."""
        default = self._style.default_part
        first, dot, rest = path.partition(".")
        if default and (rest == default or rest.startswith((f"{default}.", f"{default}()"))):
            path = first + rest.removeprefix(default)
        bare = self._member(path)
        known = self._same.get(bare)
        if known is not None:
            return known
        owner, dot, name = path.rpartition(".")
        shared = self._same.get(self._member(owner)) if dot else None
        return f"{shared}.{name}" if shared is not None else path
