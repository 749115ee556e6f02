"""Taking in: all faults at once, all or nothing."""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path

import pytest

from tests.conftest import git, write
from yoake.context.context import Context
from yoake.core.values.errors import BadInput, BadSource
from yoake.formats.tables import ApplicationRow, read_applications_csv
from yoake.shipped import KIT
from yoake.store.applications import list_applications
from yoake.usecases.take_in import candidates_from_folder, drop_uploads, keep_upload, preview, take_in

TO = "python@3.13"


def test_every_fault_of_a_list_is_told_and_nothing_is_stored(context: Context, tmp_path: Path) -> None:
    good = write(tmp_path / "good", {"a.py": ""})
    text = f"name,source,ref,subfolder,destination\nok,{good},,,\nnowhere,/no/such,,,\nplain,{good},main,,\nup,{good},,../x,\nline,{good},,,python@9\nname,{good},,,Winter plan\ntwice,{good},,,\n{'n' * 200},{tmp_path},,,\n"
    found = preview(context, read_applications_csv(text), TO)
    faults = {c.name[:10]: c.faults for c in found}
    assert faults["ok"] == []
    for name, said in {
        "nowhere": "nothing at",
        "plain": "plain folder",
        "up": "outside",
        "line": "no line 9",
        "name": "no destination",
        "twice": "already",
        "n" * 10: "200 characters",
    }.items():
        assert any(said in fault for fault in faults[name]), (name, faults[name])
    with pytest.raises(BadInput, match="nothing was taken in") as told:
        take_in(context, found, "Ines")
    assert len(told.value.faults) >= 7
    assert list_applications(context.db) == []


def test_a_folder_of_repositories_gives_a_row_each(context: Context, tmp_path: Path) -> None:
    for name in ("b", "a"):
        (tmp_path / name).mkdir()
        git(tmp_path / name, "init", "--quiet")
    write(tmp_path, {"project/setup.py": "", "notes/readme.md": ""})
    assert [r.name for r in candidates_from_folder(str(tmp_path), KIT.ecosystems)] == ["a", "b", "project"]
    with pytest.raises(BadSource, match="manifest"):
        candidates_from_folder(str(tmp_path / "notes"), KIT.ecosystems)


def test_names_come_from_sources_and_addresses_never_clash(context: Context, tmp_path: Path) -> None:
    rows = [
        ApplicationRow(number=1, name="", source=str(write(tmp_path / "x" / "desk", {"a.py": ""}))),
        ApplicationRow(number=2, name="", source=str(write(tmp_path / "y" / "desk", {"a.py": ""}))),
    ]
    take_in(context, preview(context, rows, TO), "Ines")
    assert [a.slug for a in list_applications(context.db)] == ["desk", "desk-2"]


def test_a_destination_is_given_by_name_or_by_its_lines(context: Context, tmp_path: Path) -> None:
    one, two = write(tmp_path / "one", {"a.py": ""}), write(tmp_path / "two", {"a.py": ""})
    take_in(
        context,
        preview(context, [ApplicationRow(number=1, name="", source=str(one))], "python@3.13 + pypi/django@5.2"),
        "",
    )
    take_in(
        context, preview(context, [ApplicationRow(number=1, name="", source=str(two))], "python 3.13, django 5.2"), ""
    )
    assert len({a.destination.id for a in list_applications(context.db)}) == 1


@pytest.mark.parametrize("text", ["", "python@3.13 python@3.12", "somewhere", "pypi/unheard@1"])
def test_a_destination_that_is_none_is_a_fault(context: Context, tmp_path: Path, text: str) -> None:
    found = preview(
        context, [ApplicationRow(number=1, name="", source=str(write(tmp_path / "one", {"a.py": ""})))], text
    )
    assert len(found[0].faults) == 1


def test_an_upload_is_kept_by_its_content_under_a_harmless_name(context: Context) -> None:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        archive.writestr("a.py", "x = 1\n")
    kept = keep_upload(context, "..\\..//evil/../app.zip", io.BytesIO(data.getvalue()))
    assert Path(kept).is_file()
    assert Path(kept).is_relative_to(context.home.uploads)
    assert Path(kept).name == "app.zip"


@pytest.mark.parametrize(("name", "data"), [("a.exe", b"x"), ("a.zip", b"not a zip"), ("", b"")])
def test_an_upload_that_is_no_archive_leaves_nothing_behind(context: Context, name: str, data: bytes) -> None:
    with pytest.raises(BadSource):
        keep_upload(context, name, io.BytesIO(data))
    assert not [p for p in context.home.uploads.rglob("*") if p.is_file()]


def test_uploads_that_nothing_comes_from_go_after_a_day(context: Context) -> None:
    """What is named by an application stays, however old; so does what was uploaded within a day; empty folders go."""
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        archive.writestr("a.py", "x = 1\n")
    kept = Path(keep_upload(context, "kept.zip", io.BytesIO(data.getvalue())))
    old, new = (context.home.uploads / name / "a.zip" for name in ("old", "new"))
    for path in (old, new):
        path.parent.mkdir()
        path.write_bytes(b"x")
    take_in(context, preview(context, [ApplicationRow(number=1, name="kept", source=str(kept))], "python@3.13"), "Ines")
    now = context.clock().timestamp()
    for path, age in ((kept, 9e6), (old, 86_401), (new, 86_399)):
        os.utime(path, (now - age, now - age))
    assert drop_uploads(context) == 1
    assert (kept.exists(), old.parent.exists(), new.exists()) == (True, False, True)
