"""How right a scan is, asked of the real runtimes.

The truth: a use (file, line, symbol) in unguarded code whose symbol resolves under the old runtime and not under the new
one. Candidates come from ``bench/walk.py`` (``ast`` of the old interpreter); ``bench/ask.py`` imports and reaches for each
symbol in both interpreters. Recall counts those that the scan calls an error; of findings called ``removed``, the share
whose symbol really does not resolve in the new runtime is the precision.

    python -m bench.truth [stdlib|django] [apart] [PROJECT==VERSION …]      # default: both corpora, fetched by name through pip
"""

from __future__ import annotations

import json
import subprocess
import sys
import tarfile
import tempfile
import zipfile
from dataclasses import dataclass, field
from pathlib import Path

from bench.projects import APART, TUNED
from yoake.shipped import KIT
from yoake.core.values.coordinates import parse_target, Coordinate, Line
from yoake.runner.clients.python.interpreters import find_interpreters
from yoake.runner.extraction import Extractor
from yoake.runner.snapshots import FolderSnapshot
from yoake.store.facts_cache import FactsCache
from yoake.usecases.progress import Control
from yoake.usecases.scan import scan_snapshot

HERE = Path(__file__).parent
LINES = {"stdlib": ("3.8", "3.13"), "django": ("3.8", "3.12")}
DJANGO = ("3.2.25", "5.2.19")


@dataclass(kw_only=True)
class Score:
    """Counts of one project."""

    broken: int = 0
    found: int = 0
    removed: int = 0
    true: int = 0
    silent: int = 0
    misses: list[str] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


def fetch(requirement: str, folder: Path) -> Path | None:
    """Download and unpack one project; nothing of it is run."""
    target = folder / requirement.replace("==", "-")
    if target.is_dir():
        return target
    packed = folder / "packed" / requirement
    for only in (["--only-binary", ":all:"], ["--no-binary", ":all:", "--no-build-isolation"]):
        command = [
            sys.executable,
            "-m",
            "pip",
            "download",
            "-q",
            "--no-deps",
            "--ignore-requires-python",
            "-d",
            str(packed),
            *only,
            requirement,
        ]
        if subprocess.run(command, capture_output=True, check=False).returncode == 0:
            break
    for path in sorted(packed.glob("*")) if packed.is_dir() else []:
        target.mkdir(parents=True, exist_ok=True)
        if path.suffix in (".whl", ".zip"):
            zipfile.ZipFile(path).extractall(target)
        else:
            tarfile.open(path).extractall(target, filter=_harmless)
        return target
    return None


def _harmless(member: tarfile.TarInfo, target: str) -> tarfile.TarInfo | None:
    """Members that stay in their folder; links that lead out of it are left out."""
    try:
        return tarfile.data_filter(member, target)
    except tarfile.FilterError:
        return None


def ask(program: Path, paths: set[str], mode: str) -> dict[str, bool | None]:
    """What a real interpreter says of each path."""
    command = [str(program), str(HERE / "ask.py"), *(["django"] if mode == "django" else [])]
    done = subprocess.run(command, input=json.dumps(sorted(paths)), capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


def with_django(program: Path, release: str, folder: Path) -> Path:
    """A throw-away environment with one Django release."""
    place = folder / f"django-{release}"
    if not (place / "bin" / "python").exists():
        subprocess.run([program, "-m", "venv", str(place)], check=True)
        subprocess.run(
            [
                place / "bin" / "python",
                "-m",
                "pip",
                "install",
                "-q",
                f"django=={release}",
                "pytz",
                "psycopg2-binary",
                "Pillow",
                "sqlparse",
            ],
            check=False,
            capture_output=True,
        )
        subprocess.run(
            [place / "bin" / "python", "-m", "pip", "install", "-q", f"django=={release}"],
            check=True,
            capture_output=True,
        )
    return place / "bin" / "python"


def unguarded_uses(mode: str, folder: Path) -> tuple[list[tuple[str, int, str]], frozenset[str]]:
    """Uses (file, line, symbol) in unguarded code, as ``ast`` of the old interpreter sees them, and the first names that are asked about."""
    knowledge = KIT.knowledge()
    old = LINES[mode][0]
    own = {path.name.split(".")[0] for path in folder.iterdir()} | {
        p.name.split(".")[0] for d in folder.iterdir() if d.is_dir() for p in d.iterdir()
    }
    tops = frozenset(knowledge.timelines[Coordinate("pkg:pypi/django" if mode == "django" else "pkg:generic/python")].top_levels)
    done = subprocess.run(
        [find_interpreters()[Line(old)], str(HERE / "walk.py"), str(folder)], capture_output=True, text=True, check=True
    )
    skipped = ("node_modules/", "site-packages/", ".egg-info/")
    rows = [
        (f, n, s)
        for f, n, s, guarded in json.loads(done.stdout)
        if not guarded
        and s.split(".")[0] in tops
        and (s.split(".")[0] not in own or mode == "stdlib" and s.split(".")[0] in ("imp", "cgi", "test"))
        and not any(x in f for x in skipped)
    ]
    return rows, tops


def broken_uses(mode: str, folder: Path, programs: tuple[Path, Path]) -> set[tuple[str, int, str]]:
    """Uses whose symbol resolves under the old runtime and not under the new one."""
    rows, _ = unguarded_uses(mode, folder)
    paths = {s for _, _, s in rows}
    before, after = ask(programs[0], paths, mode), ask(programs[1], paths, mode)
    return {(f, n, s) for f, n, s in rows if before[s] is True and after[s] is False}


def measure(mode: str, folder: Path, programs: tuple[Path, Path], extractor: Extractor) -> Score:
    """Score one unpacked project."""
    knowledge = KIT.knowledge()
    old, new = LINES[mode]
    to, said = [parse_target(f"python@{new}")], [parse_target(f"python@{old}")]
    if mode == "django":
        to.append(parse_target("pypi/django@5.2"))
        said.append(parse_target("pypi/django@3.2"))
    result = scan_snapshot(snapshot=FolderSnapshot(folder), knowledge=knowledge, destination=to, said=said, extractor=extractor, control=Control(), name=folder.name).result
    errors = {
        (p.file, p.first_line or p.line, p.symbol) for f in result.findings for p in f.places if p.level == "error"
    }
    lines = {(file, line) for file, line, _ in errors}
    removed = {
        (p.file, p.first_line or p.line, p.symbol)
        for f in result.findings
        if f.kind == "removed"
        for p in f.places
        if p.level == "error" and p.form in ("import", "name", "attribute", "call")
    }
    rows, tops = unguarded_uses(mode, folder)
    paths = {s for _, _, s in rows} | {s for _, _, s in removed if s.split(".")[0] in tops}
    before, after = ask(programs[0], paths, mode), ask(programs[1], paths, mode)
    score = Score()
    broken = {(f, n, s) for f, n, s in rows if before[s] is True and after[s] is False}
    score.broken = len(broken)
    for use in sorted(broken):
        if use in errors or (
            use[:2] in lines
            and any(e[:2] == use[:2] and (e[2].startswith(use[2]) or use[2].startswith(e[2])) for e in errors)
        ):
            score.found += 1
        else:
            score.misses.append("{}:{} {}".format(*use))
    checked = [u for u in removed if u[2] in before and before[u[2]] is not None and after[u[2]] is not None]
    score.removed = len(checked)
    score.wrong = ["{}:{} {}".format(*u) for u in checked if after[u[2]] is True]
    score.true = score.removed - len(score.wrong)
    score.silent = len({u for u in rows if before[u[2]] is True and after[u[2]] is True} - errors)
    return score


Use = tuple[str, int, str]


def tally(
    rows: set[Use], errors: set[Use], removed: set[Use], before: dict[str, bool | None], after: dict[str, bool | None]
) -> Score:
    """Counts of one project from candidates, what the scan says, and what the old and the new runtime answer."""
    score = Score()
    broken = sorted(use for use in rows if before[use[2]] is True and after[use[2]] is False)
    score.broken = len(broken)
    for use in broken:
        near = [e for e in errors if e[:2] == use[:2]]
        if any(e[2].startswith(use[2]) or use[2].startswith(e[2]) for e in near):
            score.found += 1
        else:
            score.misses.append("{}:{} {}".format(*use))
    checked = [use for use in removed if before[use[2]] is not None and after[use[2]] is not None]
    score.removed = len(checked)
    score.wrong = sorted("{}:{} {}".format(*use) for use in checked if after[use[2]] is True)
    score.true = score.removed - len(score.wrong)
    score.silent = len({u for u in rows if before[u[2]] is True and after[u[2]] is True} - errors)
    return score


def report(scores: dict[str, Score]) -> None:
    """One line a project, its misses and its wrong findings, and the totals."""
    for name, score in scores.items():
        print(
            f"  {name:32} broken {score.broken:4}  found {score.found:4}   called removed {score.removed:4}"
            f"  true {score.true:4}   rightly silent {score.silent}"
        )
        for text in score.misses[:12]:
            print(f"      missed {text}")
        for text in score.wrong[:12]:
            print(f"      wrong  {text}")
    broken, found, removed, true, silent = (
        sum(getattr(score, key) for score in scores.values())
        for key in ("broken", "found", "removed", "true", "silent")
    )
    print(
        f"  recall {found / broken if broken else 1:.3f} ({found}/{broken}), removed that are true "
        f"{true / removed if removed else 1:.3f} ({true}/{removed}), rightly silent {silent}"
    )


def main() -> None:
    """Measure the corpora and print one line a project, the misses and the totals."""
    wanted = [a for a in sys.argv[1:] if "==" in a]
    corpus = APART if "apart" in sys.argv else TUNED
    modes = [a for a in sys.argv[1:] if a in corpus] or list(corpus)
    folder = Path(tempfile.gettempdir()) / "yoake-truth"
    folder.mkdir(exist_ok=True)
    programs = find_interpreters()
    extractor = Extractor(FactsCache(None), KIT.ecosystems)
    for mode in modes:
        old, new = (programs[Line(line)] for line in LINES[mode])
        if mode == "django":
            old, new = with_django(old, DJANGO[0], folder), with_django(new, DJANGO[1], folder)
        print(f"\n{mode}: {' → '.join(LINES[mode])}{' with Django ' + ' → '.join(DJANGO) if mode == 'django' else ''}")
        scores = {}
        for requirement in wanted or corpus[mode]:
            place = fetch(requirement, folder)
            if place is None:
                print(f"  {requirement}: could not be fetched")
                continue
            scores[requirement] = measure(mode, place, (old, new), extractor)
        report(scores)
    extractor.close()


if __name__ == "__main__":
    main()
