"""Django templates → facts: the tag libraries they load, and the tags and filters they use.

A tag library is a module that Django finds by its name in several places; a tag or filter is looked for under its name
among the built-in ones. Names that the framework never had are somebody else's and say nothing.
"""

from __future__ import annotations

import re
from typing import Final

from yoake.core.values.facts import Ask, FileFacts, Gathering

_TAG: Final = re.compile(r"{%-?\s*(\w+)([^%]*)%}")
_VALUE: Final = re.compile(r"{{-?(.*?)-?}}")
_FILTER: Final = re.compile(r"\|\s*(\w+)")
_QUOTED: Final = re.compile(r"\"[^\"]*\"|'[^']*'")
_PLACES: Final = (
    "django.templatetags",
    "django.contrib.staticfiles.templatetags",
    "django.contrib.admin.templatetags",
    "django.contrib.humanize.templatetags",
    "django.contrib.webdesign.templatetags",
)
TEMPLATE: Final = re.compile(r"(^|/)(templates|jinja2)/.*\.(html?|djhtml|xml|txt)$")
"""Paths that hold templates by the convention of the framework."""


def read_template(source: bytes) -> FileFacts:
    """All facts of one template."""
    found = Gathering()
    shown = source.decode("utf-8", "replace")
    for number, raw in enumerate(shown.splitlines(), 1):
        for tag in _TAG.finditer(raw):
            name, rest = tag.group(1), tag.group(2)
            if name == "load":
                _load(rest, tag.start(2), number, found)
            else:
                ask = Ask(f"django.template.defaulttags.{name}", "template")
                found.add(ask, number, tag.start(1), tag.end(1), "")
            _filters(rest, tag.start(2), number, found)
        for value in _VALUE.finditer(raw):
            _filters(value.group(1), value.start(1), number, found)
    lines = source.count(b"\n") + (0 if source.endswith(b"\n") or not source else 1)
    return FileFacts(
        asks=found.asks,
        places=found.places,
        scopes=found.scopes,
        exports={},
        stars=(),
        classes={},
        assigned={},
        broken=(),
        lines=lines,
        language="python",
    )


def _load(rest: str, start: int, number: int, found: Gathering) -> None:
    """``{% load a b %}`` and ``{% load x from a %}``."""
    words = [(match.group(), match.start()) for match in re.finditer(r"[\w.]+", rest)]
    names = [word for word, _ in words]
    kept = words[names.index("from") + 1 :] if "from" in names else words
    for word, at in kept:
        ways = [f"{place}.{word}" for place in _PLACES]
        found.add(Ask(ways[0], "template", (), (), "", tuple(ways[1:])), number, start + at, start + at + len(word), "")


def _filters(rest: str, start: int, number: int, found: Gathering) -> None:
    plain = _QUOTED.sub(lambda m: "_" * len(m.group()), rest)
    for match in _FILTER.finditer(plain):
        ask = Ask(f"django.template.defaultfilters.{match.group(1)}", "template")
        found.add(ask, number, start + match.start(1), start + match.end(1), "")
