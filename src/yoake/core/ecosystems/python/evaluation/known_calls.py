"""What the language's own functions and methods come to, for values that are known."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from yoake.core.contract.evaluation import (
    UNKNOWN,
    Called,
    CallSite,
    ClassValue,
    FunctionValue,
    Instance,
    Member,
    Model,
    ModuleValue,
    Native,
    Reference,
    Value,
)

LONGEST: Final = 5_000  # elements of a list and letters of a text that are followed; routes have fewer
_TEXT_METHODS: Final = frozenset(
    [
        "lower",
        "upper",
        "strip",
        "lstrip",
        "rstrip",
        "replace",
        "split",
        "rsplit",
        "join",
        "format",
        "startswith",
        "endswith",
        "title",
        "capitalize",
        "removeprefix",
        "removesuffix",
        "partition",
        "rpartition",
        "encode",
        "decode",
        "find",
        "count",
        "zfill",
        "isidentifier",
    ]
)


def is_constant(value: Value) -> bool:
    """Whether a value is a constant or made of constants all through."""
    if isinstance(value, list | tuple | set | frozenset):
        return all(is_constant(each) for each in value)
    if isinstance(value, dict):
        return all(is_constant(key) and is_constant(each) for key, each in value.items())
    return value is None or isinstance(value, str | int | float | bytes)


def truth(value: Value) -> bool | None:
    """Whether a condition holds; None where the text does not say."""
    if value is None or isinstance(value, str | int | float | bytes | list | dict | set):
        return bool(value)
    if isinstance(value, FunctionValue | ClassValue | Instance | Model | ModuleValue | Native):
        return True
    return None


def elements(value: Value) -> list[Value] | None:
    """What a loop over a value goes through; None where that is not known."""
    if isinstance(value, list | str | set):
        return list(value)[:LONGEST]
    return list(value)[:LONGEST] if isinstance(value, dict) else None


def text_method(text: str | bytes, name: str) -> Value:
    """A method of a text."""
    if name not in _TEXT_METHODS:
        return UNKNOWN

    def call(site: CallSite) -> Value:
        if not all(is_constant(each) for each in [*site.arguments, *site.keywords.values()]) or len(text) > LONGEST:
            return UNKNOWN
        try:
            result = getattr(text, name)(*site.arguments, **site.keywords)
        except (TypeError, ValueError, LookupError, AttributeError):
            return UNKNOWN
        if isinstance(result, str | bytes) and len(result) > LONGEST:
            return UNKNOWN
        return list(result) if isinstance(result, tuple) else result

    return Native(call, name)


def list_method(values: list[Value], name: str) -> Value:
    """A method of a list."""

    def append(site: CallSite) -> None:
        if len(values) < LONGEST:
            values.append(site.get(0))

    def insert(site: CallSite) -> None:
        at = site.get(0)
        if len(values) < LONGEST:
            values.insert(at if isinstance(at, int) else len(values), site.get(1))

    def extend(site: CallSite) -> None:
        more = elements(site.get(0))
        if more and len(values) + len(more) <= LONGEST:
            values.extend(more)

    calls: dict[str, Callable[[CallSite], Value]] = {
        "append": append,
        "add": append,
        "insert": insert,
        "extend": extend,
        "copy": lambda _: list(values),
        "index": lambda site: next((i for i, each in enumerate(values) if each == site.get(0)), UNKNOWN),
    }
    return Native(calls[name], name) if name in calls else UNKNOWN


def dict_method(table: dict[Any, Value], name: str) -> Value:
    """A method of a dict."""

    def get(site: CallSite) -> Value:
        key = site.get(0)
        return table.get(key, site.get(1, default=None)) if is_constant(key) and not isinstance(key, list) else UNKNOWN

    def update(site: CallSite) -> None:
        if isinstance(site.get(0), dict):
            table.update(site.get(0))
        table.update(site.keywords)

    def setdefault(site: CallSite) -> Value:
        key = site.get(0)
        return table.setdefault(key, site.get(1, default=None)) if isinstance(key, str | int) else UNKNOWN

    calls: dict[str, Callable[[CallSite], Value]] = {
        "get": get,
        "pop": get,
        "update": update,
        "setdefault": setdefault,
        "items": lambda _: [[key, value] for key, value in table.items()],
        "keys": lambda _: list(table),
        "values": lambda _: list(table.values()),
        "copy": lambda _: dict(table),
    }
    return Native(calls[name], name) if name in calls else UNKNOWN


def _sized(site: CallSite) -> Value:
    value = site.get(0)
    return len(value) if isinstance(value, str | list | dict | set) else UNKNOWN


def _listed(site: CallSite) -> Value:
    if not site.arguments:
        return []
    found = elements(site.get(0))
    return found if found is not None else UNKNOWN


def _dict(site: CallSite) -> Value:
    first = site.get(0, default={})
    if isinstance(first, list):
        pairs = [each for each in first if isinstance(each, list) and len(each) == 2 and isinstance(each[0], str | int)]
        return dict(pairs) | dict(site.keywords)
    return {**(first if isinstance(first, dict) else {}), **site.keywords}


def _range(site: CallSite) -> Value:
    numbers = [each for each in site.arguments if isinstance(each, int)]
    if len(numbers) != len(site.arguments) or not 1 <= len(numbers) <= 3 or (len(numbers) == 3 and not numbers[2]):
        return UNKNOWN
    return list(range(*numbers)[:LONGEST])


def _enumerated(site: CallSite) -> Value:
    found = elements(site.get(0))
    return [[i, each] for i, each in enumerate(found)] if found is not None else UNKNOWN


def _zipped(site: CallSite) -> Value:
    lists = [elements(each) for each in site.arguments]
    known = [each for each in lists if each is not None]
    return [list(row) for row in zip(*known, strict=False)] if len(known) == len(lists) else UNKNOWN


def _converted(kind: Callable[[Any], Value]) -> Callable[[CallSite], Value]:
    def call(site: CallSite) -> Value:
        value = site.get(0, default="")
        if not isinstance(value, str | int | float | bytes):
            return UNKNOWN
        try:
            return kind(value)
        except (ValueError, TypeError, OverflowError):
            return UNKNOWN

    return call


def _getattr(site: CallSite) -> Value:
    name = site.get(1)
    if not isinstance(name, str):
        return UNKNOWN
    found = site.evaluator.attribute(site.get(0), name)
    return site.get(2) if found is UNKNOWN and len(site.arguments) > 2 else found


def _hasattr(site: CallSite) -> Value:
    of, name = site.get(0), site.get(1)
    if not isinstance(name, str):
        return UNKNOWN
    if isinstance(of, Model):
        known = of.has(name, site.evaluator)
        return UNKNOWN if known is None else known
    found = site.evaluator.attribute(of, name)
    if found is not UNKNOWN and not isinstance(found, Member):
        return True
    return False if isinstance(of, ModuleValue) and not of.file.endswith("/") else UNKNOWN


def _setattr(site: CallSite) -> None:
    of, name = site.get(0), site.get(1)
    if isinstance(name, str) and isinstance(of, Instance | FunctionValue):
        of.attributes[name] = site.get(2)


def _isinstance(site: CallSite) -> Value:
    value, kind = site.get(0), site.get(1)
    if isinstance(kind, Reference) and isinstance(value, str | list | dict):
        return kind.path == {str: "builtins.str", list: "builtins.list", dict: "builtins.dict"}[type(value)]
    return any(each is kind for each in value.kind.lineage()) if isinstance(value, Instance) else UNKNOWN


def _import(site: CallSite) -> Value:
    name = site.get(0)
    if not isinstance(name, str):
        return UNKNOWN
    package = site.get(1, "package", "")
    if name.startswith(".") and isinstance(package, str):
        name = package + name
    return site.evaluator.module(name, site.place.file) or Reference(name)


def _environment(site: CallSite) -> Value:
    return site.get(1, "default", None)


def _configured(site: CallSite) -> Value:
    return site.keywords.get("default", UNKNOWN)


def _partial(site: CallSite) -> Value:
    return Called(site.get(0), list(site.arguments[1:]), dict(site.keywords), site.place)


def _joined(site: CallSite) -> Value:
    parts = site.arguments
    return (
        "/".join(str(p).strip("/") if i else str(p) for i, p in enumerate(parts))
        if is_constant(list(parts))
        else UNKNOWN
    )


KNOWN: Final[dict[str, Callable[[CallSite], Value]]] = {
    "builtins.len": _sized,
    "builtins.list": _listed,
    "builtins.tuple": _listed,
    "builtins.sorted": _listed,
    "builtins.set": _listed,
    "builtins.frozenset": _listed,
    "builtins.iter": _listed,
    "builtins.reversed": lambda site: list(reversed(elements(site.get(0)) or [])),
    "builtins.dict": _dict,
    "collections.OrderedDict": _dict,
    "builtins.range": _range,
    "builtins.enumerate": _enumerated,
    "builtins.zip": _zipped,
    "builtins.str": _converted(str),
    "builtins.int": _converted(int),
    "builtins.bool": lambda site: UNKNOWN if truth(site.get(0)) is None else truth(site.get(0)),
    "builtins.getattr": _getattr,
    "builtins.setattr": _setattr,
    "builtins.hasattr": _hasattr,
    "builtins.isinstance": _isinstance,
    "builtins.__import__": _import,
    "importlib.import_module": _import,
    "os.environ.get": _environment,
    "os.getenv": _environment,
    "decouple.config": _configured,
    "functools.partial": _partial,
    "functools.wraps": lambda site: Native(lambda _inner: site.get(0)),
    "functools.update_wrapper": lambda site: site.get(1),
    "copy.copy": lambda site: site.get(0),
    "copy.deepcopy": lambda site: site.get(0),
    "posixpath.join": _joined,
    "os.path.join": _joined,
    "re.compile": lambda site: site.get(0),
    "re.escape": lambda site: site.get(0),
    "typing.cast": lambda site: site.get(1),
    "itertools.chain": lambda site: [each for part in site.arguments for each in elements(part) or []],
}
"""Functions outside that are known by what they do to known values."""
