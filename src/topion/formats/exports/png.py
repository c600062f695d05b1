"""PNG pictures of rooms and of their layers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project
from topion.render.scene import room_bands


class PngExport(ExportKind):
    """Each room, and each layer of flat ones alone."""

    kind: ClassVar[str] = "png"
    text: ClassVar[str] = "PNG of the room and of each layer"
    scales: ClassVar[tuple[float, ...]] = (0.25, 0.5, 1.0, 2.0, 4.0)

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        for name in rooms:
            room = project.rooms.passing(name)
            yield f"{stem(name)}.png", room_bands(project, room, scale).png()
            for layer_id, _ in room.drawn() if room.info.axes == 2 else ():
                bands = room_bands(project, room, scale, layer_id)
                yield f"{stem(name)}.{layer_id}.png", bands.png()
