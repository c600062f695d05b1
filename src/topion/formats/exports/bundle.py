"""The JSON bundle of the project."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.formats.bundle import bundle_bytes
from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project


class BundleExport(ExportKind):
    """One file with all of the library and the rooms."""

    kind: ClassVar[str] = "json"
    text: ClassVar[str] = "JSON bundle of the project"
    whole: ClassVar[bool] = True

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        yield f"{stem(project.name)}.json", bundle_bytes(project, rooms)
