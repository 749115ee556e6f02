"""Routes: what an application answers to. A template is written ``/a/{name}``, whatever the framework writes."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

ANY: Final = "ANY"
"""A route that answers every method, or of which the code does not say which."""

_PARAMETER: Final = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """One method on one path template.

    ``handler`` is the name of the function or class that answers, ``file`` and ``line`` (from 1) where it stands, else where the route was
    declared. ``framework`` is its name in lower case. ``rest`` names the parameters that may hold slashes. ``source``: code,
    document or log. ``declared`` is where the route is declared, as ``file:line``.
    """

    method: str
    path: str
    handler: str = ""
    file: str = ""
    line: int = 0
    framework: str = ""
    rest: frozenset[str] = frozenset()
    source: str = "code"
    declared: str = ""

    @property
    def key(self) -> tuple[str, str]:
        """Method and path with parameters without their names: two sides may call them differently."""
        return self.method, bare(self.path)

    @property
    def name(self) -> str:
        """How people call it."""
        return f"{self.method} {self.path}"


def bare(path: str) -> str:
    """A template with every parameter as ``{}``."""
    return _PARAMETER.sub("{}", path)


def parameters(path: str) -> tuple[str, ...]:
    """Names of the parameters of a template, in order."""
    return tuple(_PARAMETER.findall(path))


def joined(prefix: str, path: str) -> str:
    """A path below a prefix, with one slash between them and one in front."""
    if not path:
        return rooted(prefix)
    return rooted(f"{prefix.rstrip('/')}/{path.lstrip('/')}")


def rooted(path: str) -> str:
    """A path that begins with exactly one slash."""
    return f"/{path.lstrip('/')}"
