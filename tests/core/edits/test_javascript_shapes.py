"""Uses that are more than a name, in JavaScript: what fits a shape, what is written, and what the file takes from modules for it."""

from __future__ import annotations

import pytest

from yoake.core.ecosystems.javascript.edits import rename_in_javascript
from yoake.core.ecosystems.javascript.shapes import reshaped
from yoake.core.ecosystems.javascript.tree import script_parser
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.edits import GONE, Edited, Rename, Spot, applied


def written(source: str, word: str, *shapes: tuple[str, str]) -> str | None:
    """The source with the use that begins at the name which ends in a word written otherwise; None where no shape fits."""
    data = source.encode()
    end = data.index(word.encode()) + len(word)
    start = max(data.rfind(sign, 0, end) for sign in (b" ", b"(", b"!", b"\n")) + 1
    root = script_parser("javascript").parse(data).root_node
    node = root.named_descendant_for_byte_range(start, end)
    assert node is not None
    changes = reshaped(node, shapes, lambda module, name: f"{module.replace('/', '_')}.{name}")
    return None if changes is None else applied(data, changes).decode()


@pytest.mark.parametrize(
    ("source", "shape", "made"),
    [
        ("r.send(404, x)", ("{r}.send({n:number}, {b})", "{r}.status({n}).send({b})"), "r.status(404).send(x)"),
        ("r.send(x, 404)", ("{r}.send({n:number}, {b})", "{r}.status({n}).send({b})"), None),
        ("r?.send(404, x)", ("{r}.send({n:number}, {b})", "{r}.status({n}).send({b})"), None),
        ("r.send(...x)", ("{r}.send({a})", "{r}.go({a})"), None),
        ("r.send()", ("{r}.send({*rest})", "{r}.go({*rest})"), "r.go()"),
        ("r.send(1, ...x)", ("{r}.send({a}, {*rest})", "{r}.go({a}, {*rest})"), "r.go(1, ...x)"),
        ("r.send(1)", ("{r}.send({a}, {*rest})", "{r}.go({*rest}, {a})"), "r.go(1)"),
        ("r.send('a')", ('{r}.send("a")', "{r}.go()"), "r.go()"),
        ("r.send({ a: 1, b })", ("{r}.send({ b: {b}, a: {a} })", "{r}.go({a}, {b})"), "r.go(1, b)"),
        ("r.send({ a: 1, b })", ("{r}.send({ a: {a} })", "{r}.go({a})"), None),
        (
            "r.send({ x, a: 1, ...y })",
            ("{r}.send({ a: {a}, {*rest} })", "{r}.go({a}, { {*rest} })"),
            "r.go(1, { x, ...y })",
        ),
        ("r.send(x)", ("{r}.send({a}, {a})", "{r}.go({a})"), None),
        ("r.send(x, x)", ("{r}.send({a}, {a})", "{r}.go({a})"), "r.go(x)"),
        ("r.send(f())", ("{r}.send({a:plain})", "{a}.r = {a}"), None),
        ("r.send(f().x)", ("{r}.send({a:plain})", "{a}.r = {a}"), None),
        ("r.send(x.y[0][k])", ("{r}.send({a:plain})", "{a}.r = {a}"), "x.y[0][k].r = x.y[0][k]"),
    ],
)
def test_a_call_is_written_otherwise_where_it_fits(source: str, shape: tuple[str, str], made: str | None) -> None:
    assert written(f"{source};\n", "send", shape) == (f"{made};\n" if made is not None else None)


@pytest.mark.parametrize(
    ("source", "made"),
    [
        ("if (!t.isNull(x)) go()", "if (!(x === null)) go()"),
        ("if (t.isNull(x) && y) go()", "if (x === null && y) go()"),
        ("y = t.isNull(x)", "y = x === null"),
        ("go(t.isNull(x || y))", "go((x || y) === null)"),
        ("go(t.isNull(x) === y)", "go((x === null) === y)"),
        ("go(t.isNull(x) ? 1 : 2)", "go(x === null ? 1 : 2)"),
    ],
)
def test_brackets_stand_where_they_are_needed_and_nowhere_else(source: str, made: str) -> None:
    assert written(f"{source};\n", "isNull", ("t#isNull({a})", "{a} === null")) == f"{made};\n"


@pytest.mark.parametrize(
    "render",
    ["render: h => h(App)", "render: (c) => c(App)", "render(h) { return h(App); }", "render: h => { return h(App) }"],
)
def test_a_function_of_one_expression_fits_however_it_is_written(render: str) -> None:
    shape = ("new v#default({ render: ({h:name}) => {h}({root}) }).$mount({at})", "v#createApp({root}).mount({at})")
    assert written(f"\nnew Vue({{ {render} }}).$mount('#app')\n", "Vue", shape) == "\nv.createApp(App).mount('#app')\n"


@pytest.mark.parametrize(
    "render",
    [
        "render: h => h(App, 1)",
        "render: h => g(App)",
        "async render(h) { return h(App) }",
        "render(h) { go(); return h(App) }",
    ],
)
def test_a_function_that_does_more_does_not_fit(render: str) -> None:
    shape = ("new v#default({ render: ({h:name}) => {h}({root}) }).$mount({at})", "v#createApp({root}).mount({at})")
    assert written(f"\nnew Vue({{ {render} }}).$mount('#app')\n", "Vue", shape) is None


def test_a_comment_that_would_be_lost_leaves_it_to_a_person() -> None:
    shape = ("{r}.send({n:number}, {b})", "{r}.status({n}).send({b})")
    assert written("r.send(404, /* why */ x);\n", "send", shape) is None
    assert written("r.send(404, { a: 1 /* why */ });\n", "send", shape) == "r.status(404).send({ a: 1 /* why */ });\n"


NAMES = {
    "react-dom.render": ("react-dom#render({element}, {at})", "react-dom/client#createRoot({at}).render({element})"),
    "util.isError": ("util#isError({a:plain})", "util#types.isNativeError({a}) || {a} instanceof Error"),
    "util.isString": ("util#isString({a})", 'typeof {a} === "string"'),
    "crypto.createCipher": ("crypto#createCipher({a:string}, {p})", "crypto#createCipheriv({a}, ...own#keyOf({p}))"),
    "util.isNull": ("util#isNull", "(a) => a === null"),
    "fs.exists": ("fs#exists({a:plain}, {f})", "{f}(path#resolve({a}) === {a})"),
}


HELPERS = {"keyOf": "function keyOf(secret) {\n  return [util#format(secret), null];\n}\n"}


def edited(source: str) -> tuple[str, Edited]:
    data = source.encode()
    uses = ECOSYSTEMS.read_source(
        "a.ts" if b" = require(" in data[:40] and data[:6] == b"import" else "a.jsx", data
    ).uses
    renames = []
    for old, shape in NAMES.items():
        spots = tuple(
            Spot(u.line, u.column, u.end_column, u.form, old) for u in uses if u.path.replace(".default.", ".") == old
        )
        if spots:
            renames.append(Rename(key=old, old=old, new=GONE, home="", spots=spots, shapes=(shape,), helpers=HELPERS))
    made = rename_in_javascript(data, renames)
    return applied(data, made.changes).decode(), made


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (
            "import ReactDOM from 'react-dom'\nimport App from './App'\n\nReactDOM.render(<App />, at)\n",
            "import App from './App'\nimport { createRoot } from 'react-dom/client'\n\ncreateRoot(at).render(<App />)\n",
        ),
        (
            'import { render, createPortal } from "react-dom";\nrender(createPortal(x, y), at);\n',
            """import { createPortal } from "react-dom";
import { createRoot } from "react-dom/client";
createRoot(at).render(createPortal(x, y));
""",
        ),
        (
            "const ReactDOM = require('react-dom');\nReactDOM.render(x, at);\nReactDOM.flushSync(f);\n",
            """const ReactDOM = require('react-dom');
const { createRoot } = require('react-dom/client');
createRoot(at).render(x);
ReactDOM.flushSync(f);
""",
        ),
        (
            "import { hydrateRoot } from 'react-dom/client';\nimport { render } from 'react-dom';\nrender(x, at);\n",
            "import { hydrateRoot, createRoot } from 'react-dom/client';\ncreateRoot(at).render(x);\n",
        ),
        (
            'import util = require("util");\nif (util.isString(x as any)) go();\n',
            'if (typeof (x as any) === "string") go();\n',
        ),
        (
            "const util = require('util');\nif (util.isString(x)) util.inspect(x);\n",
            "const util = require('util');\nif (typeof x === \"string\") util.inspect(x);\n",
        ),
        (
            "const { isError } = require('util');\nif (isError(x)) go();\n",
            "const util = require('util');\nif (util.types.isNativeError(x) || x instanceof Error) go();\n",
        ),
        (
            "const util = require('util');\nutil.isString(util.isString(a) ? b : c);\n",
            'typeof (typeof a === "string" ? b : c) === "string";\n',
        ),
        (
            "const crypto = require('crypto');\n\nconst made = crypto.createCipher('des', x);\nexports.made = made;\n",
            """const crypto = require('crypto');
const util = require('util');

const made = crypto.createCipheriv('des', ...keyOf(x));
exports.made = made;

function keyOf(secret) {
  return [util.format(secret), null];
}
""",
        ),
        (
            """const crypto = require('crypto');
const util = require('util');
exports.made = crypto.createCipher('des', x);

function keyOf(secret) {
  return [util.format(secret), null];
}
""",
            """const crypto = require('crypto');
const util = require('util');
exports.made = crypto.createCipheriv('des', ...keyOf(x));

function keyOf(secret) {
  return [util.format(secret), null];
}
""",
        ),
        (
            "'use strict';\nrequire('fs').exists(a, f);\n",
            "'use strict';\nconst path = require('path');\nf(path.resolve(a) === a);\n",
        ),
    ],
)
def test_what_is_written_is_taken_from_its_module_and_what_is_not_needed_goes(before: str, after: str) -> None:
    made, told = edited(before)
    assert made == after
    assert not told.refused


@pytest.mark.parametrize(
    ("source", "why"),
    [
        (
            "import { render } from 'react-dom';\nlet createRoot = 1;\nrender(x, at);\n",
            "createRoot means something else",
        ),
        ("const keyOf = 1;\nrequire('crypto').createCipher('des', x);\n", "keyOf means something else"),
        ("const crypto = require('crypto');\nexports.made = crypto.createCipher;\n", "in another way"),
        ("const util = require('util');\nutil.isString(a, b);\n", "in another way"),
        ("const util = require('util');\nutil.isNull = mocked;\n", "in another way"),
        ("import { render } from 'react-dom';\nrender(f(render(x, a)), b);\n", "the same place"),
    ],
)
def test_what_does_not_fit_is_left_to_a_person(source: str, why: str) -> None:
    made, told = edited(source)
    assert made == source
    assert why in next(iter(told.refused.values()))
