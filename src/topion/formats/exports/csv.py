"""CSV of each layer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.formats.csv_layers import csv_files
from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.model.project import Project


class CsvExport(ExportKind):
    """A table of numbers a layer, and tables that tell what they mean."""

    kind: ClassVar[str] = "csv"
    text: ClassVar[str] = "CSV of each layer"

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        for name in rooms:
            yield from csv_files(project, project.rooms.passing(name))
