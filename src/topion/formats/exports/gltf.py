"""glTF of voxel rooms."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.errors import BadValue
from topion.formats.exports.kind import ExportKind
from topion.formats.gltf import gltf_bytes
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project


class GltfExport(ExportKind):
    """A binary file for each voxel room among the rooms."""

    kind: ClassVar[str] = "gltf"
    text: ClassVar[str] = "glTF of the room"

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        count = 0
        for name in rooms:
            room = project.rooms.passing(name)
            if room.info.axes == 3:
                count += 1
                yield f"{stem(name)}.glb", gltf_bytes(project, room)
        if not count:
            raise BadValue("the rooms for glTF", ", ".join(rooms), "voxel rooms")

    def suits(self, project: Project, room: str) -> bool:
        return project.room(room).info.axes == 3
