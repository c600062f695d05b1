"""Curves from other curves and from plain shapes: bent, cut, joined, moved aside."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import CellList, CellMask, Positions
from topion.grid.bezier import Bend, bend_of, cut, simplified, slope
from topion.grid.outlines import outlines
from topion.model.curve import Curve, CurvePoint, Place, Side

_SAME = 0.05  # cells; ends nearer than that are one
_WIDEST_TURN = math.radians(40)  # of a part that is moved aside as it is
_LONGEST_MITRE = 4.0  # times the distance
_MOST_CUT = 2048


def _place(at: NDArray[np.float64]) -> Place:
    return tuple(round(float(v), 6) for v in at)


def passes(curve: Curve, cells: CellList) -> bool:
    """Whether it goes through one of the cells, of one on the ground through one of the columns."""
    axes = 2 if curve.on_ground else curve.axes
    cells = cells[curve.touched.holds(cells[:, -2:])][:, -axes:]
    if not len(cells):
        return False
    on = np.floor(curve.line.samples()[:, -axes:] + 0.5).astype(int)
    return not set(map(tuple, on.tolist())).isdisjoint(map(tuple, cells.tolist()))


# --- points -------------------------------------------------------------------------------


def bent(curve: Curve, number: int, bend: Bend) -> CurvePoint:
    """One of its points as another kind; a free one keeps the handles that it has."""
    point = curve.points[number]
    if bend != "free":
        return replace(point, bend=bend, before=(), after=())
    before, after = (_place(pull[number]) for pull in curve.pulls)
    return replace(point, bend=bend, before=before, after=after)


def pulled(curve: Curve, number: int, side: Side, by: Place, *, apart: bool = False) -> CurvePoint:
    """A free point with one handle so many cells on; the other one stays in line with it, as long
    as it was, unless they are pulled apart."""
    point = bent(curve, number, "free")
    other: Side = "after" if side == "before" else "before"
    mine = np.array(point.handle(side)) + np.array(by)
    theirs = np.array(point.handle(other))
    size = float(np.linalg.norm(mine))
    if not apart and size > 1e-9:
        theirs = -mine / size * float(np.linalg.norm(theirs))
    made = {side: _place(mine), other: _place(theirs)}
    return replace(point, before=made["before"], after=made["after"])


def with_point(curve: Curve, far: float) -> tuple[Curve, int]:
    """One more point at a length of it, and its number; the curve goes as before."""
    numbers, t = curve.line.params(np.array([far]))
    return _with_point(curve, int(numbers[0]), float(t[0]))


def _with_point(curve: Curve, first: int, t: float) -> tuple[Curve, int]:
    points = list(curve.points)
    second = (first + 1) % len(points)
    left, right = cut(curve.line.curve[first], t)
    at = left[3].copy()
    if curve.on_ground and curve.axes == 3:  # heights are kept for when it leaves the ground
        at[0] = (1 - t) * points[first].at[0] + t * points[second].at[0]
    if points[first].bend == points[second].bend == "corner":
        made = CurvePoint(_place(at), "corner")
    else:
        one, two = bent(curve, first, "free"), bent(curve, second, "free")
        points[first] = replace(one, after=_place(left[1] - left[0]))
        points[second] = replace(two, before=_place(right[2] - right[3]))
        made = CurvePoint(_place(at), "free", _place(left[2] - left[3]), _place(right[1] - left[3]))
    points.insert(first + 1, made)
    return replace(curve, points=tuple(points)), first + 1


# --- whole curves -------------------------------------------------------------------------


def turned_round(curve: Curve) -> Curve:
    """Goes the other way."""
    points = tuple(replace(p, before=p.after, after=p.before) for p in reversed(curve.points))
    if curve.closed:
        points = (points[-1], *points[:-1])  # it begins where it began
    return replace(curve, points=points)


def split(curve: Curve, number: int) -> tuple[Curve, ...]:
    """Its two parts that meet in a point, or a closed one opened there; nothing at an end."""
    points = list(curve.points)
    middle = points[number] = bent(curve, number, "free")
    if curve.closed:
        ring = (*points[number:], *points[:number], middle)
        return (replace(curve, points=ring, closed=False),)
    if not 0 < number < len(points) - 1:
        return ()
    one, two = tuple(points[: number + 1]), tuple(points[number:])
    return replace(curve, points=one), replace(curve, points=two)


def joined(one: Curve, two: Curve) -> tuple[Curve, list[tuple[int, bool]]]:
    """One curve from two open ones where their ends are nearest, the first with its direction; and
    which of them come one after the other in it, and whether turned round."""
    ends = [np.array(c.points[n].at) for c in (one, two) for n in (0, -1)]
    ways = {
        (1, 2): [(0, False), (1, False)],
        (1, 3): [(0, False), (1, True)],
        (0, 3): [(1, False), (0, False)],
        (0, 2): [(1, True), (0, False)],
    }
    a, b = min(ways, key=lambda pair: float(np.linalg.norm(ends[pair[0]] - ends[pair[1]])))
    both = (one, two)
    parts = [turned_round(both[which]) if back else both[which] for which, back in ways[a, b]]
    first, second = (list(part.points) for part in parts)
    if np.linalg.norm(ends[a] - ends[b]) <= _SAME:
        last, begin = bent(parts[0], len(first) - 1, "free"), bent(parts[1], 0, "free")
        first[-1:] = [replace(last, after=begin.after)]
        second = second[1:]
    return replace(one, points=(*first, *second)), ways[a, b]


def offset(curve: Curve, cells: float) -> Curve:
    """The curve so many cells to the right of its way, seen from above.

    Each cubic is moved by its normals at both ends and its handles are drawn in or out as its
    curvature asks (Tiller and Hanson, Offsets of two-dimensional profiles, 1984); parts that turn
    far are cut first.  Raises BadValue where it would fold over itself.
    """
    curve = _cut_where_it_turns(curve)
    rows, many = curve.line.curve, len(curve.points)
    points = []
    for n, point in enumerate(curve.points):
        before = (n - 1) % many if curve.closed or n else None
        after = n if curve.closed or n < many - 1 else None
        ins = _side(rows[before], 1.0, cells) if before is not None else None
        outs = _side(rows[after], 0.0, cells) if after is not None else None
        one, two = ins or outs, outs or ins
        if one is None or two is None:
            raise BadValue("the curve to offset", many, "one with some length")
        (n1, k1), (n2, k2) = one, two
        dot = float(n1 @ n2)
        if min(k1, k2) < 0.02 or 1 + dot < 2 / _LONGEST_MITRE**2:
            raise BadValue("the offset", f"{cells:g} cells", "less: the curve would fold over "
                           f"itself at {point.at[-1]:.1f}, {point.at[-2]:.1f}")  # fmt: skip
        at = np.array(point.at)
        at[-2:] += cells * (n1 + n2) / (1 + dot)
        back, on = (pull[n] for pull in curve.pulls)
        if point.bend == "corner":
            points.append(CurvePoint(_place(at), "corner"))
        else:
            points.append(CurvePoint(_place(at), "free", _place(back * k1), _place(on * k2)))
    return replace(curve, points=tuple(points))


def _side(row: NDArray[np.float64], t: float, cells: float) -> tuple[NDArray[np.float64], float]:
    """The way to the right of a cubic at t, seen from above, and by how much it grows shorter that
    far to the side."""
    at = np.array([t])
    way, turn = slope(row[None], at)[0][-2:], bend_of(row[None], at)[0][-2:]
    fast = float(np.linalg.norm(way))
    if fast < 1e-9:
        way = (row[-1] - row[0])[-2:]
        fast, turn = float(np.linalg.norm(way)) or 1.0, np.zeros(2)
    right = np.array([way[1], -way[0]]) / fast
    return right, 1.0 - cells * float(turn @ right) / fast**2


def _cut_where_it_turns(curve: Curve) -> Curve:
    """The same with more points, so that no part between two of them turns far."""
    number = 0
    while number < len(curve.line.curve) and len(curve.points) < _MOST_CUT:
        row = curve.line.curve[number]
        ways = np.diff(row[:, -2:], axis=0)
        ways = ways[np.linalg.norm(ways, axis=1) > 1e-6]
        angles = np.unwrap(np.arctan2(ways[:, 0], ways[:, 1])) if len(ways) else np.zeros(1)
        if float(np.abs(np.diff(angles)).sum()) > _WIDEST_TURN:
            curve, _ = _with_point(curve, number, 0.5)
        else:
            number += 1
    return curve


# --- plain shapes -------------------------------------------------------------------------


def through(points: Sequence[Place] | Positions, bend: Bend, *, closed: bool = False) -> Curve:
    """A curve through places; those that follow on themselves count once.  Raises BadValue for
    fewer than two."""
    places = [_place(np.asarray(at, np.float64)) for at in points]
    kept = [at for n, at in enumerate(places) if not n or at != places[n - 1]]
    if closed and len(kept) > 2 and math.dist(kept[0], kept[-1]) <= _SAME:
        kept.pop()
    return Curve(tuple(CurvePoint(at, bend) for at in kept), closed and len(kept) > 2)


def drawn(path: Positions, tolerance: float, *, closed: bool = False) -> Curve:
    """A smooth curve along a way that was drawn, at most so many cells from it at its points."""
    path = np.asarray(path, np.float64)
    apart = np.ones(len(path), bool)
    apart[1:] = (path[1:] != path[:-1]).any(axis=1)
    path = path[apart]
    if len(path) > 2:
        path = path[simplified(path, tolerance)]
    return through(path, "smooth", closed=closed)


def arc(middle: Place, start: Place, degrees: float) -> Curve:
    """Round a middle from a place, clockwise seen from above; a circle for a whole turn."""
    whole = abs(degrees) >= 360
    sweep = math.radians(math.copysign(360, degrees) if whole else degrees)
    centre, first = np.array(middle, np.float64), np.array(start, np.float64)
    radius = float(np.linalg.norm((first - centre)[-2:]))
    if radius < 0.01 or abs(sweep) < 1e-3:
        raise BadValue("the radius of an arc", round(radius, 3), "more than nothing")
    many = max(1, math.ceil(abs(sweep) / (math.pi / 2) - 1e-9))
    step = sweep / many
    pull = 4 / 3 * math.tan(step / 4) * radius  # Riskus, 2006
    begin = math.atan2(float(first[-2] - centre[-2]), float(first[-1] - centre[-1]))
    points = []
    for n in range(many if whole else many + 1):
        angle = begin + n * step
        at, way = first.copy(), np.zeros(len(first))
        at[-2:] = centre[-2:] + radius * np.array([math.sin(angle), math.cos(angle)])
        way[-2:] = pull * np.array([math.cos(angle), -math.sin(angle)])
        points.append(CurvePoint(_place(at), "free", _place(-way), _place(way)))
    return Curve(tuple(points), whole)


def rectangle(one: Place, other: Place, radius: float = 0.0) -> Curve:
    """Round two opposite corners, clockwise from the north-west; its corners are round as far as
    there is room."""
    a, b = np.minimum(one, other), np.maximum(one, other)
    radius = min(max(radius, 0.0), float((b - a)[-2:].min()) / 2)
    lift = list(np.asarray(one, np.float64)[:-2])
    corners = [(a[-2], a[-1]), (a[-2], b[-1]), (b[-2], b[-1]), (b[-2], a[-1])]
    if (b - a)[-2:].max() < 0.01:
        raise BadValue("the size of a rectangle", 0, "more than nothing")
    if radius < 0.01:
        return through([(*lift, y, x) for y, x in corners], "corner", closed=True)
    steps = [(0, 1), (1, 0), (0, -1), (-1, 0)]  # the way from each corner to the next
    pull = 4 / 3 * math.tan(math.pi / 8) * radius
    points = []
    for n, (y, x) in enumerate(corners):
        (uy, ux), (vy, vx) = steps[n - 1], steps[n]
        wide = [abs((b - a)[-1 if step[0] == 0 else -2]) - 2 * radius for step in
                (steps[n - 1], steps[n])]  # fmt: skip
        for (sy, sx), sign, back, on in (((uy, ux), -1, wide[0] / 3, pull),
                                         ((vy, vx), 1, pull, wide[1] / 3)):  # fmt: skip
            at = (*lift, y + sign * radius * sy, x + sign * radius * sx)
            flat = (0.0,) * len(lift)
            points.append(CurvePoint(_place(np.array(at)), "free",
                                     (*flat, -sy * back, -sx * back),
                                     (*flat, sy * on, sx * on)))  # fmt: skip
    return Curve(tuple(points), True)


def outlined(
    mask: CellMask, cells_each: float, middle: Place, tolerance: float = 0.4
) -> list[Curve]:
    """Closed curves round what is marked in a picture, the longest first, about a middle.

    mask : (h, w) px.  cells_each : the side of a pixel in cells.  tolerance : in px.
    """
    found = []
    half = np.array(mask.shape) / 2
    for way in outlines(mask):
        ring = np.concatenate([way, way[:1]])
        kept = ring[simplified(ring, tolerance)[:-1]]
        if len(kept) < 3:
            continue
        bends = _bends(kept)
        flat = (kept - half) * cells_each + np.array(middle[-2:])
        points = tuple(CurvePoint((*middle[:-2], *_place(at)), bend)
                       for at, bend in zip(flat, bends, strict=True))  # fmt: skip
        found.append(Curve(points, True))
    return found


def _bends(ring: Positions) -> list[Bend]:
    """Corners where a closed way turns sharply."""
    back, on = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    sizes = np.linalg.norm(back, axis=1) * np.linalg.norm(on, axis=1)
    turns = (back * on).sum(axis=1) / np.maximum(sizes, 1e-9)
    return ["corner" if turn < 0.35 else "smooth" for turn in turns.tolist()]
