"""Where a prefab may stand: each cell with the first rule that refuses it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.prefab import Prefab
from topion.things.ground import Ground, Spots
from topion.things.rules.kind import RuleKind, rules_of
from topion.things.verdict import rule_answers

ALLOWED = -1
OTHER = -2  # refused, but by none of the rules of the prefab: no room, outside, kept by others


@dataclass(frozen=True, eq=False)
class Heat:
    """positions : (n, axes) where it was asked.  by : (n,) ALLOWED, OTHER, or the place in `rules`
    of the first that refuses; every : (n, rules) which of them refuse at all."""

    rules: tuple[RuleKind, ...]
    positions: NDArray[np.float64]
    by: NDArray[np.intp]
    every: NDArray[np.bool_]

    @property
    def allowed(self) -> int:
        """How many places are free."""
        return int((self.by == ALLOWED).sum())

    @property
    def refused(self) -> Counter[int]:
        """How many places each rule refuses first, and OTHER."""
        return Counter(self.by[self.by != ALLOWED].tolist())


def heat(
    ground: Ground,
    prefab: Prefab,
    box: Box | None = None,
    *,
    turn: float = 0.0,
    mirrored: bool = False,
) -> Heat:
    """Ask for every cell of a flat room, or every surface of the columns of a voxel one.

    box : of the plan; the whole room unless given.
    """
    plan = Box.of_shape(ground.room.info.size[-2:])
    area = plan if box is None else box.clipped(plan)
    points = area.cells().astype(np.float64)
    if ground.room.info.axes == 3:
        points, _ = ground.floor.seats(points)
    spots = Spots(prefab, points, turn, mirrored)
    asked = rule_answers(ground, spots)
    mine = rules_of(ground.project, prefab)
    own = [(rule, answer) for rule, answer in asked
           if rule is not None and any(rule is known for known in mine)]  # fmt: skip
    by = np.full(len(points), ALLOWED, np.intp)
    for number, (_, answer) in enumerate(own):
        by[(by == ALLOWED) & ~answer.allowed] = number
    for rule, answer in asked:
        if not any(rule is known for known, _ in own):
            by[(by == ALLOWED) & ~answer.allowed] = OTHER
    every = [~answer.allowed for _, answer in own]
    table = np.stack(every, axis=1) if every else np.zeros((len(points), 0), bool)
    return Heat(tuple(rule for rule, _ in own), points, by, table)
