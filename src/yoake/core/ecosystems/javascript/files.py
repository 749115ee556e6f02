"""Files of JavaScript and TypeScript, components with scripts inside included: worth reading, in bounded time, and their facts."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Final

from yoake.core.contract.source_files import suffix_of
from yoake.core.ecosystems.javascript.syntax import read_javascript
from yoake.core.ecosystems.javascript.tree import grammar_of, grammars_of, script_parser, scripts_in
from yoake.core.syntax.tree import is_bounded

if TYPE_CHECKING:
    from yoake.core.values.facts import FileFacts

_COMPONENTS: Final = (".vue", ".svelte")
_LONG_LINE: Final = 1_000  # mean bytes a line; code written by people stays below 100
_DENSE_SIZE: Final = 20_000


def minified(path: str, data: bytes) -> str:
    """Why a script is not worth reading: it was put together by a tool; empty when a person may have written it."""
    if not path.endswith((".js", ".mjs", ".cjs")):
        return ""
    if re.search(r"[.-]min\.[cm]?js$", path):
        return "minified: its source is elsewhere"
    if len(data) > _DENSE_SIZE and len(data) / (data.count(b"\n") + 1) > _LONG_LINE:
        return "minified or generated: its lines are too long to be written by hand"
    return ""


def is_bounded_script(path: str, text: bytes) -> bool:
    """Whether a file can be read in bounded time by every grammar that may have to."""
    script, grammar = _script_of(path, text)
    return all(is_bounded(script_parser(each), script) for each in grammars_of(script, grammar))


def read_script(path: str, text: bytes) -> FileFacts:
    """The facts of one file."""
    return read_javascript(*_script_of(path, text))


def _script_of(path: str, text: bytes) -> tuple[bytes, str]:
    """What is to be read of a file, and the grammar that reads it."""
    return scripts_in(text) if suffix_of(path) in _COMPONENTS else (text, grammar_of(path.lower()))
