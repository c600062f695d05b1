"""Things that are attached to a layer or to a piece, and move along with it."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.edit import Record
from topion.model.piece import Piece
from topion.model.prefab import Thing
from topion.model.records import entries_changed
from topion.model.room import Room

To = tuple[str, int]  # the id of a layer, and the number of a piece of it, or 0


def what_is_under(room: Room, thing: Thing) -> Iterator[tuple[To, Piece]]:
    """The pieces in whose box a thing stands or on which it stands, the uppermost first."""
    y, x = thing.cell
    level = [math.floor(thing.z + 0.5)] if room.info.axes == 3 else []
    below = (level[0] - 1, y, x) if level else (y + 1, x)
    cells: list[tuple[int, ...]] = [(*level, y, x), below]
    for layer_id, layer in reversed(room.bottom_up()):
        near = {
            n: p
            for cell in cells
            for n, p in layer.pieces_in(Box(cell, tuple(v + 1 for v in cell)))
        }
        for number, piece in sorted(near.items(), key=lambda e: (-e[1].order, -e[0])):
            yield (layer_id, number), piece


def curves_near(room: Room, thing: Thing) -> Iterator[To]:
    """The curves of a room, the nearest to a thing first."""
    at = thing.at[-room.info.axes :]
    away = {
        (layer_id, number): curve.line.nearest(at)[1]
        for layer_id, layer in room.bottom_up("things")
        for number, curve in layer.curves.items()
    }
    yield from sorted(away, key=lambda to: (away[to], to))


def words_of(room: Room, to: To | None) -> str:
    """What a thing is attached to, in words."""
    layer = room.layers.get(to[0]) if to is not None else None
    if to is None or layer is None:
        return "nothing"
    if not to[1]:
        return f"layer {layer.info.name}"
    if to[1] in layer.curves:
        return f"{layer.curves[to[1]].brush or 'curve'} {to[1]}"
    piece = layer.pieces.get(to[1])
    return f"{piece.brush} {to[1]}" if piece is not None else "a piece that is gone"


def check_attached(room: Room, to: To | None) -> None:
    """Raises BadValue for what is not there."""
    if to is None:
        return
    layer = room.layers.get(to[0])
    if layer is None or (to[1] and to[1] not in layer.pieces and to[1] not in layer.curves):
        raise BadValue("what a thing is attached to", to, "a layer, a piece or a curve of the room")


def carried(
    room: Room,
    after: Mapping[To, Piece],
    quarters: int = 0,
    without: Collection[To] = (),
) -> Iterator[Record]:
    """What brings things that are attached to pieces along with them.

    Along each axis a thing keeps its place from the edge that it is nearer to, so what stands at
    an end stays at that end.  after : pieces as they come to be.  quarters : by which each was
    turned clockwise about its middle.  without : things that stay.
    """
    if not after:
        return
    for layer_id, layer in room.bottom_up("things"):
        moved = {}
        for number, thing in layer.things.items():
            to = thing.attached
            if to is None or to not in after or (layer_id, number) in without:
                continue
            old = room.layers[to[0]].pieces[to[1]].box
            new = after[to].box
            there = _turned(thing, old, new, quarters) if quarters else _along(thing, old, new)
            if there != thing:
                moved[number] = there
        yield from entries_changed(room, layer_id, "things", moved)


def _along(thing: Thing, before: Box, after: Box) -> Thing:
    axes = len(before.lo)
    at = list(thing.at[-axes:])
    for axis, (lo, hi) in enumerate(zip(before.lo, before.hi, strict=True)):
        low = at[axis] - lo <= hi - 1 - at[axis]
        edges = (before.lo, after.lo) if low else (before.hi, after.hi)
        at[axis] = round(at[axis] + edges[1][axis] - edges[0][axis], 6)
    return _at(thing, at)


def _turned(thing: Thing, before: Box, after: Box, quarters: int) -> Thing:
    """About the middle of its piece, seen from above."""
    middle, there = (((box.lo[-2] + box.hi[-2] - 1) / 2, (box.lo[-1] + box.hi[-1] - 1) / 2)
                     for box in (before, after))  # fmt: skip
    y, x = thing.y - middle[0], thing.x - middle[1]
    for _ in range(quarters % 4):
        y, x = x, -y
    turned = replace(thing, turn=(thing.turn + 90 * quarters) % 360)
    return _at(turned, [thing.z, there[0] + y, there[1] + x])


def _at(thing: Thing, at: list[float]) -> Thing:
    *level, y, x = at
    return replace(thing, y=round(y, 6), x=round(x, 6), z=level[0] if level else thing.z)


def attached_to_layer(room: Room, layer_ids: tuple[str, ...], by: tuple[int, ...]
                      ) -> Iterator[Record]:  # fmt: skip
    """What brings things of other layers along, that are attached to one of these."""
    for layer_id, layer in room.bottom_up("things"):
        if layer_id not in layer_ids and not layer.info.locked:
            moved = {n: t.shifted(by) for n, t in layer.things.items()
                     if t.attached is not None and t.attached[0] in layer_ids}  # fmt: skip
            yield from entries_changed(room, layer_id, "things", moved)
