"""Rooms to be walked, drawn as text."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tests.rooms import SHEET, prefab, sheet_picture, stand
from topion.brushes import Mosaic
from topion.model.figure import Figure
from topion.model.prefab import Thing
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.scripting import RoomHandle, new
from topion.walk import DOWN, JUMP, LEFT, RIGHT, State, World, step
from topion.weaving.rules import Variant

SIGNS = {
    "#": ("wall", Slot((0, 0), solid=True)),
    "-": ("ledge", Slot((0, 1), carries=True)),
    "H": ("ladder", Slot((0, 2), climbable=True)),
    "~": ("water", Slot((0, 3), tags=("water",))),
    "/": ("up east", Slot((0, 4), solid=True, heights=(0.0, 1.0))),
    "\\": ("up west", Slot((0, 5), solid=True, heights=(1.0, 0.0))),
    "<": ("low east", Slot((0, 6), solid=True, heights=(0.0, 0.5))),
    ">": ("high east", Slot((0, 7), solid=True, heights=(0.5, 1.0))),
    "_": ("half", Slot((1, 0), solid=True, top=0.5)),
    "u": ("curve", Slot((1, 1), solid=True, heights=(1.0, 0.75, 0.5, 0.75, 1.0))),
    "q": ("steep east", Slot((1, 2), solid=True, heights=(0.0, 0.25))),
    "w": ("steeper east", Slot((1, 3), solid=True, heights=(0.25, 0.5))),
    "e": ("more east", Slot((1, 4), solid=True, heights=(0.5, 0.75))),
    "r": ("most east", Slot((1, 5), solid=True, heights=(0.75, 1.0))),
}
# 0.8 × 1.8 cells, 6 cells a second, jumps 3 cells high and 5 long
RAKER = Figure("Raker", 0.8, 1.8, 6.0, 3.0, 5.0)
THINGS = ("Bush", "Token", "Gull", "Wheel", "Gate", "Spikes", "Spring", "Raft", "Vent", "Spark",
          "Goal", "Start", "Block")  # fmt: skip


def library():
    """A project with a brush for each sign and a prefab for each name."""
    project = new(None, "Walked")
    slots = dict(SIGNS.values())
    project.add_tileset(TileSet(SHEET, sheet_picture(), Cut((4, 4)), slots=slots))
    for name, _ in SIGNS.values():
        project.add_brush(Mosaic(name, (Variant(TileRef(SHEET, name)),)))
    for name in THINGS:
        project.add_prefab(prefab(name, turns="quarters", mirrors=True))
    return project


def drawn(*rows: str, seen: str = "side", project=None, name: str = "Room") -> RoomHandle:
    """A room of such cells; letters of things are open."""
    project = project or library()
    room = project.add_room(name, (len(rows), len(rows[0])), 4, seen=seen)
    for sign, (brush, _) in SIGNS.items():
        cells = [(y, x) for y, row in enumerate(rows) for x, at in enumerate(row) if at == sign]
        if cells:
            room.lay(brush, cells=cells)
    return room


def put(room: RoomHandle, name: str, y: float, x: float, role=None, **more) -> int:
    """A thing of a prefab, with a role of its own; its number."""
    (number,) = stand(room, Thing(name, y, x, role=role, **more))
    return number


def begin(room: RoomHandle, y: float, x: float, figure: Figure = RAKER) -> State:
    """A walk with the feet of the figure at the bottom of a cell."""
    return World(room.project.data, figure).begin(room.name, (y, x))


def walked(state: State, *keys: int, ticks: int = 1) -> State:
    """After each of the keys was held for so many ticks."""
    for held in keys:
        for _ in range(ticks):
            state = step(state, held)
    return state


def until(state: State, keys: int, true, most: int = 600) -> State:
    """With keys held until something is so."""
    for _ in range(most):
        if true(state):
            return state
        state = step(state, keys)
    raise AssertionError(f"not within {most} ticks: {state.place()}")


def cells(state: State) -> tuple[float, float]:
    """(height of its feet above the foot of its room, left edge), in cells."""
    scale, stage = state.world.scale, state.world.stage(state.room)
    feet = stage.size[1] - state.y - scale.high
    return feet / scale.cell, state.x / scale.cell


def rng_keys(seed: int, count: int) -> list[int]:
    """Keys held for some ticks each, by chance."""
    rng = np.random.default_rng(seed)
    keys: list[int] = []
    while len(keys) < count:
        held = int(rng.integers(0, 64))
        keys += [held] * int(rng.integers(1, 20))
    return keys[:count]


def with_figure(room: RoomHandle, **more) -> Figure:
    """The figure of these tests, otherwise in some respect."""
    return replace(RAKER, **more)


__all__ = ["DOWN", "JUMP", "LEFT", "RAKER", "RIGHT", "begin", "cells", "drawn", "library", "put",
           "rng_keys", "until", "walked", "with_figure"]  # fmt: skip
