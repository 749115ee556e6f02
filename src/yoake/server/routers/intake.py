"""Routes that take applications in: preview, store, upload."""

from __future__ import annotations

from typing import Annotated

from fastapi import UploadFile
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from yoake.formats.tables import ApplicationRow, read_applications_csv
from yoake.server.answers import view_router
from yoake.server.bodies import Body, Named, storable
from yoake.server.deps import ContextDep, QueueDep, Who
from yoake.store.applications import application_by_id
from yoake.usecases.take_in import Candidate, candidates_from_folder, keep_upload, preview, take_in

router = view_router(prefix="/intake", tags=["intake"])


class PreviewRequest(Body):
    """One source, a folder of repositories, or a pasted list; ``destination`` is for rows that name none."""

    source: str = Field("", max_length=2000)
    ref: str = Field("", max_length=200)
    subfolder: str = Field("", max_length=1000)
    name: str = Field("", max_length=200)
    owner: str = Field("", max_length=120)
    team: str = Field("", max_length=120)
    folder: str = Field("", max_length=2000)
    csv: str = Field("", max_length=2_000_000)
    destination: str = Field("", max_length=400)


class Preview(BaseModel):
    """What would be taken in."""

    candidates: list[Candidate]
    faults: int


class Given(BaseModel):
    """One application to take in. What else a preview says of it (its kind, its faults) is found out again."""

    model_config = ConfigDict(extra="ignore")

    number: int = Field(0, ge=0, le=1_000_000)
    name: Named = ""
    source: Annotated[str, Field(max_length=2000), AfterValidator(storable)]
    ref: Annotated[str, Field(max_length=200), AfterValidator(storable)] = ""
    subfolder: Annotated[str, Field(max_length=1000), AfterValidator(storable)] = ""
    owner: Named = ""
    team: Named = ""
    destination: Annotated[str, Field(max_length=400), AfterValidator(storable)]

    def row(self) -> ApplicationRow:
        """As a row of a list."""
        return ApplicationRow(
            number=self.number,
            name=self.name,
            source=self.source,
            ref=self.ref,
            subfolder=self.subfolder,
            owner=self.owner,
            team=self.team,
            destination=self.destination,
        )


class TakeIn(Body):
    """The candidates to store, as the preview gave them or as they were edited."""

    candidates: list[Given] = Field(min_length=1, max_length=5000)
    look_up: bool = Field(
        False,
        description="Also ask the package clients for packages that no record is known of: their names leave this machine.",
    )


class Taken(BaseModel):
    """What was stored, and the jobs that were asked for: scans, and packages to look up."""

    slugs: list[str]
    jobs: list[int]


class Uploaded(BaseModel):
    """Where an uploaded archive lies, to be given as a source."""

    source: str


@router.post("/preview")
def post_preview(request: PreviewRequest, context: ContextDep) -> Preview:
    """Every row with its faults; nothing is stored."""
    if request.csv.strip():
        rows = read_applications_csv(request.csv)
    elif request.folder.strip():
        rows = candidates_from_folder(request.folder.strip(), context.ecosystems, context.allowed)
    else:
        one = request
        rows = [
            ApplicationRow(
                number=1,
                name=one.name,
                source=one.source.strip(),
                ref=one.ref.strip(),
                subfolder=one.subfolder.strip("/ "),
                owner=one.owner,
                team=one.team,
            )
        ]
    found = preview(context, rows, request.destination)
    return Preview(candidates=found, faults=sum(len(c.faults) for c in found))


@router.post("")
def post_intake(request: TakeIn, context: ContextDep, queue: QueueDep, who: Who) -> Taken:
    """Store all candidates or none, and scan them."""
    added = [
        application_by_id(context.db, number)
        for number in take_in(context, [given.row() for given in request.candidates], who)
    ]
    jobs = queue.ask(added, who)
    if request.look_up:
        jobs += queue.ask_look_up(added, who)
    return Taken(slugs=[a.slug for a in added], jobs=jobs)


@router.post("/upload")
def post_upload(file: UploadFile, context: ContextDep) -> Uploaded:
    """Keep a zip or tar to be scanned."""
    return Uploaded(source=keep_upload(context, file.filename or "", file.file))
