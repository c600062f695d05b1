"""Where things stand that are attached to a curve."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import Positions
from topion.model.curve import Along, Curve
from topion.model.layer import Layer
from topion.model.prefab import Prefab, Thing, snapped_thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things.floor import floor_of

_STEP = 0.25  # cells from one place of a track to the next


def curve_under(room: Room, thing: Thing) -> Curve | None:
    """The curve that a thing is attached to; None for none."""
    if thing.along is None or thing.attached is None:
        return None
    layer: Layer | None = room.layers.get(thing.attached[0])
    return layer.curves.get(thing.attached[1]) if layer else None


def standing_along(
    project: Project, room: Room, curve: Curve, things: Sequence[Thing]
) -> list[Thing]:
    """The things where they belong on the curve, each by its own `along`; those without one as
    they are."""
    rows = [n for n, thing in enumerate(things) if thing.along is not None]
    found = list(things)
    alongs = [along for thing in things if (along := thing.along) is not None]
    if not rows:
        return found
    at, turns = places_along(project, room, curve, alongs)
    for n, along, place, turn in zip(rows, alongs, at.round(4).tolist(), turns, strict=True):
        thing, prefab = things[n], project.prefabs.get(things[n].prefab)
        *level, y, x = place
        turned = _turn_of(prefab, along, float(turn), thing.turn)
        there = replace(thing, y=y, x=x, z=level[0] if level else thing.z, turn=turned)
        found[n] = snapped_thing(there, prefab.snaps) if prefab else there
    return found


def places_along(
    project: Project, room: Room, curve: Curve, alongs: Sequence[Along]
) -> tuple[Positions, NDArray[np.float64]]:
    """(n, axes) positions, and (n,) degrees clockwise that the curve has turned there, seen from
    above; to the east is none."""
    share, aside, up = (np.array([getattr(along, name) for along in alongs])
                        for name in ("share", "aside", "up"))  # fmt: skip
    at, way = curve.line.places(share * curve.length)
    at = at.copy()
    flat = way[:, -2:]
    size = np.linalg.norm(flat, axis=1, keepdims=True)
    flat = np.divide(flat, size, out=np.zeros_like(flat), where=size > 1e-9)
    at[:, -2] += flat[:, 1] * aside
    at[:, -1] -= flat[:, 0] * aside
    if room.info.axes == 3:
        if curve.on_ground:
            at[:, 0] = grounded(project, room, at)[:, 0]
        at[:, 0] += up
    return at, np.degrees(np.arctan2(flat[:, 0], flat[:, 1]))


def track_along(project: Project, room: Room, curve: Curve, thing: Thing) -> tuple[Positions, int]:
    """(n, axes) places, close together from the beginning of a curve to its end, that a thing
    passes which keeps as far aside as it is; and which of them is its own."""
    along = thing.along or Along()
    steps = max(2, round(curve.length / _STEP))
    own = min(round(along.share * steps), steps)
    shares = np.arange(steps + 1) / steps
    shares[own] = along.share
    rows = [replace(along, share=float(share)) for share in shares]
    at, _ = places_along(project, room, curve, rows)
    return at, own


def grounded(project: Project, room: Room, at: Positions) -> Positions:
    """(n, 3) places on the uppermost ground that carries there, whatever their heights."""
    plan = np.clip(np.floor(at[:, -2:] + 0.5).astype(np.intp), 0, np.array(room.info.plan) - 1)
    columns, back = np.unique(plan, axis=0, return_inverse=True)
    seats, belongs = floor_of(project, room).seats(columns.astype(np.float64))
    top = np.full(len(columns), -1.0)
    rows = np.arange(len(columns)) if belongs is None else belongs
    np.maximum.at(top, rows, seats[:, 0])
    found = at.copy()
    found[:, 0] = np.maximum(top, 0.0)[np.asarray(back).reshape(-1)]
    return found


def _turn_of(prefab: Prefab | None, along: Along, turn: float, now: float) -> float:
    """Degrees clockwise, as far as the prefab turns."""
    if prefab is None or prefab.turns == "none":
        return now
    wanted = along.turn + (turn if along.turns else 0.0)
    if prefab.turns == "quarters":
        wanted = round(wanted / 90) * 90
    return round(wanted % 360, 3) % 360


def attached_at(curve: Curve, thing: Thing, *, on_it: bool = False) -> Along:
    """How a thing belongs to a curve that stays where it stands: at the nearest of its places, as
    far aside and as much turned as it is.  on_it : it comes onto the curve instead."""
    axes = curve.axes
    level = axes == 3 and not curve.on_ground
    place = thing.at[-axes:] if level else thing.at[-2:]
    far, _ = curve.line.nearest(place)
    at, way = curve.line.places(np.array([far]))
    dy, dx = (float(v) for v in way[0][-2:])
    size = math.hypot(dy, dx) or 1.0
    off = np.array([thing.y, thing.x]) - at[0][-2:]
    aside = float(off[0] * dx - off[1] * dy) / size
    up = thing.z - float(at[0][0]) if level else 0.0
    turn = (thing.turn - math.degrees(math.atan2(dy, dx)) + 180) % 360 - 180
    share = min(far / curve.length, 1.0) if curve.length > 1e-9 else 0.0
    if on_it:
        aside, up = 0.0, 0.0
    return Along(round(share, 9), round(aside, 4), round(up, 4), True, round(turn, 3))


def slid(along: Along, curve: Curve, by: float) -> Along:
    """So many cells on: round and round where the curve is closed, else up to its ends."""
    if curve.length <= 1e-9:
        return along
    share = along.share + by / curve.length
    share = share % 1.0 if curve.closed else min(max(share, 0.0), 1.0)
    return replace(along, share=round(share, 9), filled=False)
