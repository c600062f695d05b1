"""Small voxel rooms of plain blocks for tests."""

from __future__ import annotations

import numpy as np

from tests.rooms import planes
from topion.brushes import Crate, FieldBrush, Mosaic, Sculpt, Sown, ThingsBrush, Weave
from topion.model.prefab import Prefab
from topion.model.solid import Block, VoxelModel, block_ref
from topion.render.portraits import model_prefab
from topion.scripting import ProjectHandle, RoomHandle, new
from topion.things.rules import Headroom, LevelFooting, On
from topion.weaving.rules import ANY, OPEN, Rule, RuleBook, Variant

ANYTHING = ((ANY,) * 3,) * 3
OPEN_ABOVE = ((ANY,) * 3, (ANY, OPEN, ANY), (ANY,) * 3)
DROP_EAST = ((ANY,) * 3, (ANY, ANY, OPEN), (ANY,) * 3)
COLOURS = {
    "Earth": "#94744e", "Top": "#b08a5c", "Edge": "#7f8a4a", "Stone a": "#9a978b",
    "Stone b": "#85827a", "Corner": "#ffffff", "Side": "#d8d2c4", "Lid": "#e4dccb",
    "Fill": "#777777", "Pool": "#3b7f88",
}  # fmt: skip


def only(*names: str) -> tuple[Variant, ...]:
    return tuple(Variant(block_ref(name)) for name in names)


def earth_book() -> RuleBook:
    """Edges turned to face the drop, tops where it is open above, else plain."""
    return RuleBook(
        (
            Rule("edge", DROP_EAST, only("Edge"), turned=True, above=OPEN_ABOVE),
            Rule("top", ANYTHING, only("Top"), above=OPEN_ABOVE),
            Rule("inside", ANYTHING, only("Earth")),
        ),
        beyond="open",
    )


def post() -> VoxelModel:
    """A white post two cells high on a red foot, half a cell wide."""
    cells = np.zeros((32, 8, 8), np.uint8)
    cells[:4] = 1
    cells[4:, 2:6, 2:6] = 2
    return VoxelModel(cells, ("#c02010", "#f0f0f0"))


def slab() -> VoxelModel:
    return VoxelModel(np.ones((8, 16, 16), np.uint8), ("#55606a",))


def library(name: str = "Isles") -> ProjectHandle:
    project = new(None, name)
    for block, colour in COLOURS.items():
        project.add_block(Block(block, colour, walkable=block != "Pool"))
    project.add_block(Block("Slab", "#55606a", model=slab(), top=0.5))
    project.add_brush(Weave("Ground", earth_book(), colour="#94744e"))
    project.add_brush(Mosaic("Stones", only("Stone a", "Stone b"), colour="#9a978b"))
    project.add_brush(Mosaic("Water", only("Pool"), colour="#3b7f88"))
    project.add_brush(Mosaic("Slabs", only("Slab")))
    project.add_brush(Crate("Box", {"tnw": block_ref("Corner"), "tmm": block_ref("Lid"),
                                    "mnm": block_ref("Side"), "mmm": block_ref("Fill")}))  # fmt: skip
    project.add_brush(Sculpt("Heap", fill="Ground"))
    project.add_prefab(model_prefab("Post", post(), rules=(LevelFooting(),)))
    project.add_prefab(tuft())
    project.add_brush(ThingsBrush("Post", "Post"))
    project.add_brush(
        FieldBrush("Tufts", (Sown("Tuft"),), spacing=1.0, density=1.0,
                   rules=(On(("Ground",)), Headroom(2)))
    )  # fmt: skip
    return project


def tuft() -> Prefab:
    cells = np.zeros((10, 16, 16), np.uint8)
    cells[:, 6:10, 6:10] = 1
    return model_prefab("Tuft", VoxelModel(cells, ("#6f8a3c",)), turns="any")


def isle(size: tuple[int, int, int] = (10, 12, 14), ground: int = 3) -> RoomHandle:
    """A room with so many levels of ground."""
    room = library().add_room("Isle", size)
    if ground:
        room.lay("Ground", box=((0, 0, 0), (ground - 1, size[1] - 1, size[2] - 1)))
    return room


def block_at(room: RoomHandle, *cell: int) -> tuple[str, int]:
    """Which block shows in a cell, and its turn; nothing for none."""
    number = int(planes(room)["block"][cell])
    name = room.project.data.block_names[number - 1] if number else ""
    return name, int(planes(room)["turn"][cell])
