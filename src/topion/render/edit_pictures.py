"""A small picture of what one Edit changed, whatever was done since.

The Edit is laid in an empty room, and its opposite in another: what lies in the first is what it
laid, and what lies only in the second is what it took away.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from topion.brushes.kind import brush_or_none
from topion.errors import TopionError
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.edit import Edit, Record
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.model.rooms import Rooms
from topion.render.cards import card_picture
from topion.render.pixels import Words, as_rgba, lay_over, resized
from topion.render.scene import render_box
from topion.render.solid_scene import solid_bands

_MOST_CELLS = 200_000  # round what changed; of more, only the middle is shown
_AROUND = 2  # cells that are shown of the room as it is
_PALE = 0.55  # how much of the backdrop lies over them
_GONE_RGBA = (0xCF, 0x4A, 0x25, 0xB0)


def edit_picture(project: Project, edit: Edit, size: tuple[int, int]) -> Rgba | None:
    """(h, w, 4) what an Edit laid, over the room as it is now, which is pale; of a brush that was
    set, its card.  None for what cannot be seen."""
    name = next((d.room for d in edit.dirty() if d.room and d.layer), "")
    if not name or name not in project.rooms:
        return _card(project, edit)
    room = project.room(name)
    box = _box_of(edit, room)
    if box is None or not box.size:
        return None
    after = _laid_alone(project, room, edit.records)
    if room.info.axes == 3:
        return solid_bands(*_cropped(after, box), size=size).whole()
    before = _laid_alone(project, room, edit.inverted().records)
    return _flat(project, room, box, (after, before), size)


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


_Scratch = tuple[Project, Room]


def _laid_alone(project: Project, room: Room, records: Iterable[Record]) -> _Scratch:
    """The records laid in an empty room of the same name, with the ground below its tints."""
    made = Room(room.info, order=room.order)
    for layer_id, layer in room.layers.items():
        made.layers[layer_id] = Layer.empty(layer.info, room.info.size, room.info.origin)
    scratch = project.scratch(Rooms([(room.info.name, made)]))
    for record in records:
        there = record.onto(scratch) if record.dirty().box is not None else None
        if there is not None:
            there.write(scratch)
    tinted = next((i for i, layer in made.tint_maps() if not layer.is_empty), "")
    made.info = replace(room.info, tint=tinted)
    if tinted:  # a tint is seen on what lies there
        for layer_id, layer in room.cell_layers():
            made.layers[layer_id] = layer.frozen()
    return scratch, made


def _cropped(scratch: _Scratch, box: Box) -> _Scratch:
    """What lies in a box of a voxel room, as a room of its own."""
    project, room = scratch
    made = Room(replace(room.info, size=box.shape, origin=()), order=room.order)
    back = tuple(-v for v in box.lo)
    for layer_id, layer in room.layers.items():
        own = Layer.empty(layer.info, box.shape)
        for name, plane in layer.planes.items():
            part = Box(box.lo[-plane.ndim :], box.hi[-plane.ndim :])
            own.planes[name] = plane[part.slices].copy()
        for table, entries in layer.tables.items():
            own.write_entries(table, {}, {n: e.shifted(back) for n, e in entries.items()})
        made.layers[layer_id] = own
    return project.scratch(Rooms([(room.info.name, made)])), made


def _flat(
    project: Project, room: Room, box: Box, sides: tuple[_Scratch, _Scratch], size: tuple[int, int]
) -> Rgba:
    """sides : what was laid, and what was taken away."""
    height, width = size
    side = max(1, min(room.info.cell_px, height // box.shape[0], width // box.shape[1]))
    words = render_box(project, room, box, side)
    lay_over(words, np.full_like(words, 0xFF000000 | int(room.info.backdrop[1:], 16)), _PALE)
    after, before = sides
    for layer_id, layer in after[1].drawn():
        if not layer.is_empty:
            lay_over(words, render_box(*after, box, side, layer_id), 1.0)
    lay_over(words, _gone(after[1], before[1], box, side))
    scale = min(height / words.shape[0], width / words.shape[1], 1.0)
    if scale < 1:
        words = resized(words, max(1, int(words.shape[0] * scale)),
                        max(1, int(words.shape[1] * scale)))  # fmt: skip
    return as_rgba(words)


def _gone(after: Room, before: Room, box: Box, side: int) -> Words:
    """A wash over cells in which nothing lies any more."""
    gone = np.zeros(box.shape, bool)
    for layer_id, layer in before.drawn():
        for name in ("material", "density"):
            if name in layer.planes and not after.info.tint:
                now = after.layers[layer_id].plane(name)[box.slices]
                gone |= (layer.plane(name)[box.slices] > 0) & (now == 0)
    red, green, blue, alpha = _GONE_RGBA
    parts = (alpha, *(value * alpha // 255 for value in (red, green, blue)))
    word = sum(value << shift for value, shift in zip(parts, (24, 16, 8, 0), strict=True))
    wide = gone.repeat(side, axis=0).repeat(side, axis=1)
    return np.where(wide, np.uint32(word), np.uint32(0))
