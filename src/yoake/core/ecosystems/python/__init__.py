"""Python and PyPI."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Final

from packaging.markers import InvalidMarker, Marker
from packaging.utils import canonicalize_name

from yoake.core.contract.ecosystem import Document, Ecosystem, ManifestReader, RuntimeWords, SourceReader
from yoake.core.contract.path_style import PathStyle
from yoake.core.ecosystems.python.commands import python_commands
from yoake.core.ecosystems.python.conda import read_environment
from yoake.core.ecosystems.python.edits import rename_in_python
from yoake.core.ecosystems.python.evaluation.evaluator import PythonEvaluator
from yoake.core.ecosystems.python.locks import read_pipfile_lock, read_toml_lock
from yoake.core.ecosystems.python.manifests import (
    WHEEL_METADATA,
    read_metadata,
    read_pipfile,
    read_pyproject,
    read_setup_cfg,
    read_setup_py,
)
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.ecosystems.python.project import Project
from yoake.core.ecosystems.python.requirements import REQUIREMENTS, read_requirements
from yoake.core.ecosystems.python.respecify import ranges_in, respecified
from yoake.core.ecosystems.python.syntax import read_python
from yoake.core.ecosystems.python.tox import read_tox
from yoake.core.ecosystems.python.tree import python_parser
from yoake.core.ecosystems.python.versions import PEP440, PYTHON_LINES
from yoake.core.syntax.tree import is_bounded

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.modules import Module

_NUMBER: Final = re.compile(r"v?(\d+(?:\.\d+){0,2})")
_PIN: Final = re.compile(r"(?:python-?)?(\d+\.\d+(?:\.\d+)?)\s*$")
_NEWEST: Final = "3.12"  # the line that conditions are read for where none is known


def _image(name: str, tag: str) -> str | None:
    found = _NUMBER.match(tag) if name == "python" else None
    return found.group(1) if found else None


def _locality(facts: Mapping[str, FileFacts], modules: Sequence[Module], legacy: bool) -> Locality:
    return Project(facts, [module.path for module in modules] or [""], implicit_relative=legacy)


def _pyproject(document: Document, module: Module) -> None:
    read_pyproject(document.path, document.text, module)


def _setup_cfg(document: Document, module: Module) -> bool:
    read_setup_cfg(document.path, document.text, module)
    return bool(module.requirements or module.pins)


def _setup_py(document: Document, module: Module) -> None:
    read_setup_py(document.path, document.data, module)


def _metadata(document: Document, module: Module) -> None:
    read_metadata(document.path, document.text, module)


def _pipfile(document: Document, module: Module) -> None:
    read_pipfile(document.path, document.text, module)


def _pipfile_lock(document: Document, module: Module) -> None:
    read_pipfile_lock(document.path, document.text, module)


def _toml_lock(document: Document, module: Module) -> None:
    read_toml_lock(document.path, document.text, module)


def _environment(document: Document, module: Module) -> bool:
    return read_environment(document.path, document.text, module)


def _requirements(document: Document, module: Module) -> None:
    read_requirements(document.path, document.texts, module)


def _spread(digits: str) -> str:
    """``38`` → ``3.8``."""
    return f"{digits[0]}.{digits[1:]}"


@lru_cache(maxsize=4096)
def _holds(marker: str, runtime: str | None) -> bool:
    """Whether a requirement's condition holds on Linux with that Python line; True when it cannot be told."""
    line = runtime or _NEWEST
    environment = {
        "python_version": line,
        "python_full_version": f"{line}.0",
        "implementation_name": "cpython",
        "platform_python_implementation": "CPython",
        "sys_platform": "linux",
        "os_name": "posix",
        "platform_system": "Linux",
        "platform_machine": "x86_64",
        "extra": "",
    }
    try:
        return Marker(marker).evaluate(environment)
    except InvalidMarker:
        return True


_WORDS: Final = RuntimeWords(
    image=_image,
    pin_files={".python-version": _PIN, "runtime.txt": _PIN},
    tools=frozenset(("python",)),
    ci_key=re.compile(r"python[-_]?versions?\s*[:=]|^\s*python\s*:", re.IGNORECASE),
    ci_number=re.compile(r"(?<![\w.])([23]\.\d{1,2})(?![\w])"),
    ci_image=re.compile(r"\bpython:(\d+\.\d+)"),
    mention=re.compile(
        r"(?:\bpython(?:[-_ :=]|\s+v?)?|\bpython_version\W{1,5}|\bpypy)"
        r"(?P<v>[23]\.\d{1,2})(?:\.\d+)?(?![\w.]*\d)|\bpy(?P<c>[23]\d{1,2})\b",
        re.IGNORECASE,
    ),
    spread=_spread,
    files={"tox.ini": read_tox},
)

PYTHON_ECOSYSTEM: Final = Ecosystem(
    language="python",
    title="Python",
    runtime=PYTHON,
    package_type="pypi",
    registry="PyPI",
    scheme=PEP440,
    lines=PYTHON_LINES,
    words=_WORDS,
    locality=_locality,
    manifests=(
        ManifestReader(names=("pyproject.toml",), read=_pyproject),
        ManifestReader(names=("setup.cfg",), read=_setup_cfg),
        ManifestReader(names=("setup.py",), read=_setup_py),
        ManifestReader(names=("Pipfile",), read=_pipfile),
        ManifestReader(names=("Pipfile.lock",), read=_pipfile_lock, kind="lock"),
        ManifestReader(names=("poetry.lock", "uv.lock", "pdm.lock"), read=_toml_lock, kind="lock"),
        ManifestReader(path=REQUIREMENTS, read=_requirements),
        ManifestReader(names=("environment.yml", "environment.yaml"), read=_environment, kind="configuration"),
        ManifestReader(path=WHEEL_METADATA, read=_metadata, kind="configuration", made=True),
    ),
    sources=(
        SourceReader(
            languages={".py": "Python", ".pyw": "Python"},
            read=lambda _path, text: read_python(text),
            is_bounded=lambda _path, text: is_bounded(python_parser(), text),
        ),
    ),
    style=PathStyle(stars=True),
    canonical_name=canonicalize_name,
    legacy_before=(3,),
    always_inferred=True,
    condition_holds=_holds,
    how_read={
        "interpreter": "the real interpreters",
        "wheel": "the wheels",
        "wheel, and its modules imported": "the wheels, whose modules were imported",
        "source distribution": "the source distributions",
    },
    web_frameworks=frozenset(
        (
            "django",
            "flask",
            "fastapi",
            "tornado",
            "pyramid",
            "bottle",
            "falcon",
            "aiohttp",
            "sanic",
            "starlette",
            "cherrypy",
        )
    ),
    generator_files=frozenset((".cookiecutter.json", ".cruft.json", ".copier-answers.yml")),
    entry_marks=frozenset(("builtins.__name__",)),
    scripts=frozenset(("setup.py", "manage.py")),
    rename=rename_in_python,
    ranges_in=ranges_in,
    respecified=respecified,
    commands=python_commands,
    evaluator=PythonEvaluator,
    tests=r"(^|/)(test_[^/]*|[^/]*_test|tests|conftest)\.py$",
)
