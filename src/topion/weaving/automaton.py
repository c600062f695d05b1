"""First-match of many patterns of neighbourhoods at once, row by row.

A pattern is a few rows of cells: five rows of five for the cards of tiles, nine rows of three
for those of blocks.  Every run of cells in a row is one small code, shared by neighbouring
cells.  Per row of the card a table turns a code into a class of codes that fit the same
patterns, and a second table turns (state, class) into the next state, a state being the set
of patterns still possible; where codes are few, one table turns (state, code) into it at once.
The cost per cell does not grow with the number of rules: the construction is that of a
deterministic automaton by subsets (Rabin and Scott 1959), filled as the data asks for it.
"""

from __future__ import annotations

import itertools
import threading
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

SIDE = 5
_STRIP = 1 << 14  # cells at once, so that all arrays stay near
_MOST_STATES = 1 << 14
_MOST_CODES = 1 << 10  # that are columns of tables themselves
MOST_CLASSES = 7
NO_CLASS = 255  # of a cell without a second material


@dataclass
class _Step:
    """One row of the card: code → class, and (state, class) → next state."""

    class_of_code: NDArray[np.intp]  # (codes,), codes being classes of a cell ** width
    sets: list[int]  # by class, the patterns whose row fits, as bits
    by_code: bool  # whether codes are columns of `next_state`, or their classes
    next_state: NDArray[np.intp]  # (states before, columns), -1 where not yet asked for
    certain: int  # patterns that ask nothing of the rows below

    @property
    def columns(self) -> int:
        return self.next_state.shape[1]


class TooManyStates(Exception):
    """The rules meet so many different surroundings that tables would not pay."""


class Automaton:
    """Compiled patterns over cells that were sorted into a few classes.

    patterns : (n, rows, width, classes) bool, whether a class may stand there; earlier ones win.
    Threads may share it: one at a time fills the tables, and what is new is linked to last.
    """

    def __init__(self, patterns: NDArray[np.bool_]) -> None:
        self.patterns = patterns
        count, rows, self.width, self.classes = patterns.shape
        rows_used = ~patterns.all(axis=(0, 2, 3)) if count else np.zeros(rows, bool)
        self.rows = np.flatnonzero(rows_used)
        self._steps = [self._step(int(row)) for row in self.rows]
        everything = (1 << len(patterns)) - 1
        self._states: list[list[int]] = [[everything]] + [[] for _ in self.rows]
        self._numbers: list[dict[int, int]] = [{everything: 0}] + [{} for _ in self.rows]
        self._filling = threading.Lock()

    def _step(self, row: int) -> _Step:
        sets, class_of_code = _sets_of_row(self.patterns, row)
        below = self.patterns[:, row + 1 :].all(axis=(1, 2, 3))
        certain = sum(1 << int(p) for p in np.flatnonzero(below))
        by_code = len(class_of_code) <= _MOST_CODES
        empty = np.full((1, len(class_of_code) if by_code else len(sets)), -1, np.intp)
        return _Step(class_of_code.reshape(-1).astype(np.intp), sets, by_code, empty, certain)

    def first_fits(self, codes: list[NDArray[np.intp]]) -> NDArray[np.int32]:
        """(n,) the first pattern that fits each cell, -1 for none.

        codes : for each of `rows`, (n,) the code of the cells of that row.
        """
        count = len(codes[0]) if codes else 0
        out = np.empty(count, np.int32)
        for lo in range(0, count, _STRIP):
            part = slice(lo, lo + _STRIP)
            out[part] = self._strip([code[part] for code in codes])
        return out

    def _strip(self, codes: list[NDArray[np.intp]]) -> NDArray[np.int32]:
        state: NDArray[np.intp] = np.zeros(len(codes[0]), np.intp)
        for number, (step, code) in enumerate(zip(self._steps, codes, strict=True)):
            pair = code if step.by_code else step.class_of_code.take(code)
            if number:
                state *= step.columns
                state += pair
                pair = state
            following = step.next_state.reshape(-1).take(pair)
            if following.min(initial=0) < 0:
                with self._filling:
                    self._fill(number, np.unique(pair[following < 0]))
                following = step.next_state.reshape(-1).take(pair)
            state = following
        return self._winners().take(state)

    def _fill(self, number: int, pairs: NDArray[np.intp]) -> None:
        step = self._steps[number]
        states, numbers = self._states[number + 1], self._numbers[number + 1]
        found = []
        # codes of one class lead to the same state, so each class is worked out once a state
        before_of, classes = np.divmod(pairs, step.columns)
        if step.by_code:
            classes = step.class_of_code.take(classes)
        for before, cls in np.unique(np.stack([before_of, classes], axis=1), axis=0).tolist():
            left = self._states[number][before] & step.sets[cls]
            sure = left & step.certain
            if sure:
                left &= ((sure & -sure) << 1) - 1  # nothing behind a certain pattern can win
            if left not in numbers:
                numbers[left] = len(states)
                states.append(left)
            found.append((before, cls, numbers[left]))
        if len(states) > _MOST_STATES:
            raise TooManyStates
        if number + 1 < len(self._steps):
            self._grow(self._steps[number + 1], len(states))
        for before, cls, following in found:
            column = step.class_of_code == cls if step.by_code else cls
            step.next_state[before, column] = following

    @staticmethod
    def _grow(step: _Step, states: int) -> None:
        missing = states - len(step.next_state)
        if missing > 0:
            more = np.full((max(missing, len(step.next_state)), step.columns), -1, np.intp)
            step.next_state = np.concatenate([step.next_state, more])

    def _winners(self) -> NDArray[np.int32]:
        return np.array(
            [(left & -left).bit_length() - 1 if left else -1 for left in self._states[-1]],
            np.int32,
        )


def row_codes(cells: NDArray[np.uint8], classes: int, span: int = SIDE) -> NDArray[np.uint16]:
    """(…, w) codes of the `span` cells round each, from (…, w + span - 1) classes of cells."""
    width = cells.shape[-1] - span + 1
    assert classes**span <= 1 << 16  # so that narrow numbers hold them
    code = cells[..., :width].astype(np.uint16)
    for column in range(1, span):
        code *= np.uint16(classes)
        code += cells[..., column : column + width]
    return code


def _sets_of_row(patterns: NDArray[np.bool_], row: int) -> tuple[list[int], NDArray[np.intp]]:
    """The different sets of patterns, as bits, whose row fits at once; and by code which it is."""
    classes, width = patterns.shape[3], patterns.shape[2]
    digits = np.indices((classes,) * width).reshape(width, -1)
    fits = np.ones((digits.shape[1], len(patterns)), bool)
    for column in range(width):
        fits &= patterns[:, row, column, :].T[digits[column]]
    packed = np.packbits(fits, axis=1, bitorder="little")
    distinct, class_of_code = np.unique(packed, axis=0, return_inverse=True)
    return [int.from_bytes(bits.tobytes(), "little") for bits in distinct], class_of_code


def row_sets(patterns: NDArray[np.bool_], row: int) -> list[int]:
    """Which patterns, as bits, can fit in that row of their cards at once."""
    return _sets_of_row(patterns, row)[0]


def winners(
    patterns: NDArray[np.bool_], sets: list[list[int]], most: int, within: int = -1
) -> set[int] | None:
    """The patterns that win somewhere; None where there are more than `most` states to ask.

    sets : of each row, see `row_sets`.  within : only where that pattern fits, too.
    """
    states = {(1 << len(patterns)) - 1}
    for row, found in enumerate(sets):
        below = patterns[:, row + 1 :].all(axis=(1, 2, 3))
        certain = sum(1 << int(p) for p in np.flatnonzero(below))
        usable = [bits for bits in found if within < 0 or bits >> within & 1]
        following = set()
        for state, bits in itertools.product(states, usable):
            left = state & bits
            sure = left & certain
            following.add(left & (((sure & -sure) << 1) - 1) if sure else left)
        if len(following) > most:
            return None
        states = following
    return {(left & -left).bit_length() - 1 for left in states if left}


def first_fits_plainly(
    patterns: NDArray[np.bool_],
    around: NDArray[np.uint8],
    also: NDArray[np.uint8] | None = None,
) -> NDArray[np.int32]:
    """The same answer pattern by pattern; for one cell, and where tables would not pay.

    around : (n, rows, width) classes of cells.  also : classes as which they count too, or
    NO_CLASS.  A place that takes the first class, which is open ground, wants nothing else there;
    any other place is content with one of both.
    """
    out = np.full(len(around), -1, np.int32)
    left = np.arange(len(around))
    for number, pattern in enumerate(patterns):
        asked = np.argwhere(~pattern.all(axis=2)).tolist()
        fits = np.ones(len(left), bool)
        for row, column in asked:
            taken = pattern[row, column]
            may = taken[around[left, row, column]]
            if also is not None:
                second = also[left, row, column]
                lone = second == NO_CLASS
                other = taken[np.where(lone, 0, second)]
                may = may & (other | lone) if taken[0] else may | (other & ~lone)
            fits &= may
        out[left[fits]] = number
        left = left[~fits]
        if not len(left):
            break
    return out
