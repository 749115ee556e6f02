"""What members of texts, lists and objects, and the runtime's own functions, come to for values that are known."""

from __future__ import annotations

import fnmatch
import posixpath
import re
from collections.abc import Callable, Sequence
from typing import Any, Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    CallSite,
    ClassValue,
    FunctionValue,
    Instance,
    Model,
    ModuleValue,
    Native,
    Pattern,
    Value,
    unknown_piece,
)

_SIMPLE: Final = re.compile(
    r"\^?(?:\\[\\/.?#:dws-]|\[[^\[\]]{1,20}\]|[\w/:#@&=%~ -])(?:[+*]|)(?:\\[\\/.?#:dws-]|[\w/:#@&=%~ -])*\$?"
)
"""Regular expressions that take no time whatever they are held against: one repetition at most, at the start."""
_EACH: Final = {"each": "forEach", "forEach": "forEach", "map": "map", "filter": "filter"}
_MERGES: Final = ("lodash.merge", "lodash/merge", "lodash.merge.default", "merge", "deepmerge", "lodash.defaultsDeep")
_MERGED: Final = 12  # objects inside one another
UNKNOWN_PIECE: Final = ":unknown"
"""What stands for a piece of a path that nobody knows."""
_SHORT: Final = 500  # letters of a text in which something is replaced by a regular expression
LONGEST: Final = 5_000  # elements of a list and letters of a text that are followed; routes have fewer


def truth(value: Value) -> bool | None:
    """Whether a condition holds; None where the text does not say."""
    if value is None or isinstance(value, str | int | float):
        return bool(value)
    if isinstance(value, list | dict | FunctionValue | ClassValue | Instance | Model | ModuleValue | Native):
        return True
    return None


def _texts(*values: Value) -> bool:
    return all(isinstance(each, str) for each in values)


def text_method(text: str, name: str) -> Value:
    """A member of a text."""
    if name == "length":
        return len(text)

    def replaced(site: CallSite) -> Value:
        old, new = site.get(0), site.get(1)
        if isinstance(old, Pattern):
            if not _texts(new) or "$" in new or len(text) > _SHORT or not _SIMPLE.fullmatch(old):
                return UNKNOWN
            return re.sub(old, lambda _: new, text, count=0 if old.is_global else 1)
        return text.replace(old, new, -1 if name == "replaceAll" else 1) if _texts(old, new) else UNKNOWN

    def part(site: CallSite) -> Value:
        numbers = [each for each in site.arguments if isinstance(each, int)]
        if len(numbers) != len(site.arguments) or len(numbers) > 2:
            return UNKNOWN
        return text[slice(*numbers)] if len(numbers) > 1 else text[numbers[0] :] if numbers else text

    def told(method: Callable[[str], Any]) -> Callable[[CallSite], Value]:
        return lambda site: method(site.get(0)) if _texts(site.get(0)) else UNKNOWN

    calls: dict[str, Callable[[CallSite], Value]] = {
        "toLowerCase": lambda _: text.lower(),
        "toUpperCase": lambda _: text.upper(),
        "trim": lambda _: text.strip(),
        "toString": lambda _: text,
        "replace": replaced,
        "replaceAll": replaced,
        "slice": part,
        "substring": part,
        "split": told(lambda by: text.split(by) if by else list(text)),
        "concat": lambda site: text + "".join(site.arguments) if _texts(*site.arguments) else UNKNOWN,
        "startsWith": told(text.startswith),
        "endsWith": told(text.endswith),
        "includes": told(lambda part: part in text),
        "indexOf": told(text.find),
        "match": lambda _: UNKNOWN,
    }
    return Native(calls[name], name) if name in calls else UNKNOWN


def _followed(site: CallSite, *values: Value) -> Value:
    return site.evaluator.call(site.get(0), list(values), {}, site.place)


def _pieces(values: Sequence[Value]) -> list[Value]:
    """Parts of a path that are put together; one that nobody knows is nothing at the start, and a parameter further in."""
    found: list[Value] = []
    for each in values:
        piece = unknown_piece("/" if found else "", each, "/", UNKNOWN_PIECE)
        found.append(each if piece is None else piece)
    return found


def list_method(values: list[Value], name: str) -> Value:  # noqa: C901 - a table of small functions
    """A member of a list."""
    if name == "length":
        return len(values)

    def push(site: CallSite) -> Value:
        if len(values) < LONGEST:
            values.extend(site.arguments)
        return len(values)

    def each(site: CallSite) -> None:
        for i, value in enumerate(values[:LONGEST]):
            _followed(site, value, i, values)

    def mapped(site: CallSite) -> Value:
        return [_followed(site, value, i, values) for i, value in enumerate(values[:LONGEST])]

    def kept(site: CallSite) -> Value:
        return [v for i, v in enumerate(values[:LONGEST]) if truth(_followed(site, v, i, values)) is not False]

    def flat(site: CallSite) -> Value:
        rows = mapped(site) if name == "flatMap" else values
        return [inner for row in rows for inner in (row if isinstance(row, list) else [row])]

    def reduced(site: CallSite) -> Value:
        held = site.get(1)
        for i, value in enumerate(values[:LONGEST]):
            held = site.evaluator.call(site.get(0), [held, value, i, values], {}, site.place)
        return held

    def found(site: CallSite) -> Value:
        return next((v for v in values if truth(_followed(site, v)) is True), UNKNOWN)

    def joined(site: CallSite) -> Value:
        by = site.get(0, default=",")
        parts = _pieces(values) if by == "/" else values
        return by.join(parts) if _texts(by, *parts) else UNKNOWN

    def concat(site: CallSite) -> Value:
        return [*values, *[v for part in site.arguments for v in (part if isinstance(part, list) else [part])]]

    def part(site: CallSite) -> Value:
        numbers = [n for n in site.arguments if isinstance(n, int)]
        return values[slice(*numbers)] if len(numbers) == 2 else values[numbers[0] :] if numbers else list(values)

    calls: dict[str, Callable[[CallSite], Value]] = {
        "push": push,
        "unshift": push,
        "forEach": each,
        "map": mapped,
        "filter": kept,
        "flat": flat,
        "flatMap": flat,
        "reduce": reduced,
        "find": found,
        "join": joined,
        "concat": concat,
        "slice": part,
        "reverse": lambda _: list(reversed(values)),
        "sort": lambda _: values,
        "includes": lambda site: site.get(0) in values if UNKNOWN not in values else UNKNOWN,
    }
    return Native(calls[name], name) if name in calls else UNKNOWN


def _keys(site: CallSite) -> Value:
    table = site.get(0)
    return list(table) if isinstance(table, dict) else UNKNOWN


def _values(site: CallSite) -> Value:
    table = site.get(0)
    return list(table.values()) if isinstance(table, dict) else UNKNOWN


def _entries(site: CallSite) -> Value:
    table = site.get(0)
    return [[key, value] for key, value in table.items()] if isinstance(table, dict) else UNKNOWN


def _assign(site: CallSite) -> Value:
    into = site.get(0)
    for each in site.arguments[1:]:
        if isinstance(into, dict) and isinstance(each, dict):
            into.update(each)
        elif isinstance(each, Model) and into == {}:
            return each  # a copy of it does the same
    return into


def _merged(site: CallSite) -> Value:
    """Objects put into one another, level by level."""
    into = site.get(0)
    for each in site.arguments[1:]:
        if isinstance(into, dict) and isinstance(each, dict):
            _merge(into, each, 0)
    return into


def _merge(into: dict[str, Value], more: dict[str, Value], depth: int) -> None:
    for key, value in more.items():
        held = into.get(key)
        if isinstance(held, dict) and isinstance(value, dict) and held is not value and depth < _MERGED:
            _merge(held, value, depth + 1)
        else:
            into[key] = value


def _of_list(name: str) -> Callable[[CallSite], Value]:
    """``each(list, call)`` for a member of lists."""

    def called(site: CallSite) -> Value:
        of = site.get(0)
        rows = list(of.values()) if isinstance(of, dict) else of
        if not isinstance(rows, list):
            return UNKNOWN
        return site.evaluator.call(list_method(rows, name), list(site.arguments[1:]), {}, site.place)

    return called


def _array(site: CallSite) -> Value:
    """``Array(3)`` and ``Array(a, b)``."""
    first = site.get(0, default=None)
    if len(site.arguments) == 1 and isinstance(first, int):
        return [UNKNOWN] * min(first, LONGEST)
    return list(site.arguments)


def _of_arrays(name: str) -> Callable[[CallSite], Value]:
    """``Array.prototype.name.call(list, …)``."""

    def called(site: CallSite) -> Value:
        this = site.get(0)
        if not isinstance(this, list):
            return UNKNOWN
        return site.evaluator.call(list_method(this, name), list(site.arguments[1:]), {}, site.place)

    return called


def _joined_address(site: CallSite) -> Value:
    """``urljoin("/a/", "b", …)``: one slash between any two."""
    given = site.get(0)
    parts = _pieces(given if isinstance(given, list) else site.arguments)
    if not parts or not _texts(*parts):
        return UNKNOWN
    return re.sub(r"(?<!:)/{2,}", "/", "/".join(part for part in parts if part))


def _joined(site: CallSite) -> Value:
    parts = list(site.arguments)
    return (
        posixpath.normpath(posixpath.join(*(p.lstrip("/") if i else p for i, p in enumerate(parts))))
        if parts and _texts(*parts)
        else UNKNOWN
    )


def _resolved(site: CallSite) -> Value:
    parts = list(site.arguments)
    if not parts or not _texts(*parts):
        return UNKNOWN
    return posixpath.normpath(posixpath.join("/", *parts))


def _constant(value: Value) -> Callable[[CallSite], Value]:
    return lambda _: value


def _listed(site: CallSite) -> Value:
    folder = site.get(0)
    if not isinstance(folder, str):
        return UNKNOWN
    start = folder.strip("/")
    start = f"{start}/" if start and start != "." else ""
    found = {path[len(start) :].split("/")[0] for path in site.evaluator.every_path() if path.startswith(start)}
    names = sorted(found)
    options = site.get(1, default=None)
    if isinstance(options, dict) and options.get("withFileTypes"):
        return [
            {
                "name": name,
                "isFile": Native(_constant("." in name)),
                "isDirectory": Native(_constant("." not in name)),
            }
            for name in names
        ]
    return names


def _globbed(site: CallSite) -> Value:
    pattern = site.get(0)
    if not isinstance(pattern, str):
        return UNKNOWN
    wanted = pattern.removeprefix("./").strip("/").replace("**/", "*")
    return [f"/{path}" for path in site.evaluator.every_path() if fnmatch.fnmatchcase(path, wanted)]


def _exists(site: CallSite) -> Value:
    path = site.get(0)
    if not isinstance(path, str):
        return UNKNOWN
    inner = path.strip("/")
    return any(each == inner or each.startswith(f"{inner}/") for each in site.evaluator.every_path())


def _base(site: CallSite) -> Value:
    path, ending = site.get(0), site.get(1, default="")
    return (
        posixpath.basename(path).removesuffix(ending if isinstance(ending, str) else "")
        if isinstance(path, str)
        else UNKNOWN
    )


KNOWN: Final[dict[str, Callable[[CallSite], Value]]] = {
    "globalThis.Object.keys": _keys,
    "globalThis.Object.values": _values,
    "globalThis.Object.entries": _entries,
    "globalThis.Object.assign": _assign,
    "globalThis.Object.freeze": lambda site: site.get(0),
    "globalThis.Object.create": lambda site: dict(site.get(0)) if isinstance(site.get(0), dict) else UNKNOWN,
    "globalThis.Array": _array,
    "globalThis.Proxy": lambda site: site.get(0),
    **{
        f"globalThis.Array.prototype.{name}.call": _of_arrays(name)
        for name in ("slice", "concat", "map", "forEach", "filter", "join")
    },
    "url-join": _joined_address,
    "urljoin": _joined_address,
    "globalThis.Array.from": lambda site: list(site.get(0)) if isinstance(site.get(0), list) else UNKNOWN,
    "globalThis.Array.isArray": lambda site: isinstance(site.get(0), list) if site.get(0) is not UNKNOWN else UNKNOWN,
    "globalThis.Promise.all": lambda site: site.get(0),
    "globalThis.Promise.resolve": lambda site: site.get(0),
    "globalThis.String": lambda site: site.get(0) if isinstance(site.get(0), str) else UNKNOWN,
    "path.join": _joined,
    "path.posix.join": _joined,
    "path.resolve": _resolved,
    "path.dirname": lambda site: posixpath.dirname(site.get(0)) if isinstance(site.get(0), str) else UNKNOWN,
    "path.basename": _base,
    "path.extname": lambda site: posixpath.splitext(site.get(0))[1] if isinstance(site.get(0), str) else UNKNOWN,
    "path.parse": lambda site: (
        {
            "name": posixpath.splitext(posixpath.basename(site.get(0)))[0],
            "ext": posixpath.splitext(site.get(0))[1],
            "base": posixpath.basename(site.get(0)),
        }
        if isinstance(site.get(0), str)
        else UNKNOWN
    ),
    "fs.readdirSync": _listed,
    "fs-extra.readdirSync": _listed,
    "fs.existsSync": _exists,
    "glob.sync": _globbed,
    "glob.globSync": _globbed,
    "fast-glob.sync": _globbed,
    "url.fileURLToPath": lambda site: site.get(0),
    "lodash.extend": _assign,
    "lodash.assign": _assign,
    **{f"{library}.{name}": _of_list(inner) for library in ("lodash", "underscore") for name, inner in _EACH.items()},
    **dict.fromkeys(_MERGES, _merged),
}
"""Functions outside that are known by what they do to known values."""
