"""Routes of edits: asked for, looked at, downloaded as a patch, committed on a branch."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel, Field

from yoake.server.answers import view_router
from yoake.server.bodies import Body, Filled, Named
from yoake.server.deps import ContextDep, QueueDep, Slug, Who
from yoake.store.applications import get_application
from yoake.store.edits import EditRequest
from yoake.usecases.ask_edits import keys_of_scope, undo
from yoake.views.edits import EditsView, FileSides, edits, edits_patch, file_sides

router = view_router(prefix="/applications/{slug}/edits", tags=["edits"])

Scope = Annotated[
    str, Field(pattern=r"^(now|\d{1,4})$", description="“now” for what is safe today, or the number of a stage.")
]
FilePath = Annotated[str, Field(max_length=2000)]


class Asking(Body):
    """Which changes to propose."""

    scope: Scope = "now"


class Committing(Body):
    """Which of the proposed changes to commit, and where. ``keys``: the steps, ``left_out``: files that stay as they are."""

    scope: Scope = "now"
    branch: Annotated[Filled, Field(max_length=120)]
    keys: list[Named] = Field(min_length=1, max_length=5000)
    left_out: list[FilePath] = Field(default_factory=list, max_length=20_000)


class Undoing(Body):
    """Which commit of which branch to undo."""

    branch: Annotated[Filled, Field(max_length=120)]
    commit: Annotated[str, Field(pattern=r"^[0-9a-f]{40}([0-9a-f]{24})?$")]


class Undone(BaseModel):
    """The commit that undoes it."""

    commit: str


class EditsAsked(BaseModel):
    """The job that was asked for."""

    job: int


@router.get("")
def get_edits(slug: Slug, context: ContextDep) -> EditsView:
    """The newest proposal."""
    return edits(context, slug)


@router.post("", status_code=202)
def post_edits(slug: Slug, asking: Asking, context: ContextDep, queue: QueueDep, who: Who) -> EditsAsked:
    """Propose edits, each checked; nothing of the application is written."""
    application = get_application(context.db, slug)
    keys_of_scope(context, application, asking.scope)
    return EditsAsked(job=queue.ask_edits(application, EditRequest(asking.scope), who))


@router.get("/file")
def get_file(slug: Slug, path: Annotated[str, Query(max_length=2000)], context: ContextDep) -> FileSides:
    """One changed file, old beside new."""
    return file_sides(context, slug, path)


@router.get("/patch", response_class=Response, responses={200: {"content": {"text/x-diff": {}}}})
def get_patch(
    slug: Slug, context: ContextDep, left_out: Annotated[list[str] | None, Query(max_length=5000)] = None
) -> Response:
    """The proposal as a patch."""
    body = edits_patch(context, slug, frozenset(left_out or ()))
    return Response(
        body, media_type="text/x-diff", headers={"content-disposition": f'attachment; filename="{slug}.patch"'}
    )


@router.post("/branch", status_code=202)
def post_branch(slug: Slug, wanted: Committing, context: ContextDep, queue: QueueDep, who: Who) -> EditsAsked:
    """Commit steps on a new branch of the repository, through a work tree beside it."""
    application = get_application(context.db, slug)
    request = EditRequest(wanted.scope, tuple(wanted.keys), tuple(wanted.left_out), wanted.branch)
    return EditsAsked(job=queue.ask_edits(application, request, who))


@router.post("/undo")
def post_undo(slug: Slug, wanted: Undoing, context: ContextDep, who: Who) -> Undone:
    """Undo a step by a commit on top of its branch."""
    application = get_application(context.db, slug)
    return Undone(commit=undo(context, application, wanted.branch, wanted.commit, who))
