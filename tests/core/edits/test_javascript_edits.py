"""Names written otherwise in JavaScript and TypeScript: what changes, what stays, and what is left to a person."""

from __future__ import annotations

import pytest

from yoake.core.ecosystems.javascript.edits import rename_in_javascript
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.edits import Edited, Rename, Spot, applied

NAMES = {
    "util.isArray": "globalThis.Array.isArray",
    "util.isDate": "util.types.isDate",
    "util._extend": "globalThis.Object.assign",
    "module.createRequireFromPath": "module.createRequire",
    "fs.F_OK": "fs.constants.F_OK",
    "repl.builtinModules": "module.builtinModules",
}


def edited(source: str, path: str = "a.js") -> tuple[str, Edited]:
    data = source.encode()
    uses = ECOSYSTEMS.read_source(path, data).uses
    renames = [
        Rename(key=old, old=old, new=new, home="", spots=held)
        for old, new in NAMES.items()
        if (
            held := tuple(
                Spot(u.line, u.column, u.end_column, u.form, u.path)
                for u in uses
                if u.path.replace(".default.", ".") == old
            )
        )
    ]
    made = rename_in_javascript(data, renames)
    return applied(data, made.changes).decode(), made


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (
            "const util = require('util');\nutil.isArray(x); // util.isArray\n",
            "const util = require('util');\nArray.isArray(x); // util.isArray\n",
        ),
        (
            "const util = require('util');\nif ('…' && util.isDate(x)) {}\n",
            "const util = require('util');\nif ('…' && util.types.isDate(x)) {}\n",
        ),
        ("const { isArray } = require('util');\nisArray(x);\n", "Array.isArray(x);\n"),
        (
            "const { isArray, inspect } = require('util');\nisArray(x);\n",
            "const { inspect } = require('util');\nArray.isArray(x);\n",
        ),
        (
            "const { inspect, isArray, _extend } = require('util');\n_extend(isArray, x);\n",
            "const { inspect } = require('util');\nObject.assign(Array.isArray, x);\n",
        ),
        (
            "var extend = require('util')._extend,\n    x = 1;\nextend(a, b);\n",
            "var extend = Object.assign,\n    x = 1;\nextend(a, b);\n",
        ),
        (
            "import { createRequireFromPath } from 'module';\ncreateRequireFromPath(p);\n",
            "import { createRequire } from 'module';\ncreateRequire(p);\n",
        ),
        (
            "import fs from 'fs';\r\nfs.accessSync(p, fs.F_OK);\r\n",
            "import fs from 'fs';\r\nfs.accessSync(p, fs.constants.F_OK);\r\n",
        ),
    ],
)
def test_names_are_written_otherwise_and_nothing_else_changes(before: str, after: str) -> None:
    made, answer = edited(before)
    assert (made, answer.refused) == (after, {})
    assert edited(after)[0] == after


def test_types_do_not_keep_a_file_from_being_edited() -> None:
    source = "import * as util from 'util';\nexport const f = (x: unknown): boolean => util.isArray(x as any[]);\n"
    assert edited(source, "a.ts")[0] == source.replace("util.isArray", "Array.isArray")


@pytest.mark.parametrize(
    ("source", "why"),
    [
        ("const util = require('util');\nconst Array = 1;\nutil.isArray(x);\n", "Array means something else here"),
        ("const repl = require('repl');\nrepl.builtinModules;\n", "has to be imported from elsewhere"),
        ("const { isDate } = require('util');\nisDate(x);\n", "further inside"),
        ("const { isArray: list } = require('util');\nlist(x);\n", "another name"),
        ("const { isArray } = require('util'), y = 1;\nisArray(x);\n", "other names are declared"),
        ("const util = require('util');\nutil.isArray(x\n", "cannot be read whole"),
    ],
)
def test_what_cannot_be_done_surely_is_left_as_it_is_and_says_why(source: str, why: str) -> None:
    made, answer = edited(source)
    assert made == source
    assert why in " ".join(answer.refused.values())
