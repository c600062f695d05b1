"""How far a place to which no way was found is from where the figure gets."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from topion.walk.reach import Counted, Reach


@dataclass(frozen=True)
class Gap:
    """start : the nearest cell where the figure stands, in array order.  up, along : cells from
    there; up is 0 where the place is no higher, and in rooms seen from above."""

    start: tuple[int, ...]
    up: float
    along: float


def gap_to(reach: Reach, place: Counted) -> Gap | None:
    """From where the figure comes nearest to a place; None where it stands nowhere."""
    stands = np.argwhere(reach.stands)
    if not len(stands):
        return None
    by = np.array(place.cell) - stands
    view = reach.begun.world.stage(reach.begun.room).view
    nearest = int(np.argmin((by.astype(float) ** 2).sum(axis=1)))
    start: tuple[int, ...] = tuple(stands[nearest].tolist())
    step = by[nearest].tolist()
    if view == "top":
        return Gap(start, 0.0, float(np.hypot(*step)))
    if view == "voxel":
        return Gap(start, float(max(0, step[0])), float(np.hypot(*step[1:])))
    over = reach.begun.over
    return Gap(start, float(max(0, step[0] if over else -step[0])), float(abs(step[1])))


def told(reach: Reach, place: Counted) -> str:
    """The same in words, beside what a jump of the figure has."""
    gap = gap_to(reach, place)
    if gap is None:
        return "the figure stands nowhere"
    figure = reach.begun.world.figure
    if gap.up > figure.jump_height:
        return f"{gap.up:g} cells up from where it stands, a jump has {figure.jump_height:g}"
    if gap.along > figure.jump_length and gap.up == 0:
        jump = "" if reach.begun.world.stage(reach.begun.room).view == "top" else (
            f", a jump has {figure.jump_length:g}")  # fmt: skip
        return f"{gap.along:.3g} cells from where it stands{jump}"
    return f"{gap.along:.3g} along and {gap.up:g} up from where it stands"
