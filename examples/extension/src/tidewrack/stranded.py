"""A check: things that stand in the water although they cannot float."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from tidewrack.shore import cells_of
from topion.model.project import Project
from topion.model.room import Room
from topion.survey import Finding
from topion.survey.check import RoomCheck


class Stranded(RoomCheck):
    """One finding for each."""

    name: ClassVar[str] = "stranded"
    about: ClassVar[str] = "things in the water that do not float"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "materials")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        if room.info.axes != 2:
            return
        water = cells_of(project, room, "Water")
        for layer_id, layer in room.bottom_up("things"):
            for number, thing in layer.things.items():
                y, x = thing.cell
                inside = 0 <= y < water.shape[0] and 0 <= x < water.shape[1]
                prefab = project.prefabs.get(thing.prefab)
                if inside and water[y, x] and prefab is not None and not prefab.floats:
                    yield Finding(self.name, f"{thing.prefab} stands in the water and cannot float",
                                  room.info.name, layer_id, (y, x), number)  # fmt: skip
