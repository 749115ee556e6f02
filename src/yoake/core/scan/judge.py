"""One path between today and the destination: does it hold, fail, warn, or is it not known?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Final

from yoake.core.contract.path_style import PathStyle
from yoake.core.knowledge.timeline import Answer, Timeline
from yoake.core.values.coordinates import Coordinate, Line, line_key

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.values.journeys import Span
    from yoake.core.values.words import Kind, VerdictState


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """``state``: holds, fails, deprecated or unknown.

    ``cause`` is the shortest part of the path that is lost, ``symbol`` the path as it should be reported; ``bites_at`` a
    line of ``coordinate``; ``after`` the line before a gap; ``already`` when today's line lacks it too.
    """

    state: VerdictState
    coordinate: Coordinate
    symbol: str
    cause: str = ""
    bites_at: Line | None = None
    after: Line | None = None
    kind: Kind = "removed"
    already: bool = False
    how: str = ""
    detail: str = ""


_MAX_REDIRECTS: Final = 6
_MINOR: Final = 2  # numbers of a line that names its minor


class Judge:
    """Judges paths of tracked coordinates; answers are kept for the next use of the same path."""

    def __init__(self, knowledge: Knowledge, spans: Mapping[Coordinate, Span], language: str) -> None:
        self.knowledge = knowledge
        self.spans = spans
        found = knowledge.ecosystems.of_language(language)
        self.style = found.style if found is not None else PathStyle()
        self._owners = knowledge.import_names(language)
        self._values = knowledge.values(language)
        self._memo: dict[str, Verdict] = {}
        self._today: dict[str, bool] = {}
        self._groups: dict[str, str] = {}
        self._keywords: dict[tuple[str, tuple[str, ...]], Verdict | None] = {}

    def told(self, path: str) -> str:
        """A path whose values stand under the name of their class, where it is known what a call gives back."""
        return self._values.told(path) if "()." in path else path

    def coordinate_of(self, path: str) -> Coordinate | None:
        """The tracked coordinate that owns this path, by its first part."""
        head = self._grouped(path).split(".", 1)[0]
        coordinate = self._owners.get(head)
        if coordinate is None and self.style.owner is not None:
            coordinate = self._owners.get(self.style.owner(head) or "")
        return coordinate if coordinate in self.spans else None

    def verdict(self, path: str, depth: int = 0) -> Verdict | None:
        """The verdict on a path; None when no tracked coordinate owns it."""
        known = self._memo.get(path)
        if known is not None:
            return known
        coordinate, plain = self.coordinate_of(path), self._grouped(path)
        if coordinate is None or depth > _MAX_REDIRECTS or not self._may_own(coordinate, plain):
            return None
        if self.style.default_part:
            plain = self._without_default(coordinate, plain)
        if self.style.typed_values:
            plain = self._by_class(coordinate, plain)
        made = self._memo[path] = self._judge(coordinate, plain, depth)
        return made

    def _without_default(self, coordinate: Coordinate, path: str) -> str:
        """``fs.default.readFile`` → ``fs.readFile`` where the default export is the module itself."""
        parts = path.split(".")
        default = self.style.default_part
        if len(parts) > 1 and parts[1] == default:
            symbol = self.knowledge.timelines[coordinate].symbols.get(f"{parts[0]}.{default}")
            if symbol is None or any(target == parts[0] for target, _ in symbol.aliases):
                return ".".join([parts[0], *parts[2:]])
        return path

    def _grouped(self, path: str) -> str:
        """A path with its first part as far as it reaches."""
        if self.style.regrouped is None:
            return path
        known = self._groups.get(path)
        if known is None:
            known = self._groups[path] = self.style.regrouped(path, self._owners)
        return known

    def _may_own(self, coordinate: Coordinate, path: str) -> bool:
        """Whether a name can be this coordinate's: where several share a first part, only what it had on some line."""
        if self.style.regrouped is None or "." not in path:
            return True
        answer = self.knowledge.timelines[coordinate].ask(".".join(path.split(".")[:2]))
        return bool(answer.offers | answer.unknown)

    def _by_class(self, coordinate: Coordinate, path: str) -> str:
        """``Thread.currentThread.stop`` → ``Thread.stop``: members of a value under the name of its class."""
        timeline = self.knowledge.timelines[coordinate]
        position = timeline.floor(self.spans[coordinate].today)
        head, *rest = path.split(".")
        for at, part in enumerate(rest):
            symbol = timeline.symbols.get(head)
            if symbol is not None and symbol.kind in ("f", "v"):
                held = [base for base, lines in symbol.bases if position is not None and lines >> position & 1]
                if len(held) != 1 or held[0].split(".", 1)[0] not in self._owners:
                    return ".".join([head, *rest[at:]])
                head = held[0]
            head = f"{head}.{part}"
        return head

    def arrives_at(self, path: str) -> tuple[Coordinate, Line] | None:
        """(coordinate, line) at which a name that today's line lacks is there, up to the destination; None when it is not."""
        coordinate = self.coordinate_of(path)
        if coordinate is None:
            return None
        timeline, span = self.knowledge.timelines[coordinate], self.spans[coordinate]
        today, goal = timeline.floor(span.today), timeline.floor(span.goal)
        offers = timeline.ask(self._grouped(path)).offers
        if today is None or goal is None or not offers >> goal & 1:
            return None
        return coordinate, next(timeline.names[at] for at in range(today + 1, goal + 1) if offers >> at & 1)

    def offered_today(self, path: str) -> bool:
        """Whether today's line offers the path (also when that cannot be said)."""
        known = self._today.get(path)
        if known is None:
            known = self._today[path] = self._offered_today(path)
        return known

    def _offered_today(self, path: str) -> bool:
        coordinate, path = self.coordinate_of(path), self._grouped(path)
        if coordinate is None:
            return True
        timeline = self.knowledge.timelines[coordinate]
        position = timeline.floor(self.spans[coordinate].today)
        answer = timeline.ask(path)
        return position is None or bool((answer.offers | answer.unknown) >> position & 1)

    def was_seen(self, coordinate: Coordinate, path: str) -> bool:
        """Whether any captured line had this very name, or may have had it."""
        answer = self.knowledge.timelines[coordinate].ask(path)
        return bool(answer.offers | answer.unknown)

    def _judge(self, coordinate: Coordinate, path: str, depth: int) -> Verdict:
        timeline, span = self.knowledge.timelines[coordinate], self.spans[coordinate]
        goal = timeline.floor(span.goal)
        if goal is None:
            return Verdict(
                state="unknown",
                coordinate=coordinate,
                symbol=path,
                detail=f"{span.goal} is older than what was captured",
            )
        today = timeline.floor(span.today)
        parts = path.split(".")
        warned: Verdict | None = None
        for length in range(1, len(parts) + 1):
            prefix = ".".join(parts[:length])
            answer = timeline.ask(prefix)
            if answer.offers >> goal & 1:
                if answer.deprecates >> goal & 1 and warned is None:
                    warned = self._deprecated(timeline, prefix, path, answer, goal)
                continue
            if answer.unknown >> goal & 1:
                outside = self._outside(answer, parts[length:], depth)
                if outside is None and not self._never_offered(answer.redirect):
                    return warned or Verdict(
                        state="holds", coordinate=coordinate, symbol=".".join(parts[: length - 1]) or path
                    )
                if outside is not None and outside.state != "unknown":
                    return warned or _as_used(outside, path)
                answer = Answer(answer.offers, 0, answer.deprecates)  # the base outside never had it either
            if answer.offers == 0:
                if prefix.rsplit(".", 1)[-1].startswith("__") or length == 1:
                    return warned or Verdict(state="holds", coordinate=coordinate, symbol=path)
                return warned or Verdict(
                    state="unknown",
                    coordinate=coordinate,
                    symbol=prefix,
                    detail="this name was never seen in any captured line",
                )
            return self._lost(timeline, parts, length, answer, today, goal)
        return warned or Verdict(state="holds", coordinate=coordinate, symbol=path)

    def _never_offered(self, path: str | None) -> bool:
        """Whether a base class that no destination names is known all the same, and never had this member."""
        if path is None:
            return False
        owner = self._owners.get(path.split(".", 1)[0])
        timeline = self.knowledge.timelines.get(owner) if owner is not None else None
        if timeline is None:
            return False
        base = timeline.ask(path.rpartition(".")[0])
        answer = timeline.ask(path)
        return bool(base.offers) and not answer.offers | answer.unknown

    def _outside(self, answer: Answer, rest: list[str], depth: int) -> Verdict | None:
        """The verdict on a member that a base class of another coordinate may have; None when nobody tracks that."""
        if answer.redirect is None:
            return None
        return self.verdict(".".join([answer.redirect, *rest]), depth + 1)

    def _lost(
        self, timeline: Timeline, parts: list[str], length: int, answer: Answer, today: int | None, goal: int
    ) -> Verdict:
        start = today if today is not None else -1
        present = today is not None and bool((answer.offers | answer.unknown) >> today & 1)
        names = timeline.names
        cause = ".".join(parts[:length])
        if today is None or present:
            begin = max(start, 0) + (1 if present else 0)
            bites = next((i for i in range(begin, goal + 1) if not self._there(answer, i)), goal)
            already = False
        else:
            offered = [i for i in range(goal) if self._there(answer, i)]
            if not offered:  # it only arrives after the destination: written for something newer
                return Verdict(
                    state="unknown",
                    coordinate=timeline.coordinate,
                    symbol=cause,
                    detail="offered only after the destination",
                )
            earlier = [i for i in offered if i < start]
            between = [i for i in offered if i > start]
            first = (between or earlier)[-1]
            bites, already = first + 1, not between
        at, before = names[bites], names[bites - 1] if bites else None
        return Verdict(
            state="fails",
            coordinate=timeline.coordinate,
            symbol=self._reported(timeline, parts, length),
            cause=cause,
            bites_at=at,
            after=before if before and self._gap(timeline.coordinate, before, at) else None,
            kind="removed",
            already=already,
            how=timeline.lines[bites].how,
        )

    @staticmethod
    def _there(answer: Answer, position: int) -> bool:
        return bool((answer.offers | answer.unknown) >> position & 1)

    def _gap(self, coordinate: Coordinate, before: Line, at: Line) -> bool:
        """Whether lines that were not captured may lie between two captured ones: numbers that do not follow.

        The first line of a major follows what a lifecycle lists right before it.
        """
        a, b = line_key(before), line_key(at)
        if len(a) < _MINOR or len(b) < _MINOR:
            return False
        lifecycle = self.knowledge.lifecycles.get(coordinate)
        listed = [facts.line for facts in lifecycle.lines] if lifecycle is not None else []
        if before in listed and at in listed and b[:_MINOR] == (a[0] + 1, 0):
            return any(a < line_key(line) < b for line in listed)
        return not (a[0] == b[0] and b[1] == a[1] + 1)

    @staticmethod
    def _reported(timeline: Timeline, parts: list[str], length: int) -> str:
        """The name as the code uses it: the lost part, or the first name inside a lost module."""
        end = length
        while end < len(parts) and _kind(timeline, ".".join(parts[:end])) == "m":
            end += 1
            if timeline.ask(".".join(parts[:end])).offers == 0:
                break
        return ".".join(parts[:end])

    def _deprecated(self, timeline: Timeline, prefix: str, path: str, answer: Answer, goal: int) -> Verdict:
        later = [i for i in range(goal + 1, len(timeline.lines)) if not self._there(answer, i)]
        at = timeline.names[later[0]] if later else None
        return Verdict(
            state="deprecated",
            coordinate=timeline.coordinate,
            symbol=path,
            cause=prefix,
            bites_at=at,
            after=None,
            kind="deprecated",
            already=False,
            how=timeline.lines[goal].how,
        )

    def keywords(self, path: str, keywords: tuple[str, ...]) -> Verdict | None:
        """A keyword that today's signature takes and a later one, up to the destination, no longer does."""
        key = (path, keywords)
        if key not in self._keywords:
            self._keywords[key] = self._lost_keyword(path, keywords)
        return self._keywords[key]

    def _lost_keyword(self, path: str, keywords: tuple[str, ...]) -> Verdict | None:
        coordinate = self.coordinate_of(path)
        if coordinate is None or not keywords:
            return None
        timeline, span = self.knowledge.timelines[coordinate], self.spans[coordinate]
        today, goal = timeline.floor(span.today), timeline.floor(span.goal)
        if today is None or goal is None:
            return None
        before = _accepted(timeline.signature(path, today))
        for position in range(today + 1, goal + 1):
            after = _accepted(timeline.signature(path, position))
            for keyword in keywords:
                if (
                    _takes(before, keyword) is True
                    and _takes(after, keyword) is False
                    and not self._back(timeline, path, keyword, goal)
                ):
                    symbol = f"{path}({keyword}=)"
                    return Verdict(
                        state="fails",
                        coordinate=coordinate,
                        symbol=symbol,
                        cause=symbol,
                        bites_at=timeline.names[position],
                        after=None,
                        kind="reshaped",
                        how=timeline.lines[position].how,
                        detail=self.style.lost_keyword(keyword),
                    )
        return None

    @staticmethod
    def _back(timeline: Timeline, path: str, keyword: str, goal: int) -> bool:
        return _takes(_accepted(timeline.signature(path, goal)), keyword) is not False


def _as_used(found: Verdict, path: str) -> Verdict:
    """A verdict from another coordinate under the name the code uses."""
    return replace(found, symbol=path)


def _kind(timeline: Timeline, path: str) -> str:
    symbol = timeline.symbols.get(path)
    return symbol.kind if symbol else ""


def _accepted(signature: str | None) -> frozenset[str] | None:
    if signature is None:
        return None
    return frozenset(signature.split(",")) if signature else frozenset()


def _takes(accepted: frozenset[str] | None, keyword: str) -> bool | None:
    """Whether a signature takes a keyword; None when it is not known."""
    if accepted is None:
        return None
    if keyword in accepted:
        return True
    return None if any(part.startswith("**") for part in accepted) else False


def syntax_verdict(
    symbol: str, language: str, knowledge: Knowledge, spans: Mapping[Coordinate, Span]
) -> Verdict | None:
    """That a form of a language is not read any more at the destination of its runtime; None where it is, or no rule speaks of it."""
    owner = knowledge.ecosystems.of_language(language)
    coordinate = owner.runtime if owner is not None else Coordinate()
    span, found = spans.get(coordinate), knowledge.symbol_rules.get((language, symbol))
    if found is None or span is None or found[0].at is None or found[0].at > span.goal:
        return None
    at = found[0].at
    return Verdict(
        state="fails",
        coordinate=coordinate,
        symbol=symbol,
        cause=symbol,
        bites_at=knowledge.first_known(coordinate, at),
        after=None,
        kind="removed",
        already=at <= span.today,
    )
