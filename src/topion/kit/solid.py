"""The blocks of the kit and the brushes that lay them in voxel rooms."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.brushes import Crate, Mosaic, Ramp, Run, Sculpt, Trail, Weave
from topion.brushes.kind import BrushKind
from topion.kit.flat import ref
from topion.kit.palette import COLOURS
from topion.model.solid import Block, VoxelModel, block_ref
from topion.weaving.rules import ANY, OPEN, Rule, RuleBook, Variant

_ANYTHING = ((ANY,) * 3,) * 3
_OPEN_ABOVE = ((ANY,) * 3, (ANY, OPEN, ANY), (ANY,) * 3)
_LINKS = ("ns", "s", "es", "esw", "nesw", "")  # of ways; the others are turned from these
_SIDE = 16  # voxels a cell
GROUND = "Ground blocks"


def blocks() -> Iterator[Block]:
    """All blocks."""
    for look, word in (("ground", "Ground"), ("wall", "Wall"), ("floor", "Floor")):
        top, side = ref(f"{look} top"), ref(f"{look} side")
        yield Block(f"{word} top", COLOURS[f"{look} light"], (top, side, side))
        yield Block(f"{word} inside", COLOURS[look], (side,))
    yield Block("Water block", COLOURS["water"], solid=False, walkable=False, carries=False,
                tags=("water",))  # fmt: skip
    yield Block("Box", COLOURS["platform"], (ref("platform face"),))
    for name, low, high in (("Slope", 0.0, 1.0), ("Slope low", 0.0, 0.5), ("Slope high", 0.5, 1.0)):
        middle = (low + high) / 2
        yield Block(name, COLOURS["ground light"], model=_wedge(low, high), turns="any",
                    top=middle)  # fmt: skip
    for links in _LINKS:
        yield Block(f"Plank {links or 'alone'}", COLOURS["plank"], model=_boards(links), top=0.2)
    yield Block("Post", COLOURS["plank dark"], model=_post(), turns="any")


def _wedge(low: float, high: float) -> VoxelModel:
    """A slope that rises to the east from a share of the cell to another."""
    cells = np.zeros((_SIDE, _SIDE, _SIDE), np.uint8)
    for x in range(_SIDE):
        top = max(1, round((low + (high - low) * (x + 1) / _SIDE) * _SIDE))
        cells[:top, :, x] = 1
        cells[top - 1, :, x] = 2
    return VoxelModel(cells, (COLOURS["ground"], COLOURS["ground light"]), _SIDE)


def _boards(links: str) -> VoxelModel:
    """Boards that go on to some sides, a fifth of a cell high."""
    cells = np.zeros((3, _SIDE, _SIDE), np.uint8)
    cells[:, 3:13, 3:13] = 1
    arms = {"n": np.s_[:, :3, 3:13], "s": np.s_[:, 13:, 3:13], "w": np.s_[:, 3:13, :3],
            "e": np.s_[:, 3:13, 13:]}  # fmt: skip
    for side in links:
        cells[arms[side]] = 1
    shown = cells[0] > 0
    along = np.indices((_SIDE, _SIDE))[0 if set(links) <= set("ns") else 1]
    cells[2][shown & (along // 4 % 2 == 1)] = 2
    cells[2][shown & (along % 4 == 0)] = 3
    colours = tuple(COLOURS[name] for name in ("plank", "plank light", "plank dark"))
    return VoxelModel(cells, colours, _SIDE)


def _post() -> VoxelModel:
    cells = np.zeros((_SIDE, _SIDE, _SIDE), np.uint8)
    cells[:, 5:11, 5:11] = 1
    cells[:, 5:11, 10] = 2
    return VoxelModel(cells, (COLOURS["plank"], COLOURS["plank dark"]), _SIDE)


def _ground(word: str) -> RuleBook:
    return RuleBook(
        (
            Rule("top", _ANYTHING, (Variant(block_ref(f"{word} top")),), above=_OPEN_ABOVE),
            Rule("inside", _ANYTHING, (Variant(block_ref(f"{word} inside")),)),
        ),
        joins=("Slope 1 : 1", "Slope 2 : 1") if word == "Ground" else (),
    )


def brushes() -> Iterator[tuple[str, BrushKind]]:
    """(bay, brush) in the order of the rack."""
    for word, look in (("Ground", "ground"), ("Floor", "floor"), ("Wall", "wall")):
        yield "Ground", Weave(f"{word} blocks", _ground(word), colour=COLOURS[look])
    water = (Variant(block_ref("Water block")),)
    yield "Ground", Mosaic("Water blocks", water, colour=COLOURS["water"])
    yield "Ground", Sculpt("Raise", "raise", 1, 3.0, 1.5, fill=GROUND)
    yield "Ground", Sculpt("Smooth", "smooth", 1, 4.0, 2.0)
    box = {"mmm": block_ref("Box")}
    yield "Built", Crate("Crate", box, colour=COLOURS["platform"], height=1)
    ways = {links or "alone": block_ref(f"Plank {links or 'alone'}") for links in _LINKS}
    yield "Built", Trail("Plank way", {**ways, "Ns": block_ref("Slope", 3)},
                         colour=COLOURS["plank"])  # fmt: skip
    inside = block_ref("Ground inside")
    steep = {"slope 1": block_ref("Slope"), "fill": inside}
    gentle = {"slope 1": block_ref("Slope low"), "slope 2": block_ref("Slope high"),
              "fill": inside}  # fmt: skip
    yield "Built", Ramp("Slope 1 : 1", steep, 1, 1, colour=COLOURS["ground light"])
    yield "Built", Ramp("Slope 2 : 1", gentle, 1, 2, colour=COLOURS["ground light"])
    yield "Built", Run("Post", {"upright": block_ref("Post")}, colour=COLOURS["plank dark"])
