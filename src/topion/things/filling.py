"""What fills a curve: which prefab stands at which length of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import seed_of, unit
from topion.model.curve import MOST_FILLED, Along, Curve, Fill
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.things.along import standing_along
from topion.things.ground import Ground, Spots
from topion.things.rules.kind import rules_of
from topion.things.verdict import allowed_spots

_NONE = ""  # a place that nothing fills
_LEAST = 1e-6
_BESIDE = 1.0  # cells aside of what fills a curve, up to which a thing takes its place


@dataclass(frozen=True)
class _Stretch:
    """A part of a curve that is filled by itself.  lo, hi : lengths.  first, last : prefabs of its
    ends, if any; the last one belongs to the next stretch where that is so."""

    lo: float
    hi: float
    first: str = _NONE
    last: str = _NONE
    owns_last: bool = True
    ring: bool = False


@dataclass(frozen=True)
class Filled:
    """things : where they stand.  refused : how many a rule refuses."""

    things: tuple[Thing, ...]
    refused: int = 0


def places_of(curve: Curve, fill: Fill, wide: Callable[[str], float]) -> list[tuple[float, str]]:
    """(length, prefab) of all that fills a curve, in the order of its way.

    wide : the cells that a prefab takes along the curve.
    """
    found: list[tuple[float, str]] = []
    for stretch in _stretches(curve, fill):
        for far, name in _along(stretch, fill, wide, len(found)):
            found.append((far, name))
            if len(found) >= MOST_FILLED:
                return found
    return [(far, name) for far, name in found if name]


def _stretches(curve: Curve, fill: Fill) -> Iterator[_Stretch]:
    """From corner to corner where these have a part of their own, else the whole."""
    line, cuts = curve.line, list[float]()
    if fill.corner:
        bends = [point.bend for point in curve.points]
        inner = range(len(bends)) if curve.closed else range(1, len(bends) - 1)
        cuts = [float(line.corners[n]) for n in inner if bends[n] != "smooth"]
    if curve.closed:
        if not cuts:
            yield _Stretch(0.0, line.length, fill.start, ring=True)
            return
        ends = [*cuts, cuts[0] + line.length]
        for lo, hi in pairwise(ends):
            yield _Stretch(lo, hi, fill.corner, fill.corner, owns_last=False)
        return
    ends = [0.0, *cuts, line.length]
    for n, (lo, hi) in enumerate(pairwise(ends)):
        final = n == len(ends) - 2
        yield _Stretch(lo, hi, fill.corner if n else fill.start,
                       fill.end if final else fill.corner, owns_last=final)  # fmt: skip


def _along(
    stretch: _Stretch, fill: Fill, wide: Callable[[str], float], number: int
) -> Iterator[tuple[float, str]]:
    """number : how many there were before, for what falls by chance."""
    if fill.by == "gaps":
        yield from _by_gaps(stretch, fill, wide, number)
        return
    lengths = _lengths(stretch, fill)
    names = _chosen(fill, number, len(lengths))
    at_ends = {0: stretch.first}
    if not stretch.ring and len(lengths) and stretch.hi - lengths[-1] < _LEAST:
        at_ends[len(lengths) - 1] = stretch.last
    for n, far in enumerate(lengths.tolist()):
        if n and n == len(lengths) - 1 and n in at_ends and not stretch.owns_last:
            return
        yield far, at_ends.get(n) or names[n]
    if stretch.last and stretch.owns_last and len(lengths) - 1 not in at_ends:
        yield stretch.hi, stretch.last


def _lengths(stretch: _Stretch, fill: Fill) -> NDArray[np.float64]:
    """Where something stands: the first place is the beginning."""
    size = stretch.hi - stretch.lo
    if fill.by == "count":
        if stretch.ring:
            return np.asarray(stretch.lo + size * np.arange(fill.count) / fill.count)
        return np.linspace(stretch.lo, stretch.hi, fill.count)
    pitch = fill.pitch
    steps = min(size / pitch, MOST_FILLED)
    if fill.fits or stretch.ring:
        many = max(1, round(steps))
        pitch = size / many
        return np.asarray(stretch.lo + pitch * np.arange(many + (0 if stretch.ring else 1)))
    return np.asarray(stretch.lo + pitch * np.arange(int(steps + _LEAST) + 1))


def _by_gaps(
    stretch: _Stretch, fill: Fill, wide: Callable[[str], float], number: int
) -> Iterator[tuple[float, str]]:
    """Body beside body, with a gap between; those at corners stand in the middle of theirs."""
    size = stretch.hi - stretch.lo
    before, after = (wide(name) if name else 0.0 for name in (stretch.first, stretch.last))
    inner = _row(fill, wide, number, size, before, after)
    widths = [wide(name) for name in inner]
    ends = (bool(stretch.first), bool(stretch.last))
    share = stretch.ring and not stretch.first
    gaps = max(0, len(inner) - 1 + sum(ends) + (1 if share else 0))
    half = (before / 2 if stretch.first else 0.0, after / 2 if stretch.last else 0.0)
    rest = size - sum(widths) - sum(half)
    gap = rest / gaps if fill.fits and gaps else fill.apart
    if stretch.first:
        yield stretch.lo, stretch.first
    far = stretch.lo + half[0] + (gap if stretch.first else 0.0)
    for name, width in zip(inner, widths, strict=True):
        yield far + width / 2, name
        far += width + gap
    if stretch.last and stretch.owns_last:
        yield stretch.hi, stretch.last


def _row(
    fill: Fill, wide: Callable[[str], float], number: int, size: float, before: float, after: float
) -> list[str]:
    """As many as find room between the ends of a stretch."""
    far = before / 2 + (fill.apart if before else 0.0)
    most = size - after / 2 - (fill.apart if after else 0.0) + _LEAST
    found: list[str] = []
    chosen = _chosen(fill, number, 64)
    while len(found) < MOST_FILLED:
        if len(found) >= len(chosen):
            chosen = _chosen(fill, number, 2 * len(chosen))
        name = chosen[len(found)]
        width = max(wide(name), 0.05) if name else 1.0
        if far + width > most:
            break
        found.append(name)
        far += width + fill.apart
    return found


def _chosen(fill: Fill, number: int, count: int) -> list[str]:
    """One of the parts each, by weight; the same for the same place in the row."""
    if not fill.parts:
        return [_NONE] * count
    weights = np.array([part.weight for part in fill.parts])
    edges = np.cumsum(weights) / weights.sum()
    draw = unit(seed_of("fill"), fill.seed, np.arange(number, number + count))
    rows = np.searchsorted(edges, draw, side="right").clip(0, len(weights) - 1)
    return [fill.parts[row].prefab for row in rows.tolist()]


def body_width(project: Project, name: str) -> float:
    """Cells that a prefab takes along a curve it turns with."""
    prefab = project.prefabs.get(name)
    return float(len(prefab.footprint[0])) if prefab is not None else 1.0


def filled(
    ground: Ground, curve: Curve, attached: tuple[str, int], own: Sequence[Thing] = ()
) -> Filled:
    """The things that fill a curve, without those that a rule refuses.

    own : things attached to it by hand: each takes the place that it stands on, unless it stands
    aside.
    """
    project, room, fill = ground.project, ground.room, curve.fill
    if fill is None:
        return Filled(())
    size = max(curve.length, _LEAST)
    spots = places_of(curve, fill, lambda name: body_width(project, name))
    on_it = [thing for thing in own
             if thing.along and abs(thing.along.aside - fill.aside) < _BESIDE]  # fmt: skip
    spots = [(far, name) for far, name in _without(spots, on_it, size, curve.closed)
             if name in project.prefabs]  # fmt: skip
    made = [
        Thing(name, 0.0, 0.0, attached=attached,
              along=Along(round(min(max((far % size) if curve.closed else far, 0) / size, 1.0), 9),
                          fill.aside, fill.up, fill.turns, fill.turn, True))
        for far, name in spots
    ]  # fmt: skip
    standing = standing_along(project, room, curve, made)
    good = _allowed(ground, standing)
    kept = tuple(thing for thing, ok in zip(standing, good.tolist(), strict=True) if ok)
    return Filled(kept, len(standing) - len(kept))


def _without(
    spots: list[tuple[float, str]], own: Sequence[Thing], size: float, closed: bool
) -> Iterator[tuple[float, str]]:
    taken = np.array([thing.along.share * size for thing in own if thing.along is not None])
    fars = np.array([far for far, _ in spots])
    half = float(np.diff(fars).min(initial=2.0)) / 2
    for far, name in spots:
        away = np.abs(taken - far)
        if closed:
            away = np.minimum(away % size, size - away % size)
        if not (away < half).any():
            yield far, name


def _allowed(ground: Ground, things: Sequence[Thing]) -> NDArray[np.bool_]:
    """(n,) which may stand there, also beside those before them."""
    good = np.zeros(len(things), bool)
    alike: dict[tuple[str, int], list[int]] = {}
    for row, thing in enumerate(things):
        alike.setdefault((thing.prefab, round(thing.turn / 90) % 4), []).append(row)
    axes = ground.room.info.axes
    for number, ((name, quarters), rows) in enumerate(alike.items()):
        prefab: Prefab = ground.project.prefabs[name]
        at = np.array([things[row].at[-axes:] for row in rows])
        spots = Spots(prefab, at, 90.0 * quarters)
        ok = allowed_spots(ground, spots)
        found = (rule.among(ground, spots) for rule in rules_of(ground.project, prefab))
        among = [rule for rule in found if rule is not None]
        for n, row in enumerate(rows):
            if ok[n] and all(rule.allows(n) for rule in among):
                for rule in among:
                    rule.add(n)
                good[row] = True
        if number < len(alike) - 1:  # the others see them
            ground = ground.with_things([things[row] for row in rows if good[row]])
    return good
