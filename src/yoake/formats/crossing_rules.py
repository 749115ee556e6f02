"""The file of rules that a gateway reads (docs/crossing.md): YAML, checked with all faults at once, written back with comments kept."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Final
from urllib.parse import urlsplit

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator
from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from yoake.core.crossing.rules import (
    Comparison,
    CrossingRules,
    FallBack,
    Limits,
    RouteRule,
    Session,
    Standing,
)
from yoake.core.values.errors import BadInput
from yoake.core.values.routes import Route, parameters

FORMAT: Final = "crossing/1"
_ROUTE: Final = re.compile(r"^([A-Z]{3,20}) (/\S*)$")
_LARGEST: Final = 5_000_000
_HEADER: Final = re.compile(r"^[0-9A-Za-z-]{1,100}$")
_COOKIE: Final = re.compile(r"^\w{1,100}$", re.ASCII)
_HOST: Final = re.compile(r"^https?://(?:[0-9A-Za-z.-]+|\[[0-9A-Fa-f:.]+\])(?::\d{1,5})?/?$")


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=False)


def _cookie(value: str) -> str:
    if not _COOKIE.match(value):
        raise ValueError(f"“{value}” is no name of a cookie: letters, digits and underscores")
    return value


class CompareBody(_Strict):
    """What counts as alike."""

    headers: list[str] | None = None
    ignore: list[str] = []
    tolerance: dict[str, Annotated[float, Field(ge=0, le=1e12)]] = {}
    ignore_text: list[str] = []

    @field_validator("ignore")
    @classmethod
    def _paths(cls, value: list[str]) -> list[str]:
        for each in value:
            if not each.startswith("$"):
                raise ValueError(f"“{each}” is no path into JSON: write it as $.name or $.items[*].name")
        return value

    @field_validator("ignore_text")
    @classmethod
    def _patterns(cls, value: list[str]) -> list[str]:
        for each in value:
            try:
                re.compile(each)
            except re.error as error:
                raise ValueError(f"“{each}” is no pattern: {error}") from error
        return value


class RouteBody(_Strict):
    """One route."""

    route: str
    stands: Standing
    share: Annotated[float, Field(ge=0, le=100)] | None = None
    safe: bool = False
    rest: list[str] = []
    compare: CompareBody | None = None

    @field_validator("route")
    @classmethod
    def _written(cls, value: str) -> str:
        if not _ROUTE.match(value):
            raise ValueError(f"“{value}” is no route: write it as GET /sailings/{{day}}, ANY for every method")
        return value

    @model_validator(mode="after")
    def _shares(self) -> RouteBody:
        if self.stands is Standing.SHARED and self.share is None:
            raise ValueError("a shared route says its share in percent")
        if self.stands is not Standing.SHARED and self.share is not None:
            raise ValueError("only a shared route has a share")
        names = parameters(self.route)
        for each in self.rest:
            if each not in names:
                raise ValueError(f"“{each}” is no parameter of {self.route}")
        return self


class SidesBody(_Strict):
    """The addresses of both sides."""

    old: str
    new: str

    @field_validator("old", "new")
    @classmethod
    def _address(cls, value: str) -> str:
        try:
            parts = urlsplit(value)
            known = _HOST.match(value) and parts.port != 0
        except ValueError:
            known = None
        if not known:
            raise ValueError(f"“{value}” is no address of a side: write http://host:port, without a path")
        return value.rstrip("/")

    @model_validator(mode="after")
    def _apart(self) -> SidesBody:
        if self.old == self.new:
            raise ValueError("both sides have the same address")
        return self


class LimitsBody(_Strict):
    """Seconds."""

    connect: Annotated[float, Field(gt=0, le=60)] = 2.0
    answer: Annotated[float, Field(gt=0, le=3600)] = 30.0


class FallBackBody(_Strict):
    """When a route goes back by itself."""

    errors: Annotated[float, Field(ge=0, le=1)] = 0.02
    slower: Annotated[float, Field(ge=1, le=100)] = 1.5
    least: Annotated[int, Field(ge=5, le=100_000)] = 50
    window: Annotated[int, Field(ge=10, le=100_000)] = 400


class TestersBody(_Strict):
    """How testers choose a side."""

    header: str = "x-crossing-side"
    cookie: str = "crossing_side"

    @field_validator("header")
    @classmethod
    def _header(cls, value: str) -> str:
        if not _HEADER.match(value):
            raise ValueError(f"“{value}” is no name of a header: letters, digits and dashes")
        return value.lower()

    @field_validator("cookie")
    @classmethod
    def _named(cls, value: str) -> str:
        return _cookie(value)


class SessionBody(_Strict):
    """How a log-in is checked."""

    login: str
    form: dict[str, str] = {}
    then: str

    @field_validator("login", "then")
    @classmethod
    def _written(cls, value: str) -> str:
        if not _ROUTE.match(value):
            raise ValueError(f"“{value}” is no request: write it as POST /login")
        return value


class RulesBody(_Strict):
    """The whole file."""

    yoake: str
    application: Annotated[str, Field(min_length=1, max_length=200)]
    sides: SidesBody
    routes: list[RouteBody]
    limits: LimitsBody = LimitsBody()
    fall_back: FallBackBody = FallBackBody()
    testers: TestersBody = TestersBody()
    caller_cookie: str = "crossing_caller"
    compare: CompareBody = CompareBody()
    record: str = "crossing-record"
    session: SessionBody | None = None

    @field_validator("caller_cookie")
    @classmethod
    def _named(cls, value: str) -> str:
        return _cookie(value)

    @field_validator("record")
    @classmethod
    def _folder(cls, value: str) -> str:
        if not re.match(r"^[\w-][\w.-]*$", value):
            raise ValueError(f"“{value}” is no name of a folder beside the rules")
        return value

    @field_validator("yoake")
    @classmethod
    def _format(cls, value: str) -> str:
        if value != FORMAT:
            raise ValueError(f"“{value}” is not known: this version reads {FORMAT}")
        return value

    @model_validator(mode="after")
    def _once(self) -> RulesBody:
        seen: set[str] = set()
        for each in self.routes:
            if each.route in seen:
                raise ValueError(f"{each.route} stands there twice")
            seen.add(each.route)
        return self


def read_rules(text: str) -> CrossingRules:
    """The rules of a file. Raises BadInput with everything that is wrong, each with its place."""
    if len(text) > _LARGEST:
        raise BadInput("the rules are larger than 5 MB")
    try:
        body = YAML(typ="safe").load(text)
    except (YAMLError, RecursionError, ValueError) as error:
        raise BadInput(f"the rules are no YAML: {' '.join(str(error).split())[:300]}") from error
    if not isinstance(body, dict):
        raise BadInput("the rules are no YAML mapping: they begin with “yoake: crossing/1”")
    try:
        read = RulesBody.model_validate(body)
    except ValidationError as error:
        faults = tuple(_told(each) for each in error.errors())
        raise BadInput("; ".join(faults), faults) from error
    return _rules(read)


def _told(fault: Mapping[str, Any]) -> str:
    where = ".".join(str(part + 1) if isinstance(part, int) else str(part) for part in fault["loc"])
    said = str(fault["msg"]).removeprefix("Value error, ")
    if fault["type"] == "extra_forbidden":
        said = "is no word of these rules"
    return f"{where}: {said}" if where else said


def _rules(read: RulesBody) -> CrossingRules:
    common = _comparison(read.compare, Comparison())
    return CrossingRules(
        application=read.application,
        old=read.sides.old,
        new=read.sides.new,
        routes=tuple(_rule(each, common) for each in read.routes),
        comparison=common,
        limits=Limits(connect=read.limits.connect, answer=read.limits.answer),
        fall_back=FallBack(
            errors=read.fall_back.errors,
            slower=read.fall_back.slower,
            least=read.fall_back.least,
            window=read.fall_back.window,
        ),
        tester_header=read.testers.header,
        tester_cookie=read.testers.cookie,
        caller_cookie=read.caller_cookie,
        record=read.record,
        session=Session(login=read.session.login, form=read.session.form, then=read.session.then)
        if read.session is not None
        else None,
    )


def _rule(each: RouteBody, common: Comparison) -> RouteRule:
    method, path = each.route.split(" ", 1)
    return RouteRule(
        route=Route(method=method, path=path, rest=frozenset(each.rest)),
        standing=each.stands,
        share=each.share or 0.0,
        safe=each.safe,
        comparison=_comparison(each.compare, common) if each.compare is not None else common,
    )


def _comparison(body: CompareBody, common: Comparison) -> Comparison:
    headers = tuple(name.lower() for name in body.headers) if body.headers is not None else common.headers
    return Comparison(
        headers=headers,
        ignored=(*common.ignored, *body.ignore),
        tolerances={**common.tolerances, **body.tolerance},
        ignored_text=(*common.ignored_text, *body.ignore_text),
    )


def new_rules(application: str, old: str, new: str) -> str:
    """A file to begin with, without any rule: every route is answered by the old side."""
    return "\n".join(
        [
            f"yoake: {FORMAT}",
            f"application: {application}",
            "sides:",
            f"  old: {old}",
            f"  new: {new}",
            "# Where each route stands: old, mirrored (answered by old, asked of new too), shared (a share of the callers), new.",
            "routes: []",
            "",
        ]
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """Where a route is to stand. ``safe``: None leaves what the file says of it."""

    route: Route
    standing: Standing
    share: float = 0.0
    safe: bool | None = None


def with_entries(text: str, entries: Iterable[Entry]) -> str:
    """The same file with some routes standing elsewhere; comments and order stay. A route without an entry gets one at the end."""
    body = _held(text)
    rows = body["routes"]
    known = {row.get("route"): row for row in rows}
    for entry in entries:
        name = written_name(entry.route)
        row = known.get(name)
        if row is None:
            row = known[name] = {"route": name}
            if entry.route.rest:
                row["rest"] = sorted(entry.route.rest)
            rows.fa.set_block_style()
            rows.append(row)
        _stand(row, entry)
    return _dumped(body)


def _stand(row: Any, entry: Entry) -> None:
    row["stands"] = str(entry.standing)
    row.pop("share", None)
    if entry.standing is Standing.SHARED:
        row["share"] = int(entry.share) if float(entry.share).is_integer() else entry.share
    if entry.safe is not None:
        row.pop("safe", None)
    if entry.safe:
        row["safe"] = True


def written_name(route: Route) -> str:
    """A route as rules name it; a websocket begins with a GET."""
    return f"{'GET' if route.method == 'WEBSOCKET' else route.method} {route.path}"


def with_sides(text: str, old: str | None, new: str | None) -> str:
    """The same file with other addresses."""
    if not old and not new:
        return text
    body = _held(text)
    if old:
        body["sides"]["old"] = old
    if new:
        body["sides"]["new"] = new
    return _dumped(body)


def _yaml() -> YAML:
    yaml = YAML(typ="rt")
    yaml.preserve_quotes = True
    yaml.width = 4096
    return yaml


def _held(text: str) -> Any:
    try:
        body = _yaml().load(text)
        if isinstance(body["routes"], list):
            return body
    except (YAMLError, KeyError, TypeError) as error:
        raise BadInput(f"the rules are no YAML that can be changed: {' '.join(str(error).split())[:200]}") from error
    raise BadInput("the rules have no list of routes")


def _dumped(body: Any) -> str:
    out = io.StringIO()
    _yaml().dump(body, out)
    return out.getvalue()
