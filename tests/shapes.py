"""A small project with one brush of every shape, for tests."""

from __future__ import annotations

import itertools

from tests.rooms import small_project, tile
from tests.voxel_rooms import isle
from topion.brushes import Panel, Ramp, Run, Trail
from topion.model.piece import Piece
from topion.model.solid import Block, block_ref
from topion.model.tileset import TileRef
from topion.scripting import RoomHandle
from topion.weaving.rules import Variant

NINE = ("nw", "nm", "ne", "mw", "mm", "me", "sw", "sm", "se")
WALL = Panel("Wall", {key: tile(n // 8, n % 8) for n, key in enumerate(NINE)})
BRICK = Panel("Brick", {"mm": tile(1, 2)}, inside=(Variant(tile(1, 3)), Variant(tile(1, 4), 2.0)))
PAVING = Panel("Paving", {"mm": tile(1, 2)}, pattern=((tile(2, 0), tile(2, 1), tile(2, 2)),
                                                      (tile(2, 3), tile(2, 4), tile(2, 5))))  # fmt: skip
PIPE = Run("Pipe", {"start": tile(3, 0), "middle": tile(3, 1), "end": tile(3, 2),
                    "alone": tile(3, 3)})  # fmt: skip
WALK = Trail("Walk", {"ew": tile(3, 4), "es": tile(3, 5), "e": tile(3, 6), "esw": tile(3, 7),
                      "nesw": tile(4, 0), "alone": tile(4, 1)})  # fmt: skip
QUAY = Ramp("Quay", {"slope 1": tile(4, 2), "slope 2": tile(4, 3), "fill": tile(4, 4),
                     "head": tile(4, 5), "foot": tile(4, 6)}, rise=1, run=2)  # fmt: skip
FLAT = (WALL, BRICK, PAVING, PIPE, WALK, QUAY)

_DEEP_TRAIL = ("ew", "es", "e", "esw", "nesw", "alone", "Ew")


def shape_room(size: tuple[int, int] = (24, 32)) -> RoomHandle:
    """A room of woven mud and water, and the brushes of FLAT."""
    project = small_project()
    for brush in FLAT:
        project.add_brush(brush)
    room = project.add_room("Yard", size, 4)
    room.lay("Mud", box=((0, 0), (size[0] - 1, size[1] - 1)))
    room.lay("Water", box=((3, 3), (9, 12)))
    return room


def deep_shape_room() -> RoomHandle:
    """A voxel room with a crate, a run, a trail and a ramp of blocks."""
    room = isle(ground=2)
    project = room.project
    for name in ("Run a", "Run b", "Run c", *(f"Way {key}" for key in _DEEP_TRAIL), "Up", "Full"):
        project.add_block(Block(name, "#808080"))
    project.add_brush(Run("Beam", {"start": block_ref("Run a"), "middle": block_ref("Run b"),
                                   "end": block_ref("Run c")}))  # fmt: skip
    project.add_brush(Trail("Pier", {key: block_ref(f"Way {key}") for key in _DEEP_TRAIL}))
    project.add_brush(Ramp("Bank", {"slope 1": block_ref("Up"), "fill": block_ref("Full")}))
    return room


def shown_refs(brush, piece: Piece) -> dict[tuple[int, ...], TileRef | None]:
    """What a piece shows by cell, by its own brush alone."""
    coded = brush.coded(piece)
    cells = itertools.product(*(range(side) for side in coded.codes.shape))
    return {
        tuple(a + b for a, b in zip(cell, coded.corner, strict=True)):
            brush.forms[int(coded.codes[cell]) - 1]
        for cell in cells if coded.codes[cell]
    }  # fmt: skip
