"""One pattern as it is written in a list of patterns."""

from __future__ import annotations

from yoake.core.contract.evaluation import Model, Place, Value


class Pattern(Model):
    """``path(…)`` and its kin: a template, and a view or what is included. ``methods`` where they are known otherwise."""

    def __init__(
        self, template: str, rest: frozenset[str], view: Value, place: Place, methods: tuple[str, ...] = ()
    ) -> None:
        self.template, self.rest, self.view, self.place, self.methods = template, rest, view, place, methods
