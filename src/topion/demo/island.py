"""The room Lamp Island of Brinehollow, laid stroke by stroke through the scripting calls."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.brushes import (
    Crate,
    FieldBrush,
    Mosaic,
    Run,
    Sculpt,
    Sown,
    ThingsBrush,
    Trail,
    Weave,
)
from topion.brushes.kind import BrushKind
from topion.demo import island_art, island_things
from topion.grid.hashing import seed_of, unit
from topion.model.light import READY
from topion.model.solid import block_ref
from topion.scripting import ProjectHandle, RoomHandle
from topion.things.rules import Headroom, On
from topion.weaving.rules import ANY, OPEN, SAME, Rule, RuleBook, Variant

ROOM = "Lamp Island"
SIZE = (24, 40, 40)
SEA_LEVEL = 2  # levels of water
TOWER = (19.5, 17.5)  # (y, x) of its middle, between cells

_ANYTHING = ((ANY,) * 3,) * 3
_OPEN_ABOVE = ((ANY,) * 3, (ANY, OPEN, ANY), (ANY,) * 3)
_DROP_NORTH = ((ANY, OPEN, ANY), (ANY,) * 3, (ANY, SAME, ANY))
_DROP_NORTH_EAST = ((ANY, OPEN, ANY), (ANY, ANY, OPEN), (ANY,) * 3)


def _variants(name: str, letters: str, weights: tuple[float, ...] = ()) -> tuple[Variant, ...]:
    shares = weights or (1.0,) * len(letters)
    return tuple(Variant(block_ref(f"{name} {c}"), w) for c, w in zip(letters, shares, strict=True))


def _mud_book() -> RuleBook:
    return RuleBook(
        (
            Rule("corner", _DROP_NORTH_EAST, _variants("Mud corner", "ab"), turned=True,
                 above=_OPEN_ABOVE),
            Rule("edge", _DROP_NORTH, _variants("Mud edge", "ab"), turned=True, above=_OPEN_ABOVE),
            Rule("top", _ANYTHING, _variants("Mud", "abc"), above=_OPEN_ABOVE),
            Rule("inside", _ANYTHING, _variants("Bank", "abc")),
        ),
        joins=("Shore turf", "Tidal rock"),
        beyond="same",
    )  # fmt: skip


def _turf_book() -> RuleBook:
    return RuleBook(
        (
            Rule("top", _ANYTHING, _variants("Turf", "abc"), above=_OPEN_ABOVE),
            Rule("inside", _ANYTHING, _variants("Bank", "abc")),
        )
    )


def _sea_book() -> RuleBook:
    ashore = ((ANY, "is Tidal mud", ANY), (ANY,) * 3, (ANY,) * 3)
    return RuleBook(
        (
            Rule("ashore", ashore, _variants("Shallows", "abc"), turned=True, turns_tile=False,
                 above=_OPEN_ABOVE),
            Rule("open water", _ANYTHING, _variants("Water", "abc", (5, 3, 2))),
        )
    )  # fmt: skip


def brushes() -> Iterator[tuple[str, BrushKind]]:
    """(bay, brush) in the order of the rack."""
    yield "Ground", Weave("Tidal mud", _mud_book(), colour="#94744e", seed=3, nib=2)
    yield "Ground", Weave("Shore turf", _turf_book(), colour="#7f8a4a", seed=5, nib=2)
    yield "Ground", Mosaic("Tidal rock", _variants("Rock", "abc"), colour="#85827a", seed=2, nib=2)
    yield "Ground", Weave("Sea", _sea_book(), colour="#3b7f88", seed=4, nib=3)
    yield "Ground", Sculpt("Raise", "raise", 2, 4.0, 3.0, fill="Tidal mud")
    yield "Ground", Sculpt("Smooth", "smooth", 2, 5.0, 3.0)
    yield "Built", Mosaic("Tower brick", _variants("Brick", "abc"), colour="#a5533b", seed=7)
    yield "Built", Mosaic("Salt course", _variants("Salt band", "abc"), colour="#e4dccb", seed=8)
    yield "Built", Mosaic("Slates", _variants("Slate", "abc"), colour="#5e6b75", seed=9)
    yield "Built", Mosaic("Deck", _variants("Planks", "ab"), colour="#b88d55", seed=6)
    yield "Built", Mosaic("Steps", (Variant(block_ref("Stair")),), colour="#cda46b")
    yield "Built", Mosaic("Handrail", (Variant(block_ref("Rail")),), colour="#97703f")
    yield "Built", Mosaic("Jetty pile", (Variant(block_ref("Pile")),), colour="#6a4c2c")
    yield "Built", Mosaic("Lamp glass", (Variant(block_ref("Lamp")),), colour="#f4c64e")
    yield "Built", Crate("Salt block", _SALT_PARTS, colour="#d8d2c4", height=2)
    ways = {links or "alone": block_ref(f"Gangway {links or 'alone'}")
            for links in island_art.GANGWAYS}  # fmt: skip
    yield "Built", Trail("Plank way", {**ways, "Ns": block_ref("Stair")}, colour="#cda46b")
    yield "Built", Run("Jetty post", {"upright": block_ref("Pile")}, colour="#6a4c2c")
    for name in ("Lamp post", "Herring gull", "Skiff", "Salt bucket", "Salt heap", "Cask"):
        yield "Things", ThingsBrush(name, name, colour="#22303a")
    yield (
        "Fields",
        FieldBrush(
            "Reed fringe",
            (Sown("Reed", 3.0), Sown("Low reed", 2.0), Sown("Reed mace", 1.0, 1.5)),
            spacing=0.8,
            size=(0.75, 1.1),
            turn=(0.0, 360.0),
            rules=(On(island_things.GROUND), Headroom(2)),
            seed=611,
            density=0.7,
            radius=4.0,
            soft=2.0,
        ),
    )


_SALT_PARTS = {
    "tnw": block_ref("Salt corner"),
    "tnm": block_ref("Salt rim"),
    "tmm": block_ref("Salt lid"),
    "mnw": block_ref("Salt post"),
    "mnm": block_ref("Salt side"),
    "mmm": block_ref("Salt"),
}


def add_island_library(project: ProjectHandle) -> None:
    """The sheet, the blocks, the things and the brushes of the island."""
    project.add_tileset(island_art.tileset())
    for block in island_art.blocks():
        project.add_block(block)
    for prefab in island_things.prefabs():
        project.add_prefab(prefab)
    for bay, brush in brushes():
        project.add_brush(brush, bay)


def add_island(project: ProjectHandle) -> RoomHandle:
    """The room, with all that stands in it."""
    room = project.add_room(ROOM, SIZE, 16)
    _ground(room)
    _tower(room)
    _jetty(room)
    _stair(room)
    _crates(room)
    _growth(room)
    room.set_light(READY["Dusk"])
    return room


def heights() -> NDArray[np.intp]:
    """(h, w) levels of ground: a rocky back in the north-west, mud terraces to the south-east."""
    ys, xs = np.indices(SIZE[1:])
    rough = scipy.ndimage.gaussian_filter(unit(seed_of("island"), ys, xs), 2.4, mode="wrap")
    rough = (rough - rough.min()) / (rough.max() - rough.min()) - 0.5
    off_y, off_x = (ys - 20.5) / 17.5, (xs - 19.0) / 18.0
    far = np.hypot(off_y, off_x) + 0.34 * rough
    slope = np.clip(1 - far, 0, 1)
    ground = 9.4 * slope**0.75 + 1.2
    ground += 1.9 * np.exp(-(((ys - 13) / 6.0) ** 2 + ((xs - 12) / 6.5) ** 2))
    ground[far > 0.96] = 1
    plateau = np.hypot(ys - TOWER[0], xs - TOWER[1]) < 4.4
    ground[plateau] = 8
    return np.asarray(np.clip(np.floor(ground), 1, 12), np.intp)


def _cells(mask: NDArray[np.bool_]) -> list[tuple[int, ...]]:
    return [tuple(cell) for cell in np.argwhere(mask).tolist()]


def _ground(room: RoomHandle) -> None:
    depth, height, width = SIZE
    ground = heights()
    levels = np.arange(depth)[:, None, None]
    ys, xs = np.indices((height, width))
    solid = levels < ground
    rocky = (ys - 13) * 0.8 + (xs - 12) < 2
    rocky &= ground > SEA_LEVEL + 1
    room.lay("Tidal mud", cells=_cells(solid))
    room.lay("Tidal rock", cells=_cells(solid & rocky & (levels >= 1)))
    soft = scipy.ndimage.gaussian_filter(unit(seed_of("turf"), ys, xs), 1.6, mode="wrap")
    turfy = (ground >= 5) & ~rocky & (soft > np.median(soft) - 0.01)
    room.lay("Shore turf", cells=_cells(solid & turfy & (levels == ground - 1)))
    room.lay("Sea", cells=_cells(~solid & (levels < SEA_LEVEL)))


def _round(radius: float) -> NDArray[np.bool_]:
    """Columns within so many cells of the middle of the tower."""
    ys, xs = np.indices(SIZE[1:])
    return np.asarray(np.hypot(ys - TOWER[0], xs - TOWER[1]) <= radius)


def _ring(radius: float, low: int, high: int) -> list[tuple[int, ...]]:
    levels = np.arange(SIZE[0])[:, None, None]
    return _cells(_round(radius) & (levels >= low) & (levels < high))


def _tower(room: RoomHandle) -> None:
    room.lay("Salt course", cells=_ring(4.1, 8, 9))
    bands = (("Tower brick", 9, 12), ("Salt course", 12, 13), ("Tower brick", 13, 16),
             ("Salt course", 16, 17), ("Tower brick", 17, 18))  # fmt: skip
    for name, low, high in bands:
        room.lay(name, cells=_ring(2.3 if low >= 13 else 2.6, low, high))
    room.lay("Slates", cells=_ring(3.2, 18, 19))
    room.lay("Lamp glass", cells=_ring(1.6, 19, 21))
    room.lay("Slates", cells=_ring(2.3, 21, 22))
    room.lay("Slates", cells=_ring(0.8, 22, 23))
    south, middle = int(TOWER[0] + 2.5), int(TOWER[1])
    room.lift(box=((9, south, middle), (10, south + 1, middle + 1)))
    room.lay("Deck", box=((9, south - 1, middle), (10, south - 1, middle + 1)))


def _jetty(room: RoomHandle) -> None:
    deck = SEA_LEVEL + 1
    for y in (33, 36, 39):
        for x in (22, 24):
            room.lay("Jetty pile", cells=[(z, y, x) for z in range(1, deck)])
    room.lay("Deck", box=((deck, 30, 22), (deck, 39, 24)))
    room.lay("Deck", box=((deck, 36, 20), (deck, 38, 26)))
    room.lay("Plank way", curve=[(deck + 1, 37, 27), (deck + 1, 37, 32), (deck + 1, 31, 32)])
    for y, x in ((37, 28), (37, 32), (33, 32)):
        room.lay("Jetty post", line=((deck, y, x), (1, y, x)))
    room.keep_stamp("Jetty", ((1, 33, 22), (deck, 39, 26)), ("Blocks",), anchor=(deck, 33, 24),
                    entries=False)  # fmt: skip


def _stair(room: RoomHandle) -> None:
    """From the jetty up to the foot of the tower, a step a level."""
    ground = heights()
    z = SEA_LEVEL + 2
    y = 29
    while z <= 8 and y > 23:
        for x in (22, 23, 24):
            room.lay("Deck", cells=[(k, y, x) for k in range(int(ground[y, x]), z)])
            room.lift(cells=[(k, y, x) for k in range(z, z + 4)])
            room.lay("Steps", cells=[(z, y, x)])
        y, z = y - 1, z + 1
    room.lay("Deck", box=((8, 22, 21), (8, 23, 24)))


def _crates(room: RoomHandle) -> None:
    top = np.where(heights() > 0, heights(), 0)
    for y, x, deep, wide, high in ((21, 26, 2, 3, 2), (26, 28, 2, 2, 1), (27, 14, 2, 2, 2)):
        level = int(top[y : y + deep, x : x + wide].max())
        low = int(top[y : y + deep, x : x + wide].min())
        if low < level:
            room.lay("Tidal mud", box=((low, y, x), (level - 1, y + deep - 1, x + wide - 1)))
        corner = (level + high - 1, y + deep - 1, x + wide - 1)
        room.lay("Salt block", box=((level, y, x), corner))


def _growth(room: RoomHandle) -> None:
    ground = heights()
    low = (ground >= SEA_LEVEL + 1) & (ground <= SEA_LEVEL + 4)
    ys, xs = np.nonzero(low)
    near = np.hypot(ys - 28, xs - 24) > 7
    columns = [(0, int(y), int(x)) for y, x in zip(ys[near], xs[near], strict=True)]
    room.lay("Reed fringe", cells=columns, strength=0.75)
    deck = SEA_LEVEL + 2
    room.lay("Lamp post", cells=[(deck, 31, 22), (deck, 36, 20), (deck, 39, 24), (9, 22, 21),
                                 (9, 24, 13), (12, 16, 23)])  # fmt: skip
    room.lay("Cask", cells=[(deck, 38, 20), (deck, 37, 20), (9, 23, 14), (9, 17, 22)])
    room.lay("Salt bucket", cells=[(deck, 33, 24), (9, 16, 15)])
    room.lay("Salt heap", cells=[(9, 24, 26), (9, 28, 30), (9, 13, 26)])
    gull = ThingsBrush("Herring gull", "Herring gull", turn=135.0)
    room.lay(gull, cells=[(23, 12, 9), (23, 17, 6), (deck, 39, 22), (23, 30, 9)])
    room.lay("Herring gull", cells=[(23, 9, 15), (23, 24, 33), (23, 18, 18)])
    room.lay("Skiff", cells=[(3, 34, 28), (3, 38, 30), (3, 33, 16)])
