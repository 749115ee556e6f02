"""Ask both sides the same recorded requests and see how alike their answers are."""

from __future__ import annotations

import asyncio
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Final

import aiohttp
from yarl import URL

from yoake.core.crossing.masking import masked_path
from yoake.core.crossing.parity import Answer, Difference, differences
from yoake.core.crossing.rules import SAFE_METHODS, CrossingRules, RouteRule, Side
from yoake.formats.har import RecordedRequest
from yoake.runner.gateway.asking import ask_side

_BESIDE: Final = 16  # requests asked at once of each side
_LARGEST: Final = 50_000_000  # bytes of an answer that are looked at
_MOST_EXAMPLES: Final = 3
_MOST_KEPT: Final = 20_000  # pairs that are told one by one; all of them count


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One request as both sides answered it, its path masked."""

    route: str
    path: str
    old_ms: float
    new_ms: float
    differences: tuple[Difference, ...]


@dataclass(slots=True)
class Cause:
    """Pairs that differ for the same reason: on which routes, how many, and a few of them."""

    difference: Difference
    pairs: int = 0
    routes: Counter[str] = field(default_factory=Counter)
    examples: list[str] = field(default_factory=list)


@dataclass(slots=True, kw_only=True)
class SidesCompared:
    """How alike two sides answered. ``by_route``: name → (pairs, alike)."""

    pairs: int = 0
    alike: int = 0
    unsafe: int = 0
    unmatched: int = 0
    unanswered: int = 0
    by_route: dict[str, list[int]] = field(default_factory=dict)
    causes: dict[tuple[str, str], Cause] = field(default_factory=dict)
    seconds: float = 0.0
    kept: list[Pair] = field(default_factory=list)

    def add(self, rule: RouteRule, request: RecordedRequest, old: Answer | None, new: Answer | None) -> None:
        """Takes note of one pair."""
        found = _found(old, new, rule)
        self.pairs += 1
        if len(self.kept) < _MOST_KEPT:
            times = [round(each.seconds * 1000, 1) if each is not None else 0.0 for each in (old, new)]
            self.kept.append(
                Pair(
                    route=rule.route.name,
                    path=f"{request.method} {masked_path(request.target)}",
                    old_ms=times[0],
                    new_ms=times[1],
                    differences=found,
                )
            )
        row = self.by_route.setdefault(rule.route.name, [0, 0])
        row[0] += 1
        if not found:
            self.alike += 1
            row[1] += 1
        for key, each in {(each.kind, each.where): each for each in found}.items():
            cause = self.causes.setdefault(key, Cause(each))
            cause.pairs += 1
            cause.routes[rule.route.name] += 1
            if len(cause.examples) < _MOST_EXAMPLES:
                cause.examples.append(f"{request.method} {masked_path(request.target)}")

    @property
    def ordered(self) -> list[Cause]:
        """Causes, the most frequent first."""
        return sorted(self.causes.values(), key=lambda cause: (-cause.pairs, cause.difference.cause))


def compare_sides(
    rules: CrossingRules, requests: Sequence[RecordedRequest], told: Callable[[int, int], None] = lambda _a, _b: None
) -> SidesCompared:
    """Asks both sides every request that may be asked twice. ``told`` hears how many of how many are done."""
    return asyncio.run(_compare(rules, requests, told))


async def _compare(
    rules: CrossingRules, requests: Sequence[RecordedRequest], told: Callable[[int, int], None]
) -> SidesCompared:
    compared = SidesCompared()
    begin = time.monotonic()
    waiting: list[tuple[RouteRule, RecordedRequest]] = []
    for request in requests:
        rule = rules.rule_of(request.method, request.path)
        if rule is None:
            compared.unmatched += 1
        elif request.method not in SAFE_METHODS and not rule.safe:
            compared.unsafe += 1
        else:
            waiting.append((rule, request))
    waiting.reverse()
    whole = len(waiting)
    connector = aiohttp.TCPConnector(limit=0)
    async with aiohttp.ClientSession(
        connector=connector, cookie_jar=aiohttp.DummyCookieJar(), auto_decompress=False
    ) as session:

        async def work() -> None:
            while waiting:
                rule, request = waiting.pop()
                old, new = await asyncio.gather(
                    _ask(session, rules, Side.OLD, request), _ask(session, rules, Side.NEW, request)
                )
                if old is None or new is None:
                    compared.unanswered += 1
                compared.add(rule, request, old, new)
                told(whole - len(waiting), whole)

        await asyncio.gather(*(work() for _ in range(_BESIDE)))
    compared.seconds = time.monotonic() - begin
    return compared


def _found(old: Answer | None, new: Answer | None, rule: RouteRule) -> tuple[Difference, ...]:
    if old is None and new is None:
        return (Difference(kind="no answer", where="neither side"),)
    if old is None or new is None:
        return (Difference(kind="no answer", where=f"the {'old' if old is None else 'new'} side"),)
    return differences(old, new, rule.comparison)


async def _ask(
    session: aiohttp.ClientSession, rules: CrossingRules, side: Side, request: RecordedRequest
) -> Answer | None:
    url = URL(f"{rules.address(side)}{request.target}", encoded=True)
    return await ask_side(session, request.method, url, request.headers, request.body or None, rules.limits, _LARGEST)
