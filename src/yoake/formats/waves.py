"""Waves and forecasts as text and JSON."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Final

_BAR: Final = 24


def table(rows: Sequence[Sequence[str]], right: Iterable[int] = ()) -> str:
    """Columns that stand under one another; those numbered in ``right`` are aligned to the right."""
    if not rows:
        return ""
    aligned = set(right)
    widths = [max(len(row[n]) for row in rows) for n in range(len(rows[0]))]
    lines = (
        "  ".join(
            cell.rjust(w) if n in aligned else cell.ljust(w)
            for n, (cell, w) in enumerate(zip(row, widths, strict=True))
        )
        for row in rows
    )
    return "\n".join(line.rstrip() for line in lines) + "\n"


def percent(chance: float) -> str:
    """A chance as people say it: ``24 %``, ``under 1 %``."""
    if chance <= 0:
        return "0 %"
    if chance < 0.01:
        return "under 1 %"
    return "over 99 %" if 0.99 < chance < 1 else f"{chance:.0%}".replace("%", " %")


def mermaid_gantt(title: str, teams: Iterable[tuple[str, Iterable[Mapping[str, Any]]]]) -> str:
    """A Gantt chart in Mermaid: a section a team, a bar a stage."""
    lines = ["gantt", f"  title {_plain(title)}", "  dateFormat YYYY-MM-DD", "  axisFormat %d %b"]
    for team, stages in teams:
        rows = [
            f"    {_plain(stage['label'])} :{stage['starts']}, {stage['ends']}"
            for stage in stages
            if stage["starts"] and stage["ends"]
        ]
        if rows:
            lines += [f"  section {_plain(team)}", *rows]
    return "\n".join(lines) + "\n"


def mermaid_graph(edges: Iterable[tuple[str, str]], alone: Iterable[str]) -> str:
    """Who requires whom, in Mermaid: from a library to its users."""
    names: dict[str, str] = {}

    def at(name: str) -> str:
        known = names.get(name)
        if known is not None:
            return known
        names[name] = f"n{len(names)}"
        return f'{names[name]}["{_plain(name)}"]'

    lines = ["graph LR", *(f"  {at(library)} --> {at(user)}" for library, user in edges)]
    lines += [f"  {at(name)}" for name in alone if name not in names]
    return "\n".join(lines) + "\n"


def _plain(text: str) -> str:
    """Text without what Mermaid takes for its own."""
    return "".join(" " if c in ':;#"<>{}[]\n\r' else c for c in text).strip() or "-"
