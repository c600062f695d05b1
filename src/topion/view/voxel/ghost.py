"""The ghost of a voxel room: chunks as they would be, and a wash over what would be laid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from topion.brushes.gestures import Gesture
from topion.grid.boxes import Box
from topion.grid.meshing import Quads, mesh
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.render.volume import block_layer
from topion.things.verdict import Verdict
from topion.view.hands import Hand
from topion.view.session import Session
from topion.view.table.ghost import PlannedGhost
from topion.view.voxel.chunks import Chunks, Meshed, meshed
from topion.weaving.settle import shown_materials

MOST_CHUNKS = 12  # shown as they would be; a larger ghost is a wash alone
LARGEST_WASH = 192  # cells a side


class Ghost(PlannedGhost):
    """edit : the plan.  chunks : those that would change.  laid, lifted : meshes of the cells
    that come and go, counted from `corner`.  things : that would come.  box : round all cells."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.clear()

    def clear(self) -> None:
        """Show nothing, hold nothing."""
        self.edit: Edit | None = None
        self.verdict: Verdict | None = None
        self.too_large, self.large, self.grown = False, None, None
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
        if self.plan(hand, points, gesture) and self.edit is not None:
            self._show(self.edit, chunks)

    def show_edit(self, edit: Edit, chunks: Chunks) -> None:
        """Mesh what an Edit planned elsewhere would change."""
        self.clear()
        if edit:
            self.edit = edit
            self._show(edit, chunks)

    def _show(self, edit: Edit, chunks: Chunks) -> None:
        for record in edit.records:
            for change in record.entries():
                if change.table != "things":
                    continue
                if change.after is not None:
                    self.things.append(change.after)
                if change.before is not None:
                    self.gone.add((change.layer, change.number))
        changed = self.changed_box(edit, 3, cells=True)
        shift = self.shift()
        if self.grown is not None:
            self.things = [thing.shifted(tuple(-v for v in shift)) for thing in self.things]
            self.gone.clear()
        changed = changed.clipped(self.shadow().room.box)
        if changed.size:
            self._show_cells(changed, shift, chunks)

    def _show_cells(self, changed: Box, shift: tuple[int, ...], chunks: Chunks) -> None:
        """changed : in the room as it will be, which lies so much further."""
        shadow = self.shadow()
        if self.grown is None:
            parts = chunks.touched(changed)
            if len(parts) <= MOST_CHUNKS:
                self.chunks = [meshed(shadow.project, shadow.room, part) for part in parts]
        before, after = block_layer(self.session.room), block_layer(shadow.room)
        if before is None or after is None:
            return
        coming, going = _moved((self.session.project, before), (shadow.project, after), changed,
                               shift)  # fmt: skip
        self.box = Box.of_cells(np.concatenate([coming, going]))
        if max(self.box.shape, default=0) > LARGEST_WASH:
            return
        self.corner = (self.box.lo[0], self.box.lo[1], self.box.lo[2])
        self.laid = wash(coming, self.box)
        self.lifted = wash(going, self.box)


def _moved(
    before: tuple[Project, Layer],
    after: tuple[Project, Layer],
    box: Box,
    shift: tuple[int, ...],
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """(n, 3) cells of `box` that are laid, and those that are emptied; not those woven anew
    beside them.  shift : how much further the cells after lie; what is told lies as before."""
    back = box.shifted(tuple(-v for v in shift))
    known = back.clipped(Box.of_shape(before[1].size))
    old, old_pinned = np.zeros(box.shape, np.uint16), np.zeros(box.shape, np.uint16)
    if known.size:
        inner = known.slices_from(back.lo)
        old[inner] = shown_materials(*before, known)
        old_pinned[inner] = before[1].plane("pinned")[known.slices]
    new = shown_materials(*after, box)
    pinned = old_pinned != after[1].plane("pinned")[box.slices]
    laid = (new > 0) & ((new != old) | pinned)
    emptied = (new == 0) & (old > 0)
    corner = np.array(back.lo)
    return np.argwhere(laid) + corner, np.argwhere(emptied) + corner


def wash(cells: NDArray[np.intp], box: Box) -> Quads | None:
    """The hull of some cells within `box`, whatever lies round them."""
    if not len(cells):
        return None
    full = np.zeros(tuple(side + 2 for side in box.shape), np.uint16)
    full[tuple((cells - np.array(box.lo) + 1).T)] = 1
    plain = np.ones((2, 6), np.uint16)
    return mesh(full, plain, shaded=False)
