"""Rules about texts: templates, configuration and commands, in files of certain names, comments left out."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping
from functools import lru_cache
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    from yoake.core.knowledge.base import Knowledge
    from yoake.core.knowledge.models import Rule
    from yoake.core.scan.findings import Builder
    from yoake.core.values.coordinates import Coordinate
    from yoake.core.values.findings import Checks, Finding

_MOST_PLACES: Final = 500  # of one rule in one module
_MOST_TEXT: Final = (
    1_000_000  # characters of a file that is looked through; templates and configuration are far shorter
)
_LONGEST_LINE: Final = re.compile(r"[^\n]{5001,}")  # what nobody wrote by hand; patterns may take long over it
_SHOWN: Final = 120

_MARKUP: Final = r"<!--.*?-->|\{#.*?#\}|\{%\s*comment.*?endcomment\s*%\}"
_SCRIPT: Final = r"/\*.*?\*/|(?<![:'\"\\\w/])//[^\n]*"
_HASH: Final = r"(?m)(?:^|(?<=\s))#[^\n]*"
_COMMENTS: Final = {
    **dict.fromkeys((".html", ".htm", ".jinja", ".j2", ".djhtml"), re.compile(_MARKUP, re.DOTALL)),
    **dict.fromkeys((".vue", ".svelte"), re.compile(f"{_MARKUP}|{_SCRIPT}", re.DOTALL)),
    **dict.fromkeys(
        (".js", ".cjs", ".mjs", ".ts", ".mts", ".cts", ".jsx", ".tsx", ".json", ".jsonc", ".babelrc", ".eslintrc"),
        re.compile(_SCRIPT, re.DOTALL),
    ),
}
_OTHER: Final = re.compile(_HASH)


def asked_files(knowledge: Knowledge, coordinates: Collection[Coordinate]) -> re.Pattern[str] | None:
    """A pattern over lower-case paths of all files that some rule about these coordinates looks at; None when there is none."""
    globs = {
        glob
        for rule, file in knowledge.rules_by_id.values()
        if rule.text is not None and file.coordinate in coordinates
        for glob in rule.files
    }
    return files_of(tuple(sorted(globs))) if globs else None


@lru_cache(maxsize=512)
def files_of(globs: tuple[str, ...]) -> re.Pattern[str]:
    """A pattern over lower-case paths: files of which the name, or the end of the path, fits one of these."""
    return re.compile("|".join(_as_pattern(glob.lower()) for glob in globs))


def _holds(rule: Rule, text: str) -> bool:
    return not rule.holds or any(word in text for word in rule.holds)


def _as_pattern(glob: str) -> str:
    inside = re.escape(glob).replace(r"\*", "[^/]*").replace(r"\?", "[^/]")
    return f"(?:^|/){inside}$"


def text_findings(
    texts: Mapping[str, str], builder: Builder, knowledge: Knowledge, checks: Checks
) -> Iterator[Finding]:
    """One finding for each rule that speaks on some line of these files. ``texts``: path → text."""
    looked_at = Texts(texts)
    for rule, file in knowledge.rules_by_id.values():
        span = builder.spans.get(file.coordinate)
        state = rule.between(span.today, span.goal) if rule.text is not None and span is not None else None
        if state is None:
            continue
        places = looked_at.places(rule)
        if not places:
            continue
        for path in dict.fromkeys(place[0] for place in places):
            weight = knowledge.effort.weights.setting
            checks.add("setting", "fails" if state == "fails" else "holds", weight, path, builder.module)
        fails = state == "fails"
        yield builder.single(
            file.coordinate,
            (rule.kind or "behaviour") if fails else "deprecated",
            rule.id,
            rule.title or rule.id,
            knowledge.first_known(file.coordinate, rule.at) if fails and rule.at is not None else None,
            places[:_MOST_PLACES],
            level=("warning" if rule.confidence == "possible" else "error") if fails else "note",
            remedy=rule.remedy,
            replacement=rule.replacement or ("none" if rule.safe else None),
            rule=rule,
            evidence=(f"rule {rule.id}, {'recalled' if file.recalled else file.source}",),
            confidence=rule.confidence,
        )


class Texts:
    """The texts of a module that rules look at, each freed of its comments once."""

    def __init__(self, texts: Mapping[str, str]) -> None:
        self._texts = {path: texts[path] for path in sorted(texts)}
        self._lowered = {path: path.lower() for path in self._texts}
        self._cleaned: dict[str, str] = {}

    def places(self, rule: Rule) -> list[tuple[str, int, str]]:
        """(path, line, what stands there) for each line on which a rule speaks."""
        named = files_of(rule.files)
        paths = [path for path, lowered in self._lowered.items() if named.search(lowered)]
        found = [
            (path, line, shown)
            for path in paths
            if _holds(rule, self._texts[path])
            for line, shown in spoken_lines(rule, self._of(path, rule))
        ]
        if found and rule.elsewhere is not None and not self._any(rule.elsewhere, paths, rule):
            return []
        return [] if found and rule.nowhere is not None and self._any(rule.nowhere, paths, rule) else found

    def _any(self, pattern: str, paths: list[str], rule: Rule) -> bool:
        return any(re.search(pattern, self._of(path, rule), re.MULTILINE) for path in paths)

    def _of(self, path: str, rule: Rule) -> str:
        if rule.comments:
            return _bounded(self._texts[path])
        if path not in self._cleaned:
            self._cleaned[path] = without_comments(path, _bounded(self._texts[path]))
        return self._cleaned[path]


def _bounded(text: str) -> str:
    return _LONGEST_LINE.sub("", text[:_MOST_TEXT])


def without_comments(path: str, text: str) -> str:
    """The text with blanks where comments stood, every line where it was."""
    dot = path.rfind(".", path.rfind("/") + 1)
    pattern = _COMMENTS.get(path[dot:].lower() if dot >= 0 else "", _OTHER)
    return pattern.sub(lambda found: re.sub(r"[^\n]", " ", found.group(0)), text)


def spoken_lines(rule: Rule, text: str) -> Iterator[tuple[int, str]]:
    """(line, what stands there) for each line on which a rule speaks, each line once."""
    if rule.text is None or (rule.beside is not None and not re.search(rule.beside, text, re.MULTILINE)):
        return
    seen: set[int] = set()
    for found in re.finditer(rule.text, text, re.MULTILINE):
        group = found.lastindex or 0
        start = found.start(group)
        if rule.unless is not None and re.search(rule.unless, found.group(0)):
            continue
        line = text.count("\n", 0, start) + 1
        if line not in seen:
            seen.add(line)
            begin = text.rfind("\n", 0, start) + 1
            end = text.find("\n", start)
            yield line, text[begin : end if end >= 0 else len(text)].strip()[:_SHOWN]
