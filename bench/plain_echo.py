"""Filling cells in the manner of a sample as `topion.grid.echo` does, cell by cell in plain Python:
sets of windows as sets, neighbours one after the other."""

from __future__ import annotations

import math
from collections import Counter, defaultdict, deque
from dataclasses import dataclass, field

from topion.grid.echo import _GOES_ON, _TRIES, _WIDENS, _WIDEST, _WORTH_TELLING
from topion.grid.hashing import unit

Window = tuple[int, ...]
Place = tuple[int, int]
_SIDES = ((0, 1), (0, -1), (1, 1), (1, -1))  # axis and step


@dataclass
class Sample:
    """windows : each once.  beside : of each window and side, those that can stand there.
    by_cells : whether that is found out by comparing their cells, each time it is asked."""

    side: int
    windows: list[Window]
    counts: list[int]
    beside: list[list[set[int]]]
    seen_at: dict[Place, int]
    places: list[list[Place]]
    by_cells: bool = False

    @classmethod
    def of(cls, values: list[list[int]], side: int, *, by_cells: bool = False) -> Sample:
        """All windows of a sample without open cells."""
        high, wide = len(values), len(values[0])
        at = {
            (y, x): tuple(values[y + v][x + u] for v in range(side) for u in range(side))
            for y in range(high - side + 1)
            for x in range(wide - side + 1)
        }
        counts = Counter(at.values())
        windows = sorted(counts)
        number = {window: n for n, window in enumerate(windows)}
        seen_at = {place: number[window] for place, window in at.items()}
        places: list[list[Place]] = [[] for _ in windows]
        for place, n in seen_at.items():
            places[n].append(place)
        beside = [cls._beside(windows, side, axis, step) for axis, step in _SIDES]
        weights = [counts[w] for w in windows]
        return cls(side, windows, weights, beside, seen_at, places, by_cells)

    def among(self, left: set[int], mine: set[int], side: int) -> set[int]:
        """Which of the windows left can stand at a side of any of these."""
        if self.by_cells:
            return {n for n in left if any(self._agree(m, n, side) for m in mine)}
        can: set[int] = set()
        for window in mine:
            can |= self.beside[side][window]
        return left & can

    def _agree(self, one: int, other: int, number: int) -> bool:
        """Whether one window can stand at a side of another: they share all but a line."""
        axis, step = _SIDES[number]
        a, b = (one, other) if step > 0 else (other, one)
        first, then, side = self.windows[a], self.windows[b], self.side
        if axis == 0:
            return first[side:] == then[:-side]
        return all(first[n] == then[n - 1] for n in range(side * side) if n % side)

    @staticmethod
    def _beside(windows: list[Window], side: int, axis: int, step: int) -> list[set[int]]:
        cells = [(y, x) for y in range(side) for x in range(side)]
        head = [n for n, at in enumerate(cells) if at[axis] < side - 1]
        tail = [n for n, at in enumerate(cells) if at[axis] > 0]
        own, other = (tail, head) if step > 0 else (head, tail)
        by_key = defaultdict(set)
        for n, window in enumerate(windows):
            by_key[tuple(window[c] for c in other)].add(n)
        return [by_key.get(tuple(w[c] for c in own), set()) for w in windows]


@dataclass
class Solver:
    """left : of each place, the windows that are possible there.  told : how many there were when
    its neighbours heard of it last."""

    sample: Sample
    shape: Place
    seed: int
    left: dict[Place, set[int]] = field(default_factory=dict)
    told: dict[Place, int] = field(default_factory=dict)
    tries: Counter[Place] = field(default_factory=Counter)

    def filled(self) -> list[list[int]]:
        """A whole rectangle filled; -1 for cells that could not be."""
        rim = self.sample.side - 1
        high, wide = self.shape[0] + rim, self.shape[1] + rim
        places = [(y, x) for y in range(high) for x in range(wide)]
        self.left = {place: set(range(len(self.sample.windows))) for place in places}
        self.told = {place: len(self.sample.windows) for place in places}
        self.mend(self.spread(places))
        while any(len(left) > 1 for left in self.left.values()):
            for place in places:  # row by row
                if len(self.left.get(place, ())) > 1:
                    self.choose(place)
                    self.mend(self.spread([place]))
        return [[self._value(y + rim, x + rim) for x in range(self.shape[1])]
                for y in range(self.shape[0])]  # fmt: skip

    def _value(self, y: int, x: int) -> int:
        left = self.left.get((y, x))
        return self.sample.windows[next(iter(left))][0] if left else -1

    def spread(self, changed: list[Place]) -> list[Place]:
        """Take away what cannot stand beside what is left; places where nothing would be left."""
        empty, waiting, queued = set(), deque(changed), set(changed)
        while waiting:
            place = waiting.popleft()
            queued.discard(place)
            if place not in self.left:
                continue
            mine = self.left[place]
            self.told[place] = len(mine)
            for side, (axis, step) in enumerate(_SIDES):
                there = (place[0] + step * (axis == 0), place[1] + step * (axis == 1))
                if there not in self.left:
                    continue
                after = self.sample.among(self.left[there], mine, side)
                if not after:
                    empty.add(there)
                elif len(after) < len(self.left[there]):
                    self.left[there] = after
                    worth = len(after) == 1 or len(after) <= self.told[there] * _WORTH_TELLING
                    if worth and there not in queued:
                        waiting.append(there)
                        queued.add(there)
        return sorted(empty)

    def choose(self, place: Place) -> None:
        """One of the windows left, by weight and chance."""
        found = self._going_on(place)
        if found is None:
            most = max(self.sample.counts)
            best = -math.inf
            for window in sorted(self.left[place]):
                chance = float(unit(self.seed, *place, self.tries[place], window))
                keen = math.log(max(chance, 1e-300)) * most / self.sample.counts[window]
                if keen > best:
                    best, found = keen, window
        assert found is not None
        self.left[place] = {found}

    def _going_on(self, place: Place) -> int | None:
        """The window by which the sample goes on from a settled neighbour."""
        for side, (axis, step) in enumerate(_SIDES):
            before = (place[0] - step * (axis == 0), place[1] - step * (axis == 1))
            settled = self.left.get(before, set())
            if len(settled) != 1:
                continue
            chance = float(unit(self.seed, side, *place, self.tries[place]))
            window = next(iter(settled))
            at = self.sample.places[window][int(chance * self.sample.counts[window])]
            to = self.sample.seen_at.get((at[0] + step * (axis == 0), at[1] + step * (axis == 1)))
            if to is not None and to in self.left[place] and chance < _GOES_ON:
                return to
        return None

    def mend(self, bad: list[Place]) -> None:
        """Open what lies round places where nothing fits, until something does."""
        while bad:
            for place in bad:
                self.tries[place] += 1
                if self.tries[place] > _TRIES:
                    self.left.pop(place, None)
            bad = self.spread(self._opened(bad))

    def _opened(self, bad: list[Place]) -> list[Place]:
        near: set[Place] = set()
        for place in bad:
            reach = min(_WIDEST, 1 + _WIDENS * self.tries[place])
            for y in range(place[0] - reach - 1, place[0] + reach + 2):
                for x in range(place[1] - reach - 1, place[1] + reach + 2):
                    if (y, x) in self.left:
                        near.add((y, x))
                        if max(abs(y - place[0]), abs(x - place[1])) <= reach:
                            self.left[y, x] = set(range(len(self.sample.windows)))
                            self.told[y, x] = len(self.sample.windows)
        return sorted(near)
