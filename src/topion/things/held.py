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
    if not by_radius or not len(positions):
        return found
    every = np.array([at for places in by_radius.values() for at in places])
    rows = _in_reach(positions, every, max(by_radius))
    for radius, places in by_radius.items():
        found[rows] |= _nearer(positions[rows], np.array(places), radius)
    return found


def near_held(
    positions: Positions, spacings: NDArray[np.float64], held: Iterable[Thing]
) -> CellMask:
    """(n,) which stand nearer to a held thing than they keep clear."""
    at = np.array([thing.at[-positions.shape[1] :] for thing in held])
    found = np.zeros(len(positions), bool)
    if not len(at) or not len(positions):
        return found
    rows = _in_reach(positions, at, float(spacings.max()))
    for spacing in np.unique(spacings[rows]).tolist():
        own = rows[spacings[rows] == spacing]
        found[own] = _nearer(positions[own], at, spacing)
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
    found = np.zeros(len(positions), bool)
    rows = _in_reach(positions, places, radius)
    found[rows] = _nearer(positions[rows], places, radius)
    return found


def _nearer(positions: Positions, places: Positions, radius: float) -> CellMask:
    if not len(positions):
        return np.zeros(0, bool)
    away, _ = scipy.spatial.cKDTree(places).query(positions, distance_upper_bound=radius)
    return np.asarray(away < radius)


def _in_reach(positions: Positions, places: Positions, radius: float) -> NDArray[np.intp]:
    """Rows of those in whose cells a place may be near enough, seen from above: few are asked
    where places are few."""
    if not len(positions) or not len(places):
        return np.empty(0, np.intp)
    ys, xs = (np.floor(positions[:, axis]).astype(np.intp) for axis in (-2, -1))
    first = np.array([ys.min(), xs.min()])
    near = np.zeros((int(ys.max() - first[0]) + 1, int(xs.max() - first[1]) + 1), bool)
    plan = places[:, -2:]
    lo = np.maximum(np.floor(plan - radius).astype(np.intp) - first, 0)
    hi = np.maximum(np.floor(plan + radius).astype(np.intp) - first + 1, 0)
    for (y0, x0), (y1, x1) in zip(lo.tolist(), hi.tolist(), strict=True):
        near[y0:y1, x0:x1] = True
    return np.flatnonzero(near[ys - first[0], xs - first[1]])
