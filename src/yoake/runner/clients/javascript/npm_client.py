"""npm, the ordinary client, as it is set up here. Scripts of packages are never run."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path
from typing import Any, Final

from yoake.core.values.errors import BadSource

_SECONDS: Final = 180


def run_npm(*arguments: str, cwd: Path | None = None, seconds: int = _SECONDS) -> subprocess.CompletedProcess[str]:
    """Run npm. Raises BadSource when it is missing or does not answer."""
    program = shutil.which("npm")
    if program is None:
        raise BadSource("npm was not found on PATH; install Node to fetch npm packages.")
    command = [program, *arguments, "--ignore-scripts", "--no-audit", "--no-fund", "--no-update-notifier"]
    try:
        return subprocess.run(command, capture_output=True, text=True, timeout=seconds, cwd=cwd, check=False)
    except subprocess.TimeoutExpired as error:
        raise BadSource(f"npm did not answer within {seconds} s. Try again when the registry answers.") from error


def npm_version() -> tuple[str, str]:
    """The npm that is on PATH."""
    try:
        return "npm", run_npm("--version").stdout.strip()
    except BadSource:
        return "npm", ""


def npm_view(spec: str, *fields: str) -> Any:
    """``npm view SPEC FIELDS --json``. Raises BadSource with what npm says."""
    done = run_npm("view", spec, *fields, "--json")
    try:
        answer = json.loads(done.stdout) if done.stdout.strip() else None
    except ValueError as error:
        raise BadSource(f"npm gave no readable answer about “{spec}”.") from error
    if done.returncode != 0 or answer is None:
        said = answer.get("error", {}).get("summary") if isinstance(answer, dict) else done.stderr.strip()
        raise BadSource(f"npm knows nothing of “{spec}”: {str(said).splitlines()[0] if said else 'no such package'}")
    return answer


def npm_pack(spec: str, folder: Path) -> Path:
    """Download one package into ``folder`` as an archive. Raises BadSource."""
    done = run_npm("pack", spec, "--pack-destination", str(folder))
    archives = sorted(folder.glob("*.tgz"))
    if done.returncode != 0 or not archives:
        raise BadSource(f"npm could not fetch “{spec}”: {done.stderr.strip()[-200:]}")
    return archives[0]
