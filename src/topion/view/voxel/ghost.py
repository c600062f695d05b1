"""The ghost of a voxel room: chunks as they would be, and a wash over what would be laid."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from topion.brushes.gestures import Gesture
from topion.grid.boxes import Box
from topion.grid.meshing import Quads, mesh
from topion.model.edit import CellsRecord, Edit, ThingsRecord
from topion.model.prefab import Thing
from topion.model.room import Room
from topion.render.volume import block_layer, looks_in
from topion.things.verdict import Verdict
from topion.view.session import Hand, Session
from topion.view.table.ghost import PlannedGhost
from topion.view.voxel.chunks import Chunks, Meshed, meshed

MOST_CHUNKS = 12  # shown as they would be; a larger ghost is a wash alone
_LARGEST_WASH = 192  # cells a side


class Ghost(PlannedGhost):
    """edit : the plan.  chunks : those that would change.  laid, lifted : meshes of the cells
    that come and go, counted from `corner`.  things : that would come.  box : round all cells."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.clear()

    def clear(self) -> None:
        self.edit: Edit | None = None
        self.verdict: Verdict | None = None
        self.too_large = False
        self.chunks: list[Meshed] = []
        self.laid: Quads | None = None
        self.lifted: Quads | None = None
        self.corner = (0, 0, 0)
        self.box: Box | None = None
        self.things: list[Thing] = []
        self.gone: set[tuple[str, int]] = set()

    def show(self, hand: Hand, points: np.ndarray, gesture: Gesture, chunks: Chunks) -> None:
        """Plan for the pointer's way and mesh what of the room would change."""
        self.clear()
        session = self.session
        if not self.plan(hand, points, gesture) or self.edit is None:
            return
        here = [r for r in self.edit.records if getattr(r, "room", "") == session.room_name]
        cells = tuple(r for r in here if isinstance(r, CellsRecord) and len(r.shape) == 3)
        for record in here:
            if isinstance(record, ThingsRecord):
                self.things += record.after.values()
                self.gone |= {(record.layer, number) for number in record.before}
        if cells:
            self._show_cells(session.room, cells, chunks)

    def _show_cells(self, room: Room, records: tuple[CellsRecord, ...], chunks: Chunks) -> None:
        changed = Box((0, 0, 0), (0, 0, 0))
        for record in records:
            changed = changed.union(record.box())
        parts = chunks.touched(changed)
        if len(parts) <= MOST_CHUNKS:
            self.chunks = [meshed(chunks.project, room, part, records) for part in parts]
        layer = block_layer(room)
        coming, going = _cells(records, coming=True), _cells(records, coming=False)
        self.box = Box.of_cells(np.concatenate([coming, going]))
        if layer is None or max(self.box.shape, default=0) > _LARGEST_WASH:
            return
        self.corner = (self.box.lo[0], self.box.lo[1], self.box.lo[2])
        after, before = looks_in(layer, self.box, records), looks_in(layer, self.box)
        self.laid = _wash(coming, after, self.corner)
        self.lifted = _wash(going, before, self.corner)


def _cells(records: Iterable[CellsRecord], *, coming: bool) -> NDArray[np.intp]:
    """(n, 3) cells that are laid, or that are emptied; not those woven anew beside them."""
    found = [np.empty((0, 3), np.intp)]
    for record in records:
        if "material" in record.after:
            filled = record.after["material"] > 0
            emptied = ~filled & (record.before["material"] > 0)
            if coming:  # of the same material where others change beside: woven anew
                keep = filled & (record.after["material"] != record.before["material"])
            else:
                keep = emptied
        else:
            keep = np.full(len(record.cells), coming)
        flat = record.cells[keep]
        found.append(np.stack(np.unravel_index(flat, record.shape), axis=1))
    return np.concatenate(found)


def _wash(
    cells: NDArray[np.intp], looks: NDArray[np.uint16], corner: tuple[int, int, int]
) -> Quads | None:
    """The hull of some cells, whatever lies round them."""
    if not len(cells):
        return None
    full = np.zeros(tuple(side + 2 for side in looks.shape), np.uint16)
    full[tuple((cells - np.array(corner) + 1).T)] = 1
    plain = np.ones((2, 6), np.uint16)
    return mesh(full, plain, shaded=False)
