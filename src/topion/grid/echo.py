"""Filling cells in the manner of a sample: only windows seen in it are laid.

Each place where a window can lie keeps the set of windows that are still possible there, as one
long number with a bit for each.  What is chosen in one place takes away from its neighbours what
cannot stand beside it, and so on (arc consistency, Mackworth 1977).  Places are settled in reading
order.  Where nothing is left, what lies round that place is opened again and filled anew, a larger
part each time; where that does not help, the cells there are left open.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.grid.bit_sets import Bits, bits_where, members
from topion.grid.hashing import unit
from topion.grid.windows import Values, Windows

UNKNOWN = -1  # the value of a cell that asks for nothing
_GOES_ON = 0.5  # how often the sample is followed on where it can be
_WORTH_TELLING = 0.75  # share of choices, at most, before neighbours hear of it again
_TRIES = 24  # of the cells round a place, before they are left open
_WIDENS, _WIDEST = 1, 12  # cells to each side that are opened again: more at each try, and most
_KEPT = 100_000  # answers that are kept
_SAID = 16  # places settled between steps


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


class Beside:
    """What can stand beside windows, on each side: (axis, step).

    For each sixteen windows a table says what can stand beside any of those that a word of a set
    stands for; it is made as it is asked for.
    """

    def __init__(self, windows: Windows) -> None:
        self.sides = [(axis, step) for axis in range(windows.axes) for step in (1, -1)]
        self._words = -(-len(windows) // 16)
        self._sets = [self._of_windows(windows, *side) for side in self.sides]
        self._tables: list[list[dict[int, Bits]]] = [
            [{} for _ in range(self._words)] for _ in self.sides
        ]
        self._known: list[dict[Bits, Bits]] = [{} for _ in self.sides]

    def _of_windows(self, windows: Windows, axis: int, step: int) -> list[Bits]:
        """What can stand beside each window."""
        head, tail = windows.keys()[axis]
        own, other = (tail, head) if step > 0 else (head, tail)
        by_key: dict[int, Bits] = {}
        for number, key in enumerate(other.tolist()):
            by_key[key] = by_key.get(key, 0) | 1 << number
        return [by_key.get(key, 0) for key in own.tolist()]

    def of(self, windows: Bits, side: int) -> Bits:
        """What can stand at a side of any of these."""
        known = self._known[side]
        found = known.get(windows)
        if found is None:
            if len(known) > _KEPT:
                known.clear()
            found = known[windows] = self._asked(windows, side)
        return found

    def _asked(self, windows: Bits, side: int) -> Bits:
        found, tables = 0, self._tables[side]
        words = memoryview(windows.to_bytes(2 * self._words, "little")).cast("H")
        for place, word in enumerate(words):
            if word:
                beside = tables[place].get(word)
                found |= self._table(side, place, word) if beside is None else beside
        return found

    def _table(self, side: int, place: int, word: int) -> Bits:
        """One more entry of a table."""
        found = 0
        for number in members(word):
            found |= self._sets[side][place * 16 + number]
        self._tables[side][place][word] = found
        return found


class _Solver:
    """Places are windows that have a cell to be filled, numbered along a padded grid.

    left : of each place the windows that are possible; none for places that are not used or were
    given up.
    """

    def __init__(
        self,
        windows: Windows,
        given: Values,
        fill: NDArray[np.bool_],
        seed: int,
        first: tuple[int, ...],
    ) -> None:
        self.windows = windows
        rim = windows.side - 1
        self.shape = tuple(size + rim for size in fill.shape)
        known = np.pad(given, [(rim, rim)] * fill.ndim, constant_values=UNKNOWN)
        wanted = np.pad(fill, [(rim, rim)] * fill.ndim)
        known = np.where(wanted | ~np.isin(known, windows.cells), UNKNOWN, known)
        view: Any = np.lib.stride_tricks.sliding_window_view
        side = (windows.side,) * fill.ndim
        used = view(wanted, side).reshape(-1, windows.side**fill.ndim).any(axis=1)
        self.start = self._allowed(view(known, side).reshape(len(used), -1), used)
        self.left = list(self.start)
        self.told = [left.bit_count() for left in self.left]  # when neighbours heard of it last
        self.tries = [0] * len(self.left)
        self.dead = {place for place in np.flatnonzero(used).tolist() if not self.left[place]}
        self.beside = Beside(windows)
        self.neighbours = self._neighbours()
        self.chance = _Chance(windows, seed, self.shape, first)

    def _allowed(self, around: Values, used: NDArray[np.bool_]) -> list[Bits]:
        """Which windows agree with what is given at each place."""
        flat = self.windows.cells.reshape(len(self.windows), -1)
        every = (1 << len(flat)) - 1
        allowed = [every if use else 0 for use in used.tolist()]
        for place in np.flatnonzero((around != UNKNOWN).any(axis=1) & used).tolist():
            wanted = around[place]
            asked = wanted != UNKNOWN
            fits = (flat[:, asked] == wanted[asked]).all(axis=1)
            allowed[place] = bits_where(fits)
        return allowed

    def _neighbours(self) -> list[list[tuple[int, int]]]:
        """(side, place) of all that lie beside each place."""
        number = np.arange(len(self.left)).reshape(self.shape)
        found: list[list[tuple[int, int]]] = [[] for _ in self.left]
        for side, (axis, step) in enumerate(self.beside.sides):
            there = np.roll(number, -step, axis=axis)
            there[(slice(None),) * axis + (-1 if step > 0 else 0,)] = -1
            for place, other in enumerate(there.reshape(-1).tolist()):
                if other >= 0 and self.left[place] and self.left[other]:
                    found[place].append((side, other))
        return found

    # --- narrowing ------------------------------------------------------------------------

    def _spread(self, changed: Iterable[int]) -> list[int]:
        """Take away what cannot stand beside what is left; returns places where nothing would be
        left, which stay as they were."""
        left, told, of = self.left, self.told, self.beside.of
        waiting = deque(changed)
        queued, empty = set(waiting), set()
        while waiting:
            place = waiting.popleft()
            queued.discard(place)
            mine = left[place]
            if not mine:
                continue
            told[place] = mine.bit_count()
            for side, there in self.neighbours[place]:
                theirs = left[there]
                after = theirs & of(mine, side)
                if after == theirs:
                    continue
                if not after:
                    empty.add(there)
                    continue
                left[there] = after
                count = after.bit_count()
                if there not in queued and (count == 1 or count <= told[there] * _WORTH_TELLING):
                    waiting.append(there)
                    queued.add(there)
        return sorted(empty)

    # --- settling -------------------------------------------------------------------------

    def settle_all(self, step: Callable[[], None]) -> None:
        """Settle place after place until each has one window, or was given up."""
        step()
        self._mend(self._spread(place for place, left in enumerate(self.left) if left), step)
        at = count = 0
        while at < len(self.left):
            if self.left[at].bit_count() < 2:
                at += 1
                continue
            count += 1
            if count % _SAID == 0:
                step()
            self._choose(at)
            at = min(at, self._mend(self._spread([at]), step))

    def _choose(self, place: int) -> None:
        """One of the windows left in a place: by which the sample goes on from a settled
        neighbour, or else by weight and chance."""
        for number in self._going_on(place):
            if self.left[place] >> number & 1:
                break
        else:
            number = self.chance.window(place, self.tries[place], members(self.left[place]))
        self.left[place] = 1 << number

    def _going_on(self, place: int) -> Iterator[int]:
        """The windows that come next in the sample beside those of settled neighbours."""
        windows, tries = self.windows, self.tries[place]
        for side, before in self.neighbours[place]:
            mine = self.left[before]
            chance = self.chance.side(side, place, tries)
            if chance >= _GOES_ON or mine.bit_count() != 1:
                continue
            window = mine.bit_length() - 1
            nth = int(chance * windows.counts[window])
            at = windows.order[windows.starts[window] + nth]
            axis, step = self.beside.sides[side]
            to = int(windows.next[axis, 1 if step > 0 else 0, at])  # as seen from the neighbour
            if to >= 0:
                yield int(windows.seen_at[to])

    # --- mending --------------------------------------------------------------------------

    def _mend(self, bad: list[int], step: Callable[[], None]) -> int:
        """Open what lies round places where nothing fits, until something does, or give them up;
        returns the first place that was opened."""
        first = len(self.left)
        while bad:
            step()
            for place in bad:
                self.tries[place] += 1
                if self.tries[place] > _TRIES:
                    self.left[place] = self.start[place] = 0
                    self.dead.add(place)
            near, opened = self._open(bad)
            first = min(first, opened)
            bad = self._spread(near)
        return first

    def _open(self, bad: list[int]) -> tuple[list[int], int]:
        """Open places round these again; returns them and those round them, which narrow them
        anew, and the first that was opened."""
        opened, near = np.zeros(self.shape, bool), np.zeros(self.shape, bool)
        for place in bad:
            reach = min(_WIDEST, 1 + _WIDENS * self.tries[place])
            middle = np.unravel_index(place, self.shape)
            opened[tuple(slice(max(0, m - reach), m + reach + 1) for m in middle)] = True
            near[tuple(slice(max(0, m - reach - 1), m + reach + 2) for m in middle)] = True
        again, least = np.flatnonzero(opened).tolist(), min(self.tries[place] for place in bad)
        for place in again:
            self.tries[place] = max(self.tries[place], least)
            self.left[place] = self.start[place]
            self.told[place] = self.left[place].bit_count()
        return np.flatnonzero(near).tolist(), again[0]

    # --- the end --------------------------------------------------------------------------

    def filled(self, given: Values, fill: NDArray[np.bool_]) -> Filled:
        """The values of the windows that were settled, each cell as any of them has it."""
        rim = self.windows.side - 1
        size = tuple(s + rim for s in self.shape)
        values = np.full(size, UNKNOWN, np.int32)
        left = np.zeros(size, bool)
        places = np.array([n for n, mine in enumerate(self.left) if mine], np.intp)
        settled = [self.left[n].bit_length() - 1 for n in places.tolist()]
        where = np.array(np.unravel_index(places, self.shape))
        dead = np.array(np.unravel_index(np.array(sorted(self.dead), np.intp), self.shape))
        chosen = self.windows.cells.reshape(len(self.windows), -1)[settled]
        for number, offset in enumerate(self.windows.offsets()):
            values[tuple(where + offset[:, None])] = chosen[:, number]
            left[tuple(dead + offset[:, None])] = True
        inner = tuple(slice(rim, rim + s) for s in fill.shape)
        left = (left[inner] | (values[inner] == UNKNOWN)) & fill
        out = np.where(fill, values[inner], given)
        return Filled(np.where(left, UNKNOWN, out), left)


class _Chance:
    """Chance by place in the room, so that it does not follow from what is filled; made row by
    row."""

    def __init__(
        self, windows: Windows, seed: int, shape: tuple[int, ...], first: tuple[int, ...]
    ) -> None:
        self.seed, self.shape, self.first = seed, shape, first
        self.rare = windows.counts.max() / windows.counts
        self.windows = np.arange(len(windows))
        self.sides = np.arange(2 * len(shape))
        self._rows: dict[tuple[int, int], NDArray[np.float64]] = {}
        self._side_rows: dict[tuple[int, int], list[list[float]]] = {}

    def window(self, place: int, tries: int, among: Iterable[int]) -> int:
        """One of some windows, each in proportion to its weight."""
        row, at = divmod(place, self.shape[-1])
        if (row, tries) not in self._rows:
            if len(self._rows) > 64:
                self._rows.clear()
            chance = unit(self.seed, *self._where(row), tries, self.windows)
            # the greatest of log(chance) / weight falls on each in proportion to its weight
            self._rows[row, tries] = np.log(np.maximum(chance, 1e-300)) * self.rare
        keen, found = self._rows[row, tries][at], list(among)
        return found[int(keen[found].argmax())]

    def side(self, side: int, place: int, tries: int) -> float:
        """Whether, and where, the sample is followed on from a side."""
        row, at = divmod(place, self.shape[-1])
        if (row, tries) not in self._side_rows:
            chance = unit(self.seed, *self._where(row), tries, self.sides + len(self.windows))
            self._side_rows[row, tries] = chance.tolist()
        return self._side_rows[row, tries][at][side]

    def _where(self, row: int) -> list[NDArray[np.intp]]:
        """(width, 1) where the places of a row lie in the room."""
        across = np.arange(self.shape[-1])[:, None] + self.first[-1]
        above = np.unravel_index(row, self.shape[:-1])
        return [np.full_like(across, int(a) + f)
                for a, f in zip(above, self.first[:-1], strict=True)] + [across]  # fmt: skip
