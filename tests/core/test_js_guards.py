"""What keeps a use of JavaScript from breaking, and what only looks as if it did."""

from __future__ import annotations

import pytest

from yoake.core.registered import ECOSYSTEMS

HEAD = "const util = require('util');\n"


def guards(text: str) -> list[list[str]]:
    """Kinds of guards of each use of ``util.isDate``, in the order of the text."""
    facts = ECOSYSTEMS.read_source("a.js", (HEAD + text).encode())
    return [[g.kind for g in use.guards] for use in facts.uses if use.path == "util.isDate"]


@pytest.mark.parametrize(
    "text",
    [
        "if (util.isDate) util.isDate(x)",
        "if (typeof util.isDate === 'function') { util.isDate(x) }",
        "if (util.isDate !== undefined) { util.isDate(x) }",
        "if (!util.isDate) {} else { util.isDate(x) }",
        "util.isDate && util.isDate(x)",
        "const f = util.isDate ? util.isDate : other",
        "if ('isDate' in util) util.isDate(x)",
        "const f = util.isDate || other",
        "const f = util.isDate ?? other",
        "if (a && (b || util?.isDate)) util.isDate(x)",
    ],
)
def test_a_test_of_the_member_itself_guards_it(text: str) -> None:
    found = guards(text)
    assert found
    assert all("feature" in kinds for kinds in found)


@pytest.mark.parametrize(
    "text",
    [
        "if (util.isDate(x)) y()",
        "if (util.inspect) util.isDate(x)",
        "if (x) util.isDate(x)",
        "if (util) util.isDate(x)",
        "const f = other || util.isDate",
        "if (util.isDate === other) {}\nelse { util.isDate(x) }",
    ],
)
def test_other_conditions_guard_nothing(text: str) -> None:
    assert guards(text)[-1] == []


def test_a_caught_require_is_guarded_and_one_that_is_thrown_again_is_not() -> None:
    def kinds(handler: str) -> set[str]:
        facts = ECOSYSTEMS.read_source(
            "a.js", f"let m; try {{ m = require('punycode') }} catch (e) {{ {handler} }}".encode()
        )
        return {g.kind for use in facts.uses if use.path == "punycode" for g in use.guards}

    assert kinds("m = null") == {"import-error"}
    assert kinds("throw e") == set()
    assert kinds("process.exit(1)") == set()


def test_a_test_of_the_running_version_guards_both_branches() -> None:
    text = "if (process.version > 'v12') { util.isDate(x) } else { util.isDate(y) }"
    assert guards(text) == [["feature"], ["feature"]]


@pytest.mark.parametrize(
    ("text", "guarded"),
    [
        ("try { util.isDate(x) } catch (e) { y = false }", True),
        ("try { z(); util.isDate(x) } catch (e) { next(e) }", False),
        ("try { require('z'); util.isDate(x) } catch (e) { y = false }", True),
        ("try { const z = await import('z'); util.isDate(x) } catch (e) { y = false }", True),
        ("try { z(); y() } catch (e) { util.isDate(e) }", False),
    ],
)
def test_what_is_caught_around_more_than_one_thing_that_may_be_missing_guards_nothing(text: str, guarded: bool) -> None:
    assert (guards(text)[-1] != []) is guarded
