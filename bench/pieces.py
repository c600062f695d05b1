"""Anchor 14: a pull of one of ten thousand pieces settles only what it touches."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from bench.ratio import Ratio, compared, timed
from topion.brushes import Panel
from topion.brushes.shape import ShapeKind
from topion.edit.pieces import Pick, pulled
from topion.model.edit import Edit
from topion.model.picture import Picture
from topion.model.piece import Piece
from topion.model.records import entries_changed
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.render.shadow import Shadow
from topion.scripting import RoomHandle, new
from topion.weaving.looms import loom_of
from topion.weaving.settle import settled, shown_tiles

_SIDE = 1024
_NINE = ("nw", "nm", "ne", "mw", "mm", "me", "sw", "sm", "se")


def _sheet() -> Picture:
    rng = np.random.default_rng(2)
    return picture_of(rng.integers(1, 256, (48, 48, 4)).astype(np.uint8))


def room_of_pieces(count: int) -> RoomHandle:
    """A room with so many panels of 6 to 13 cells a side, strewn over it."""
    project = new(None, "Pieces")
    project.add_tileset(TileSet("s", _sheet(), Cut((16, 16))))
    parts = {key: TileRef("s", f"{n // 3},{n % 3}") for n, key in enumerate(_NINE)}
    project.add_brush(Panel("Wall", parts))
    room = project.add_room("Yard", (_SIDE, _SIDE))
    rng = np.random.default_rng(count)
    corners = rng.integers(0, _SIDE - 14, (count, 2))
    sizes = rng.integers(5, 13, (count, 2))
    pieces = {
        n: Piece("Wall", (tuple(lo), tuple(hi)), order=float(n))
        for n, (lo, hi) in enumerate(
            zip(corners.tolist(), (corners + sizes).tolist(), strict=True), 1
        )
    }
    project.history.apply(Edit("Lay", entries_changed(room.data, "ground", "pieces", pieces)))
    shown_tiles(project.data, room.data.layers["ground"])
    return room


def pointer_move(room: RoomHandle, number: int) -> Callable[[], object]:
    """What one move of the pointer takes while a corner is pulled: plan, lay on, settle."""
    project = room.project.data
    piece = room.data.layers["ground"].pieces[number]
    brush = project.brushes["Wall"]
    assert isinstance(brush, ShapeKind)
    handle, shadow, turn = brush.handles(piece)[-1], Shadow(project, "Yard"), [0]

    def move() -> object:
        turn[0] += 1
        by = (turn[0] % 3 + 1, turn[0] % 2 + 1)
        edit = pulled(project, "Yard", Pick("ground", number), handle, by)
        shadow.show(edit)
        (dirty,) = edit.dirty()
        assert dirty.box is not None
        return shown_tiles(shadow.project, shadow.room.layers["ground"], dirty.box)

    move()
    return move


def ratios() -> Iterator[Ratio]:
    many, one = room_of_pieces(10_000), room_of_pieces(1)
    number = 5_000
    layer = one.data.layers["ground"]
    piece = layer.pieces[1]
    box = piece.touched.grown(2).clipped(one.data.box)
    loom = loom_of(one.project.data)
    yield compared(
        "14  pull one of 10,000 pieces, a pointer move / compile it alone",
        pointer_move(many, number),
        lambda: settled(one.project.data, loom, layer, box),
        3,
        rounds=15,
        times=20,
    )
    few = room_of_pieces(100)
    times = [
        min(timed(move) for _ in range(60))
        for move in (pointer_move(many, number), pointer_move(few, 50))
    ]
    yield Ratio("14  a pointer move among 10,000 / among 100", times[0] / times[1], 1.5, *times)
