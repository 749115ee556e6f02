"""Inventory of JavaScript modules: manifests, lock files of every client, engines, workspaces, and bad ones of each."""

from __future__ import annotations

import json

from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.inventory.assemble import assemble, stated_lines
from yoake.core.inventory.bills import Component
from yoake.core.inventory.mentions import find_mentions, may_mention
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.modules import Module
from yoake.formats.cyclonedx import to_cyclonedx

NODES = {NODE: [Line(n) for n in range(12, 27)]}


def modules(files: dict[str, str]) -> list[Module]:
    return assemble({path: text.encode() for path, text in files.items()}, "root", ECOSYSTEMS)


def manifest(**more: object) -> str:
    return json.dumps({"name": "app", **more})


def lines(files: dict[str, str]) -> dict[str, str]:
    return {
        coordinate.split("/", 1)[1]: s.line
        for coordinate, s in stated_lines(modules(files)[0], NODES, ECOSYSTEMS).items()
    }


def test_dependencies_of_every_group_and_engines() -> None:
    text = manifest(dependencies={"express": "^4.17.0"}, devDependencies={"mocha": "5"}, engines={"node": ">=14"})
    module = modules({"package.json": text})[0]
    assert [(r.name, r.specifier, r.group) for r in module.requirements] == [
        ("express", "^4.17.0", ""),
        ("mocha", "5", "dev"),
    ]
    assert lines({"package.json": text})["node"] == "14"


def test_the_lock_says_todays_line_in_every_format() -> None:
    asks = {"package.json": manifest(dependencies={"express": "*"})}
    old = json.dumps({"dependencies": {"express": {"version": "4.17.1", "dependencies": {"qs": {"version": "6.7.0"}}}}})
    new = json.dumps({"packages": {"": {}, "node_modules/express": {"version": "4.17.1"}}})
    yarn = 'express@*:\n  version "4.17.1"\n'
    berry = '"express@npm:*":\n  version: 4.17.1\n'
    pnpm = "packages:\n\n  /express@4.17.1:\n    resolution: {}\n"
    for name, text in (
        ("package-lock.json", old),
        ("package-lock.json", new),
        ("npm-shrinkwrap.json", new),
        ("yarn.lock", yarn),
        ("yarn.lock", berry),
        ("pnpm-lock.yaml", pnpm),
    ):
        assert lines({**asks, name: text})["express"] == "4", (name, text)


def test_a_nested_release_does_not_speak_for_the_application() -> None:
    lock = {
        "packages": {"node_modules/a/node_modules/qs": {"version": "1.0.0"}, "node_modules/qs": {"version": "6.0.0"}}
    }
    assert lines({"package.json": manifest(), "package-lock.json": json.dumps(lock)})["qs"] == "6"


def test_one_lock_file_holds_for_all_workspaces() -> None:
    files = {
        "package.json": manifest(workspaces=["packages/*"]),
        "package-lock.json": json.dumps({"packages": {"node_modules/react": {"version": "17.0.2"}}}),
        "packages/ui/package.json": json.dumps({"name": "@org/ui", "dependencies": {"react": "^17"}}),
    }
    inner = next(m for m in modules(files) if m.path == "packages/ui")
    assert stated_lines(inner, NODES, ECOSYSTEMS)[Coordinate("pkg:npm/react")].line == "17"
    assert inner.import_name == "@org/ui"


def test_pins_of_node() -> None:
    files = {"package.json": manifest(), ".nvmrc": "v18.19.0\n", "Dockerfile": "FROM node:20-alpine\n"}
    module = modules(files)[0]
    assert {(p.file, p.version) for p in module.pins} == {(".nvmrc", "18.19.0"), ("Dockerfile", "20")}
    assert stated_lines(module, NODES, ECOSYSTEMS)[NODE].line == "20"
    ci = modules({"package.json": manifest(), ".github/workflows/a.yml": "node-version: [14.x, 16]\n"})[0]
    assert [p.version for p in ci.pins] == ["14", "16"]


def test_what_is_wrong_is_said_and_the_rest_is_read() -> None:
    bad = modules({"package.json": "{", "src/package.json": manifest(dependencies={"../etc": "1", "ok": "1"})})
    assert "not valid JSON" in bad[0].faults[0].reason
    assert "no package name" in bad[1].faults[0].reason
    assert [r.name for r in bad[1].requirements] == ["ok"]
    deep = "[" * 100_000
    assert modules({"package.json": deep})[0].faults
    assert modules({"package.json": manifest(), "package-lock.json": "[]"})[0].faults


def test_a_configuration_with_comments_gives_its_paths() -> None:
    text = '{ // ways\n "compilerOptions": {"baseUrl": "src", "paths": {"@/*": ["*"], /* x */ "ui": ["lib/ui"],}}}'
    module = modules({"package.json": manifest(), "tsconfig.json": text})[0]
    assert ("@/", ("src",)) in module.aliases
    assert ("ui", ("src/lib/ui",)) in module.aliases


def test_an_inventory_comes_back_from_cyclonedx() -> None:
    parts = [
        Component(Coordinate("pkg:npm/%40org/ui"), "1.2.3"),
        Component(Coordinate("pkg:pypi/django"), "3.2.1", False),
    ]
    text = json.dumps(to_cyclonedx("ferry", "1", parts, "0"))
    module = modules({"bom.json": text})[0]
    assert module.name == "ferry"
    assert {(e.coordinate, e.release) for e in module.locked} == {
        ("pkg:npm/%40org/ui", "1.2.3"),
        ("pkg:pypi/django", "3.2.1"),
    }
    assert [r.coordinate for r in module.requirements] == ["pkg:npm/%40org/ui"]
    assert modules({"bom.json": "{}"})[0].faults


def test_old_versions_named_in_texts_are_found_and_history_is_left_alone() -> None:
    text = (
        "Needs Python 3.8 or node 14.\napt install python3.8 python3\nFROM python:3.8-slim\nsetup_14.x\nversion 3.8\n"
    )
    found = {(m.line, m.version) for m in find_mentions("README.md", text, [NODE, PYTHON], ECOSYSTEMS)}
    assert found == {(1, "3.8"), (1, "14"), (2, "3.8"), (3, "3.8"), (4, "14")}
    assert may_mention("docs/install.md", ECOSYSTEMS)
    assert not may_mention("CHANGELOG.md", ECOSYSTEMS)
    assert not may_mention("package-lock.json", ECOSYSTEMS)
