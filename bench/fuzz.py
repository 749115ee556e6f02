"""Ten thousand changed inputs for each reader, from real files: none may crash, hang, or cost more than its bounds.

    python -m bench.fuzz [--inputs 10000] [--seed 1] [--corpus FOLDER] [--only READER]

``--corpus``: a folder of real projects whose files are changed as well, the more kinds the better.

Prints for each reader how many inputs were read, the slowest in seconds, and what escaped. What escaped is written to a folder, to
be made a test.
"""

from __future__ import annotations

import argparse
import random
import time
from collections.abc import Callable
from pathlib import Path

from yoake.shipped import KIT
from yoake.core.inventory.assemble import assemble, stated_lines
from yoake.core.registered import ECOSYSTEMS
from yoake.runner.extraction import Extractor
from yoake.store.facts_cache import FactsCache

ROOT = Path(__file__).parents[1]
LONG = (
    b"(" * 5_000,
    b"[" * 5_000,
    b"{" * 5_000,
    b"9" * 20_000,
    b"\xff\xfe",
    b"\0",
    b"a." * 3_000,
    b"\\\n" * 500,
    b"'''",
    b'"' * 999,
    b"/*" * 900,
    b"\r\n\t \x0c" * 50,
)
MANIFESTS = ("pyproject.toml", "setup.cfg", "setup.py", "Pipfile.lock", "poetry.lock", "package.json", "package-lock.json", "yarn.lock",
             "pnpm-lock.yaml", "tsconfig.json", "requirements.txt", "tox.ini", "Dockerfile", ".python-version", "bom.json")  # fmt: skip
SLOW = 3.0  # seconds; such inputs are kept to be looked at
SOURCES = (".py", ".js", ".ts", ".tsx", ".jsx", ".html", ".vue", ".svelte")


MOST_SEEDS = 400  # of one kind: a corpus has thousands of sources, and they are much alike


def seeds(corpus: Path | None) -> dict[str, list[bytes]]:
    """Reader → real files of its kind, from the demo, the samples, this project and a corpus."""
    found: dict[str, list[bytes]] = {name: [] for name in (*MANIFESTS, *SOURCES)}
    own = [
        ROOT / "src" / "yoake" / "demo",
        ROOT / "tests" / "samples",
        ROOT / "web" / "src",
        ROOT / "src" / "yoake" / "work",
    ]
    for folder in [*own, *([corpus] if corpus is not None else [])]:
        for path in sorted(folder.rglob("*")):
            key = (
                path.name
                if path.name in found
                else "requirements.txt"
                if path.match("*requirements*.txt")
                else path.suffix
            )
            if key in found and path.is_file() and path.stat().st_size < 60_000:
                found[key].append(path.read_bytes())
    found = {name: held[:: len(held) // MOST_SEEDS + 1] for name, held in found.items()}
    for name in ("package.json", "package-lock.json", "tsconfig.json"):
        found[name].append((ROOT / "web" / name).read_bytes()[:60_000])
    found["pyproject.toml"].append((ROOT / "pyproject.toml").read_bytes())
    found["poetry.lock"].append(
        b'[[package]]\nname = "six"\nversion = "1.16.0"\n\n[metadata]\npython-versions = "^3.8"\n'
    )
    found["Pipfile.lock"].append(
        b'{"_meta": {"requires": {"python_version": "3.8"}}, "default": {"six": {"version": "==1.16.0"}}}'
    )
    found["yarn.lock"].append(b'"@a/b@^1.0.0":\n  version "1.2.3"\nleft-pad@1:\n  version "1.0.0"\n')
    found["pnpm-lock.yaml"].append(
        b"lockfileVersion: 5.4\npackages:\n\n  /six/1.0.0:\n    dev: true\n  /@a/b@2.0.0(c@1):\n    x: y\n"
    )
    found["setup.cfg"].append(
        b"[metadata]\nname = a\n[options]\npython_requires = >=3.6\ninstall_requires =\n  six\n  django>=2\n"
    )
    found["bom.json"].append(
        b'{"bomFormat": "CycloneDX", "specVersion": "1.5", "components": [{"purl": "pkg:pypi/six@1.16.0"}]}'
    )
    return {name: held or [b"x = 1\n"] for name, held in found.items()}


def changed(rng: random.Random, data: bytes, others: list[bytes]) -> bytes:
    """A few changes: cut, doubled, overwritten, spliced with another, or filled with something long."""
    body = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        at = rng.randrange(len(body) + 1)
        kind = rng.randrange(6)
        if kind == 0:
            del body[at : at + rng.randrange(1, 200)]
        elif kind == 1:
            body[at:at] = body[at : at + rng.randrange(1, 2_000)] * rng.randrange(1, 5)
        elif kind == 2:
            body[at : at + 3] = bytes(rng.randrange(256) for _ in range(3))
        elif kind == 3:
            other = rng.choice(others)
            start = rng.randrange(len(other) + 1)
            body[at:at] = other[start : start + 500]
        elif kind == 4:
            body[at:at] = rng.choice(LONG)
        else:
            body[at : at + 1] = rng.choice(
                (b'"', b"'", b"{", b"}", b"[", b"]", b"\n", b"=", b":", b",", b"-", b"#", b"\\")
            )
        if len(body) > 400_000:
            del body[400_000:]
    return bytes(body)


def manifest_reader(name: str) -> Callable[[bytes], object]:
    """Read a manifest as an application's only one, and what it says of today's lines."""

    def read(data: bytes) -> object:
        return [
            stated_lines(module, {}, ECOSYSTEMS) for module in assemble({name: data}, "fuzz", ECOSYSTEMS)
        ]

    return read


def source_reader(extractor: Extractor, suffix: str) -> Callable[[bytes], object]:
    """Read a source file as a scan of it alone would: in this process, after a look at whether it can be read."""

    def read(data: bytes) -> object:
        return list(extractor.run([(f"a{suffix}", data)], lambda: False))

    return read


def main() -> None:
    """Fuzz every reader."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--inputs", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path, default=Path("/tmp/yoake-fuzz"))  # noqa: S108  a folder to look into
    parser.add_argument("--corpus", type=Path)
    parser.add_argument("--only", action="append", default=[], help="a reader, as often as wanted; all where it is not given")
    given = parser.parse_args()
    every = seeds(given.corpus)
    extractor = Extractor(FactsCache(None), KIT.ecosystems)
    for name, held in ((n, h) for n, h in every.items() if not given.only or n in given.only):
        read = source_reader(extractor, name) if name in SOURCES else manifest_reader(name)
        rng = random.Random(f"{given.seed}{name}")  # noqa: S311
        slowest, escaped = 0.0, 0
        times: list[float] = []
        for number in range(given.inputs):
            data = changed(rng, rng.choice(held), held)
            began = time.perf_counter()
            try:
                read(data)
            except Exception as error:  # noqa: BLE001  what escapes is what is looked for
                escaped += 1
                given.keep.mkdir(parents=True, exist_ok=True)
                (given.keep / f"{name}-{number}").write_bytes(data)
                if escaped <= 3:
                    print(f"  {name} {number}: {type(error).__name__}: {str(error)[:150]}")
            times.append(time.perf_counter() - began)
            if times[-1] > slowest and times[-1] > SLOW:
                given.keep.mkdir(parents=True, exist_ok=True)
                (given.keep / f"slow-{name}-{number}").write_bytes(data)
            slowest = max(slowest, times[-1])
        mean = 1000 * sum(times) / len(times)
        print(
            f"{name:20}{len(held):5} seeds{given.inputs:8,} inputs, {mean:6.1f} ms each, slowest {slowest:6.2f} s, escaped {escaped}",
            flush=True,
        )


if __name__ == "__main__":
    main()
