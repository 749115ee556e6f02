"""Several modules of one build: what one hands on to another, and what holds for all of them."""

from __future__ import annotations

import pytest

from tests.core.java.test_project import places
from yoake.core.inventory.assemble import assemble
from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.results import ScanResult

_PARENT = "<parent><groupId>quay</groupId><artifactId>wall</artifactId><version>3</version></parent>"
_ROOT = """<project><groupId>quay</groupId><artifactId>wall</artifactId><version>3</version><packaging>pom</packaging>
<properties><maven.compiler.release>8</maven.compiler.release></properties></project>"""
_USE = "package quay;\nclass {} {{ javax.xml.bind.JAXBContext held; }}\n"


def dependency(group: str, artifact: str, more: str = "") -> str:
    return f"<dependency><groupId>{group}</groupId><artifactId>{artifact}</artifactId><version>2.3.1</version>{more}</dependency>"


def module(name: str, *dependencies: str) -> str:
    listed = "".join(dependencies)
    return f"<project>{_PARENT}<artifactId>{name}</artifactId><dependencies>{listed}</dependencies></project>"


def scan(knowledge: Knowledge, files: dict[str, str]) -> ScanResult:
    poms = {path: text.encode() for path, text in files.items() if path.endswith("pom.xml")}
    sources = {path: text for path, text in files.items() if path not in poms}
    given = ScanInput(
        facts={path: ECOSYSTEMS.read_source(path, text.encode()) for path, text in sources.items()},
        files=[FileResult(path=path, state="scanned") for path in sources],
        modules=assemble(poms, "wall", ECOSYSTEMS, sources),
        destination=[parse_target("java@17")],
    )
    return run_scan(given, knowledge)


JAXB = dependency("javax.xml.bind", "jaxb-api")
STONES = dependency("quay", "stones")


@pytest.mark.parametrize(
    ("stones", "mortar", "broken"),
    [
        ((JAXB,), (STONES,), set()),
        ((), (STONES,), {"mortar", "stones"}),
        ((JAXB,), (), {"mortar"}),
        ((dependency("javax.xml.bind", "jaxb-api", "<scope>test</scope>"),), (STONES,), {"mortar"}),
        ((JAXB,), (dependency("quay", "pebbles"),), {"mortar"}),
        ((STONES,), (STONES, JAXB), {"stones"}),
    ],
)
def test_what_a_module_is_built_on_is_handed_on_to_those_that_ask_for_it(
    knowledge: Knowledge, stones: tuple[str, ...], mortar: tuple[str, ...], broken: set[str]
) -> None:
    """A dependency of tests alone is handed on to nobody, and a module that asks for itself is no endless circle."""
    files = {
        "pom.xml": _ROOT,
        "stones/pom.xml": module("stones", *stones),
        "stones/src/main/java/quay/Stone.java": _USE.format("Stone"),
        "mortar/pom.xml": module("mortar", *mortar),
        "mortar/src/main/java/quay/Mortar.java": _USE.format("Mortar"),
    }
    assert {file.partition("/")[0] for file, _, symbol in places(scan(knowledge, files)) if "bind" in symbol} == broken


def test_it_is_handed_on_further_than_to_the_next(knowledge: Knowledge) -> None:
    files = {
        "pom.xml": _ROOT,
        "stones/pom.xml": module("stones", JAXB),
        "sand/pom.xml": module("sand", STONES),
        "mortar/pom.xml": module("mortar", dependency("quay", "sand")),
        "mortar/src/main/java/quay/Mortar.java": _USE.format("Mortar"),
    }
    assert not [symbol for _, _, symbol in places(scan(knowledge, files)) if "bind" in symbol]


def test_a_version_that_holds_for_several_modules_is_told_once_where_its_file_lies(knowledge: Knowledge) -> None:
    files = {
        "pom.xml": _ROOT,
        "stones/pom.xml": module("stones"),
        "stones/src/main/java/quay/Stone.java": _USE.format("Stone"),
        "mortar/pom.xml": module("mortar").replace(
            "<dependencies>",
            "<properties><maven.compiler.release>11</maven.compiler.release></properties><dependencies>",
        ),
        "mortar/src/main/java/quay/Mortar.java": _USE.format("Mortar"),
    }
    result = scan(knowledge, files)
    told = [(f.module, f.title) for f in result.findings if f.kind == "toolchain"]
    assert sorted(told) == [("", "pom.xml names Java 8"), ("mortar", "mortar/pom.xml names Java 11")]
    assert result.checks.by_sort["toolchain"].fails == 2 * knowledge.effort.weights.toolchain
