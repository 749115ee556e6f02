"""Rules about how a name is used: what is handed over, which member of a value, what a class is told by its members."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from yoake.core.scan.judge import Verdict
from yoake.core.scan.usages import Hit, Joiner

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rule
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.facts import Ask, FileFacts
    from yoake.core.values.journeys import Span

_NO_USES: Final = frozenset(("import", "string", "type", "syntax", "template"))
_CALLED: Final = frozenset(("call", "instance", "inherited"))  # forms of what may be a call
_OF_A_CLASS: Final = frozenset(("inherited", "member"))


@dataclass(frozen=True, slots=True)
class _Asked:
    """A rule with its coordinate and span, its patterns made ready."""

    rule: Rule
    coordinate: Coordinate
    span: Span
    written: re.Pattern[str] | None
    unless: re.Pattern[str] | None


class UseRules:
    """The rules about uses whose line lies between today and the destination, for one language of one module."""

    def __init__(self, knowledge: Knowledge, spans: Mapping[Coordinate, Span], language: str) -> None:
        self._values = knowledge.values(language)
        self._rules: dict[str, list[_Asked]] = {}
        for rule, file in knowledge.rules_by_id.values():
            span = spans.get(file.coordinate)
            if rule.symbol is None or span is None or knowledge.language_of(file.coordinate) != language:
                continue
            if rule.between(span.today, span.goal) is None:
                continue
            asked = _Asked(
                rule,
                file.coordinate,
                span,
                re.compile(rule.written) if rule.written is not None else None,
                re.compile(rule.unless) if rule.unless is not None else None,
            )
            for symbol in rule.symbols:
                self._rules.setdefault(symbol.replace("()", ""), []).append(asked)
        self._looked_at: dict[str, bool] = {}
        self._names = frozenset(symbol.rpartition(".")[2] for symbol in self._rules)

    def hits(self, file: str, facts: FileFacts, joiner: Joiner) -> Iterator[Hit]:
        """Places on which a rule speaks."""
        if not self._rules:
            return
        looked_at = self._looked_at
        put_back = joiner.put_back(facts)
        for index, ask in enumerate(facts.asks):
            may_speak = looked_at.get(ask.path)
            if may_speak is None:
                may_speak = self._look_at(ask.path)
            if (
                not may_speak
                or ask.form in _NO_USES
                or (ask.path in put_back and ask.form not in ("assigned", "import"))
            ):
                continue
            path = self._path(ask, file, joiner)
            for asked in self._asked(path) if path is not None else ():
                form = asked.rule.form or ("assigned" if ask.form == "assigned" and asked.written is None else None)
                if form is not None and form != ask.form and not (form == "call" and ask.form in _CALLED):
                    continue
                hit = self._hit(file, facts, index, path or "", asked, joiner)
                if hit is not None:
                    yield hit

    def _look_at(self, path: str) -> bool:
        """Whether some part of a path is the name of something that a rule is about; the same paths come again and again."""
        known = self._looked_at[path] = not self._names.isdisjoint(path.replace("()", "").split("."))
        return known

    def _asked(self, path: str) -> Iterator[_Asked]:
        """Rules about a path, and those about what it is a member of that ask for nothing more."""
        yield from self._rules.get(path, ())
        owner = path.rpartition(".")[0]
        while owner:
            yield from (
                asked for asked in self._rules.get(owner, ()) if asked.written is None and asked.rule.form is None
            )
            owner = owner.rpartition(".")[0]

    def _path(self, ask: Ask, file: str, joiner: Joiner) -> str | None:
        """The name that rules have for what is used."""
        if ask.form in _OF_A_CLASS and ask.path.startswith("self:"):
            owner, rest = ask.path[5:], []
            while "." in owner:
                owner, _, name = owner.rpartition(".")
                rest.append(name)
                base = joiner.base_of(file, owner)
                if base is not None:
                    return self._values.plain(f"{self._values.plain(base)}.{'.'.join(reversed(rest))}")
            return None
        resolved = joiner.project.resolve(ask.path, file)
        if resolved is None:
            base = joiner.base_of_value(ask.path, file)
            return self._values.plain(base) if base is not None else None
        return self._values.plain(resolved.path)

    def _hit(self, file: str, facts: FileFacts, index: int, path: str, asked: _Asked, joiner: Joiner) -> Hit | None:
        places = None
        if asked.written is not None or asked.unless is not None:
            told = [use.written for use in facts.uses_of(index)]
            places = frozenset(n for n, shown in enumerate(told) if _fits(shown, asked))
            if not places:
                return None
        rule = asked.rule
        state = rule.between(asked.span.today, asked.span.goal)
        ask = facts.asks[index]
        guarded = joiner.guarded(ask)
        if state == "deprecated":
            verdict = Verdict(
                state="deprecated",
                coordinate=asked.coordinate,
                symbol=path,
                cause=rule.id,
                bites_at=None,
                after=None,
                kind="deprecated",
                detail=rule.title,
            )
        else:
            kind = rule.kind or "behaviour"
            verdict = Verdict(
                state="fails",
                coordinate=asked.coordinate,
                symbol=path,
                cause=rule.id,
                bites_at=rule.at,
                after=None,
                kind=kind,
                detail=rule.title,
            )
        return Hit(file, facts, index, verdict, guarded, rule.confidence, places)


def _fits(shown: str, asked: _Asked) -> bool:
    if asked.unless is not None and asked.unless.search(shown):
        return False
    return asked.written is None or asked.written.search(shown) is not None
