"""Pairs of projects that grew out of one, and what becomes of them."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tests.rooms import small_room
from topion.formats.folder import read_project
from topion.merging.trees import tree_in_memory, write_tree
from topion.merging.whole import merged_trees
from topion.model.edit import Edit
from topion.model.project import Project
from topion.scripting import RoomHandle

Stroke = tuple[str, tuple[int, int, int, int]]
WIDE = 40
SIZE = (14, WIDE)


@dataclass
class Pair:
    """Three rooms of three projects."""

    base: RoomHandle
    ours: RoomHandle
    theirs: RoomHandle


@dataclass
class Found:
    project: Project
    conflicts: tuple[Any, ...]


def painted(strokes: list[Stroke], shift: int = 0) -> RoomHandle:
    """The room with strokes, each a box of cells, so many columns on."""
    room = small_room(SIZE)
    for brush, (y, x, tall, wide) in strokes:
        lo, hi = (y, x + shift), (min(y + tall, SIZE[0] - 1), x + wide + shift)
        room.lay(brush, box=(lo, hi))
    return room


def drawn_apart(ours: list[Stroke], theirs: list[Stroke]) -> Pair:
    """Ours in the west, theirs in the east: no weave of one sees what the other laid."""
    return Pair(painted([]), painted(ours), painted(theirs, shift=20))


def merged(pair: Pair) -> Found:
    found = merged_trees(
        *(tree_in_memory(h.project.data) for h in (pair.base, pair.ours, pair.theirs))
    )
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder) / "M.topion"
        write_tree(found.files, place)
        project = read_project(place)
        for room in project.rooms.values():
            assert room.layers
    return Found(project, found.conflicts)


def edits_since(base: RoomHandle, later: RoomHandle) -> list[Edit]:
    """What was done there beyond what both did."""
    return later.project.history.edits[len(base.project.history.edits) :]


def onto(pair: Pair) -> Project:
    """Ours, with what was done in theirs."""
    project = pair.ours.project.data
    for edit in edits_since(pair.base, pair.theirs):
        for record in edit.records:
            moved = record.onto(project)
            if moved is not None:
                moved.write(project)
    return project


def without_numbers(project: Project) -> list[str]:
    """All things of a project, whatever numbers they have."""
    layers = (layer for room in project.rooms.values() for layer in room.layers.values())
    return sorted(repr(thing) for layer in layers for thing in layer.things.values())
