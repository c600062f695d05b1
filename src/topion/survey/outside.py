"""Things that reach beyond their room, and pieces that lie wholly outside it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.edit.picked import Picks, removed
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.prefab import Stance, standing_cell, turned_offsets
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding
from topion.things.ground import WIDEST_BODY
from topion.things.standing import body_reach


class Outside(RoomCheck):
    """One finding a thing or piece."""

    name: ClassVar[str] = "outside"
    fixing: ClassVar[str] = "take it away"
    about: ClassVar[str] = "things and pieces that reach beyond their room"
    reads: ClassVar[tuple[str, ...]] = ("prefabs",)

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        for layer_id, layer in room.bottom_up("things"):
            for number in _reaching_out(project, room, layer):
                thing = layer.things[number]
                cell = standing_cell(thing, room.info.axes)
                sentence = f"{thing.prefab} reaches beyond the room"
                yield Finding(self.name, sentence, room.info.name, layer_id, cell, number)
        for layer_id, layer in room.cell_layers():
            for number, piece in layer.pieces.items():
                if not piece.box.meets(room.box):
                    inner = np.clip(piece.box.lo, 0, np.array(room.info.size) - 1)
                    cell = tuple(int(v) for v in inner)
                    sentence = f"a piece of {piece.brush} lies outside the room"
                    yield Finding(self.name, sentence, room.info.name, layer_id, cell, piece=number)

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        number = finding.thing if finding.thing is not None else finding.piece
        if number is None:
            return None
        return removed(project, finding.room, Picks((Pick(finding.layer, number),)))


def _reaching_out(project: Project, room: Room, layer: Layer) -> list[int]:
    """Numbers of things some of whose cells are not in the room, rising."""
    axes, inner = room.info.axes, room.box.grown(-WIDEST_BODY)
    numbers, at = layer.positions()
    near = np.flatnonzero(~inner.holds(np.floor(at[:, -axes:]).astype(np.intp)))
    groups: dict[Stance, list[int]] = {}
    for row in near.tolist():
        thing = layer.things[int(numbers[row])]
        groups.setdefault(thing.stance, []).append(row)
    found: list[int] = []
    for (name, turn, mirrored, tip), rows in groups.items():
        prefab = project.prefabs.get(name)
        offsets = np.zeros((1, axes), np.intp)
        if prefab is not None:
            offsets = turned_offsets(prefab, turn, mirrored, axes, tip)
        lo, hi = body_reach(at[rows][:, -axes:], offsets)
        out = (lo < np.array(room.box.lo)) | (hi >= np.array(room.box.hi))
        found += numbers[np.array(rows)[out.any(axis=(1, 2))]].tolist()
    return sorted(found)
