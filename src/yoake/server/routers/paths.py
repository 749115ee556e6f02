"""Routes of paths: the ways of one application, bent by a reader, taken, left, and written down."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from fastapi import Depends, Query, Request, Response
from pydantic import Field

from yoake.core.values.coordinates import Target, parse_coordinate, parse_target
from yoake.core.values.errors import BadInput
from yoake.core.values.journeys import Shape
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Problem, Version
from yoake.server.deps import ContextDep, Slug, VersionSeen, Who
from yoake.server.packed import packed
from yoake.usecases.adopt import adopt, leave
from yoake.usecases.keep_answers import answer
from yoake.views.adopted_path import Adoption, AdoptionChange
from yoake.views.path import path, path_json
from yoake.views.path_documents import write_path
from yoake.views.path_records import PathView

router = view_router(tags=["paths"])
_MOST = 60

Lines = Annotated[list[str] | None, Query(max_length=_MOST)]


def _shape(pins: list[str], avoid: list[str], order: list[str], out: list[str], dropped: list[str]) -> Shape:
    pairs = []
    for text in order:
        first, arrow, then = text.partition(">")
        if not arrow:
            raise BadInput(f"“{text}” is no order: write COORD>COORD, what arrives first in front.")
        pairs.append((parse_coordinate(first), parse_coordinate(then)))
    return Shape(
        _targets(pins),
        _targets(avoid),
        tuple(pairs),
        frozenset(parse_coordinate(c) for c in out),
        frozenset(parse_coordinate(c) for c in dropped),
    )


def _targets(texts: list[str]) -> tuple[Target, ...]:
    return tuple(parse_target(text) for text in texts)


async def shape_query(
    pin: Lines = None, avoid: Lines = None, order: Lines = None, out: Lines = None, drop: Lines = None
) -> Shape:
    """How a reader bends the search, from the query: lines as COORD@LINE, coordinates, and orders as COORD>COORD."""
    return _shape(pin or [], avoid or [], order or [], out or [], drop or [])


ShapeDep = Annotated[Shape, Depends(shape_query)]


class Taking(Body):
    """Which way a set of modules is put on: an objective or a strategy, as it was shaped."""

    set: str = Field("", max_length=1000)
    choice: str = Field(max_length=40)
    pin: list[str] = Field(default_factory=list, max_length=_MOST)
    avoid: list[str] = Field(default_factory=list, max_length=_MOST)
    order: list[str] = Field(default_factory=list, max_length=_MOST)
    out: list[str] = Field(default_factory=list, max_length=_MOST)
    drop: list[str] = Field(default_factory=list, max_length=_MOST)
    why: str = Field("", max_length=2000)
    version: Version | None = Field(
        None, description="The version of what was adopted when this was chosen, 0 for nothing."
    )


class PathConflict(Problem):
    """Somebody else adopted a path for these modules, or took it back; ``current`` is what is adopted now."""

    current: Adoption | None = None


class PathForm(StrEnum):
    """How a path is written down."""

    MERMAID = "mermaid"
    MARKDOWN = "markdown"
    CSV = "csv"
    JSON = "json"


_MEDIA = {
    PathForm.MERMAID: ("text/plain; charset=utf-8", "mmd"),
    PathForm.MARKDOWN: ("text/markdown; charset=utf-8", "md"),
    PathForm.CSV: ("text/csv; charset=utf-8", "csv"),
    PathForm.JSON: ("application/json", "json"),
}


@router.get("/applications/{slug}/path", response_model=PathView)
def get_path(
    slug: Slug,
    request: Request,
    context: ContextDep,
    shape: ShapeDep,
    of: Annotated[str | None, Query(alias="set", max_length=1000)] = None,
) -> PathView | Response:
    """The ways of one application, side by side and stage by stage. As nobody has shaped them they are kept."""
    if of is None and shape == Shape():
        return packed(request, answer(context, slug, "path", path_json), "application/json")
    return path(context, slug, of, shape)


@router.put("/applications/{slug}/path", responses={409: {"model": PathConflict}})
def put_path(slug: Slug, taking: Taking, context: ContextDep, who: Who) -> AdoptionChange:
    """Take a path: its stages become work. Answers with what was adopted before."""
    shape = _shape(taking.pin, taking.avoid, taking.order, taking.out, taking.drop)
    return adopt(
        context=context,
        slug=slug,
        set_name=taking.set,
        choice=taking.choice,
        shape=shape,
        who=who,
        why=taking.why,
        version=taking.version,
    )


@router.delete("/applications/{slug}/path", responses={409: {"model": PathConflict}})
def delete_path(
    slug: Slug,
    context: ContextDep,
    who: Who,
    of: Annotated[str, Query(alias="set", max_length=1000)] = "",
    version: VersionSeen = None,
) -> AdoptionChange:
    """Take an adopted path back. Answers with what it was."""
    return leave(context, slug, of, who, version)


@router.get("/applications/{slug}/path/written")
def get_written(
    slug: Slug,
    context: ContextDep,
    shape: ShapeDep,
    form: PathForm = PathForm.MARKDOWN,
    way: Annotated[str, Query(max_length=40)] = "work",
    of: Annotated[str | None, Query(alias="set", max_length=1000)] = None,
) -> Response:
    """One way (Mermaid, Markdown) or all of them (CSV, JSON), to keep or to send."""
    media, suffix = _MEDIA[form]
    body = write_path(context, slug, form.value, way, of, shape)
    name = f"{slug}-path.{suffix}"
    return Response(body, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})
