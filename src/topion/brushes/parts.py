"""The parts of a composite prefab: a scrap that is shown as a small room, and read back from it."""

from __future__ import annotations

import numpy as np

from topion.brushes.marks import Place
from topion.brushes.scraps import cut_out
from topion.brushes.stamp import Stamp
from topion.brushes.stamped_entries import Copies
from topion.brushes.stamping import Laying, stamped
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.arrays import CellMask
from topion.grid.boxes import Box
from topion.model.layer import Layer, LayerInfo
from topion.model.prefab import WIDEST_FOOTPRINT, standing_cell
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.model.scrap import Scrap
from topion.things.ground import body_cells
from topion.weaving.settle import shown_tiles

PARTS = "parts"  # the name of the room
MARGIN = 2  # cells round the parts, in which more can be laid


def parts_project(project: Project, scrap: Scrap, cell_px: int) -> Project:
    """A scratch project of the same library with one room, in which a scrap lies with two empty
    cells round it and above it."""
    size = tuple(side + 2 * MARGIN for side in scrap.size)
    corner: tuple[int, ...] = (MARGIN,) * 2
    if scrap.axes == 3:
        size, corner = (size[0] - MARGIN, *size[1:]), (0, *corner)
    room = Room(RoomInfo(PARTS, size, cell_px, grows=True))
    for number, one in enumerate(scrap.layers or ()):
        name = f"{PARTS}{number}"
        room.layers[name] = Layer.empty(LayerInfo(one.name, one.kind, brush=one.brush), size)
    room.order = tuple(room.layers)
    made = project.scratch(Rooms([(PARTS, room)]))
    copies = Copies(scrap, np.array([corner], np.intp))
    for record in stamped(Place(made, PARTS), [copies], Laying(asks=False)).records:
        record.write(made)
    return made


def parts_of(project: Project, room: Room) -> Scrap | None:
    """All that lies in the room, cut as tightly as it lies; None where nothing does."""
    entries = {layer_id: (*layer.things, *layer.pieces) for layer_id, layer in room.bottom_up()}
    held = np.argwhere(filled_cells(project, room))
    area = None if not len(held) else Area.of_box(box_round(held))
    return cut_out(project, room, area, room.layers, entries)


def box_round(cells: np.ndarray) -> Box:
    """The smallest box that holds some cells."""
    return Box(tuple(cells.min(axis=0).tolist()), tuple((cells.max(axis=0) + 1).tolist()))


def filled_cells(project: Project, room: Room) -> CellMask:
    """Cells of a room in which a tile or a block lies or a thing stands."""
    axes = room.info.axes
    held = np.zeros(room.info.size, bool)
    for _, layer in room.bottom_up():
        if layer.info.traits.shows:
            held |= shown_tiles(project, layer) > 0
        for thing in layer.things.values():
            prefab = project.prefabs.get(thing.prefab)
            bare = [standing_cell(thing, axes)]
            cells = np.array(bare if prefab is None else body_cells(prefab, thing, axes))
            cells = cells[room.box.holds(cells)]
            held[tuple(cells.T)] = True
    return held


def footprint_of(held: CellMask) -> tuple[tuple[str, ...], tuple[int, int]]:
    """The cells that are held, seen from above, as a footprint, and (y, x) of the cell that is its
    bottom middle.

    Raises BadValue for none, and for more than a footprint can have.
    """
    cells = np.argwhere(held)
    if not len(cells):
        raise BadValue("the parts", "empty cells", "at least one cell or thing")
    box = box_round(cells)
    if max(box.shape) > WIDEST_FOOTPRINT:
        wanted = f"at most {WIDEST_FOOTPRINT} cells a side"
        raise BadValue("the parts", " × ".join(map(str, box.shape[::-1])), wanted)
    part: CellMask = held[box.slices]
    plan: CellMask = part if part.ndim == 2 else np.asarray(part.any(axis=0))
    rows = tuple("".join("#" if v else "." for v in row) for row in plan.tolist())
    return rows, (box.hi[-2] - 1, box.lo[-1] + (box.shape[-1] - 1) // 2)


def is_part_of_itself(project: Project, name: str, scrap: Scrap) -> bool:
    """Whether a prefab would stand among its own parts, or among those of one of its parts."""
    waiting, seen = [scrap], set[str]()
    while waiting:
        for layer in waiting.pop().layers:
            for prefab in {thing.prefab for thing in layer.things} - seen:
                seen.add(prefab)
                known = project.prefabs.get(prefab)
                brush = project.brushes.get(known.parts) if known and known.parts else None
                if isinstance(brush, Stamp) and brush.scrap is not None:
                    waiting.append(brush.scrap)
    return name in seen
