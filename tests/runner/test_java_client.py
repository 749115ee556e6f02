"""Jars as sources of surfaces and release records, and a JDK's archive where one is here."""

from __future__ import annotations

import zipfile
from datetime import date
from pathlib import Path

import pytest

from tests.core.java.berth import BERTH, CRANE
from yoake.core.ecosystems.java.names import maven, shown
from yoake.core.knowledge.base import Knowledge
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.errors import BadCoordinate, BadSource
from yoake.runner.clients.java.jars import build_jars, jar_surface
from yoake.runner.clients.java.jdks import build_java, find_jdks
from yoake.runner.clients.java.records import maven_record

QUAY = maven("ferries:quay")
POM = """<project><groupId>ferries</groupId><artifactId>quay</artifactId><version>1.2</version>
<dependencies><dependency><groupId>lamp</groupId><artifactId>oil</artifactId><version>1.4</version></dependency></dependencies></project>"""


MODULE = b"\xca\xfe\xba\xbe" + bytes((0, 0, 0, 69, 0, 1, 0x80, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0))
"""A module's description for Java 25, with nothing in it."""


def jar(path: Path, **more: bytes) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(path, "w") as packed:
        packed.writestr("quay/Berth.class", BERTH)
        packed.writestr("quay/Berth$Crane.class", CRANE)
        packed.writestr("META-INF/versions/21/quay/Later.class", BERTH)
        for name, data in more.items():
            packed.writestr(f"{name}.class", data)
    return path


@pytest.fixture
def repository(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("YOAKE_MAVEN_REPOSITORY", str(tmp_path))
    for release in ("1.2", "1.2.1", "2.0"):
        made = jar(tmp_path / "ferries" / "quay" / release / f"quay-{release}.jar", **{"module-info": MODULE})
        made.with_suffix(".pom").write_text(POM)
    return tmp_path


def test_a_jar_at_hand_gives_the_surface_of_its_line(tmp_path: Path) -> None:
    made = jar_surface(QUAY, jar(tmp_path / "quay-1.2.jar", broken=b"\xca\xfe\xba\xbe"))
    assert (made.line, made.release, made.how) == ("1.2", "1.2", "class files")
    assert "quay.Berth.tow" in {shown(path) for path in made.symbols}


def test_the_local_repository_gives_the_newest_release_of_each_line(repository: Path) -> None:
    timeline = build_jars(QUAY, (), lambda _word: None, False)
    assert [(c.line, c.release) for c in timeline.lines] == [("1.2", "1.2.1"), ("2.0", "2.0")]
    with pytest.raises(BadCoordinate, match=r"hold 1\.2, 2\.0, not 3\.0"):
        build_jars(QUAY, ["3.0"], lambda _word: None, False)


def test_a_record_says_what_poms_and_classes_say(repository: Path, knowledge: Knowledge) -> None:
    record = maven_record(QUAY, date(2026, 11, 26), knowledge, lambda _word: None)
    assert record.releases == ("1.2", "1.2.1", "2.0")
    assert record.details[0].needs == {"lamp/oil": "1.4"}
    assert knowledge.fitting(record, Line("8")) == ()
    assert knowledge.fitting(record, Line("17")) == record.releases


@pytest.mark.parametrize("name", ["quay.jar", "quay-1.jar"])
def test_what_is_no_jar_is_refused_with_a_reason(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_bytes(b"no archive")
    with pytest.raises(BadSource, match="jar"):
        jar_surface(QUAY, tmp_path / name)


@pytest.mark.skipif(not find_jdks(), reason="no JDK with a signature archive is here")
def test_the_archive_of_a_real_jdk_says_what_the_shipped_timeline_says(knowledge: Knowledge) -> None:
    made = build_java(["8", "11"], lambda _word: None)
    shipped = knowledge.timelines[Coordinate("pkg:generic/java")]
    for path in list(made.symbols)[::97]:
        ours, theirs = made.ask(path), shipped.ask(path)
        there = [shipped.lines_in(theirs.offers).__contains__(line) for line in ("8", "11")]
        assert [bool(ours.offers >> at & 1) for at in (0, 1)] == there, path


@pytest.mark.skipif(not find_jdks(), reason="no JDK with a signature archive is here")
def test_a_line_is_asked_for_as_people_write_it_and_another_is_refused() -> None:
    assert [c.line for c in build_java(["1.8"], lambda _word: None).lines] == ["8"]
    with pytest.raises(BadCoordinate, match="no Java newest, 7"):
        build_java(["newest", "7", "11"], lambda _word: None)
