"""Try a release for real: installed with what it asks for in a throw-away environment on one Python line, and imported.

What is installed is other people's code: it runs in a process group of its own, with limits on time and memory and an empty home.
"""

from __future__ import annotations

import os
import re
import resource
import signal
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final

from yoake.core.values.errors import BadSource
from yoake.runner.clients.contract import Trial
from yoake.runner.clients.python.interpreters import find_interpreters

if TYPE_CHECKING:
    from yoake.core.values.coordinates import Coordinate, Line

_SECONDS: Final = 240
_MEMORY: Final = 4 * 1024**3  # bytes that one step may map
_OWN_PIP: Final = (3, 9)  # older lines cannot run our pip, and bring their own
_MOST_NOTE: Final = 200
_IMPORT: Final = '''
import sys
name = sys.argv[1]
try:
    import importlib.metadata as metadata
    held = metadata.distribution(name)
    listed, files = held.read_text("top_level.txt") or "", [str(f) for f in held.files or []]
except ImportError:
    import pkg_resources
    held = pkg_resources.get_distribution(name)
    listed, files = held.get_metadata("top_level.txt") if held.has_metadata("top_level.txt") else "", []
tops = listed.split() or sorted({f.split("/")[0].rsplit(".py", 1)[0].split(".")[0] for f in files if f.endswith((".py", ".so")) and ".." not in f})
tops = [t for t in tops if t.isidentifier() and not t.startswith("_") and t not in ("tests", "test", "docs", "examples", "example", "benchmarks")]
named = [t for t in tops if t.lower() == name.replace("-", "_").lower()]  # others beside it may ask for what is optional
for top in named or tops:
    __import__(top)
tops = named or tops

# one level deeper only what the runtime itself no longer has counts: other errors ask for settings or for packages that are optional
import pkgutil
GONE = set("""asynchat asyncore audioop aifc binhex cgi cgitb chunk crypt distutils dummy_threading formatter imghdr imp lib2to3
    macpath msilib nis nntplib ossaudiodev parser pipes sndhdr smtpd spwd sunau symbol telnetlib uu xdrlib""".split())
OURS = getattr(sys, "stdlib_module_names", None) or set("""abc ast asyncio
    base64 collections configparser fractions gettext html inspect json locale logging os platform random re ssl string sys
    threading time types typing unittest xml""".split())
import re
for top in tops:
    paths = getattr(sys.modules[top], "__path__", None)
    for found in list(pkgutil.iter_modules(paths))[:80] if paths else []:
        if found.name.startswith(("_", "test", "conftest", "py2", "py3", "compat", "win")):
            continue
        inner = top + "." + found.name
        try:
            __import__(inner)
        except BaseException as error:
            said = str(error)
            missing = getattr(error, "name", None) or ""
            owner = re.search(r"from '([\\w.]+)'|module '([\\w.]+)' has no attribute", said)
            module = (owner.group(1) or owner.group(2) or "").split(".")[0] if owner else ""
            gone = isinstance(error, ImportError) and missing.split(".")[0] in GONE
            if gone or (module in OURS and isinstance(error, (ImportError, AttributeError))) or isinstance(error, SyntaxError):
                raise ImportError("%s: %s: %s" % (inner, type(error).__name__, said))
'''
BESIDE: Final = (
    (re.compile(r"No module named '?(pkg_resources|distutils|setuptools)"), "setuptools<81"),
    (re.compile(r"soft_unicode"), "markupsafe<2.1"),
    (re.compile(r"EntryPoints.*has no attribute|'SelectableGroups'|importlib.metadata.*get"), "importlib-metadata<5"),
    (
        re.compile(
            r"cannot import name '(escape|Markup|contextfunction|environmentfilter|contextfilter)' from 'jinja2"
        ),
        "jinja2<3.1",
    ),
    (re.compile(r"from 'werkzeug|werkzeug\.urls|No module named 'werkzeug"), "werkzeug<2.1"),
    (re.compile(r"from 'itsdangerous"), "itsdangerous<2.1"),
    (re.compile(r"No module named 'six"), "six"),
    (re.compile(r"numpy.*(2\.\d|has no attribute)|_ARRAY_API"), "numpy<2"),
    (re.compile(r"urllib3"), "urllib3<2"),
)
"""What an error says → what makes many releases run again when it stands beside them."""


def try_release(coordinate: Coordinate, release: str, line: Line) -> Trial:
    """Install and import one release on a Python line. Raises BadSource when this machine has no such interpreter."""
    name, programs = coordinate.name, find_interpreters()
    if line not in programs:
        have = ", ".join(sorted(programs)) or "none"
        raise BadSource(f"There is no Python {line} on this machine to try it on. There are: {have}.")
    first = _once(programs[line], line, name, release, ())
    if first.runs:
        return first
    for sign, beside in BESIDE:
        if sign.search(first.note) and not beside.startswith(f"{name}<"):
            again = _once(programs[line], line, name, release, (beside,))
            return Trial(runs=True, beside=beside) if again.runs else first
    return first


def _once(program: Path, line: str, name: str, release: str, beside: Sequence[str]) -> Trial:
    with tempfile.TemporaryDirectory(prefix="yoake-try-") as place:
        own = tuple(map(int, line.split("."))) < _OWN_PIP
        python = f"{place}/bin/python"
        pip = [python, "-m", "pip"] if own else [sys.executable, "-m", "pip", "--python", python]
        install = ["install", "-q", "--no-input", "--disable-pip-version-check", f"{name}=={release}", *beside]
        steps = (
            ([str(program), "-m", "venv", *([] if own else ["--without-pip"]), place], "no environment"),
            ([*pip, *install], "does not install"),
            ([python, "-W", "ignore", "-c", _IMPORT, name], "cannot be imported"),
        )
        for command, fails in steps:
            code, said = _run(command, place)
            if code != 0:
                return Trial(runs=False, note=f"{fails}: {said}"[:_MOST_NOTE])
    return Trial(runs=True)


def _run(command: Sequence[str], place: str) -> tuple[int, str]:
    """(exit code, the last line of the error) of one step."""
    home = Path.home()
    own = next((f for f in (home / ".config/pip/pip.conf", home / ".pip/pip.conf") if f.exists()), None)
    environment = {"PIP_CACHE_DIR": str(home / ".cache" / "pip")}
    if own is not None:
        environment["PIP_CONFIG_FILE"] = str(own)
    kept = ("PATH", "LANG", "SSL_CERT_FILE")
    environment |= {k: v for k, v in os.environ.items() if k in kept or k.startswith("PIP_")}
    environment |= {"HOME": place, "PYTHONDONTWRITEBYTECODE": "1"}  # what is built and imported finds an empty home
    process = subprocess.Popen(
        command,
        cwd=place,
        env=environment,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
        start_new_session=True,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY)),  # noqa: PLW1509  no threads are held here
    )
    try:
        said, _ = process.communicate(timeout=_SECONDS)
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, signal.SIGKILL)
        process.communicate()
        return 124, f"took more than {_SECONDS} s"
    lines = [row.strip() for row in said.splitlines() if row.strip()]
    errors = [row for row in lines if re.match(r"(?:\w+\.)*\w*(?:Error|Exception)\b|ERROR:", row)]
    last = (errors or lines or [""])[-1]
    return process.returncode, re.sub(r" ?\(/[^)]*\)|\. Did you mean.*", "", last).replace(place, "…")
