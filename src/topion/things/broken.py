"""Which things break a placement rule where they stand."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np

from topion.model.prefab import Stance
from topion.things.ground import Ground, Spots
from topion.things.verdict import Reason, reasons_at


def broken(ground: Ground, rows: Iterable[int] | None = None) -> Iterator[tuple[int, list[Reason]]]:
    """(row in the ground's `standing`, all that it breaks) of each, in no order.

    rows : of those that are asked about; all without.
    """
    for spots in _standing_spots(ground, rows):
        for place, reasons in reasons_at(ground, spots).items():
            if spots.own is not None:
                yield int(spots.own[place]), reasons


def _standing_spots(ground: Ground, asked: Iterable[int] | None) -> Iterator[Spots]:
    """Things of the room, those alike together."""
    groups: dict[Stance, list[int]] = {}
    things = ground.standing.things
    for row in range(len(things)) if asked is None else asked:
        groups.setdefault(things[row].stance, []).append(row)
    for (name, turn, mirrored, tip), members in groups.items():
        rows = np.array(members, np.intp)
        positions = ground.standing.positions[rows]
        yield Spots(ground.project.prefabs[name], positions, turn, mirrored, rows, tip)
