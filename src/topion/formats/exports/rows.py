"""Plain rows of the codes of tiles and of tints."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.formats.text_rows import tile_text, tint_text
from topion.model.project import Project


class RowsExport(ExportKind):
    """A text file a layer of tiles or blocks, and one a tint map."""

    kind: ClassVar[str] = "rows"
    text: ClassVar[str] = "Text rows of tiles and tints"

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        for name in rooms:
            room = project.rooms.passing(name)
            for layer_id, layer in room.bottom_up():
                at = f"{stem(name)}.{layer_id}"
                if layer.info.traits.shows:
                    yield f"{at}.tiles.txt", tile_text(project, room, layer).encode()
                elif layer.info.traits.worn:
                    yield f"{at}.tints.txt", tint_text(project, room, layer).encode()
