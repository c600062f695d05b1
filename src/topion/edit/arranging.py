"""Things that are picked: lined up, spaced evenly, spread until rules hold, replaced, attached."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

import numpy as np

from topion.edit.along import attached
from topion.edit.attaching import To, check_attached, words_of
from topion.edit.picked import things_changed
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.things.ground import Ground, Spots
from topion.things.verdict import reasons_at, verdict

Axis = Literal["x", "y", "z"]
End = Literal["low", "middle", "high"]
Picked = Mapping[Pick, Thing]
MOST_SPREAD = 400


def aligned(project: Project, room_name: str, things: Picked, axis: Axis, end: End) -> Edit:
    """All at the lowest, the middle or the highest of their places along an axis."""
    at = [getattr(thing, axis) for thing in things.values()]
    to = {"low": min(at), "middle": (min(at) + max(at)) / 2, "high": max(at)}[end]
    after = {pick: replace(thing, **{axis: to}) for pick, thing in things.items()}
    return things_changed(project, room_name, after, "Align")


def distributed(project: Project, room_name: str, things: Picked, axis: Axis) -> Edit:
    """Evenly between the first and the last along an axis."""
    order = sorted(things.items(), key=lambda entry: getattr(entry[1], axis))
    ends = getattr(order[0][1], axis), getattr(order[-1][1], axis)
    places = np.round(np.linspace(*ends, len(order)), 6).tolist()
    after = {pick: replace(thing, **{axis: at})
             for (pick, thing), at in zip(order, places, strict=True)}  # fmt: skip
    return things_changed(project, room_name, after, "Space evenly")


def spread(project: Project, room_name: str, things: Picked) -> tuple[Edit, int]:
    """Each that breaks a rule at the nearest place where it breaks none, one after the other.

    Returns the Edit, and how many found no such place and stay.
    """
    room = project.room(room_name)
    axes, now = room.info.axes, dict(things)
    after: dict[Pick, Thing] = {}
    left = 0
    for pick, thing in list(things.items())[:MOST_SPREAD]:
        if thing.prefab not in project.prefabs:
            continue
        ground = Ground(project, room).with_moved(now)
        row = ground.standing.keys.index(tuple(pick))
        at = np.array([thing.at[-axes:]])
        _, turn, mirrored, tip = thing.stance
        spots = Spots(project.prefab(thing.prefab), at, turn, mirrored, np.array([row]), tip)
        if not reasons_at(ground, spots):
            continue
        alone = Ground(project, room).with_moved({p: t for p, t in now.items() if p != pick},
                                                 without=pick)  # fmt: skip
        found = verdict(alone, Spots(spots.prefab, at, turn, mirrored, tip=tip))
        if found.nearest is None and not found.allowed:
            left += 1
            continue
        *level, y, x = found.nearest or at[0].tolist()
        now[pick] = after[pick] = replace(thing, y=y, x=x, z=level[0] if level else thing.z)
    return things_changed(project, room_name, after, "Spread"), left


def replaced(project: Project, room_name: str, things: Picked, prefab: str) -> Edit:
    """Things of another prefab at the same places; values of properties that it has too stay."""
    new = project.prefab(prefab)
    known = {prop.name for prop in new.properties}
    after = {}
    for pick, thing in things.items():
        values = {name: value for name, value in thing.properties.items() if name in known}
        turn = {"none": 0.0, "quarters": round(thing.turn / 90) % 4 * 90.0}.get(
            new.turns, thing.turn
        )
        after[pick] = replace(thing, prefab=prefab, properties=values, turn=turn,
                              mirrored=thing.mirrored and new.mirrors,
                              tip=thing.tip if new.tips else 0)  # fmt: skip
    return things_changed(project, room_name, after, f"Replace by {prefab}:")


def attach_things(project: Project, room_name: str, things: Picked, to: To | None) -> Edit:
    """Let things move along with a layer, a piece or a curve, or with nothing.  Raises BadValue
    for what is not there."""
    room = project.room(room_name)
    check_attached(room, to)
    if to is not None and to[1] in room.layers[to[0]].curves:
        return attached(project, room_name, list(things), Pick(*to))
    after = {pick: replace(thing, attached=to, along=None) for pick, thing in things.items()}
    return things_changed(project, room_name, after, f"Attach to {words_of(room, to)}:")
