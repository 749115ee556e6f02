"""JavaScript inside a project: specifiers, re-exports, component files, and what is not worth reading."""

from __future__ import annotations

import pytest

from yoake.core.contract.locality import Resolved
from yoake.core.ecosystems.javascript.files import minified
from yoake.core.ecosystems.javascript.project import JsProject
from yoake.core.ecosystems.javascript.specifiers import as_part, as_specifier, package_of, shown
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.facts import FileFacts, facts_from_json


def project(files: dict[str, str], **options: object) -> JsProject:
    return JsProject(facts(files), **options)  # type: ignore[arg-type]


def facts(files: dict[str, str]) -> dict[str, FileFacts]:
    return {path: ECOSYSTEMS.read_source(path, text.encode()) for path, text in files.items()}


def path_of(found: Resolved | None) -> str | None:
    return shown(found.path) if found is not None else None


def uses(text: str) -> set[str]:
    return {shown(ask.path) for ask in ECOSYSTEMS.read_source("a.js", text.encode()).asks}


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("const u = require('util'); u.log(1)", "util.log"),
        ("require('node:util').log(1)", "util.log"),
        ("const { log: l } = require('util'); l()", "util.log"),
        ("import { log as l } from 'util'; l()", "util.log"),
        ("import * as u from 'util'; u['log']()", "util.log"),
        ("const u = await import('util'); u.log()", "util.log"),
        ("var u = _interopRequireWildcard(require('util')); u.log()", "util.log"),
        ("const io = require('socket.io'); io.Server", "socket.io.Server"),
        ("const A = require('http').Agent; const a = new A(); a.getName()", "http.Agent.prototype.getName"),
        ("import express from 'express'; <express.View a={1} />", "express.default.View"),
        ("let u; u = require('util'); u.log()", "util.log"),
        ("global.Buffer.from(1)", "Buffer.from"),
        ("x = util?.promises", "util.promises"),
        (
            "const e = require('express'); function make() { return e() } const app = make(); app.del(1)",
            "express.prototype.del",
        ),
        ("const e = require('express'); const make = () => e(); make().del(1)", "express.prototype.del"),
    ],
)
def test_a_use_has_the_path_it_is_reached_by(text: str, path: str) -> None:
    assert path in uses(text)


@pytest.mark.parametrize(
    "text",
    [
        "const u = require('util'); function f(u) { return u.log }",
        "const u = require('util'); { const u = 1; u.log }",
        "const u = require('util'); xs.map((u) => u.log)",
        "const u = require('util'); try {} catch (u) { u.log }",
        "class U { log() {} } const u = new U(); u.log()",
    ],
)
def test_a_shadowed_name_is_no_use(text: str) -> None:
    assert "util.log" not in uses(text)


def test_facts_survive_the_cache() -> None:
    made = ECOSYSTEMS.read_source(
        "a.ts", b"import x, { y } from './b'; export { y }; class A extends x.B { m() { this.q } }"
    )
    assert facts_from_json(made.to_json()) == made


def test_relative_files_are_found_with_every_ending_and_index() -> None:
    files = {"src/a.ts": "export const one = 1", "src/lib/index.js": "exports.two = 2", "src/main.js": ""}
    made = project(files)
    assert made.file_of(as_part("./a"), "src/main.js") == (True, "src/a.ts")
    assert made.file_of(as_part("./a.js"), "src/main.js") == (True, "src/a.ts")
    assert made.file_of(as_part("./lib"), "src/main.js") == (True, "src/lib/index.js")
    assert made.file_of(as_part("./nothing"), "src/main.js") == (True, None)
    assert made.file_of("fs", "src/main.js") == (False, None)


def test_a_name_is_followed_through_both_module_systems() -> None:
    files = {
        "compat.js": "const util = require('util'); module.exports = { isArray: util.isArray, own: 1 }",
        "all.ts": "export * from './compat'; export { readFile as read } from 'fs'",
        "whole.js": "module.exports = require('crypto')",
        "main.js": "",
    }
    made = project(files)
    assert path_of(made.resolve(as_part("./compat") + ".isArray", "main.js")) == "util.isArray"
    assert path_of(made.resolve(as_part("./all") + ".isArray", "main.js")) == "util.isArray"
    assert path_of(made.resolve(as_part("./all") + ".read", "main.js")) == "fs.readFile"
    assert path_of(made.resolve(as_part("./whole") + ".createCipher", "main.js")) == "crypto.createCipher"
    assert made.resolve(as_part("./compat") + ".own", "main.js") is None


@pytest.mark.parametrize(
    ("made", "used"),
    [
        (
            "const e = require('express'); function make() { const app = e(); return app } module.exports = { make }",
            "make",
        ),
        ("const e = require('express'); exports.make = () => e()", "make"),
        ("const e = require('express'); exports.make = function () { if (a) { return e() } return (e()) }", "make"),
        ("import e from 'express'; const make = async () => { return e() }; export { make }", "make"),
        ("import e from 'express'; export function make(): any { const app = e(); app.use(1); return app }", "make"),
        ("const e = require('express'); module.exports = function () { return e() }", "default"),
        ("import e from 'express'; export default function () { return e() }", "default"),
        ("exports.make = require('express')", "make"),
    ],
)
def test_what_a_function_of_another_file_gives_back_is_known(made: str, used: str) -> None:
    found = project({"make.ts": made, "main.ts": ""}).resolve(as_part("./make") + f".{used}().listen", "main.ts")
    assert path_of(found) in ("express.prototype.listen", "express.default.prototype.listen")


def test_a_module_that_is_a_function_is_called() -> None:
    made = "const e = require('express'); module.exports = () => { const app = e(); return app }"
    main = "const app = require('./make')(); app.del('/', f); const again = require('./make'); again().del('/', f)"
    given = project({"make.js": made, "main.js": main})
    asked = [ask for ask in given.facts["main.js"].asks if ask.path.endswith("del")]
    assert [path_of(given.resolve(ask.path, "main.js")) for ask in asked] == ["express.prototype.del"]


@pytest.mark.parametrize(
    "body",
    [
        "if (a) { return e() } return f()",  # its ways differ
        "if (a) { return e() } return a",  # nobody knows one of them
        "return () => e()",
        "xs.map(() => { return e() })",  # what an inner function gives back is not what it gives back
        "function inner() { return e() }",
    ],
)
def test_a_function_whose_ways_differ_gives_back_nobody_knows_what(body: str) -> None:
    text = f"const e = require('express'); const f = require('koa'); exports.make = function (a) {{ {body} }}"
    made = project({"make.js": text, "main.js": ""})
    assert made.resolve(as_part("./make") + ".make().listen", "main.js") is None


def test_modules_that_import_each_other_end() -> None:
    made = project({"a.js": "export * from './b'", "b.js": "export * from './a'", "main.js": ""})
    assert made.resolve(as_part("./a") + ".x", "main.js") is None


def test_aliases_and_own_packages_stay_inside() -> None:
    files = {"src/util/x.ts": "export const x = 1", "packages/core/src/index.ts": "export const c = 1", "main.ts": ""}
    made = project(files, aliases=[("@/", ("src/",))], packages={"@org/core": ("packages/core", "")})
    assert made.file_of(as_part("@/util/x"), "main.ts") == (True, "src/util/x.ts")
    assert made.file_of(as_part("@org/core"), "main.ts") == (True, "packages/core/src/index.ts")


def test_the_script_of_a_component_keeps_its_lines() -> None:
    made = ECOSYSTEMS.read_source(
        "a.vue", b"<template>\n<p/>\n</template>\n<script lang='ts'>\nimport { log } from 'util'\n</script>\n"
    )
    assert [(u.line, u.path) for u in made.uses if "log" in u.path] == [(5, "util.log")]


def test_bundles_are_not_read_and_roles_are_told_apart() -> None:
    assert minified("a.min.js", b"x")
    assert minified("a.js", b"x" * 30_000)
    assert not minified("a.js", b"const a = 1;\n" * 3_000)
    assert ECOSYSTEMS.role_of("src/a.test.ts") == "test"
    assert ECOSYSTEMS.role_of("vendor/jquery.js") == "vendored"
    assert ECOSYSTEMS.role_of("dist/app.js") == "generated"
    assert ECOSYSTEMS.role_of("app/models.py", b"# @generated by x") == "generated"
    assert ECOSYSTEMS.role_of("app/models.py") == "source"


@pytest.mark.parametrize("specifier", ["socket.io", "./a/b.js", "@org/x.y/z", "lodash/fp"])
def test_a_specifier_survives_being_part_of_a_path(specifier: str) -> None:
    assert as_specifier(as_part(specifier)) == specifier
    assert "." not in as_part(specifier)


def test_the_package_of_a_specifier() -> None:
    assert package_of("lodash/fp") == "lodash"
    assert package_of("@org/a/b/c") == "@org/a"


def test_hostile_text_ends() -> None:
    for text in (b"((((" * 5_000, b"`${" * 3_000, b"import {" * 2_000, bytes(range(256)) * 20, b"a?.b" * 20_000):
        assert ECOSYSTEMS.read_source("a.js", text).language == "javascript"
