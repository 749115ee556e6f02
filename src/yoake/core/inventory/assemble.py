"""Files → modules: which folder is a module, what it requires, and the lines it stands on today."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Callable, Container, Iterable, Mapping, Sequence
from itertools import islice
from typing import Final

from yoake.core import versions
from yoake.core.coordinates import NODE, PYTHON, Coordinate, line_key, line_of
from yoake.core.inventory import npm
from yoake.core.inventory.bills import is_bill, read_bill
from yoake.core.inventory.locks import read_pipfile_lock, read_toml_lock
from yoake.core.inventory.manifests import read_pyproject, read_setup_cfg, read_setup_py
from yoake.core.inventory.model import Fault, Locked, Module, Pin, Requirement, Stated
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
MAX_MANIFEST: Final = 2 * 1024 * 1024
"""Bytes of a manifest that people write; the largest real ones have some 100 KB."""

MAX_WORD: Final = 256
"""Characters of a name, a release or a range; the longest real ranges have some 150."""

_MAX_REQUIREMENTS: Final = 20_000  # of one file and what it includes; a mirror's list of everything has more

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
        _read_guarded(path, files[path], shown, modules[_nearest(_module_folder(path), modules)])
    kept = [m for m in modules.values() if m.manifests or m.path == ""]
    _inherit_locks(kept)
    if len(kept) > 1 and not kept[0].manifests:
        _inherit_pins(kept)
        below = {m.path for m in kept[1:]}
        if not any(_nearest(posixpath.dirname(path), below) == "" for path in sources):
            kept = kept[1:]
    return kept


def _read_guarded(path: str, data: bytes, shown: Mapping[str, str], module: Module) -> None:
    """Read one file into its module. Whatever is wrong with it is a fault of this file, never of the application."""
    before = (len(module.requirements), len(module.locked), len(module.pins))
    try:
        _read_one(path, data, shown, module)
    except Exception as error:  # noqa: BLE001  a file from outside can be wrong in ways that no list foresees
        module.faults.append(Fault(path, f"could not be read: {str(error)[:200] or type(error).__name__}"))
    _drop_endless(path, module, before)


def _is_lock(path: str) -> bool:
    name = _name(path)
    return name.endswith((".lock", "lock.json", "lock.yaml", "shrinkwrap.json")) or is_bill(name)


def _drop_endless(path: str, module: Module, before: tuple[int, int, int]) -> None:
    """Leave out what a file names with words longer than any name or version is: they only cost time later."""
    wanted, locked, pinned = before
    entries = len(module.requirements) + len(module.locked) + len(module.pins)
    module.requirements[wanted:] = [
        r for r in module.requirements[wanted:] if len(r.name) <= MAX_WORD and len(r.specifier) <= MAX_WORD
    ]
    module.locked[locked:] = [
        e for e in module.locked[locked:] if len(e.name) <= MAX_WORD and len(e.release) <= MAX_WORD
    ]
    module.pins[pinned:] = [p for p in module.pins[pinned:] if len(p.version) <= MAX_WORD]
    module.name, module.npm_name = module.name[:MAX_WORD], module.npm_name[:MAX_WORD]
    left_out = entries - len(module.requirements) - len(module.locked) - len(module.pins)
    if left_out:
        module.faults.append(
            Fault(path, f"{left_out} entries with words of more than {MAX_WORD} characters were left out")
        )


def _inherit_pins(modules: Sequence[Module]) -> None:
    """Toolchain files at the root hold for modules that have none of their own."""
    for module in modules[1:]:
        if not any(pin.how != "range" for pin in module.pins):
            module.pins.extend(modules[0].pins)


def _inherit_locks(modules: Sequence[Module]) -> None:
    """A lock file holds for the modules below its folder that have none of their own: one set."""
    own = {m.path: [entry for entry in m.locked if entry.ecosystem == "npm"] for m in modules}
    for module in modules:
        if not module.npm_name and not any(r.ecosystem == "npm" for r in module.requirements):
            continue
        at = module.path
        while at and not own.get(at):
            at = posixpath.dirname(at)
        if at != module.path:
            module.locked.extend(own.get(at, ()))


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


def _nearest(folder: str, folders: Container[str]) -> str:
    """The folder itself or the nearest above it that is one of ``folders``; the root when none is."""
    while folder and folder not in folders:
        folder = posixpath.dirname(folder)
    return folder


def _read_one(path: str, data: bytes, shown: Mapping[str, str], module: Module) -> None:
    name, text = _name(path), shown[path]
    if len(data) > MAX_MANIFEST and not _is_lock(path):
        raise ValueError(f"larger than {MAX_MANIFEST // 1024 // 1024} MB, which no manifest written by hand is")
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
    for found in islice(read_requirements_file(path, shown, group), _MAX_REQUIREMENTS):
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
