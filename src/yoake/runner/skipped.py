"""Folders that hold no source of their own. A module by itself: the quick start of the command line reads it too."""

from __future__ import annotations

from typing import Final

SKIPPED_FOLDERS: Final = frozenset(
    (
        ".git",
        ".hg",
        ".svn",
        "node_modules",
        "bower_components",
        "__pycache__",
        ".venv",
        "venv",
        ".tox",
        ".nox",
        ".mypy_cache",
        ".pytest_cache",
        ".yarn",
        ".next",
        ".nuxt",
        "site-packages",
        ".eggs",
    )
)


def is_skipped(name: str) -> bool:
    """Whether a folder of this name is left out."""
    return name in SKIPPED_FOLDERS or name.endswith(".egg-info")
