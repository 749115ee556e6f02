"""``pyproject.toml``, ``setup.cfg``, ``setup.py`` and what a wheel says of itself: what a module requires and which Python it states."""

from __future__ import annotations

import configparser
import re
from collections.abc import Iterable, Mapping
from typing import Any, Final

from packaging.metadata import parse_email
from tree_sitter import Node

from yoake.core.contract.texts import line_of_text, parse_toml
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.requirements import parse_requirement, poetry_specifier
from yoake.core.ecosystems.python.tree import parse, string_value
from yoake.core.syntax.tree import text
from yoake.core.values.modules import Fault, Module, Pin

_MAX_CFG: Final = 100_000  # characters; the parser collects faults in time that grows with their square
_NO_PACKAGES: Final = ("source", "requires", "scripts", "pipenv", "pipfile")
"""Tables of a Pipfile that are no group of packages."""
WHEEL_METADATA: Final = re.compile(r"^[^/]+\.dist-info/METADATA$")
"""Where an unpacked wheel says what it is: at its root. Further down it speaks of a package that was installed there."""

_EXTRA: Final = re.compile(r"\bextra\s*==\s*[\"']([^\"']+)")
_DEV_EXTRA: Final = re.compile(
    r"(^|[-_.])(dev|develop(ment)?|tests?|testing|docs?|documentation|lint(ing)?|ci|typing|release)($|[-_.])",
    re.IGNORECASE,
)
"""Extras of people who work on a package."""

_CLASSIFIER: Final = re.compile(r"Programming Language :: Python :: (\d\.\d+)$")


def read_pyproject(path: str, content: str, module: Module) -> None:
    """PEP 621, PEP 735 groups, and the tables of Poetry, Flit, PDM and Hatch."""
    try:
        body = parse_toml(content)
    except ValueError as error:
        module.faults.append(Fault(path, f"not valid TOML: {error}"))
        return
    project = _table(body, "project")
    module.name = str(project.get("name") or _table(body, "tool", "poetry").get("name") or module.name)
    _python_range(project.get("requires-python"), path, content, module)
    _classifiers(project.get("classifiers"), path, content, module)
    _listed(project.get("dependencies"), path, content, module, "")
    for group, entries in _table(project, "optional-dependencies").items():
        _listed(entries, path, content, module, str(group))
    for group, entries in _table(body, "dependency-groups").items():
        _listed(entries, path, content, module, str(group))
    _poetry(_table(body, "tool", "poetry"), path, content, module)
    flit = _table(body, "tool", "flit", "metadata")
    _python_range(flit.get("requires-python"), path, content, module)
    _listed(flit.get("requires"), path, content, module, "")
    for group, entries in _table(body, "tool", "pdm", "dev-dependencies").items():
        _listed(entries, path, content, module, str(group))
    for group, table in _table(body, "tool", "hatch", "envs").items():
        if isinstance(table, Mapping):
            _listed(table.get("dependencies"), path, content, module, str(group))


def _poetry(poetry: Mapping[str, Any], path: str, content: str, module: Module) -> None:
    tables = {"": _table(poetry, "dependencies"), "dev": _table(poetry, "dev-dependencies")}
    for group, table in _table(poetry, "group").items():
        tables[str(group)] = _table(table, "dependencies") if isinstance(table, Mapping) else {}
    for group, table in tables.items():
        _named(table, group, path, content, module)


def read_pipfile(path: str, content: str, module: Module) -> None:
    """``Pipfile``: packages, those of development and of groups of its own, and the Python it is for."""
    try:
        body = parse_toml(content)
    except ValueError as error:
        module.faults.append(Fault(path, f"not valid TOML: {error}"))
        return
    requires = _table(body, "requires")
    version = requires.get("python_full_version") or requires.get("python_version")
    if isinstance(version, str):
        module.pins.append(
            Pin(
                coordinate=PYTHON,
                version=version,
                file=path,
                line=_line_of_key(content, "python_"),
                how="pin",
                text=version,
            )
        )
    for name in body:
        if name not in _NO_PACKAGES:
            group = {"packages": "", "dev-packages": "dev"}.get(name, name)
            _named(_table(body, name), group, path, content, module)


def _named(table: Mapping[str, Any], group: str, path: str, content: str, module: Module) -> None:
    """Requirements as ``name = "range"`` or ``name = {version = "range"}``."""
    for name, value in table.items():
        specifier = poetry_specifier(value)
        line = _line_of_key(content, name)
        if name.lower() == "python":
            _python_range(specifier, path, content, module)
            continue
        found = parse_requirement(f"{name}{specifier}", path, line, group)
        if found is not None:
            module.requirements.append(found)


def _line_of_key(content: str, name: str) -> int:
    """The line that begins with a key; the first that holds it where none does."""
    start = re.compile(rf"\s*[\"']?{re.escape(name)}", re.IGNORECASE)
    rows = enumerate(content.splitlines(), 1)
    return next((number for number, row in rows if start.match(row) and "=" in row), 0) or line_of_text(content, name)


def _table(body: Mapping[str, Any], *names: str) -> Mapping[str, Any]:
    for name in names:
        inner = body.get(name)
        body = inner if isinstance(inner, Mapping) else {}
    return body


def _listed(entries: object, path: str, content: str, module: Module, group: str) -> None:
    for entry in entries if isinstance(entries, Iterable) and not isinstance(entries, str) else ():
        if isinstance(entry, str):
            found = parse_requirement(entry, path, line_of_text(content, entry), group)
            if found is not None:
                module.requirements.append(found)


def _python_range(value: object, path: str, content: str, module: Module) -> None:
    if isinstance(value, str) and value.strip():
        line = line_of_text(content, value)
        module.pins.append(
            Pin(coordinate=PYTHON, version=value.strip(), file=path, line=line, how="range", text=value.strip())
        )


def _classifiers(values: object, path: str, content: str, module: Module) -> None:
    for value in values if isinstance(values, Iterable) and not isinstance(values, str) else ():
        found = _CLASSIFIER.match(value) if isinstance(value, str) else None
        if found:
            line = line_of_text(content, str(value))
            module.pins.append(
                Pin(coordinate=PYTHON, version=found.group(1), file=path, line=line, how="classifier", text=str(value))
            )


def read_setup_cfg(path: str, content: str, module: Module) -> None:
    """The declarative tables of setuptools."""
    if len(content) > _MAX_CFG:
        module.faults.append(Fault(path, f"larger than {_MAX_CFG // 1000} kB, which no setup.cfg is"))
        return
    parser = configparser.ConfigParser(interpolation=None, strict=False)
    try:
        parser.read_string(content)
    except (configparser.Error, ValueError) as error:
        module.faults.append(Fault(path, f"not a valid setup.cfg: {error}"))
        return
    if parser.has_option("metadata", "name"):
        module.name = parser.get("metadata", "name")
    if parser.has_option("options", "python_requires"):
        _python_range(parser.get("options", "python_requires"), path, content, module)
    if parser.has_option("metadata", "classifiers"):
        _classifiers(parser.get("metadata", "classifiers").splitlines(), path, content, module)
    if parser.has_option("options", "install_requires"):
        _listed(parser.get("options", "install_requires").splitlines(), path, content, module, "")
    for group in parser.options("options.extras_require") if parser.has_section("options.extras_require") else ():
        _listed(parser.get("options.extras_require", group).splitlines(), path, content, module, group)


def read_metadata(path: str, content: str, module: Module) -> None:
    """What an unpacked wheel says of itself, as the core metadata of packages are written. What its tests and pages want is left out: they
    are not in a wheel."""
    said, _ = parse_email(content)
    module.name = said.get("name") or module.name
    _python_range(said.get("requires_python"), path, content, module)
    _classifiers(said.get("classifiers"), path, content, module)
    for entry in said.get("requires_dist", ()):
        extra = _EXTRA.search(entry)
        if extra is None or not _DEV_EXTRA.search(extra.group(1)):
            _listed([entry], path, content, module, extra.group(1) if extra else "")


def read_setup_py(path: str, content: bytes, module: Module) -> None:
    """Literals given to ``setup(…)`` and the names they come from; the file is never run."""
    root = parse(content).root_node
    values: dict[str, Any] = {}
    call: Node | None = None
    waiting = [root]
    while waiting:
        node = waiting.pop()
        if node.type == "assignment" and node.child_by_field_name("right") is not None:
            values.setdefault(text(node.child_by_field_name("left")), node.child_by_field_name("right"))
        if node.type == "call" and text(node.child_by_field_name("function")) in ("setup", "setuptools.setup"):
            call = node
        waiting.extend(node.named_children)
    arguments = call.child_by_field_name("arguments") if call is not None else None
    shown = content.decode("utf-8", "replace")
    for argument in arguments.named_children if arguments is not None else ():
        if argument.type == "keyword_argument":
            name = text(argument.child_by_field_name("name"))
            _setup_argument(name, _literal(argument.child_by_field_name("value"), values), path, shown, module)


def _setup_argument(name: str, value: object, path: str, content: str, module: Module) -> None:
    if name == "name" and isinstance(value, str) and value:
        module.name = value
    elif name == "python_requires":
        _python_range(value, path, content, module)
    elif name in ("install_requires", "requires"):
        _listed(value.splitlines() if isinstance(value, str) else value, path, content, module, "")
    elif name in ("tests_require", "setup_requires"):
        _listed(value.splitlines() if isinstance(value, str) else value, path, content, module, name)
    elif name == "classifiers":
        _classifiers(value.splitlines() if isinstance(value, str) else value, path, content, module)
    elif name == "extras_require" and isinstance(value, Mapping):
        for group, entries in value.items():
            _listed(entries, path, content, module, str(group))


def _literal(node: Node | None, values: Mapping[str, Any], depth: int = 0) -> object:
    """Strings, lists, tuples and dicts of literals; names and ``+`` are followed a few levels."""
    if node is None or depth > 5:
        return None
    if node.type == "string":
        return string_value(node)
    if node.type == "concatenated_string":
        return "".join(str(_literal(child, values, depth + 1) or "") for child in node.named_children)
    if node.type in ("list", "tuple", "set"):
        return [_literal(child, values, depth + 1) for child in node.named_children]
    if node.type == "identifier":
        return _literal(values.get(text(node)), values, depth + 1)
    if node.type == "binary_operator":
        parts = [_literal(node.child_by_field_name(side), values, depth + 1) for side in ("left", "right")]
        return [entry for part in parts if isinstance(part, list) for entry in part]
    if node.type == "dictionary":
        pairs = [child for child in node.named_children if child.type == "pair"]
        keys = [str(_literal(p.child_by_field_name("key"), values, depth + 1)) for p in pairs]
        return dict(
            zip(keys, [_literal(p.child_by_field_name("value"), values, depth + 1) for p in pairs], strict=True)
        )
    return None
