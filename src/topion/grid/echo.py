"""Filling cells in the manner of a sample: only windows seen in it are laid.

Each place where a window can lie keeps the set of windows that are still possible there.  What is
chosen in one place takes away from its neighbours what cannot stand beside it, and so on (arc
consistency, Mackworth 1977).  Places are settled row by row, in several rows at once, each well
behind the one before it.  Where nothing is left, what lies round that place is opened again and
filled anew, a larger part each time; where that does not help, the cells there are left open.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.hashing import unit
from topion.grid.windows import Values, Windows

Sets = NDArray[np.uint64]
UNKNOWN = -1  # the value of a cell that asks for nothing
_GOES_ON = 0.5  # how often the sample is followed on where it can be
_WORTH_TELLING = 0.75  # share of choices, at most, before neighbours hear of it again
_GOES_ON = 0.5  # how often the sample is followed on where it can be
_TRIES = 24  # of the cells round a place, before they are left open
_WIDENS, _WIDEST = 1, 12  # cells to each side that are opened again: more at each try, and most
_MOST_BY_BYTES = 1500  # windows whose tables are kept by bytes; by halves of them for more


@dataclass(frozen=True, eq=False)
class Filled:
    """values : as they were given, with what was filled.  left : cells that could not be."""

    values: Values
    left: NDArray[np.bool_]


def echo(
    windows: Windows,
    given: Values,
    fill: NDArray[np.bool_],
    seed: int,
    first: tuple[int, ...] = (),
    step: Callable[[], None] = lambda: None,
) -> Filled:
    """Fill cells so that every window that has one of them was seen in the sample.

    given : values round them, UNKNOWN where anything may lie; read outside `fill` only.
    first : where the first cell lies in the room, for chance.  step : called now and then; may
    raise to stop.
    """
    if not fill.any():
        return Filled(given.copy(), fill.copy())
    if not len(windows):
        return Filled(np.where(fill, UNKNOWN, given), fill.copy())
    solver = _Solver(windows, given, fill, seed, first or (0,) * fill.ndim)
    solver.settle_all(step)
    return solver.filled(given, fill)


class _Beside:
    """What can stand beside windows, for sets of windows kept as bits.

    Sets are rows of 64-bit words.  For each side and each part of a row, a table says which windows
    can stand there beside any of those that the bits of that part stand for.
    """

    def __init__(self, windows: Windows) -> None:
        count = len(windows)
        self.words = -(-count // 64)
        self.bits = 8 if count <= _MOST_BY_BYTES else 4
        values = np.arange(1 << self.bits)
        parts = self.words * 64 // self.bits
        self.sides = [(axis, step) for axis in range(windows.axes) for step in (1, -1)]
        self.tables = np.zeros((len(self.sides), parts, len(values), self.words), np.uint64)
        for number, (axis, step) in enumerate(self.sides):
            head, tail = windows.keys()[axis]
            own, other = (tail, head) if step > 0 else (head, tail)
            alike = _sets_by_key(other, own)  # (p, words)
            for bit in range(self.bits):
                has = (values >> bit & 1).astype(bool)
                of = np.zeros((parts, self.words), np.uint64)
                mine = np.arange(bit, count, self.bits)
                of[mine // self.bits] = alike[mine]
                self.tables[number][:, has] |= of[:, None]

    def of(self, sets: Sets, side: NDArray[np.intp]) -> Sets:
        """(n, words) what can stand at a side of (n, words) sets of windows."""
        parts = sets.view(np.uint8)
        if self.bits == 4:
            parts = np.stack([parts & 15, parts >> 4], axis=2).reshape(len(sets), -1)
        place = np.arange(parts.shape[1])
        return np.asarray(np.bitwise_or.reduce(self.tables[side[:, None], place, parts], axis=1))


def _sets_by_key(has: NDArray[np.intp], asks: NDArray[np.intp]) -> Sets:
    """(p, words) for each asked key, the windows that have it."""
    names, place = np.unique(np.concatenate([has, asks]), return_inverse=True)
    table = np.zeros((len(names), -(-len(has) // 64) * 64), bool)
    table[place[: len(has)], np.arange(len(has))] = True
    return packed(table)[place[len(has) :]]


def packed(sets: NDArray[np.bool_]) -> Sets:
    """(n, words) of (n, p) which windows are in them."""
    wide = np.zeros((len(sets), -(-sets.shape[1] // 64) * 64), bool)
    wide[:, : sets.shape[1]] = sets
    return np.packbits(wide, axis=1, bitorder="little").view(np.uint64)


def unpacked(sets: Sets, count: int) -> NDArray[np.bool_]:
    """(n, count) the opposite of `packed`."""
    return np.unpackbits(sets.view(np.uint8), axis=1, bitorder="little")[:, :count].astype(bool)


def _count(sets: Sets) -> NDArray[np.intp]:
    return np.bitwise_count(sets).sum(axis=1, dtype=np.intp)


class _Solver:
    """Places are windows that have a cell to be filled, numbered along a padded grid."""

    def __init__(
        self,
        windows: Windows,
        given: Values,
        fill: NDArray[np.bool_],
        seed: int,
        first: tuple[int, ...],
    ) -> None:
        self.windows, self.seed, self.first = windows, seed, first
        rim = windows.side - 1
        self.shape = tuple(size + rim for size in fill.shape)
        known = np.pad(given, [(rim, rim)] * fill.ndim, constant_values=UNKNOWN)
        wanted = np.pad(fill, [(rim, rim)] * fill.ndim)
        known = np.where(wanted | ~np.isin(known, windows.cells), UNKNOWN, known)
        view: Any = np.lib.stride_tricks.sliding_window_view
        side = (windows.side,) * fill.ndim
        self.used = view(wanted, side).reshape(-1, windows.side**fill.ndim).any(axis=1)
        self.start = self._allowed(view(known, side).reshape(-1, windows.side**fill.ndim))
        self.dead = self.used & ~self.start.any(axis=1)
        self.used &= ~self.dead
        self.left = self.start.copy()
        self.count = _count(self.left)
        self.told = self.count.copy()  # choices left when its neighbours heard of it last
        self.tries = np.zeros(len(self.left), np.intp)
        self.beside = _Beside(windows)
        self.neighbours = self._neighbours()
        weight = np.log(windows.counts)
        self._weight = (weight - weight.max()).astype(np.float64)

    def _allowed(self, around: Values) -> Sets:
        """(places, words) which windows agree with what is given."""
        flat = self.windows.cells.reshape(len(self.windows), -1)
        every = packed(np.ones((1, len(flat)), bool))
        allowed = np.where(self.used[:, None], every, np.uint64(0))
        asks = np.flatnonzero((around != UNKNOWN).any(axis=1) & self.used)
        fits = np.ones((len(asks), len(flat)), bool)
        for cell in range(flat.shape[1]):
            wanted = around[asks, cell, None]
            fits &= (wanted == UNKNOWN) | (wanted == flat[None, :, cell])
        allowed[asks] = packed(fits)
        return allowed

    def _neighbours(self) -> NDArray[np.intp]:
        """(places, sides) the place at each side, -1 at the edge of the grid."""
        number = np.arange(len(self.left)).reshape(self.shape)
        found = []
        for axis, step in self.beside.sides:
            there = np.roll(number, -step, axis=axis)
            there[(slice(None),) * axis + (-1 if step > 0 else 0,)] = -1
            found.append(there.reshape(-1))
        return np.stack(found, axis=1)

    # --- narrowing ------------------------------------------------------------------------

    def _spread(self, changed: NDArray[np.intp]) -> NDArray[np.intp]:
        """Take away what cannot stand beside what is left; returns places where nothing would be
        left, which stay as they were."""
        empty = [np.empty(0, np.intp)]
        while len(changed):
            self.told[changed] = self.count[changed]
            targets = self.neighbours[changed]
            which, side = np.nonzero((targets >= 0) & self.used[targets])
            if not len(which):
                break
            target = targets[which, side]
            order = np.argsort(target, kind="stable")
            support = self.beside.of(self.left[changed[which[order]]], side[order])
            target = target[order]
            begins = np.flatnonzero(np.diff(target, prepend=-1))
            places = target[begins]
            after = self.left[places] & np.bitwise_and.reduceat(support, begins, axis=0)
            count = _count(after)
            empty.append(places[count == 0])
            less = (count > 0) & (count < self.count[places])
            places, count = places[less], count[less]
            self.left[places], self.count[places] = after[less], count
            changed = places[(count == 1) | (count <= self.told[places] * _WORTH_TELLING)]
        return np.unique(np.concatenate(empty))

    # --- settling -------------------------------------------------------------------------

    def settle_all(self, step: Callable[[], None]) -> None:
        """Settle place after place until each has one window, or was given up."""
        self._mend(self._spread(np.flatnonzero(self.used)), step)
        while True:
            step()
            chosen = self._next()
            if not len(chosen):
                return
            self._choose(chosen)
            self._mend(self._spread(chosen), step)

    def _next(self) -> NDArray[np.intp]:
        """The first open place of each row, where the rows before it are settled further on: so
        places that are settled at once lie apart, and none is ever closed in from all sides."""
        open_ones = (self.used & (self.count > 1)).reshape(-1, self.shape[-1])
        apart = self.windows.side + 1
        far = self.shape[-1] + apart
        first = np.where(open_ones.any(axis=1), open_ones.argmax(axis=1), 2 * far)
        first = first.reshape(self.shape[:-1])
        free = first < far
        for axis in range(first.ndim):
            before = np.roll(first, 1, axis=axis)
            before[(slice(None),) * axis + (0,)] = 2 * far
            free &= first + apart <= before
        rows = np.flatnonzero(free.reshape(-1))
        return rows * self.shape[-1] + first.reshape(-1)[rows]

    def _in_room(self, where: NDArray[np.intp]) -> NDArray[np.intp]:
        """Where places lie in the room, so that chance does not follow from what is filled."""
        return np.asarray(where + np.array(self.first)[:, None])

    def _choose(self, places: NDArray[np.intp]) -> None:
        """One of the windows left in each place, by weight and chance."""
        where = self._in_room(np.array(np.unravel_index(places, self.shape)))
        tries = self.tries[places, None]
        chance = unit(self.seed, *where[..., None], tries, np.arange(len(self.windows))[None])
        # the greatest of log(chance) / weight falls on each in proportion to its weight
        keen = np.log(np.maximum(chance, 1e-300)) * np.exp(-self._weight)
        keen[~unpacked(self.left[places], len(self.windows))] = -np.inf
        best = keen.argmax(axis=1)
        goes_on = self._going_on(places, where)
        best = np.where(goes_on >= 0, goes_on, best)
        self.left[places] = 0
        self.left[places, best // 64] = np.uint64(1) << (best % 64).astype(np.uint64)
        self.count[places] = 1

    def _going_on(self, places: NDArray[np.intp], where: NDArray[np.intp]) -> NDArray[np.intp]:
        """(n,) the window by which the sample goes on from a settled neighbour, -1 for none."""
        out = np.full(len(places), -1, np.intp)
        for number, (axis, step) in enumerate(self.beside.sides):
            before = self.neighbours[places, number ^ 1]  # the sides lie in pairs
            ok = (before >= 0) & self.used[before] & (self.count[before] == 1) & (out < 0)
            if not ok.any():
                continue
            chance = unit(self.seed, number, *where[:, ok], self.tries[places[ok]])
            window = self._settled(before[ok])
            nth = (chance * self.windows.counts[window]).astype(np.intp)
            at = self.windows.order[self.windows.starts[window] + nth]
            to = self.windows.next[axis, 0 if step > 0 else 1, at]
            found = np.where(to >= 0, self.windows.seen_at[to], 0)
            bit = self.left[places[ok], found // 64] >> (found % 64).astype(np.uint64) & np.uint64(
                1
            )
            fits = (to >= 0) & (bit > 0) & (chance < _GOES_ON)
            out[np.flatnonzero(ok)[fits]] = found[fits]
        return out

    def _settled(self, places: NDArray[np.intp]) -> NDArray[np.intp]:
        """(n,) the only window left in each place."""
        return unpacked(self.left[places], len(self.windows)).argmax(axis=1)

    # --- mending --------------------------------------------------------------------------

    def _mend(self, bad: NDArray[np.intp], step: Callable[[], None]) -> None:
        """Open what lies round places where nothing fits, until something does, or give them up."""
        while len(bad):
            step()
            self.tries[bad] += 1
            lost = bad[self.tries[bad] > _TRIES]
            if len(lost):
                self.used[lost] = False
                self.dead[lost] = True
            opened = self._open(bad)
            bad = self._spread(opened)

    def _open(self, bad: NDArray[np.intp]) -> NDArray[np.intp]:
        """Open places round these again; returns those round them, which narrow them anew."""
        opened = np.zeros(self.shape, bool)
        near = np.zeros(self.shape, bool)
        for place in bad.tolist():
            reach = min(_WIDEST, 1 + _WIDENS * int(self.tries[place]))
            middle = np.unravel_index(place, self.shape)
            opened[tuple(slice(max(0, m - reach), m + reach + 1) for m in middle)] = True
            near[tuple(slice(max(0, m - reach - 1), m + reach + 2) for m in middle)] = True
        again = np.flatnonzero(opened.reshape(-1) & self.used)
        self.tries[again] = np.maximum(self.tries[again], self.tries[bad].min())
        self.left[again] = self.start[again]
        self.count[again] = self.told[again] = _count(self.left[again])
        return np.flatnonzero(near.reshape(-1) & self.used)

    # --- the end --------------------------------------------------------------------------

    def filled(self, given: Values, fill: NDArray[np.bool_]) -> Filled:
        """The values of the windows that were settled, each cell as any of them has it."""
        rim = self.windows.side - 1
        size = tuple(s + rim for s in self.shape)
        values = np.full(size, UNKNOWN, np.int32)
        left = np.zeros(size, bool)
        where = np.array(np.unravel_index(np.arange(len(self.left)), self.shape))
        places = np.flatnonzero(self.used)
        chosen = self.windows.cells.reshape(len(self.windows), -1)[self._settled(places)]
        for number, offset in enumerate(self.windows.offsets()):
            values[tuple(where[:, places] + offset[:, None])] = chosen[:, number]
            left[tuple(where[:, self.dead] + offset[:, None])] = True
        inner = tuple(slice(rim, rim + s) for s in fill.shape)
        left = (left[inner] | (values[inner] == UNKNOWN)) & fill
        out = np.where(fill, values[inner], given)
        return Filled(np.where(left, UNKNOWN, out), left)
