"""Small pictures of rooms, for lists and menus."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project
from topion.pictures.png import png_bytes
from topion.render.overview import overview

LONGEST_PX = 256


class ThumbnailExport(ExportKind):
    """A PNG of each room, seen from above, that is 256 px along its longer side."""

    kind: ClassVar[str] = "thumbnails"
    text: ClassVar[str] = "Thumbnail of the room"

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        for name in rooms:
            picture = overview(project, project.rooms.passing(name), LONGEST_PX)
            yield f"{stem(name)}.thumbnail.png", png_bytes(picture)
