"""Facts of files × judge → hits: one hit for each use of a tracked coordinate."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from yoake.core.coordinates import DJANGO, PYTHON, line_key
from yoake.core.scan.judge import Judge, Span, Verdict
from yoake.core.scan.project import Project, Resolved
from yoake.core.syntax.facts import FileFacts, Guard, Use
from yoake.core.syntax.versions import VersionTest

_SUBJECTS: Final = {"python": PYTHON.purl, "django": DJANGO.purl}
_MAX_BASES: Final = 12  # depth of a class hierarchy that is followed
_SURE: Final = frozenset(("import", "name", "attribute", "call", "syntax", "builtin"))


@dataclass(frozen=True, slots=True)
class Hit:
    """One use with its verdict. ``guarded`` is the reason it may never run; ``confidence``: certain, likely, possible."""

    file: str
    use: Use
    verdict: Verdict
    guarded: str
    confidence: str


class Joiner:
    """Joins the facts of one module's files with what is known."""

    def __init__(self, project: Project, judge: Judge, spans: Mapping[str, Span]) -> None:
        self.project = project
        self.judge = judge
        self.spans = spans

    def hits(self, file: str, facts: FileFacts) -> Iterator[Hit]:
        """Every use in one file that a tracked coordinate owns, the good ones too."""
        found = [hit for use in facts.uses for hit in self._hits_of(file, facts, use)]
        yield from _unguard_hopeless(_one_per_place(found))

    def _hits_of(self, file: str, facts: FileFacts, use: Use) -> Iterator[Hit]:
        if use.form == "syntax":
            return
        if use.form == "inherited":
            yield from self._inherited(file, use)
            return
        if use.form == "builtin":
            yield from self._builtin(file, facts, use)
            return
        if use.form == "string":
            yield from self._string(file, use)
            return
        resolved = self._resolve(use, file)
        if resolved is None:
            return
        path = resolved.path.replace("()", "")
        verdict = self.judge.verdict(path)
        if verdict is None or (
            resolved.reexported and verdict.cause and not _deeper(verdict.cause, resolved.reexported)
        ):
            return
        confidence = "certain" if use.form in _SURE else "likely"
        guarded = self._guarded(use.guards, use.form) or ("re-exported under a guard" if resolved.guarded else "")
        yield Hit(file, use, verdict, guarded, confidence)
        if use.form == "call" and use.keywords and verdict.state != "fails":
            reshaped = self.judge.keywords(path, use.keywords)
            if reshaped is not None:
                yield Hit(file, use, reshaped, guarded, "likely")

    def _resolve(self, use: Use, file: str) -> Resolved | None:
        """The way that exists today, of the several a guarded name may be bound to."""
        ways = [self.project.resolve(path, file) for path in (use.path, *use.others) if path]
        found = [way for way in ways if way is not None]
        if not found:
            return None
        if len(found) == 1 and not found[0].others:
            return found[0]
        flat = [Resolved(p, way.reexported, way.guarded) for way in found for p in (way.path, *way.others)]
        alive = [way for way in flat if self.judge.offered_today(way.path)]
        chosen = (alive or flat)[0]
        return Resolved(chosen.path, chosen.reexported, chosen.guarded or len(flat) > 1)

    def _guarded(self, guards: tuple[Guard, ...], form: str) -> str:
        for guard in guards:
            if guard.kind == "version" and guard.test is not None:
                if not self._live(guard.test):
                    return "runs only on other versions"
            elif guard.kind == "typing":
                return "seen by type checkers only"
            elif guard.kind == "feature":
                return "under a feature test"
            elif "import-error" in guard.kind and form in ("import", "name", "attribute", "call"):
                return "has an import fallback"
            elif "attribute-error" in guard.kind:
                return "a missing name is caught"
        return ""

    def _live(self, test: VersionTest) -> bool:
        purl = _SUBJECTS.get(test.subject)
        span = self.spans.get(purl or "")
        return span is None or test.holds(line_key(span.goal))

    def _inherited(self, file: str, use: Use) -> Iterator[Hit]:
        owner, _, name = use.path.removeprefix("self:").rpartition(".")
        external = self._external_base(file, owner, name)
        if external is None:
            return
        base, certain = external
        verdict = self.judge.verdict(f"{base}.{name}")
        if verdict is not None and verdict.state in ("fails", "deprecated", "holds"):
            sure = certain and not verdict.already  # lost before today and still running: something else provides it
            yield Hit(file, use, verdict, self._guarded(use.guards, "inherited"), "likely" if sure else "possible")

    def _external_base(self, file: str, owner: str, name: str) -> tuple[str, bool] | None:
        """The tracked class outside the project that decides ``self.name``; None when the project defines it."""
        waiting = [(file, owner)]
        found: str | None = None
        certain = True
        for _ in range(_MAX_BASES):
            if not waiting:
                break
            at, qualname = waiting.pop(0)
            fact = self.project.facts[at].classes.get(qualname)
            if fact is None:
                continue
            if name in fact.members:
                return None
            for base in fact.bases:
                inner = self.project.find_class(base, at)
                if inner is not None:
                    waiting.append((inner[0], inner[1]))
                    continue
                resolved = self.project.resolve(base, at) if not base.startswith(":") else None
                if resolved is None or self.judge.purl_of(resolved.path) is None:
                    certain = False
                elif found is None:
                    found = resolved.path
        return (found, certain) if found else None

    def _builtin(self, file: str, facts: FileFacts, use: Use) -> Iterator[Hit]:
        name = use.path.removeprefix("builtins.")
        for star in facts.stars:
            resolved = self.project.resolve(f"{star}{'' if star.endswith('.') else '.'}{name}", file)
            if resolved is None:
                continue
            verdict = self.judge.verdict(resolved.path)
            if verdict is not None and verdict.state in ("fails", "deprecated") and not resolved.reexported:
                yield Hit(file, use, verdict, self._guarded(use.guards, "name"), "likely")
                return
        head = name.split(".")[0]
        verdict = self.judge.verdict(f"builtins.{head}")
        if verdict is not None and verdict.state in ("fails", "holds", "deprecated") and verdict.symbol != "builtins":
            confidence = "possible" if facts.stars else "certain"
            yield Hit(file, use, verdict, self._guarded(use.guards, "builtin"), confidence)

    def _string(self, file: str, use: Use) -> Iterator[Hit]:
        purl = self.judge.purl_of(use.path)
        if (
            purl is None
            or (purl == PYTHON.purl and use.path.count(".") < 1)
            or self.project.is_local(use.path.split(".")[0])
        ):
            return
        verdict = self.judge.verdict(use.path)
        if verdict is not None and verdict.state == "fails" and not verdict.already:
            settings = "INSTALLED_APPS" in self.project.facts[file].assigned or "settings" in file
            yield Hit(file, use, verdict, self._guarded(use.guards, "string"), "likely" if settings else "possible")


def _deeper(cause: str, reexported: str) -> bool:
    return len(cause) > len(reexported)


def _one_per_place(hits: list[Hit]) -> list[Hit]:
    """One hit for one symbol at one place: ``import a.b`` binds and uses at once."""
    seen: set[tuple[int, int, str, str]] = set()
    kept = []
    for hit in hits:
        key = (hit.use.line, hit.use.column, hit.verdict.symbol, hit.verdict.kind)
        if key not in seen:
            seen.add(key)
            kept.append(hit)
    return kept


def _unguard_hopeless(hits: list[Hit]) -> list[Hit]:
    """A fallback of which every way is lost keeps nothing from breaking."""
    ways: dict[tuple[int, str], list[bool]] = {}
    for hit in hits:
        for key in _ways(hit):
            ways.setdefault(key, []).append(hit.verdict.state == "fails")
    hopeless = {key for key, lost in ways.items() if len(lost) > 1 and all(lost)}
    if not hopeless:
        return hits
    return [
        Hit(h.file, h.use, h.verdict, "", h.confidence) if any(key in hopeless for key in _ways(h)) else h for h in hits
    ]


def _ways(hit: Hit) -> list[tuple[int, str]]:
    if hit.use.form != "import" or not hit.use.binds:
        return []
    return [(guard.group, hit.use.binds) for guard in hit.use.guards if "import-error" in guard.kind]
