"""How records are written as JSON and read back: one way for all of them, checked against their types."""

from __future__ import annotations

from typing import Any, Final, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError

from yoake.core.values.errors import BadRecords
from yoake.core.values.findings import Finding, PackageState, ScanSummary
from yoake.core.values.journeys import ModuleSet, Shape
from yoake.core.values.modules import ModuleOutline
from yoake.core.values.plans import Plan

Record = TypeVar("Record")


class Codec(Generic[Record]):
    """JSON of one type of record. What was written by an older version reads too, where every new field has a default."""

    def __init__(self, kind: Any, name: str) -> None:
        self._adapter: TypeAdapter[Record] = TypeAdapter(kind)
        self._name = name

    def write(self, record: Record) -> str:
        """The record as JSON text."""
        return self._adapter.dump_json(record).decode()

    def read(self, text: str) -> Record:
        """The record of a JSON text. Raises BadRecords when it is none."""
        try:
            return self._adapter.validate_json(text)
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(map(str, first["loc"])) or "its beginning"
            raise BadRecords(
                f"A stored {self._name} cannot be read ({where}: {first['msg']}). Scan the application again, or put a backup back."
            ) from error

    def plain(self, record: Record) -> Any:
        """The record as dicts, lists, texts and numbers."""
        return self._adapter.dump_python(record, mode="json")


PLAN: Final[Codec[Plan]] = Codec(Plan, "plan")
SHAPE: Final[Codec[Shape]] = Codec(Shape, "shape of a path")
FINDING: Final[Codec[Finding]] = Codec(Finding, "finding")
PACKAGE: Final[Codec[PackageState]] = Codec(PackageState, "package")
MODULE_SET: Final[Codec[ModuleSet]] = Codec(ModuleSet, "set of modules")
MODULE: Final[Codec[ModuleOutline]] = Codec(ModuleOutline, "module")
SUMMARY: Final[Codec[ScanSummary]] = Codec(ScanSummary, "summary of a scan")
TEXTS: Final[Codec[tuple[str, ...]]] = Codec(tuple[str, ...], "list of texts")
