"""Files → modules: which folder is a module, what it requires, and the lines it stands on today."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Final

from yoake.core import versions
from yoake.core.coordinates import NODE, PYTHON, Coordinate, line_key, line_of
from yoake.core.inventory import npm
from yoake.core.inventory.bills import is_bill, read_bill
from yoake.core.inventory.locks import read_pipfile_lock, read_toml_lock
from yoake.core.inventory.manifests import read_pyproject, read_setup_cfg, read_setup_py
from yoake.core.inventory.model import Locked, Module, Pin, Requirement, Stated
from yoake.core.inventory.requirements import read_requirements_file
from yoake.core.inventory.toolchain import is_toolchain_file, read_toolchain

_MANIFESTS: Final = (
    "pyproject.toml",
    "setup.cfg",
    "setup.py",
    "Pipfile",
    "Pipfile.lock",
    "poetry.lock",
    "uv.lock",
    "pdm.lock",
    *npm.MANIFESTS,
    *npm.LOCKS,
    *npm.CONFIGURATIONS,
)
_REQUIREMENTS: Final = re.compile(r"(^|/)(requirements[^/]*|[^/]*requirements|constraints)\.(txt|in)$")
_REQUIREMENTS_FOLDER: Final = re.compile(r"(^|/)requirements/[^/]+\.(txt|in)$")
_DEV_WORDS: Final = ("dev", "test", "doc", "lint", "ci", "constraints", "local")
_HOW_ORDER: Final = ("lock", "container", "pin", "ci", "range", "classifier")


_READERS: Final[Mapping[str, Callable[[str, str, Module], None]]] = {
    "pyproject.toml": read_pyproject,
    "setup.cfg": read_setup_cfg,
    "Pipfile.lock": read_pipfile_lock,
    **dict.fromkeys(("poetry.lock", "uv.lock", "pdm.lock"), read_toml_lock),
    "package.json": npm.read_package_json,
    "package-lock.json": npm.read_package_lock,
    "npm-shrinkwrap.json": npm.read_package_lock,
    "yarn.lock": npm.read_yarn_lock,
    "pnpm-lock.yaml": npm.read_pnpm_lock,
    **dict.fromkeys(npm.CONFIGURATIONS, npm.read_configuration),
}


def is_requirements_file(path: str) -> bool:
    """Whether a path looks like a requirements file."""
    return bool(_REQUIREMENTS.search(path) or _REQUIREMENTS_FOLDER.search(path))


def is_inventory_file(path: str) -> bool:
    """Whether the inventory wants to read this file."""
    name = path.rsplit("/", 1)[-1]
    return name in _MANIFESTS or is_bill(name) or is_requirements_file(path) or is_toolchain_file(path)


def assemble(files: Mapping[str, bytes], root_name: str, sources: Iterable[str] = ()) -> list[Module]:
    """The modules of a folder. ``files``: path → bytes, of the files that ``is_inventory_file`` accepts.

    A root without a manifest is a module only when some of ``sources`` lie in no other module.
    """
    shown = {path: data.decode("utf-8-sig", "replace") for path, data in files.items()}
    stating = [path for path in files if not is_toolchain_file(path) and _name(path) not in npm.CONFIGURATIONS]
    folders = sorted({_module_folder(path) for path in stating} | {""})
    folders = [f for f in folders if f == "" or not _is_test_folder(f)]
    modules = {folder: Module(folder, posixpath.basename(folder) or root_name) for folder in folders}
    for path in sorted(files, key=_reading_order):
        owner = modules[_nearest(path, folders)]
        _read_one(path, files[path], shown, owner)
    kept = [m for m in modules.values() if m.manifests or m.path == ""]
    _inherit_locks(kept)
    if len(kept) > 1 and not kept[0].manifests:
        _inherit_pins(kept)
        if not any(all(not path.startswith(f"{m.path}/") for m in kept[1:]) for path in sources):
            kept = kept[1:]
    return kept


def _inherit_pins(modules: Sequence[Module]) -> None:
    """Toolchain files at the root hold for modules that have none of their own."""
    for module in modules[1:]:
        if not any(pin.how != "range" for pin in module.pins):
            module.pins.extend(modules[0].pins)


def _inherit_locks(modules: Sequence[Module]) -> None:
    """A lock file holds for the modules below its folder that have none of their own: one set."""
    for module in modules:
        if not module.npm_name and not any(r.ecosystem == "npm" for r in module.requirements):
            continue
        if any(entry.ecosystem == "npm" for entry in module.locked):
            continue
        above = [m for m in modules if m is not module and (m.path == "" or module.path.startswith(f"{m.path}/"))]
        for owner in sorted(above, key=lambda m: -len(m.path)):
            held = [entry for entry in owner.locked if entry.ecosystem == "npm"]
            if held:
                module.locked.extend(held)
                break


def _is_test_folder(folder: str) -> bool:
    return any(
        part in ("test", "tests", "docs", "doc", "examples", "fixtures", "__fixtures__", "node_modules")
        for part in folder.split("/")
    )


def _module_folder(path: str) -> str:
    folder = posixpath.dirname(path)
    return posixpath.dirname(folder) if posixpath.basename(folder) == "requirements" else folder


def _name(path: str) -> str:
    return path.rsplit("/", 1)[-1]


def _reading_order(path: str) -> tuple[int, str]:
    name = path.rsplit("/", 1)[-1]
    return (_MANIFESTS.index(name) if name in _MANIFESTS else len(_MANIFESTS), path)


def _nearest(path: str, folders: Iterable[str]) -> str:
    folder = _module_folder(path)
    best = ""
    for candidate in folders:
        inside = folder == candidate or folder.startswith(f"{candidate}/")
        if candidate and inside and len(candidate) > len(best):
            best = candidate
    return best


def _read_one(path: str, data: bytes, shown: Mapping[str, str], module: Module) -> None:
    name, text = _name(path), shown[path]
    if is_toolchain_file(path):
        module.pins.extend(read_toolchain(path, text))
        return
    reader = _READERS.get(name)
    if name == "setup.py":
        read_setup_py(path, data, module)
    elif reader is not None:
        reader(path, text, module)
    elif is_bill(name):
        read_bill(path, text, module)
    elif is_requirements_file(path):
        _requirements(path, shown, module)
    silent = name in npm.CONFIGURATIONS or (name == "setup.cfg" and not module.requirements and not module.pins)
    if not silent:
        module.manifests.append(path)


def _requirements(path: str, shown: Mapping[str, str], module: Module) -> None:
    stem = path.rsplit("/", 1)[-1].rsplit(".", 1)[0].lower()
    group = stem if any(word in stem for word in _DEV_WORDS) else ""
    known = {(r.name, r.file, r.line) for r in module.requirements}
    for found in read_requirements_file(path, shown, group):
        if (found.name, found.file, found.line) not in known:
            module.requirements.append(found)


def exact_release(requirement: Requirement) -> str | None:
    """The release of ``==1.2.3``, for npm of ``1.2.3``; None for ranges and wildcards."""
    return versions.exact(requirement.ecosystem, requirement.specifier)


def stated_lines(module: Module, known: Mapping[str, Sequence[str]]) -> dict[str, Stated]:
    """Today's line of each runtime and of every package a module names, with where it is said.

    ``known``: purl → lines we know, oldest first; a range stands for the lowest of them that it allows.
    """
    found: dict[str, Stated] = {}
    for runtime in (PYTHON, NODE):
        stated = _runtime_line(runtime, module.pins, known.get(runtime.purl, ()))
        if stated is not None:
            found[runtime.purl] = stated
    locked: dict[str, Locked] = {}
    for entry in module.locked:
        if not entry.nested:
            locked.setdefault(entry.coordinate.purl, entry)
    wanted: dict[str, list[Requirement]] = {}
    for requirement in module.requirements:
        wanted.setdefault(requirement.coordinate.purl, []).append(requirement)
    for purl in sorted({*locked, *wanted}):
        coordinate = Coordinate(purl)
        stated = _package_line(coordinate, wanted.get(purl, []), known.get(purl, ()))
        if purl in locked:
            entry = locked[purl]
            stated = Stated(purl, line_of(coordinate, entry.release), "lock", entry.file, entry.line)
        if stated is not None:
            found[purl] = stated
    return found


def _runtime_line(runtime: Coordinate, pins: Iterable[Pin], known: Sequence[str]) -> Stated | None:
    said: list[tuple[int, str, Pin]] = []
    for pin in pins:
        if pin.coordinate != runtime.purl:
            continue
        ranged = pin.how == "range"
        line = versions.lowest_line(runtime, pin.version, known) if ranged else line_of(runtime, pin.version)
        if line:
            said.append((_HOW_ORDER.index(pin.how), line, pin))
    if not said:
        return None
    best = min(order for order, _, _ in said)
    order, line, pin = min((entry for entry in said if entry[0] == best), key=lambda entry: line_key(entry[1]))
    others = tuple(
        sorted(
            {
                f"{p.file}:{p.line} says {p.version}"
                for _, other, p in said
                if other != line and p.how not in ("range", "classifier")
            }
        )
    )
    return Stated(runtime.purl, line, _HOW_ORDER[order], pin.file, pin.line, others)


def _package_line(coordinate: Coordinate, wanted: Sequence[Requirement], known: Sequence[str]) -> Stated | None:
    for requirement in sorted(wanted, key=lambda r: (r.group != "", exact_release(r) is None)):
        release = exact_release(requirement)
        line = (
            line_of(coordinate, release) if release else versions.lowest_line(coordinate, requirement.specifier, known)
        )
        if line:
            how = "pin" if release else "range"
            return Stated(coordinate.purl, line, how, requirement.file, requirement.line)
    return None
