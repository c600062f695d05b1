"""A room as it would be after an Edit that is not on yet; what the ghost is drawn from."""

from __future__ import annotations

from dataclasses import replace

from topion.model.edit import CellsRecord, Edit, ItemRecord, Record, SealedCells, ThingsRecord
from topion.model.project import Project
from topion.model.room import Layer, Room


class Shadow:
    """Copies of the layers an Edit touches, so that it can be put on without touching the room.

    The copies are kept and put right again for the next Edit, until the room itself changes.
    """

    def __init__(self, project: Project, room_name: str) -> None:
        self._project, self._room_name = project, room_name
        self._copies: dict[str, tuple[int, Layer]] = {}
        self._on: list[Record] = []
        self.project = project
        self.room = project.room(room_name)

    def show(self, edit: Edit) -> None:
        """Let `project` and `room` stand as if `edit` had been put on."""
        for record in reversed(self._on):
            record.inverted().write(self.project)
        self._on = []
        real = self._project.room(self._room_name)
        touched = {
            record.layer
            for record in edit.records
            if isinstance(record, CellsRecord | SealedCells | ThingsRecord)
        }
        self.room = Room(real.info, dict(real.layers), real.order)
        for layer_id in touched & real.layers.keys():
            self.room.layers[layer_id] = self._copy(layer_id, real.layers[layer_id])
        derived = {k: v for k, v in self._project.derived.items() if k not in _OF_ROOMS}
        rooms = {**self._project.rooms, self._room_name: self.room}
        self.project = replace(self._project, rooms=rooms, derived=derived)
        items = [r for r in edit.records if isinstance(r, ItemRecord)]
        rest = [r for r in edit.records if not isinstance(r, ItemRecord)]
        for record in (*items, *rest):  # a new layer first, so that there is one to lay on
            record.write(self.project)
        self._on = [r for r in rest if r.dirty().layer in self._copies]

    def _copy(self, layer_id: str, real: Layer) -> Layer:
        known = self._copies.get(layer_id)
        if known is None or known[0] != real.revision:
            planes = {name: plane.copy() for name, plane in real.planes.items()}
            known = (real.revision, Layer(real.info, planes, dict(real.things)))
            self._copies[layer_id] = known
        known[1].info = real.info
        return known[1]


_OF_ROOMS = ("sowings",)
