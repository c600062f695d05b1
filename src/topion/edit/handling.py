"""Things that are picked, turned and scaled about their middle by any amount."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import replace

import numpy as np

from topion.edit.picked import things_changed
from topion.edit.picked_moves import seated
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.prefab import Thing, snapped_thing
from topion.model.project import Project
from topion.things.broken import broken
from topion.things.ground import Ground

Picked = Mapping[Pick, Thing]
LEAST_SCALE, LARGEST_SCALE = 0.1, 10.0
QUARTER, STEP = 90.0, 15.0  # degrees


def middle_of(things: Iterable[Thing], axes: int) -> tuple[float, ...]:
    """The middle of the places of some things, in cells, in array order; whole numbers are the
    middles of cells."""
    at = np.array([thing.at[-axes:] for thing in things])
    return tuple(((at.min(axis=0) + at.max(axis=0)) / 2).tolist())


def turn_step(project: Project, things: Iterable[Thing]) -> float:
    """Degrees by which these turn together: quarters where one of them knows no other; 0 for a
    single one that does not turn."""
    known = [project.prefabs.get(thing.prefab) for thing in things]
    turns = ["none" if prefab is None else prefab.turns for prefab in known]
    if turns == ["none"]:
        return 0.0
    return QUARTER if "quarters" in turns else STEP


def turned_by(
    start: tuple[float, ...], at: tuple[float, ...], middle: tuple[float, ...], step: float
) -> float:
    """Degrees clockwise, in steps, from one place to another round the middle, -180 to 180."""
    (y0, x0), (y1, x1) = np.subtract(start, middle)[-2:], np.subtract(at, middle)[-2:]
    turned = math.degrees(math.atan2(y1, x1) - math.atan2(y0, x0))
    return round((turned + 180) % 360 / step) * step - 180


def scaled_by(
    start: tuple[float, ...], at: tuple[float, ...], middle: tuple[float, ...], step: float
) -> float:
    """How many times as far from the middle a place is as another, in steps, 0.1 to 10."""
    before, now = (float(np.hypot(*np.subtract(p, middle)[-2:])) for p in (start, at))
    return min(max(round(now / max(before, 1e-6) / step) * step, 0.1), 10.0)


def spun(
    project: Project, room_name: str, things: Picked, degrees: float, *, override: bool = False
) -> Edit:
    """Turned clockwise about their middle, seen from above; those that do not turn only come to
    stand elsewhere.  The Edit says why where a rule refuses."""
    way = math.radians(degrees)
    matrix = np.array([[math.cos(way), math.sin(way)], [-math.sin(way), math.cos(way)]])
    after = _about(project, room_name, things, matrix)
    for pick, thing in after.items():
        prefab = project.prefabs.get(thing.prefab)
        turns = "none" if prefab is None else prefab.turns
        by = {"none": 0.0, "quarters": round(degrees / QUARTER) * QUARTER}.get(turns, degrees)
        after[pick] = replace(thing, turn=round((thing.turn + by) % 360, 3))
    return _laid(project, room_name, after, "Turn", override)


def sized(
    project: Project, room_name: str, things: Picked, factor: float, *, override: bool = False
) -> Edit:
    """Larger or smaller about their middle, each within 0.1 and 10 of its prefab's own size."""
    after = _about(project, room_name, things, np.eye(2) * factor)
    for pick, thing in after.items():
        scale = min(max(thing.scale * factor, LEAST_SCALE), LARGEST_SCALE)
        after[pick] = replace(thing, scale=round(scale, 4))
    return _laid(project, room_name, after, "Scale", override)


def _about(
    project: Project, room_name: str, things: Picked, matrix: np.ndarray
) -> dict[Pick, Thing]:
    """Their places seen from above, (y, x) times a matrix about their middle."""
    room = project.room(room_name)
    axes = room.info.axes
    middle = np.array(middle_of(things.values(), axes)[-2:])
    found = {}
    for pick, thing in things.items():
        y, x = (matrix @ (np.array([thing.y, thing.x]) - middle) + middle).round(4).tolist()
        prefab = project.prefabs.get(thing.prefab)
        there = replace(thing, y=y, x=x)
        if prefab is not None and len(things) > 1:
            there = snapped_thing(there, prefab.snaps)
            there = seated(project, room, there) if axes == 3 else there
        found[pick] = there if len(things) > 1 else thing
    return found


def _laid(
    project: Project, room_name: str, after: Mapping[Pick, Thing], words: str, override: bool
) -> Edit:
    """The Edit, with each where the others come to stand too; or why one of them may not."""
    ground = Ground(project, project.room(room_name)).with_moved(after)
    row_of = {Pick(*key): row for row, key in enumerate(ground.standing.keys)}
    asked = {row_of[pick]: pick for pick in after if pick in row_of}
    laid = dict(after)
    for row, reasons in broken(ground, asked):
        thing = after[asked[row]]
        if not thing.overridden and not override:
            return Edit(words, refused=(f"{thing.prefab}: {reasons[0].told()}",))
        laid[asked[row]] = replace(thing, overridden=True)
    return things_changed(project, room_name, laid, words)
