"""What real projects changed when they moved, against what Yoake says of it beforehand.

Of each project two releases that follow one another: the last on the old line and the first on the new one. The older is scanned for the
new line; what the newer changed where the scan found something is counted: places that are written otherwise now, and the lines of the
hunks of their diff that hold one. Hunks longer than ``LONGEST`` are rewriting for other reasons, and left out.

    python -m bench.moves [PROJECT …]
"""

from __future__ import annotations

import difflib
import math
import statistics
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from scipy.stats import spearmanr

from yoake.shipped import KIT
from yoake.core.readiness.effort import draw, quantiles
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import Finding
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

LONGEST = 30
CODE = ("removed", "moved", "reshaped", "behaviour", "deprecated", "setting")

# project, the last release on the old line, the first on the new one, where it moved from and to
MOVES = (
    ("mezzanine", "4.3.1", "5.0.0", "pypi/django@1.11", "pypi/django@2.2"),
    ("mezzanine", "5.0.0", "5.1.0", "pypi/django@2.2", "pypi/django@3.0"),
    ("django-oscar", "2.2", "3.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-filer", "1.7.1", "2.0.0", "pypi/django@1.11", "pypi/django@2.2"),
    ("django-filer", "2.0.2", "2.1.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-haystack", "2.8.1", "3.0", "pypi/django@2.2", "pypi/django@3.0"),
    ("django-cms", "3.7.4", "3.8.0", "pypi/django@2.2", "pypi/django@3.1"),
    ("django-helpdesk", "0.3.5", "0.4.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-guardian", "1.5.1", "2.0.0", "pypi/django@1.11", "pypi/django@3.0"),
    ("django-extensions", "3.1.5", "3.2.1", "pypi/django@3.2", "pypi/django@4.0"),
    ("django-import-export", "2.0.2", "2.1.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-import-export", "1.2.0", "2.0", "pypi/django@1.11", "pypi/django@3.0"),
    ("django-crispy-forms", "1.8.1", "1.9.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-model-utils", "3.2.0", "4.0.0", "pypi/django@2.2", "pypi/django@3.0"),
    ("django-model-utils", "4.1.1", "4.2.0", "pypi/django@3.1", "pypi/django@4.0"),
    ("django-taggit", "1.2.0", "1.3.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-celery-beat", "2.2.0", "2.2.1", "pypi/django@3.1", "pypi/django@4.0"),
    ("django-polymorphic", "2.1.2", "3.0.0", "pypi/django@2.2", "pypi/django@3.0"),
    ("django-ckeditor", "6.0.0", "6.1.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-rosetta", "0.9.4", "0.9.5", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-treebeard", "4.3.1", "4.4", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-autocomplete-light", "3.8.2", "3.9.0", "pypi/django@3.2", "pypi/django@4.0"),
    ("django-simple-history", "2.7.3", "2.8.0", "pypi/django@2.2", "pypi/django@3.0"),
    ("django-two-factor-auth", "1.12.1", "1.13", "pypi/django@2.2", "pypi/django@3.1"),
    ("django-activity-stream", "0.9.0", "0.10.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-tables2", "2.3.4", "2.4.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-constance", "2.8.0", "2.9.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-compressor", "2.4", "2.4.1", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-wiki", "0.6", "0.7", "pypi/django@2.2", "pypi/django@4.0"),
    ("django-allauth", "0.44.0", "0.45.0", "pypi/django@2.2", "pypi/django@4.0"),
    ("graphite-web", "1.1.7", "1.1.8", "pypi/django@1.11", "pypi/django@3.0"),
    ("djangorestframework", "3.9.4", "3.10.0", "pypi/django@1.11", "pypi/django@3.0"),
    ("wagtail", "2.15", "2.16", "pypi/django@3.2", "pypi/django@4.0"),
    ("flask-login", "0.5.0", "0.6.0", "pypi/flask@1.1", "pypi/flask@2.2"),
    ("flask-debugtoolbar", "0.11.0", "0.13.0", "pypi/flask@1.1", "pypi/flask@2.2"),
    ("flask-restful", "0.3.8", "0.3.9", "pypi/flask@1.1", "pypi/flask@2.2"),
    ("flask-restx", "0.5.1", "1.0.1", "pypi/flask@1.1", "pypi/flask@2.2"),
    ("flask-admin", "1.5.3", "1.6.0", "pypi/flask@1.0", "pypi/flask@2.2"),
    ("flask-sqlalchemy", "2.5.1", "3.0.0", "pypi/flask@1.1", "pypi/flask@2.2"),
    ("buildbot", "3.11.9", "4.0.0", "pypi/sqlalchemy@1.4", "pypi/sqlalchemy@2.0"),
    ("sqlalchemy-continuum", "1.3.11", "1.3.15", "pypi/sqlalchemy@1.3", "pypi/sqlalchemy@2.0"),
    ("scikit-image", "0.22.0", "0.23.1", "pypi/numpy@1.26", "pypi/numpy@2.0"),
    ("gensim", "4.3.3", "4.4.0", "pypi/numpy@1.26", "pypi/numpy@2.0"),
    ("librosa", "0.8.0", "0.9.0", "pypi/numpy@1.19", "pypi/numpy@1.24"),
    ("nibabel", "3.2.1", "4.0.0", "pypi/numpy@1.19", "pypi/numpy@1.24"),
    ("scikit-bio", "0.5.6", "0.5.8", "pypi/numpy@1.19", "pypi/numpy@1.24"),
    ("biopython", "1.78", "1.80", "pypi/numpy@1.19", "pypi/numpy@1.24"),
    ("bottle", "0.12.17", "0.12.19", "python@3.7", "python@3.10"),
    ("sopel", "7.1.9", "8.0.0", "python@3.8", "python@3.12"),
    ("luigi", "2.8.13", "3.0.0", "python@3.7", "python@3.10"),
    ("scrapy", "1.8.0", "2.0.0", "python@3.7", "python@3.10"),
    ("pyramid", "1.10.8", "2.0", "python@3.7", "python@3.12"),
    ("impacket", "0.11.0", "0.12.0", "python@3.8", "python@3.12"),
    ("gensim", "3.8.3", "4.0.0", "python@3.7", "python@3.10"),
    ("nltk", "3.4.5", "3.6", "python@3.7", "python@3.11"),
    ("spacy", "3.6.1", "3.7.0", "pypi/pydantic@1.10", "pypi/pydantic@2.0"),
    ("lifelines", "0.27.4", "0.27.7", "pypi/pandas@1.5", "pypi/pandas@2.0"),
    ("geopandas", "0.12.2", "0.13.0", "pypi/pandas@1.5", "pypi/pandas@2.0"),
    ("feature-engine", "1.5.2", "1.6.0", "pypi/pandas@1.5", "pypi/pandas@2.0"),
)  # fmt: skip


@dataclass(kw_only=True)
class Moved:
    """What one project changed. ``by_kind``: kind → (places, places written otherwise, lines of their hunks)."""

    places: int = 0
    changed: int = 0
    files: int = 0
    lines: int = 0
    likely: float = 0.0
    high: float = 0.0
    by_kind: dict[str, list[int]] = field(default_factory=dict)


def fetched(name: str, release: str, folder: Path) -> Path | None:
    """The Python files of a release, unpacked; a wheel where there is one, since it holds nothing but the package."""
    place = folder / f"{name}-{release}"
    if place.is_dir():
        inner = list(place.iterdir())
        return inner[0] if len(inner) == 1 and inner[0].is_dir() else place
    with tempfile.TemporaryDirectory() as held:
        for how in (("--only-binary", ":all:"), ("--no-binary", ":all:", "--no-build-isolation")):
            command = [sys.executable, "-m", "pip", "download", "-q", "--no-deps", "-d", held, *how, f"{name}=={release}"]
            subprocess.run(command, capture_output=True, check=False, timeout=300)
            archives = list(Path(held).iterdir())
            if archives:
                break
        else:
            return None
        if archives[0].suffix in (".whl", ".zip"):
            with zipfile.ZipFile(archives[0]) as packed:
                packed.extractall(place)
        else:
            with tarfile.open(archives[0]) as packed:
                packed.extractall(place, filter="data")
        inner = list(place.iterdir())
        if len(inner) == 1 and inner[0].is_dir():
            return inner[0]
    return place


def hunks(before: Path, after: Path) -> list[tuple[int, int, int]]:
    """(first line, last line, size) of what differs between two texts, in lines of the older; everything where the newer is gone."""
    old = before.read_text("utf-8", "replace").splitlines()
    if not after.is_file():
        return [(1, len(old), len(old))]
    new = after.read_text("utf-8", "replace").splitlines()
    matcher = difflib.SequenceMatcher(None, old, new, autojunk=False)
    return [(a + 1, max(b, a + 1), max(b - a, d - c)) for tag, a, b, c, d in matcher.get_opcodes() if tag != "equal"]


def compared(findings: list[Finding], old: Path, new: Path) -> Moved:
    """What the newer release changed where the older had findings."""
    moved = Moved()
    seen: set[tuple[str, int, int]] = set()
    cache: dict[str, list[tuple[int, int, int]]] = {}
    touched: set[str] = set()
    for finding in findings:
        kind = moved.by_kind.setdefault(finding.kind, [0, 0, 0])
        for place in finding.places:
            if place.level not in ("error", "warning"):
                continue
            moved.places += 1
            kind[0] += 1
            if place.file not in cache:
                cache[place.file] = hunks(old / place.file, new / place.file)
            found = next((h for h in cache[place.file] if h[0] <= place.line <= h[1]), None)
            if found is None or found[2] > LONGEST:
                continue
            moved.changed += 1
            kind[1] += 1
            touched.add(place.file)
            if (place.file, *found[:2]) not in seen:
                seen.add((place.file, *found[:2]))
                moved.lines += found[2]
                kind[2] += found[2]
    moved.files = len(touched)
    return moved


def main() -> None:
    """One line a move, then what they say together."""
    folder = Path(tempfile.gettempdir()) / "yoake-truth" / "moves"
    folder.mkdir(parents=True, exist_ok=True)
    knowledge, extractor = KIT.knowledge(), Extractor(FactsCache(None), KIT.ecosystems)
    rows: list[Moved] = []
    kinds: dict[str, Counter[str]] = {}
    print("project | move | places | changed | files | lines | likely h | 80 % h")
    for name, before, after, said, to in MOVES:
        if sys.argv[1:] and name not in sys.argv[1:]:
            continue
        old, new = fetched(name, before, folder), fetched(name, after, folder)
        if old is None or new is None:
            print(f"{name} {before} → {after}: could not be fetched", flush=True)
            continue
        result = scan_snapshot(snapshot=FolderSnapshot(old), knowledge=knowledge, destination=[parse_target(to)], said=[parse_target(said)], extractor=extractor, control=Control(), name=name).result
        findings = [f for f in result.findings if f.kind in CODE and any(p.level != "note" for p in f.places)]
        moved = compared(findings, old, new)
        effort = quantiles(draw(findings, knowledge.effort))
        moved.likely, moved.high = effort.p50 * knowledge.effort.minutes_per_day / 60, effort.p80 * knowledge.effort.minutes_per_day / 60
        rows.append(moved)
        for kind, (places, changed, lines) in moved.by_kind.items():
            kinds.setdefault(kind, Counter()).update(places=places, changed=changed, lines=lines)
        print(
            f"{name} {before} → {after} | {said} → {to} | {moved.places} | {moved.changed} | {moved.files} | {moved.lines} | "
            f"{moved.likely:.1f} | {moved.high:.1f}",
            flush=True,
        )
    extractor.close()
    for kind, counted in sorted(kinds.items()):
        lines = counted["lines"] / counted["changed"] if counted["changed"] else 0
        print(f"{kind}: {counted['changed']} of {counted['places']} places written otherwise, {lines:.1f} lines each")
    told = [r for r in rows if r.lines and r.likely]
    if len(told) > 2:
        ratios = [math.log(r.likely * 60 / r.lines) for r in told]
        rank = spearmanr([r.likely for r in told], [r.lines for r in told]).statistic
        print(
            f"{len(told)} moves with something to say: {math.exp(statistics.mean(ratios)):.1f} minutes a line (spread {statistics.stdev(ratios):.2f} "
            f"in logarithms), rank correlation of hours and lines {rank:.2f}"
        )


if __name__ == "__main__":
    main()
