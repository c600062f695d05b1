"""Small projects and rooms for tests, drawn as text."""

from __future__ import annotations

from typing import Any

import numpy as np

from topion.brushes import FieldBrush, Mosaic, Sown, ThingsBrush, Weave
from topion.edit.rooms import change_things
from topion.model.picture import Picture
from topion.model.prefab import Prefab, Thing
from topion.model.tileset import Cut, TileRef, TileSet
from topion.pictures.png import picture_of
from topion.scripting import ProjectHandle, RoomHandle, new
from topion.things.rules import ClearOf, KeepsCells, On
from topion.weaving.ready import ready_rules
from topion.weaving.rules import ANY, OPEN, SAME, Rule, RuleBook, Variant
from topion.weaving.settle import shown_tiles, tile_planes

SIDE = 4  # px of a test tile
SHEET = "sheet"
NINE = ("nw", "n", "ne", "w", "inside", "e", "sw", "s", "se")
INNER = ("inner nw", "inner ne", "inner sw", "inner se")


def sheet_picture(rows: int = 6, columns: int = 8, side: int = SIDE) -> Picture:
    """A sheet in which every tile has a colour of its own; the last row is empty."""
    rgba = np.zeros((rows * side, columns * side, 4), np.uint8)
    for y in range(rows - 1):
        for x in range(columns):
            colour = (40 + 25 * y, 30 + 20 * x, 90 + 11 * ((x * 3 + y * 5) % 13), 255)
            rgba[y * side : (y + 1) * side, x * side : (x + 1) * side] = colour
            rgba[y * side, x * side] = (255, 255, 255, 255)
    return picture_of(rgba)


def tile(row: int, column: int) -> TileRef:
    return TileRef(SHEET, f"{row},{column}")


def one(row: int, column: int) -> tuple[Variant, ...]:
    return (Variant(tile(row, column)),)


def thirteen(first_row: int = 0) -> dict[str, tuple[Variant, ...]]:
    """The block of a ready weave, from the tiles of two rows."""
    names = (*NINE[:8], NINE[8], *INNER)
    return {name: one(first_row + i // 8, i % 8) for i, name in enumerate(names)}


def card(*rows: str) -> tuple[tuple[str, ...], ...]:
    """A rule card drawn with `#` same, `o` open, `.` any, `M` for "is Mud"."""
    signs = {"#": SAME, "o": OPEN, ".": ANY, "M": "is Mud"}
    return tuple(tuple(signs[sign] for sign in row) for row in rows)


def rule(name: str, marks: tuple[tuple[str, ...], ...], at: tuple[int, int], **more: Any) -> Rule:
    return Rule(name, marks, one(*at), **more)


def prefab(name: str, *rules: Any, **more: Any) -> Prefab:
    rgba = np.full((SIDE, SIDE, 4), 255, np.uint8)
    rgba[..., 0] = sum(name.encode()) % 200
    return Prefab(name, picture_of(rgba), (SIDE, SIDE // 2), rules=rules, **more)


def small_project() -> ProjectHandle:
    """Two weaves, a mosaic, three prefabs and a field, but no room."""
    project = new(None, "Small")
    project.add_tileset(TileSet(SHEET, sheet_picture(), Cut((SIDE, SIDE))))
    for made in (
        prefab("Lamp", ClearOf(3.0), KeepsCells()),
        prefab("Reed", On(("Mud",))),
        prefab("Bush"),
        prefab("Cart", KeepsCells(), footprint=("##", "##"), turns="quarters", mirrors=True),
    ):
        project.add_prefab(made)
    project.add_brush(Weave("Mud", RuleBook(ready_rules(thirteen())), seed=3))
    project.add_brush(Weave("Water", RuleBook(ready_rules(thirteen(2)), beyond="open"), seed=5))
    stones = tuple(Variant(tile(4, i), 1.0 + i) for i in range(4))
    project.add_brush(Mosaic("Stones", stones, seed=9))
    for name in ("Lamp", "Bush", "Cart"):
        project.add_brush(ThingsBrush(name, name))
    project.add_brush(
        FieldBrush(
            "Reeds", (Sown("Reed", 2.0), Sown("Bush", 1.0, 1.5)), spacing=0.8, seed=7, soft=1.0
        )
    )
    return project


def small_room(
    size: tuple[int, int] = (24, 32), project: ProjectHandle | None = None
) -> RoomHandle:
    """A room of that size in a small project, its ground all mud."""
    handle = project or small_project()
    room = handle.add_room("Yard", size, SIDE)
    room.lay("Mud", box=((0, 0), (size[0] - 1, size[1] - 1)))
    return room


def drawn(room: RoomHandle, signs: dict[str, str], layer: str = "Ground") -> list[str]:
    """The materials of a layer as text: one sign a cell, `.` for nothing."""
    data = room.data.layer(room.data.id_of(layer)).plane("material")
    names = room.project.data.materials
    return ["".join(signs[names[m - 1]] if m else "." for m in row) for row in data.tolist()]


def slots(room: RoomHandle, layer: str = "Ground") -> list[list[str]]:
    """The slot each cell shows, `` for none."""
    data = shown_tiles(room.project.data, room.data.layer(room.data.id_of(layer)))
    tiles = room.project.data.tiles
    return [[tiles[t - 1].slot if t else "" for t in row] for row in data.tolist()]


def planes(room: RoomHandle, layer: str = "") -> dict[str, np.ndarray]:
    """What a layer stores and what it shows, as it is now: of the uppermost cells unless it is
    named."""
    data = room.data.layer(room.data.id_of(layer)) if layer else room.data.cell_layers()[-1][1]
    stored = {name: data.plane(name).copy() for name in data.info.traits.planes}
    if not data.info.traits.shows:
        return stored
    return stored | tile_planes(data, shown_tiles(room.project.data, data))


def stand(room: RoomHandle, *things: Thing) -> tuple[int, ...]:
    """Put things into a room whatever the rules say; their numbers."""
    number = room.data.next_number()
    after = {number + n: thing for n, thing in enumerate(things)}
    edit = change_things(room.project.data, room.name, room.data.id_of("Things"), after, "Things")
    room.project.history.apply(edit)
    return tuple(after)
