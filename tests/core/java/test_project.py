"""Names of a Java project: its own classes, what several imports may mean, and what a dependency brings back."""

from __future__ import annotations

import io
import zipfile

from tests.core.java.berth import BERTH
from yoake.core.ecosystems.java.names import maven
from yoake.core.inventory.assemble import assemble
from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.modules import Module, Requirement
from yoake.core.values.results import ScanResult


def scan(knowledge: Knowledge, files: dict[str, str], *needs: tuple[str, str]) -> ScanResult:
    facts = {path: ECOSYSTEMS.read_source(path, text.encode()) for path, text in files.items()}
    module = Module(path="", name="app")
    module.requirements += [
        Requirement(coordinate=maven(name), name=name, specifier=wanted, file="pom.xml", line=1)
        for name, wanted in needs
    ]
    given = ScanInput(
        facts=facts,
        files=[FileResult(path=p, state="scanned") for p in files],
        modules=[module],
        destination=[parse_target("java@17")],
        said=[parse_target("java@8")],
    )
    return run_scan(given, knowledge)


def places(result: ScanResult) -> set[tuple[str, int, str]]:
    return {(p.file, p.line, p.symbol) for f in result.findings if f.level == "error" for p in f.places}


def test_a_class_of_the_own_package_hides_one_of_the_platform(knowledge: Knowledge) -> None:
    files = {
        "a/Thread.java": "package a;\npublic class Thread { public void destroy() {} }\n",
        "a/Quay.java": "package a;\nclass Quay { void f(Thread t) { t.destroy(); } }\n",
        "b/Quay.java": "package b;\nclass Quay { void f(Thread t) { t.destroy(); } }\n",
        "b/Pier.java": "package b;\nimport a.Thread;\nclass Pier { void f(Thread t) { t.destroy(); } }\n",
        "b/Mole.java": "package b;\nimport a.*;\nclass Mole { void f(Thread t) { t.destroy(); } }\n",
    }
    assert places(scan(knowledge, files)) == {("b/Quay.java", 2, "java.lang.Thread.destroy")}


def test_a_class_inherits_through_classes_of_the_project(knowledge: Knowledge) -> None:
    files = {
        "a/Guard.java": "package a;\npublic class Guard extends SecurityManager {}\n",
        "b/Watch.java": "package b;\nimport a.Guard;\nclass Watch extends Guard { void f() { checkAwtEventQueueAccess(); } }\n",
    }
    assert ("b/Watch.java", 3, "java.lang.SecurityManager.checkAwtEventQueueAccess") in places(scan(knowledge, files))


def test_what_a_dependency_brings_back_is_no_break(knowledge: Knowledge) -> None:
    files = {"A.java": "package a;\nimport javax.xml.bind.JAXB;\nimport javax.jws.WebService;\n"}
    gone = {("A.java", 2, "javax.xml.bind.JAXB"), ("A.java", 3, "javax.jws.WebService")}
    assert places(scan(knowledge, files)) == gone
    assert places(scan(knowledge, files, ("javax.xml.bind:jaxb-api", "2.3.1"))) == {
        ("A.java", 3, "javax.jws.WebService")
    }
    assert places(scan(knowledge, files, ("jakarta.xml.bind:jakarta.xml.bind-api", "2.3.3"))) == {
        ("A.java", 3, "javax.jws.WebService")
    }
    assert places(scan(knowledge, files, ("jakarta.xml.bind:jakarta.xml.bind-api", "4.0.0"))) == gone


def test_imports_lead_to_the_files_of_the_project(knowledge: Knowledge) -> None:
    files = {
        "src/a/Berth.java": "package a;\npublic class Berth {}\n",
        "src/b/Plan.java": "package b;\nimport a.Berth;\nclass Plan { Berth first; }\n",
    }
    assert scan(knowledge, files).references == {("src/b/Plan.java", "src/a/Berth.java"): 1}


def test_files_of_one_package_name_one_another_without_an_import(knowledge: Knowledge) -> None:
    files = {
        "a/Berth.java": "package a;\nclass Berth {}\n",
        "a/Plan.java": "package a;\nclass Plan { Berth first = new Berth(); }\n",
    }
    result = scan(knowledge, files)
    assert list(result.references) == [("a/Plan.java", "a/Berth.java")]
    assert result.lonely == ["a/Plan.java"]


def test_compiled_classes_are_read_for_what_their_code_refers_to(knowledge: Knowledge) -> None:
    facts = {"quay/Berth.class": ECOSYSTEMS.read_source("quay/Berth.class", BERTH)}
    assert {ask.path.replace("\u2024", ".") for ask in facts["quay/Berth.class"].asks} >= {
        "java.util.ArrayList.<init>",
    }
    assert facts["quay/Berth.class"].exports == {"Berth": ("",)}
    assert ECOSYSTEMS.is_compiled("quay/Berth.class")
    assert not ECOSYSTEMS.is_compiled("quay/Berth.java")


def test_a_jar_in_the_project_is_a_package_of_one_release() -> None:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as packed:
        packed.writestr("META-INF/maven/lamp/oil/pom.properties", "groupId=lamp\nartifactId=oil\nversion=1.4\n")
    files = {"WEB-INF/lib/oil.jar": held.getvalue(), "WEB-INF/lib/rope-2.0.jar": b"no archive", "lib/odd.jar": b""}
    found = assemble(files, "app", ECOSYSTEMS)
    assert [m.path for m in found] == [""]
    assert {(e.coordinate.short, e.release) for e in found[0].locked} == {
        ("maven/lamp/oil", "1.4"),
        ("maven/rope/rope", "2.0"),
    }


def test_a_class_that_the_platform_gets_takes_its_name_from_a_star_import(knowledge: Knowledge) -> None:
    files = {
        "a/Own.java": "package a;\nclass Own { Record r; }\n",
        "a/Record.java": "package a;\npublic class Record {}\n",
        "b/Star.java": "package b;\nimport lamp.oil.*;\nclass Star { Record r; Module m; }\n",
        "b/Single.java": "package b;\nimport lamp.oil.Record;\nclass Single { Record r; }\n",
        "c/Plain.java": "package c;\nimport java.util.*;\nclass Plain { Record r; }\n",
    }
    found = scan(knowledge, files)
    assert {(f.kind, f.symbol, f.bites_at) for f in found.findings} == {
        ("behaviour", "java.lang.Record", "14"),  # there as a preview, and in the way from then on
        ("behaviour", "java.lang.Module", "9"),
    }
    assert {p.file for f in found.findings for p in f.places} == {"b/Star.java"}


def test_a_call_above_passes_over_the_method_that_makes_it(knowledge: Knowledge) -> None:
    own = "class Guard extends SecurityManager {\n  public void checkAwtEventQueueAccess() {\n    super.checkAwtEventQueueAccess();\n"
    calls = f"{own}    this.checkAwtEventQueueAccess();\n  }}\n}}\n"
    above = "class Upper extends SecurityManager { public void checkAwtEventQueueAccess() {} }\n"
    below = (
        "class Lower extends Upper { public void checkAwtEventQueueAccess() {\n super.checkAwtEventQueueAccess(); } }\n"
    )
    files = {"a/Guard.java": f"package a;\n{calls}", "a/Lower.java": f"package a;\n{above}{below}"}
    found = {(file, line) for file, line, _ in places(scan(knowledge, files))}
    assert ("a/Guard.java", 4) in found
    assert not found & {("a/Guard.java", 5), ("a/Lower.java", 4)}


def test_a_name_of_thousands_of_parts_costs_no_file(knowledge: Knowledge) -> None:
    deep = ".b" * 5_000
    files = {
        "a/Deep.java": f"package a;\nimport a{deep};\nclass Deep extends a{deep} {{ Object o = a{deep}; }}\n",
        "a/Plain.java": "package a;\nclass Plain {\n  java.@Sure util./* so */List<String>[] none;\n  void f(java.lang.Thread t) { t.destroy(); }\n}\n",
    }
    assert places(scan(knowledge, files)) == {("a/Plain.java", 4, "java.lang.Thread.destroy")}
