"""How alike two answers are: status, headers, JSON by path, HTML by what one sees, everything else by its bytes."""

from __future__ import annotations

import hashlib
import json
import math
import re
import zlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import islice
from typing import TYPE_CHECKING, Any, Final

from lxml import etree

from yoake.core.crossing.masking import masked, masked_at

if TYPE_CHECKING:
    from yoake.core.crossing.rules import Comparison

MOST_DIFFERENCES: Final = 20  # of one pair; more say nothing new
LARGEST: Final = 16_000_000  # bytes of an unpacked body; larger ones are compared as they are
_DEEPEST: Final = 60
_HIDDEN: Final = etree.XPath("//script | //style | //head | //template | //noscript | //*[@hidden]")
_BLOCKS: Final = frozenset(
    (
        *(
            "p",
            "div",
            "section",
            "article",
            "header",
            "footer",
            "main",
            "nav",
            "aside",
            "form",
            "fieldset",
            "br",
            "hr",
            "pre",
        ),
        *("h1", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "dl", "dt", "dd", "table", "tr", "td", "th"),
    )
)
_INDEX: Final = re.compile(r"\[\d+\]")


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What one side answered. Header names are in lower case; ``seconds`` until the whole body was there."""

    status: int
    headers: Mapping[str, str]
    body: bytes
    seconds: float = 0.0

    @property
    def kind(self) -> str:
        """The media type without parameters."""
        return self.headers.get("content-type", "").split(";", 1)[0].strip().lower()

    @property
    def content(self) -> bytes:
        """The body without what packs it; as it is where that cannot be undone, or would be larger than ``LARGEST``."""
        packing = self.headers.get("content-encoding", "").strip().lower()
        if packing not in ("gzip", "x-gzip", "deflate"):
            return self.body
        unpack = zlib.decompressobj(47 if "gzip" in packing else 15)
        try:
            found = unpack.decompress(self.body, LARGEST)
        except zlib.error:
            return self.body
        return found if unpack.eof else self.body


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """One thing that differs. ``where`` has indexes as ``[*]``, so that the same cause reads the same; values are masked."""

    kind: str
    where: str
    old: str = ""
    new: str = ""

    @property
    def cause(self) -> str:
        """In words."""
        return f"{self.kind}: {self.where}" if self.where else self.kind


def differences(old: Answer, new: Answer, comparison: Comparison) -> tuple[Difference, ...]:
    """What differs between two answers; empty when they are alike."""
    found: list[Difference] = []
    if old.status != new.status:
        found.append(
            Difference(kind="status", where=f"{old.status} → {new.status}", old=str(old.status), new=str(new.status))
        )
        return tuple(found)  # the bodies of two statuses have nothing in common
    for name in comparison.headers:
        left, right = _header(old, name), _header(new, name)
        if left != right:
            found.append(Difference(kind="header", where=name, old=masked(left), new=masked(right)))
    found.extend(islice(_bodies(old, new, comparison), MOST_DIFFERENCES))
    return tuple(found[:MOST_DIFFERENCES])


def _header(answer: Answer, name: str) -> str:
    value = answer.headers.get(name, "")
    if name == "content-type":
        return re.sub(r"\s*;\s*", ";", value.lower()).replace('"', "")
    if name == "location":  # the sides have addresses of their own
        return re.sub(r"^https?://[^/]+", "", value)
    return value.strip()


def _bodies(old: Answer, new: Answer, comparison: Comparison) -> Iterator[Difference]:
    before, after = old.content, new.content
    if before == after:
        return
    if old.kind.endswith("json") and new.kind.endswith("json"):
        left, right = _json(before), _json(after)
        if left is not _BROKEN and right is not _BROKEN:
            yield from _of_json(left, right, "$", comparison, 0)
            return
    if "html" in old.kind and "html" in new.kind:
        yield from _of_text(visible_text(before), visible_text(after), comparison)
        return
    if old.kind.startswith("text/") and new.kind.startswith("text/"):
        yield from _of_text(_lines(before), _lines(after), comparison)
        return
    yield Difference(kind="body", where=old.kind or "bytes", old=_digest(before), new=_digest(after))


_BROKEN: Final = object()


def _json(body: bytes) -> Any:
    try:
        return json.loads(body)
    except (ValueError, RecursionError):
        return _BROKEN


def _of_json(old: Any, new: Any, path: str, comparison: Comparison, depth: int) -> Iterator[Difference]:
    if old == new or depth > _DEEPEST:
        return
    where = _INDEX.sub("[*]", path)
    if comparison.ignored and _is_ignored(where, comparison.ignored):
        return
    if isinstance(old, dict) and isinstance(new, dict):
        yield from _of_objects(old, new, path, comparison, depth)
    elif isinstance(old, list) and isinstance(new, list):
        yield from _of_lists(old, new, path, comparison, depth)
    elif _are_numbers(old, new):
        if not math.isclose(old, new, rel_tol=0.0, abs_tol=_tolerance(where, comparison.tolerances)):
            yield Difference(kind="number", where=where, old=masked_at(where, old), new=masked_at(where, new))
    else:
        kind = "value" if type(old) is type(new) else f"{_type(old)} → {_type(new)}"
        yield Difference(kind=kind, where=where, old=masked_at(where, old), new=masked_at(where, new))


def _of_objects(
    old: dict[str, Any], new: dict[str, Any], path: str, comparison: Comparison, depth: int
) -> Iterator[Difference]:
    for key in sorted(old.keys() | new.keys()):
        below = f"{path}.{key}"
        if key in new and key in old:
            yield from _of_json(old[key], new[key], below, comparison, depth + 1)
            continue
        where = _INDEX.sub("[*]", below)
        if not _is_ignored(where, comparison.ignored):
            yield Difference(kind="missing on the new side" if key in old else "only on the new side", where=where)


def _of_lists(old: list[Any], new: list[Any], path: str, comparison: Comparison, depth: int) -> Iterator[Difference]:
    where = _INDEX.sub("[*]", path)
    if len(old) != len(new):
        yield Difference(kind="number of items", where=where, old=str(len(old)), new=str(len(new)))
    elif _same_items(old, new):
        yield Difference(kind="order of items", where=where)
    else:
        for at, (left, right) in enumerate(zip(old, new, strict=True)):
            yield from _of_json(left, right, f"{path}[{at}]", comparison, depth + 1)


def _same_items(old: list[Any], new: list[Any]) -> bool:
    """Whether two lists of one length hold the same in another order. Most do not, and their first item says so already."""
    if any(all(each != other for other in new) for each in old[:1]):
        return False
    try:
        return sorted(map(_key, old)) == sorted(map(_key, new))
    except RecursionError:
        return False


def _key(value: Any) -> str:
    return json.dumps(value, sort_keys=True)


def _are_numbers(old: Any, new: Any) -> bool:
    return all(isinstance(each, int | float) and not isinstance(each, bool) for each in (old, new))


def _type(value: Any) -> str:
    names = {dict: "object", list: "list", str: "text", bool: "yes or no", int: "number", float: "number"}
    return names.get(type(value), "nothing")


@lru_cache(maxsize=2048)
def _pattern(path: str) -> re.Pattern[str]:
    """A path as a pattern: ``*`` stands for one key, ``[*]`` for any index, ``..`` for any depth."""
    written = (
        re.escape(path).replace(r"\[\*\]", r"\[\*\]").replace(r"\.\.", r"(?:[.\[].*)?\.").replace(r"\*", r"[^.\[]*")
    )
    written = written.replace(r"\[[^.\[]*\]", r"\[\*\]")
    return re.compile(rf"{written}(?:[.\[].*)?$")


def _is_ignored(where: str, ignored: Iterable[str]) -> bool:
    return any(_pattern(path).match(where) for path in ignored)


def _tolerance(where: str, tolerances: Mapping[str, float]) -> float:
    return next((each for path, each in tolerances.items() if _pattern(path).match(where)), 0.0)


def visible_text(body: bytes) -> list[str]:
    """What one reads on a page, a line a block, without what is not shown."""
    parser = etree.HTMLParser(huge_tree=False, encoding="utf-8", remove_comments=True, remove_pis=True)
    try:
        root = etree.fromstring(body, parser)
    except (etree.XMLSyntaxError, ValueError):
        root = None
    if root is None:
        return _lines(body)
    found: Any = _HIDDEN(root)
    for hidden in found:
        parent, tail = hidden.getparent(), hidden.tail
        if parent is None:
            return []
        before = hidden.getprevious()
        if tail and before is not None:
            before.tail = (before.tail or "") + tail
        elif tail:
            parent.text = (parent.text or "") + tail
        parent.remove(hidden)
    for block in root.iter(*_BLOCKS):
        block.text = f"\n{block.text or ''}"
        block.tail = f"\n{block.tail or ''}"
    text = "".join(str(part) for part in root.itertext())
    lines = (" ".join(line.split()) for line in text.split("\n"))
    return [line for line in lines if line]


def _lines(body: bytes) -> list[str]:
    return [" ".join(line.split()) for line in body.decode("utf-8", "replace").splitlines() if line.strip()]


def _of_text(old: list[str], new: list[str], comparison: Comparison) -> Iterator[Difference]:
    for pattern in comparison.ignored_text:
        old = [re.sub(pattern, "", line).strip() for line in old]
        new = [re.sub(pattern, "", line).strip() for line in new]
    old, new = [line for line in old if line], [line for line in new if line]
    if old == new:
        return
    at = next(
        (i for i, (left, right) in enumerate(zip(old, new, strict=False)) if left != right), min(len(old), len(new))
    )
    left, right = old[at] if at < len(old) else "", new[at] if at < len(new) else ""
    kind = "text" if left and right else "text missing on the new side" if left else "text only on the new side"
    yield Difference(kind=kind, where=_stem(masked(left or right)), old=masked(left[:120]), new=masked(right[:120]))


def _stem(line: str) -> str:
    """What two lines of one cause have in common: their words without figures, the first few."""
    return " ".join(re.sub(r"\d[\d.,:]*", "#", line).split()[:4])[:60]


def _digest(body: bytes) -> str:
    return f"{len(body)} bytes, {hashlib.sha256(body).hexdigest()[:12]}"
