"""The commit that a run was made on, as scans name it."""

from __future__ import annotations

import re
from typing import Final

from yoake.core.values.errors import BadInput

_COMMIT: Final = re.compile(r"[0-9a-f]{40}|[0-9a-f]{64}")


def commit_identity(commit: str) -> str:
    """How the content of a commit is named. Raises BadInput for what is no whole hash."""
    if not _COMMIT.fullmatch(commit):
        raise BadInput(f"“{commit[:80]}” is no commit: give the whole hash, as “git rev-parse HEAD” says it.")
    return f"commit:{commit}"
