"""The surface of an npm package: declarations, export maps, exports of both module systems, and what running modules add."""

from __future__ import annotations

import json
from collections.abc import Mapping

from yoake.core.ecosystems.javascript.surface import read_npm_package
from yoake.core.values.symbols import SurfaceSymbol
from yoake.runner.clients.javascript.surfaces import join_answers


def surface(manifest: Mapping[str, object], **files: str) -> dict[str, SurfaceSymbol]:
    named = {
        path.replace("__", "/").replace("_d_ts", ".d.ts").replace("_js", ".js"): t.encode() for path, t in files.items()
    }
    return read_npm_package("lib", {"package.json": json.dumps(manifest).encode(), **named})


TYPES = """
import { Inner } from './inner';
/** @deprecated use b */
export declare function a(): void;
export declare class K { static make(): K; run(): void; private hidden: number; }
export interface Options { x: string }
export declare enum E { One, Two }
export { Inner as Shown } from './inner';
export * from './more';
export default K;
"""


def test_declarations_of_a_file_whose_own_name_ends_in_d_are_found() -> None:
    found = read_npm_package(
        "lib",
        {
            "package.json": b'{"types": "index.d.ts"}',
            "index.d.ts": b"export { K } from './part.d.js'; export { L } from './other.js';",
            "part.d.d.ts": b"export declare class K { run(): void }",
            "other.d.ts": b"export declare class L { stop(): void }",
        },
    )
    assert {"lib.K().run", "lib.L().stop"} <= set(found)


def test_entries_with_a_star_stand_for_every_file_that_fits() -> None:
    manifest = b'{"exports": {".": "./i.js", "./locales/*": {"types": "./l/*.d.ts", "default": "./l/*.js"}}}'
    found = read_npm_package("lib", {"package.json": manifest, "i.js": b"", "l/de.js": b"", "l/x/fr.d.ts": b""})
    assert {name for name in found if "/" in name} == {"lib/locales/de", "lib/locales/x/fr"}
    assert found["lib/locales/de"].unread


def test_a_folder_with_a_manifest_of_its_own_is_an_entry() -> None:
    found = read_npm_package(
        "lib",
        {
            "package.json": b'{"main": "i.js"}',
            "i.js": b"",
            "http/package.json": b'{"main": "../bundle.js", "typings": "./http.d.ts"}',
            "http/http.d.ts": b"export declare class Client { get(): void }",
        },
    )
    assert "lib/http.Client().get" in found


def test_declarations_give_names_members_and_deprecations() -> None:
    found = surface(
        {"types": "index.d.ts"},
        index_d_ts=TYPES,
        inner_d_ts="export declare class Inner {}",
        more_d_ts="export const z: 1;",
    )
    assert {
        "lib.a",
        "lib.K",
        "lib.K.make",
        "lib.K().run",
        "lib.Options",
        "lib.E.One",
        "lib.Shown",
        "lib.z",
        "lib.default",
    } <= set(found)
    assert "lib.K().hidden" not in found
    assert found["lib.a"].deprecated
    assert found["lib.a"].note == "use b"
    assert found["lib.Options"].kind == "t"


def test_a_function_with_a_namespace_is_the_module_itself() -> None:
    found = surface(
        {"types": "i.d.ts"},
        i_d_ts="declare function e(): void; declare namespace e { function Router(): void } export = e;",
    )
    assert found["lib.Router"].kind == "f"
    assert found["lib.default"].alias == "lib"


def test_an_export_map_says_what_can_be_reached() -> None:
    manifest = {"exports": {".": {"require": "./main.js"}, "./sub": "./sub.js", "./package.json": "./package.json"}}
    found = surface(manifest, main_js="exports.one = 1", sub_js="exports.two = 2", secret_js="exports.three = 3")
    assert {"lib.one", "lib/sub.two"} <= set(found)
    assert not any("secret" in path for path in found)


def test_without_a_map_every_file_can_be_reached_and_is_not_read() -> None:
    found = surface(
        {"main": "main"},
        main_js="module.exports = require('./lib/x'); exports.late = 1",
        lib__x_js="exports.deep = () => 1",
    )
    assert "lib.deep" in found
    assert found["lib/lib/x"].unread


def test_what_a_module_makes_while_it_runs_is_not_claimed() -> None:
    assert surface({}, index_js="module.exports = build()")["lib"].unread


def test_running_modules_decide_about_values_and_leave_types() -> None:
    symbols = {
        "lib": SurfaceSymbol(kind="m", unread=True),
        "lib.lie": SurfaceSymbol(kind="f"),
        "lib.there": SurfaceSymbol(kind="v", unread=True),
        "lib.Options": SurfaceSymbol(kind="t"),
    }
    answered = {
        "lib": SurfaceSymbol(kind="m"),
        "lib.there": SurfaceSymbol(kind="f"),
        "lib.made": SurfaceSymbol(kind="f"),
    }
    join_answers(symbols, answered)
    assert set(symbols) == {"lib", "lib.there", "lib.made", "lib.Options"}
    assert not symbols["lib"].unread
    assert symbols["lib.there"].kind == "f"


def test_broken_packages_give_what_can_be_read() -> None:
    assert read_npm_package("lib", {"package.json": b"{", "index.js": b"exports.a = 1"})["lib.a"]
    assert read_npm_package("lib", {})["lib"].unread
