"""A small picture of what one Edit changed, whatever was done since."""

from __future__ import annotations

import numpy as np

from topion.brushes.kind import brush_or_none
from topion.errors import TopionError
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.records import CellsRecord
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.render.cards import card_picture
from topion.render.pixels import Words, as_rgba, lay_over, resized
from topion.render.scene import render_box
from topion.render.solid_scene import solid_bands

_MOST_CELLS = 200_000  # round what changed; of more, only the middle is shown
_AROUND = 2  # cells that are shown of the room as it is
_PALE = 0.55  # how much of the backdrop lies over them
_LIFTED = np.uint32(0xB0CF4A25)


def edit_picture(project: Project, edit: Edit, size: tuple[int, int]) -> Rgba | None:
    """(h, w, 4) what an Edit laid, over the room as it is now, which is pale; of a brush that was
    set, its card.  None for what cannot be seen."""
    room_name = next((d.room for d in edit.dirty() if d.room and d.layer), "")
    if not room_name or room_name not in project.rooms:
        return _card(project, edit)
    room = project.room(room_name)
    box = _box_of(edit, room)
    if box is None or not box.size:
        return None
    laid = _laid(project, room, edit, box)
    if room.info.axes == 3:
        return solid_bands(*laid, size=size).whole()
    return _flat(project, room, laid, edit, box, size)


def _card(project: Project, edit: Edit) -> Rgba | None:
    names = (d.name for d in edit.dirty() if d.shelf == "brushes")
    brush = next((b for n in names if (b := brush_or_none(project, n))), None)
    try:
        return None if brush is None else card_picture(project, brush)
    except TopionError:
        return None


def _box_of(edit: Edit, room: Room) -> Box | None:
    """Round what changed, in the cells of the room; not too large to be drawn."""
    axes, box = room.info.axes, None
    for dirty in edit.dirty():
        if dirty.room != room.info.name or dirty.box is None:
            continue
        own = dirty.box
        if len(own.lo) < axes:  # columns of a voxel room
            own = Box((0, *own.lo), (room.info.size[0], *own.hi))
        box = own if box is None else box.union(own)
    if box is None:
        return None
    box = box.grown(_AROUND).clipped(room.box)
    while box.size > _MOST_CELLS:
        axis = int(np.argmax(box.shape))
        cut = box.shape[axis] // 4
        lo, hi = list(box.lo), list(box.hi)
        lo[axis], hi[axis] = lo[axis] + cut, hi[axis] - cut
        box = Box(tuple(lo), tuple(hi))
    return box


def _laid(project: Project, room: Room, edit: Edit, box: Box) -> tuple[Project, Room]:
    """A scratch room as large as the box, in which lies what the Edit laid."""
    info = RoomInfo("scrap", box.shape, room.info.cell_px, theme=room.info.theme,
                    light=room.info.light)  # fmt: skip
    made = Room(info, order=room.order)
    for layer_id, layer in room.layers.items():
        made.layers[layer_id] = Layer.empty(layer.info, box.shape)
    back = tuple(-v for v in box.lo)
    for record in edit.records:
        if isinstance(record, CellsRecord) and record.room == room.info.name:
            _put_cells(made, record, box)
    for record in edit.records:
        for change in record.entries():
            layer_ = made.layers.get(change.layer)
            if change.room == room.info.name and layer_ is not None and change.after is not None:
                layer_.write_entries(change.table, {}, {change.number: change.after.shifted(back)})
    for layer_id, layer in made.layers.items():
        if layer.info.traits.worn and layer.planes:  # a tint is seen on what lies there
            made.info = RoomInfo("scrap", box.shape, room.info.cell_px, theme=room.info.theme,
                                 tint=layer_id, light=room.info.light)  # fmt: skip
            _put_ground(made, room, box)
    return project.scratch(Rooms([("scrap", made)])), made


def _put_cells(made: Room, record: CellsRecord, box: Box) -> None:
    layer = made.layers.get(record.layer)
    if layer is None:
        return
    cells = np.stack(np.unravel_index(record.cells, record.shape), axis=1)
    lo, hi = np.array(box.lo[-cells.shape[1] :]), np.array(box.hi[-cells.shape[1] :])
    inside = ((cells >= lo) & (cells < hi)).all(axis=1)
    at = tuple((cells[inside] - lo).T)
    for name, values in record.after.items():
        plane = layer.plane(name).copy()
        plane[at] = values[inside]
        layer.planes[name] = plane


def _put_ground(made: Room, room: Room, box: Box) -> None:
    for layer_id, layer in room.cell_layers():
        for name, plane in layer.planes.items():
            made.layers[layer_id].planes[name] = plane[box.slices].copy()


def _flat(
    project: Project, room: Room, laid: tuple[Project, Room], edit: Edit, box: Box,
    size: tuple[int, int],
) -> Rgba:  # fmt: skip
    height, width = size
    side = max(1, min(room.info.cell_px, height // box.shape[0], width // box.shape[1]))
    words = render_box(project, room, box, side)
    lay_over(words, np.full_like(words, 0xFF000000 | int(room.info.backdrop[1:], 16)), _PALE)
    own = Box.of_shape(box.shape)
    for layer_id, layer in laid[1].drawn():
        if not layer.is_empty:
            lay_over(words, render_box(*laid, own, side, layer_id), 1.0)
    lay_over(words, _lifted(edit, room, box, side))
    scale = min(height / words.shape[0], width / words.shape[1], 1.0)
    if scale < 1:
        words = resized(words, max(1, int(words.shape[0] * scale)),
                        max(1, int(words.shape[1] * scale)))  # fmt: skip
    return as_rgba(words)


def _lifted(edit: Edit, room: Room, box: Box, side: int) -> Words:
    """A wash over cells that were emptied."""
    gone = np.zeros(box.shape, bool)
    for record in edit.records:
        if not isinstance(record, CellsRecord) or record.room != room.info.name:
            continue
        for name in ("material", "density"):
            if name not in record.after:
                continue
            flat = record.cells[(record.after[name] == 0) & (record.before[name] > 0)]
            cells = np.stack(np.unravel_index(flat, record.shape), axis=1) - np.array(box.lo)
            inside = ((cells >= 0) & (cells < box.shape)).all(axis=1)
            gone[tuple(cells[inside].T)] = True
    wide = gone.repeat(side, axis=0).repeat(side, axis=1)
    alpha = int(_LIFTED) >> 24
    rgb = [(int(_LIFTED) >> shift & 255) * alpha // 255 for shift in (16, 8, 0)]
    word = np.uint32(alpha << 24 | rgb[0] << 16 | rgb[1] << 8 | rgb[2])
    return np.where(wide, word, 0).astype(np.uint32)
