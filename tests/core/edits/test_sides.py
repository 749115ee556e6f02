"""Two texts beside each other: every row is there once, and what became of a row stands beside it."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yoake.core.edits.sides import hunks


def test_a_row_stands_beside_what_became_of_it_and_only_what_differs_is_marked() -> None:
    before = "a = 1\nfrom x import gone\nfrom y import old, same\nb = 2\n"
    after = "a = 1\nfrom y import new, same\nb = 2\n"
    (hunk,) = hunks(before, after)
    rows = {row.text: row for row in hunk.rows if row.kind != "same"}
    assert rows["from x import gone"].beside == 0
    assert rows["from y import old, same"].beside == 2
    assert rows["from y import new, same"].beside == 3
    (mark,) = rows["from y import new, same"].marks
    assert "from y import new, same"[slice(*mark)] == "new"


ROWS = st.lists(st.sampled_from(["a = 1", "b = 2", "import x", "import y", "", "def f(): pass"]), max_size=12)


@given(ROWS, ROWS)
def test_every_row_that_went_or_came_is_shown_once_in_order(old: list[str], new: list[str]) -> None:
    found = [row for hunk in hunks("\n".join(old), "\n".join(new)) for row in hunk.rows]
    kept = [row.old for row in found if row.kind == "same"]
    gone, came = (
        {getattr(r, side): r for r in found if r.kind == kind} for kind, side in (("gone", "old"), ("new", "new"))
    )
    assert len(gone) + len(came) + len(kept) == len(found)
    left = [text for number, text in enumerate("\n".join(old).splitlines(), 1) if number not in gone]
    right = [text for number, text in enumerate("\n".join(new).splitlines(), 1) if number not in came]
    assert left == right
    for row in gone.values():
        assert not row.beside or came[row.beside].beside == row.old
