"""What rules claim of libraries whose samples do not run by themselves, as small programs: run on a release before the line of a rule and on one of it.

    python -m bench.claims [FOLDER] [PART OF A FILE'S NAME …]

A claim holds where what was done runs before and does otherwise after (it fails, or prints something else), where what is to be done instead prints after
what the old way printed before, and, of rules that call that safe today, before as well. What only warns in words is ``still``
to do the same. Programs lie in ``bench/claims``; environments are kept below FOLDER.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML

from bench.tried_rules import environment

_HERE = Path(__file__).with_name("claims")
_SECONDS = 60
_TYPES = {
    "compilerOptions": {
        "jsx": "react", "strict": True, "noEmit": True, "skipLibCheck": True, "esModuleInterop": True, "target": "es2020", "moduleResolution": "node",
    },
    "files": ["a.tsx"],
}  # fmt: skip


def run(home: Path, harness: str, program: str) -> tuple[int, str]:
    """(exit code, what was printed) of one program."""
    if harness == "typescript":
        (home / "a.tsx").write_text(program)
        (home / "tsconfig.json").write_text(json.dumps(_TYPES))
        command = ["node", "node_modules/typescript/bin/tsc", "-p", "."]
    else:
        prelude = (_HERE / f"{harness}.cjs").read_text()
        common = (_HERE / "page.cjs").read_text()
        body = f"(async () => {{\n{program}\n}})().then(() => process.exit(0), error => {{ print(error); process.exit(1); }});"
        (home / "claim.cjs").write_text("\n".join((common, prelude, body)))
        command = ["node", "claim.cjs"]
    try:
        done = subprocess.run(command, cwd=home, capture_output=True, text=True, timeout=_SECONDS, check=False)
    except subprocess.TimeoutExpired:
        return 124, "took too long"
    return done.returncode, done.stdout + done.stderr


def faults_of(claim: Mapping[str, Any], harness: str, old: Path, new: Path) -> Iterator[str]:
    """What does not hold of a claim."""
    before, after = run(old, harness, claim["was"]), run(new, harness, claim["was"])
    if before[0] != 0:
        yield f"the old way does not run before: {before[1][-200:]!r}"
    if after == before and not claim.get("still"):
        yield f"the old way does the same after: {after[1][-200:]!r}"
    if claim.get("still") and after != before:
        yield f"the old way does not do the same after: {after[0]} {after[1][-200:]!r}"
    if "now" in claim:
        for where, home in (("after", new), *((("before", old),) if claim.get("safe") else ())):
            done = run(home, harness, claim["now"])
            if done[0] != 0 or (done[1] != before[1] and not claim.get("otherwise")):
                yield f"the new way, {where}: {done[0]} {done[1][-200:]!r} instead of {before[1][-200:]!r}"


def main() -> int:
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else Path(tempfile.gettempdir()) / "yoake-claims")
    total = holding = 0
    for path in sorted(_HERE.glob("*.yaml")):
        if sys.argv[2:] and not any(part in path.name for part in sys.argv[2:]):
            continue
        held = YAML(typ="safe").load(path.read_text())
        homes = {line: environment(folder, "node", tuple(wanted)) for line, wanted in held["sets"].items()}
        count = good = 0
        for rule, claim in held["claims"].items():
            claim = held["claims"][claim["same_as"]] if "same_as" in claim else claim
            old, new = claim.get("on") or held["on"]
            faults = list(faults_of(claim, held["harness"], homes[old], homes[new]))
            count, good = count + 1, good + (not faults)
            for fault in faults:
                print(f"  {rule} ({old} → {new}): {fault}", flush=True)
        print(f"{path.name:24} claims {count}  hold {good}", flush=True)
        total, holding = total + count, holding + good
    print(f"\n{holding} of {total} hold")
    return 0


if __name__ == "__main__":
    sys.exit(main())
