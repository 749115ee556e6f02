"""Facts of files × judge → hits: one hit for each distinct use of a tracked coordinate in a file."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Final, NamedTuple

from yoake.core.contract.locality import Locality, Resolved
from yoake.core.scan.judge import Judge, Verdict
from yoake.core.values.coordinates import Coordinate, line_key
from yoake.core.values.facts import ABOVE, HANDLER, Ask, FileFacts, Guard, Use
from yoake.core.values.findings import IMPORT_FALLBACK, OTHER_VERSIONS

if TYPE_CHECKING:
    from yoake.core.values.journeys import Span
    from yoake.core.values.version_test import VersionTest
    from yoake.core.values.words import Confidence

_COLLISION: Final = "the runtime has a class of this name by itself from here on, and a star import no longer decides"
_MAX_BASES: Final = 12  # depth of a class hierarchy that is followed
_RULED: Final = frozenset(("syntax", "member", "subscript", "assigned"))  # forms that only rules ask about
_SURE: Final = frozenset(("import", "name", "attribute", "call", "syntax", "builtin", "type", "element"))


class Hit(NamedTuple):
    """One distinct use of a file with its verdict. ``position`` finds its places in the facts.

    ``guarded`` is the reason it may never run; ``confidence``: certain, likely, possible. ``places``: the numbers of those places that
    count, None for all.
    """

    file: str
    facts: FileFacts
    position: int
    verdict: Verdict
    guarded: str
    confidence: Confidence
    places: frozenset[int] | None = None

    @property
    def ask(self) -> Ask:
        """What is asked for."""
        return self.facts.asks[self.position]

    @property
    def uses(self) -> Iterator[Use]:
        """The places, read only when someone looks."""
        every = self.facts.uses_of(self.position)
        if self.places is None:
            return every
        return (use for number, use in enumerate(every) if number in self.places)


@dataclass(frozen=True, slots=True)
class _Ancestry:
    """What a class inherits: names the project defines, the first tracked base outside it, and whether that is all."""

    own: frozenset[str]
    external: str | None
    certain: bool


class Joiner:
    """Joins the facts of one module's files with what is known."""

    def __init__(self, project: Locality, judge: Judge, spans: Mapping[Coordinate, Span]) -> None:
        self.project = project
        self.judge = judge
        self.spans = spans
        self.style = judge.style
        self._ecosystems = judge.knowledge.ecosystems
        self._global = self.style.global_prefix
        self._ancestries: dict[tuple[str, str], _Ancestry] = {}

    @cached_property
    def _called_by_the_project(self) -> frozenset[str]:
        """Names that some class of the project reaches through its own object."""
        every = (ask for facts in self.project.facts.values() for ask in facts.asks)
        return frozenset(ask.path.rpartition(".")[2] for ask in every if ask.form == "inherited")

    def hits(self, file: str, facts: FileFacts) -> list[Hit]:
        """Every distinct use in one file that a tracked coordinate owns, the good ones too."""
        found: list[Hit] = []
        put_back = self.put_back(facts)
        for index, ask in enumerate(facts.asks):
            form = ask.form
            if ask.path in put_back and form != "import":
                continue
            if form == "inherited":
                self._inherited(file, facts, index, ask, found)
            elif form == "override":
                self._override(file, facts, index, ask, found)
            elif form == "builtin" or (self._global and ask.path.startswith(self._global)):
                self._builtin(file, facts, index, ask, found)
            elif form == "template":
                self._template(file, facts, index, ask, found)
            elif form == "string":
                self._string(file, facts, index, ask, found)
            elif form not in _RULED:
                self._plain(file, facts, index, ask, found)
        return _leave_out_unreached(_unguard_hopeless(found))

    def put_back(self, facts: FileFacts) -> frozenset[str]:
        """Names that a file puts on somebody else’s module, or on a value, itself: there, they are. What it puts there on other versions only,
        or on a module while some function runs, is left out."""
        found = set()
        for index, ask in enumerate(facts.asks):
            if ask.form == "assigned" and self._guarded(ask.guards, ask.form) != OTHER_VERSIONS:
                on_module = "()" not in ask.path
                if not on_module or any(not use.scope for use in facts.uses_of(index)):
                    found.add(ask.path)
        return frozenset(found)

    def base_of(self, file: str, owner: str) -> str | None:
        """The class outside the project that a class of this file inherits from; None when there is none that leads outside."""
        fact = self.project.facts[file].classes.get(owner)
        if fact is None:
            return None
        waiting = [(base, file) for base in fact.bases]
        for _ in range(_MAX_BASES):
            if not waiting:
                break
            base, at = waiting.pop(0)
            inner = self.project.find_class(base, at)
            if inner is not None:
                waiting.extend((further, inner[0]) for further in inner[2].bases)
            elif not base.startswith(":"):
                resolved = self._resolve(Ask(base, "inherited"), at)
                if resolved is not None:
                    return resolved.path
        return None

    def base_of_value(self, path: str, file: str) -> str | None:
        """``.models.Item().dict`` → the same member of the class outside the project that Item inherits from."""
        owner, _, name = path.replace("()", "").rpartition(".")
        inner = self.project.find_class(owner, file) if owner else None
        base = self.base_of(inner[0], inner[1]) if inner is not None else None
        return f"{base}.{name}" if base is not None else None

    def guarded(self, ask: Ask) -> str:
        """Why what a use does may never matter; empty when nothing guards it. What catches a failing import says nothing of it."""
        guards = tuple(guard for guard in ask.guards if not guard.kind.startswith("import-error"))
        return self._guarded(guards, ask.form) if guards else ""

    def _plain(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        resolved = self._resolve(ask, file)
        if resolved is None:
            return
        if resolved.settled and self._collides(file, facts, index, ask, found):
            return
        path = self.judge.told(resolved.path)
        made_by, _, members = path.rpartition("()")  # what was called to get the value that is used here
        if made_by and not self.style.calls:
            path, made_by = path.replace("()", ""), made_by.replace("()", "")
        path, verdict = self._verdict(path, members if made_by else "")
        if made_by and verdict is not None and verdict.cause and self._lost_before(verdict, made_by):
            return  # what was called is lost itself: said where it is called, not at everything done with its value
        if (
            verdict is None
            or (verdict.state == "unknown" and "()" in path)
            or (resolved.reexported and verdict.cause and not _deeper(verdict.cause, resolved.reexported))
        ):
            return
        if ask.form == "type" and verdict.state == "deprecated":
            return  # the warning is about calling it; naming its type is fine
        confidence: Confidence = "certain" if ask.form in _SURE else "likely"
        guarded = "re-exported under a guard" if resolved.guarded else ""
        if ask.guards:
            guarded = self._guarded(ask.guards, ask.form) or guarded
        found.append(Hit(file, facts, index, verdict, guarded, confidence))
        if ask.form == "call" and ask.keywords and verdict.state != "fails":
            reshaped = self.judge.keywords(path, ask.keywords)
            if reshaped is not None:
                found.append(Hit(file, facts, index, reshaped, guarded, "likely"))

    def _verdict(self, path: str, members: str) -> tuple[str, Verdict | None]:
        """The verdict on a path; where nobody knows the members of a member of a value, on that member."""
        verdict = self.judge.verdict(path)
        if members.count(".") <= 1 or verdict is None or verdict.state != "unknown":
            return path, verdict
        shorter = path.removesuffix(members) + "." + members.split(".", 2)[1]
        return shorter, self.judge.verdict(shorter)

    def _collides(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> bool:
        """A plain name that a star import brings from somewhere unknown, and that the runtime has by itself from some line on."""
        meant = self.project.resolve(ask.path, file)
        if meant is None or not meant.others or ask.form == "import":
            return False
        head = ".".join(self._named(meant.others[-1]).split(".")[:2])
        ways = [".".join(self._named(path).split(".")[:2]) for path in (meant.path, *meant.others[:-1])]
        strange = any(self.judge.coordinate_of(way) is None for way in ways)
        if not strange or self.judge.offered_today(head) or any(map(self._known_today, ways)):
            return False
        arrived = self.judge.arrives_at(head)
        if arrived is None:
            return False
        verdict = Verdict(
            state="fails",
            coordinate=arrived[0],
            symbol=head,
            cause=head,
            bites_at=arrived[1],
            after=None,
            kind="behaviour",
            detail=_COLLISION,
        )
        found.append(Hit(file, facts, index, verdict, "", "likely"))
        return True

    def _known_today(self, path: str) -> bool:
        return self.judge.coordinate_of(path) is not None and self.judge.offered_today(path)

    def _lost_before(self, verdict: Verdict, made_by: str) -> bool:
        """Whether what was called to get a value is lost itself."""
        if not self.style.typed_values:
            return not _deeper(verdict.cause, made_by)
        maker = self.judge.verdict(made_by)
        return maker is not None and maker.state == "fails"

    def _named(self, path: str) -> str:
        """A path as the judge looks it up."""
        return path if self.style.calls else path.replace("()", "")

    def _resolve(self, ask: Ask, file: str) -> Resolved | None:
        """The way that exists today, of the several a guarded name may be bound to."""
        if not ask.others:
            only = self.project.resolve(ask.path, file)
            if only is None or not only.others:
                return only
        ways = [self.project.resolve(path, file) for path in (ask.path, *ask.others) if path]
        found = [way for way in ways if way is not None]
        if not found:
            return None
        if len(found) == 1 and not found[0].others:
            return found[0]
        flat = [Resolved(p, way.reexported, way.guarded) for way in found for p in (way.path, *way.others)]
        alive = [way for way in flat if self.judge.offered_today(self._named(way.path))]
        chosen = (alive or flat)[0]
        settled = all(way.settled for way in found)
        chooses = len(flat) > 1 and not settled
        return Resolved(chosen.path, chosen.reexported, chosen.guarded or chooses, settled=settled)

    def _guarded(self, guards: tuple[Guard, ...], form: str) -> str:
        for guard in guards:
            if guard.kind == "version" and guard.test is not None:
                if not self._live(guard.test):
                    return OTHER_VERSIONS
            elif guard.kind == "typing":
                return "seen by type checkers only"
            elif guard.kind == "feature":
                return "under a feature test"
            elif "import-error" in guard.kind and form in ("import", "name", "attribute", "call"):
                return IMPORT_FALLBACK
            elif "attribute-error" in guard.kind:
                return "a missing name is caught"
        return ""

    def _live(self, test: VersionTest) -> bool:
        coordinate = self._ecosystems.subjects.get(test.subject)
        span = self.spans.get(coordinate) if coordinate is not None else None
        return span is None or test.holds(line_key(span.goal))

    def _inherited(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        owner, _, name = ask.path[5:].rpartition(".")
        known = self._ancestries.get((file, owner))
        if known is None:
            known = self._ancestries[file, owner] = self._ancestry(file, owner)
        if known.external is None or name in known.own:
            return
        verdict = self.judge.verdict(f"{known.external}{self.style.joint}{name}")
        if verdict is not None and verdict.cause and not _deeper(verdict.cause, known.external):
            return  # the class itself is lost: said where it is imported and named, with what guards it there
        if verdict is not None and verdict.state in ("fails", "deprecated", "holds"):
            # lost before today and still running: something else provides it
            sure = known.certain and not verdict.already
            guarded = self._guarded(ask.guards, "inherited")
            found.append(Hit(file, facts, index, verdict, guarded, "likely" if sure else "possible"))

    def _override(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        """A method written for a hook that its base class has today and loses on the way: nobody will call it.

        What the project calls itself (``self.name``) is its own helper and goes on working.
        """
        owner, _, name = ask.path[5:].rpartition(".")
        checked = self.style.checked_overrides
        if not checked and name in self._called_by_the_project:
            return
        known = self._ancestries.get((file, owner))
        if known is None:
            known = self._ancestries[file, owner] = self._ancestry(file, owner)
        path = f"{known.external}{self.style.joint}{name}"
        if known.external is None or not self.judge.offered_today(path):
            return
        verdict = self.judge.verdict(path)
        if verdict is not None and verdict.state == "fails" and verdict.cause == path:
            detail = "the base class no longer has this hook: the override is never called"
            gone = verdict if checked else replace(verdict, kind="behaviour", detail=detail)
            confidence: Confidence = "likely" if checked else "possible"
            found.append(Hit(file, facts, index, gone, self._guarded(ask.guards, "override"), confidence))

    def _ancestry(self, file: str, owner: str) -> _Ancestry:
        """Walk up the classes of the project until they leave it."""
        first = owner.removesuffix(ABOVE)
        waiting = [(file, first)]
        own: set[str] = set()
        external: str | None = None
        certain = True
        for _ in range(_MAX_BASES):
            if not waiting:
                break
            at, qualname = waiting.pop(0)
            fact = self.project.facts[at].classes.get(qualname)
            if fact is None:
                continue
            if (at, qualname) != (file, first) or first == owner:
                own.update(fact.members)
            for base in fact.bases:
                inner = self.project.find_class(base, at)
                if inner is not None:
                    waiting.append((inner[0], inner[1]))
                    continue
                resolved = self._resolve(Ask(base, "inherited"), at) if not base.startswith(":") else None
                if resolved is None or self.judge.coordinate_of(resolved.path) is None:
                    certain = False
                elif external is None:
                    external = resolved.path
        return _Ancestry(frozenset(own), external, certain)

    def _builtin(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        name = ask.path.split(".", 2)[1]
        for star in facts.stars if self.style.stars else ():
            resolved = self.project.resolve(f"{star}{'' if star.endswith('.') else '.'}{name}", file)
            if resolved is None:
                continue
            verdict = self.judge.verdict(resolved.path)
            if verdict is not None and verdict.state in ("fails", "deprecated") and not resolved.reexported:
                found.append(Hit(file, facts, index, verdict, self._guarded(ask.guards, "name"), "likely"))
                return
        verdict = self.judge.verdict(ask.path)
        if verdict is not None and verdict.state in ("fails", "holds", "deprecated") and "." in verdict.symbol:
            confidence: Confidence = "possible" if facts.stars and self.style.stars else "certain"
            guarded = self._guarded(ask.guards, "builtin") if ask.guards else ""
            found.append(Hit(file, facts, index, verdict, guarded, confidence))

    def _template(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        """A tag, filter or tag library of a template: gone only when no place has it any more."""
        ways = [
            path
            for path in (ask.path, *ask.others)
            if self.judge.coordinate_of(path) and self.judge.offered_today(path)
        ]
        verdicts = [(path, v) for path in ways if (v := self.judge.verdict(path)) is not None]
        lost = [replace(v, symbol=path, cause=path) for path, v in verdicts if v.state == "fails"]
        held = [v for _, v in verdicts if v.state in ("holds", "deprecated")]
        if lost and not held:
            found.append(Hit(file, facts, index, lost[0], "", "likely"))
        elif held and held[0].state == "deprecated":
            found.append(Hit(file, facts, index, held[0], "", "likely"))

    def _string(self, file: str, facts: FileFacts, index: int, ask: Ask, found: list[Hit]) -> None:
        coordinate = self.judge.coordinate_of(ask.path)
        if (
            coordinate is None
            or (self._ecosystems.is_runtime(coordinate) and ask.path.count(".") < 1)
            or self.project.is_local(ask.path.split(".")[0])
            or not self.judge.was_seen(
                coordinate, ask.path
            )  # an endpoint, a key: it only begins like a module that there was
        ):
            return
        verdict = self.judge.verdict(ask.path)
        if verdict is not None and verdict.state == "fails" and not verdict.already:
            settings = "settings" in file or not self._ecosystems.app_lists.isdisjoint(facts.assigned)
            guarded = self._guarded(ask.guards, "string")
            found.append(Hit(file, facts, index, verdict, guarded, "likely" if settings else "possible"))


def _deeper(cause: str, reexported: str) -> bool:
    return len(cause) > len(reexported)


def _unguard_hopeless(hits: list[Hit]) -> list[Hit]:
    """A fallback of which every way is lost keeps nothing from breaking."""
    ways: dict[tuple[int, str], list[bool]] = {}
    for hit in hits:
        if not hit.guarded:
            continue
        for key in _ways(hit):
            ways.setdefault(key, []).append(hit.verdict.state == "fails")
    hopeless = {key for key, lost in ways.items() if len(lost) > 1 and all(lost)}
    if not hopeless:
        return hits
    return [h._replace(guarded="") if (keys := _ways(h)) and hopeless.issuperset(keys) else h for h in hits]


def _leave_out_unreached(hits: list[Hit]) -> list[Hit]:
    """In the body of a ``try`` that goes on without an import, nothing below an import that fails is ever run."""
    stops: dict[int, int] = {}
    for hit in hits:
        if hit.verdict.state == "fails" and hit.ask.form == "import":
            for group in _bodies(hit.ask):
                line = min(use.line for use in hit.uses)
                stops[group] = min(stops.get(group, line), line)
    if not stops:
        return hits
    return [
        h if h.guarded or not _is_below(h, stops) else h._replace(guarded="an import above it fails first")
        for h in hits
    ]


def _is_below(hit: Hit, stops: Mapping[int, int]) -> bool:
    lines = [stops[group] for group in _bodies(hit.ask) if group in stops]
    return bool(lines) and all(use.line > min(lines) for use in hit.uses)


def _bodies(ask: Ask) -> list[int]:
    """The statements in whose bodies a failing import is caught around this use."""
    return [g.group for g in ask.guards if "import-error" in g.kind and not g.kind.endswith(HANDLER)]


def _ways(hit: Hit) -> list[tuple[int, str]]:
    ask = hit.ask
    if ask.form != "import" or not ask.binds:
        return []
    return [(guard.group, ask.binds) for guard in ask.guards if "import-error" in guard.kind]
