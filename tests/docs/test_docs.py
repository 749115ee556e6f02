"""What the documents list is there: commands, pictures, files."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from typer.testing import CliRunner

from yoake.cli import command_line

ROOT = Path(__file__).parents[2]
DOCUMENTS = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").glob("*.md"))]


@pytest.mark.parametrize("path", DOCUMENTS, ids=lambda p: p.name)
def test_every_link_inside_the_project_leads_somewhere(path: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)", path.read_text("utf-8")):
        assert "://" not in target, f"{target}: documents name no outside address"
        assert (path.parent / target).exists(), target


def test_every_picture_is_linked_from_the_readme_and_there_are_few() -> None:
    pictures = {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    linked = set(re.findall(r"docs/screenshots/([\w-]+\.png)", (ROOT / "README.md").read_text("utf-8")))
    assert pictures == linked
    assert 0 < len(pictures) < 20


def test_every_make_word_the_readme_gives_exists() -> None:
    words = set(
        re.findall(
            r"`make (\w+)`", (ROOT / "README.md").read_text("utf-8") + (ROOT / "CONTRIBUTING.md").read_text("utf-8")
        )
    )
    targets = set(re.findall(r"^(\w+):", (ROOT / "Makefile").read_text("utf-8"), re.MULTILINE))
    assert words <= targets


def test_every_command_and_option_the_readme_gives_exists() -> None:
    text = (ROOT / "README.md").read_text("utf-8")
    runner = CliRunner()
    for command in set(
        re.findall(
            r"yoake (scan|path|edit|run|ratchet|waivers export|serve|demo|backup|check|knowledge build|knowledge list)\b",
            text,
        )
    ):
        shown = runner.invoke(command_line(), [*command.split(), "--help"], env={"COLUMNS": "200"})
        assert shown.exit_code == 0, command
    scan = runner.invoke(command_line(), ["scan", "--help"], env={"COLUMNS": "200", "TERM": "dumb"}).output
    for option in set(re.findall(r"--(?:to|from|ref|format|output|fail-on)\b", text)):
        assert option in scan
