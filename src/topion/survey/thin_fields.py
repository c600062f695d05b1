"""Fields that sow far fewer things than wanted."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.field import Sows, field_of
from topion.things.sowings import sowing_of
from topion.weaving.looms import made_of

_ENOUGH = 0.8


class ThinFields(RoomCheck):
    """One finding a field layer."""

    name: ClassVar[str] = "thin field"
    about: ClassVar[str] = "fields far below their wanted count"
    reads: ClassVar[tuple[str, ...]] = ("prefabs", "tilesets", "blocks")

    def stamp(self, project: Project) -> object:
        fields = tuple(b.field for b in project.brushes.values() if isinstance(b, Sows))
        looms = made_of(project, "tiles"), made_of(project, "blocks")
        return super().stamp(project), fields, looms

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        for layer_id, layer in room.bottom_up("field"):
            field = field_of(project, layer)
            if field is None or not field.wanted:
                continue
            tally = sowing_of(project, room, layer_id).tally
            if tally.placed < _ENOUGH * field.wanted:
                why = ", ".join(f"{count} {reason}" for reason, count in tally.refused if count)
                sentence = f"{field.name} sows {tally.placed} of {field.wanted} wanted"
                told = f"{sentence}: {why}" if why else sentence
                yield Finding(self.name, told, room.info.name, layer_id)
