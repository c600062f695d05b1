"""Where things stand along their curves, by expressions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from topion.arrange.expression import read
from topion.edit.along import put_along
from topion.edit.pieces import Pick
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.things.along import curve_under

Property = Literal["length", "share", "aside", "up", "turn"]


def put_along_by(
    project: Project,
    room_name: str,
    picks: Sequence[Pick],
    name: Property,
    text: str,
    seed: int = 1,
) -> Edit:
    """Things that belong to curves get what an expression gives for each of them.

    `value` is what each has now, `x`, `y` and `z` where it stands.  Raises NotAnExpression.
    """
    room = project.room(room_name)
    riders = []
    for pick in picks:
        thing = room.layers[pick.layer].things.get(pick.number)
        curve = curve_under(room, thing) if thing is not None else None
        if thing is not None and thing.along is not None and curve is not None:
            riders.append((pick, thing, curve))
    values = []
    for _, thing, curve in riders:
        share = thing.along.share if thing.along is not None else 0.0
        known_as = share * curve.length if name == "length" else getattr(thing.along, name)
        values.append(float(known_as))
    known = {"value": np.array(values, np.float64)}
    for axis in "xyz":
        known[axis] = np.array([getattr(thing, axis) for _, thing, _ in riders], np.float64)
    found = read(text).values(known, seed, name)
    scratch = project.scratch(project.rooms.copy())
    scratch.rooms[room_name] = room.frozen()
    edits = [
        edit
        for (pick, _, _), value in zip(riders, found.tolist(), strict=True)
        for edit in written(scratch, [put_along(scratch, room_name, [pick], **{name: value})])
    ]
    return joined(f"Place {len(riders)} things along", edits)
