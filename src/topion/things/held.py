"""What a field keeps clear of: banned places, things held where they were put, other layers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.arrays import CellMask, Positions
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.layer import Layer
from topion.model.prefab import Thing
from topion.model.room import Room
from topion.things.field import Field


def held_in(layer: Layer, window: Box | None) -> Mapping[int, Thing]:
    """What is held and stands in a window of the plan, by number."""
    held: dict[int, Thing] = layer.table("held")
    if window is None or not held:
        return held
    (y0, x0), (y1, x1) = window.lo, window.hi
    return {n: t for n, t in held.items() if y0 <= t.y + 0.5 < y1 and x0 <= t.x + 0.5 < x1}


def banned(positions: Positions, bans: Iterable[Ban]) -> CellMask:
    """(n,) which of (n, axes) positions lie in a banned place."""
    found = np.zeros(len(positions), bool)
    by_radius: dict[float, list[tuple[float, ...]]] = {}
    for ban in bans:
        by_radius.setdefault(ban.radius, []).append(ban.at)
    for radius, places in by_radius.items() if len(positions) else ():
        found |= _within(positions, np.array(places), radius)
    return found


def near_held(
    positions: Positions, spacings: NDArray[np.float64], held: Iterable[Thing]
) -> CellMask:
    """(n,) which stand nearer to a held thing than they keep clear."""
    at = np.array([thing.at[-positions.shape[1] :] for thing in held])
    found = np.zeros(len(positions), bool)
    for spacing in np.unique(spacings).tolist():
        rows = np.flatnonzero(spacings == spacing)
        found[rows] = _within(positions[rows], at, spacing)
    return found


def obstructed(
    room: Room,
    layer_id: str,
    sown: Field,
    positions: Positions,
    window: Box | None,
    sow: Callable[[str, Box | None], Positions],
) -> CellMask:
    """(n,) which stand too near to what layers below hold or sow.

    sow : tells where the things of another field stand, in a window or everywhere.
    """
    axes, found = positions.shape[1], np.zeros(len(positions), bool)
    if not len(positions):
        return found
    near = None
    if window is not None:
        near = window.grown(int(np.ceil(sown.clear)) + 1).clipped(room.plan_box)
    for other, layer in room.bottom_up():
        if other == layer_id:
            break
        if not layer.info.shown:
            continue
        if layer.info.kind == "things" and "things" in sown.avoids:
            at = layer.positions()[1][:, -axes:]
        elif layer.info.kind == "field" and "fields" in sown.avoids:
            at = sow(other, near)
        else:
            continue
        if len(at):
            found |= _within(positions, at, sown.clear)
    return found


def _within(positions: Positions, places: Positions, radius: float) -> CellMask:
    """(n,) which lie nearer to one of the places than a radius."""
    tree = scipy.spatial.cKDTree(places)
    away, _ = tree.query(positions, distance_upper_bound=radius)
    return np.asarray(away < radius)
