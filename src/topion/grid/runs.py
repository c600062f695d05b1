"""Cell arrays as text rows with run lengths: `12*0 3*5 7`, one line a row.

Both ways work on whole strips of rows through small tables, never cell by cell, and the
reading side checks every byte and every row sum.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache

import numpy as np
from numpy.typing import NDArray

from topion.grid.arrays import TileIds

_STAR, _BLANK, _END, _ZERO = (ord(c) for c in "* \n0")
_BAD = 1
_SIGNS = bytes(0 if 0 <= c - _ZERO <= 9 else c if c in (_STAR, _BLANK, _END) else _BAD
               for c in range(256))  # fmt: skip
_STRIP_CELLS = 1 << 18
_STRIP_BYTES = 1 << 18
_LONGEST_NUMBER = 5


class BadRows(ValueError):
    """Text rows that do not hold what was declared; `line` counts from 1."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(reason)
        self.line, self.reason = line, reason


@cache
def _tokens(sign: int) -> NDArray[np.uint64]:
    """(65536,) every number and `sign` after it as up to six letters, the rest of the eight 0."""
    letters = [b"%d%c" % (number, sign) for number in range(1 << 16)]
    return np.array(letters, "S8").view(np.uint64)


@cache
def _last_two() -> NDArray[np.int32]:
    """(65536,) the number in the letters (tens, ones), of which the first may be no digit."""
    tens, ones = np.divmod(np.arange(1 << 16, dtype=np.int32), 256)
    tens, ones = tens - _ZERO, ones - _ZERO
    return np.where((tens >= 0) & (tens <= 9), 10 * tens, 0) + ones


def rows_to_text(cells: TileIds) -> Iterator[bytes]:
    """The rows of (h, w) uint8 or uint16 cells as text, a strip at a time.  w below 65536."""
    height, width = cells.shape
    if not width:
        yield b"\n" * height
        return
    step = max(1, _STRIP_CELLS // width)
    for top in range(0, height, step):
        yield _strip_to_text(np.ascontiguousarray(cells[top : top + step]), width)


def _strip_to_text(strip: TileIds, width: int) -> bytes:
    flat = strip.reshape(-1)
    starts_run = np.empty(flat.size, bool)
    starts_run[0] = True
    np.not_equal(flat[1:], flat[:-1], out=starts_run[1:])
    starts_run[::width] = True
    first = np.flatnonzero(starts_run)
    counts = np.diff(first, append=flat.size)
    values = flat[first]
    tokens = np.empty((len(first), 2), np.uint64)
    tokens[:, 0] = _tokens(_STAR).take(counts)
    tokens[counts == 1, 0] = 0
    tokens[:, 1] = _tokens(_BLANK).take(values)
    ends = np.searchsorted(first, np.arange(width, flat.size + 1, width)) - 1
    tokens[ends, 1] = _tokens(_END).take(values[ends])
    return tokens.tobytes().translate(None, b"\0")


def text_to_rows(
    text: bytes,
    shape: tuple[int, int],
    *,
    highest: int = 0xFFFF,
    each_strip: Callable[[], None] | None = None,
) -> TileIds:
    """The (h, w) uint16 cells that `text` holds.

    Raises BadRows for a byte that does not belong there, a number above `highest`, a row of
    the wrong length, or a wrong number of rows.  `each_strip` is called between strips.
    """
    height, width = shape
    cells = np.empty((height, width), np.uint16)
    row, at = 0, 0
    while at < len(text):
        end = text.rfind(b"\n", at, at + _STRIP_BYTES) + 1 or text.find(b"\n", at) + 1
        if not end:
            raise BadRows(row + 1, "the last line is cut short")
        row = _strip_to_rows(np.frombuffer(text, np.uint8, end - at, at), cells, row, highest)
        at = end
        if each_strip:
            each_strip()
    if row != height:
        raise BadRows(row + 1, f"has {row} rows, but {height} are declared")
    return cells


def _strip_to_rows(strip: NDArray[np.uint8], cells: TileIds, row: int, highest: int) -> int:
    """Decode whole lines into `cells` from `row` on; returns the next row."""
    height, width = cells.shape
    signs_at = np.frombuffer(strip.tobytes().translate(_SIGNS), np.uint8)  # 0 for digits
    marks = np.flatnonzero(signs_at != 0)
    signs = signs_at[marks]

    def line_of(number: int) -> int:
        return row + 1 + int((signs[:number] == _END).sum())

    bad = np.flatnonzero(signs == _BAD)
    if len(bad):
        letter = bytes(strip[marks[bad[0]]][None])
        raise BadRows(
            line_of(int(bad[0])),
            f"holds {letter!r}, but only numbers, * and blanks belong there",
        )
    lengths = np.diff(marks, prepend=-1) - 1
    _refuse_first(lengths < 1, line_of, "misses a number")
    _refuse_first(lengths > _LONGEST_NUMBER, line_of, "holds a number that is too long")
    numbers = _numbers(strip, marks, lengths)
    is_count = signs == _STAR
    _refuse_first(is_count[1:] & is_count[:-1], line_of, "holds two * in a row")
    counts, values = np.ones(len(numbers), np.int32), numbers
    stars = np.flatnonzero(is_count)
    if len(stars):
        counts[stars + 1] = numbers[stars]
        kept = np.flatnonzero(~is_count)
        values, counts, signs = numbers[kept], counts[kept], signs[kept]
    lines = _check_rows(values, counts, signs, width, row, highest)
    if row + lines > height:
        raise BadRows(height + 1, f"has more than the {height} rows declared")
    out = cells[row : row + lines].reshape(-1)
    out[...] = np.repeat(values.astype(np.uint16), counts)
    return row + lines


def _refuse_first(bad: NDArray[np.bool_], line_of: Callable[[int], int], reason: str) -> None:
    if bad.any():
        raise BadRows(line_of(int(np.argmax(bad))), reason)


def _numbers(
    strip: NDArray[np.uint8], marks: NDArray[np.intp], lengths: NDArray[np.intp]
) -> NDArray[np.int32]:
    """The numbers before `marks`; what is before a strip is as its end, no digit."""
    pairs = strip[marks - 2].astype(np.uint16)
    pairs <<= 8
    pairs |= strip[marks - 1]
    numbers = _last_two().take(pairs)
    for place in range(2, int(lengths.max(initial=0))):
        longer = np.flatnonzero(lengths > place)
        numbers[longer] += (strip[marks[longer] - 1 - place] - _ZERO).astype(np.int32) * 10**place
    return numbers


def _check_rows(
    values: NDArray[np.int32],
    counts: NDArray[np.int32],
    signs: NDArray[np.uint8],
    width: int,
    row: int,
    highest: int,
) -> int:
    """Check sums and values of whole lines; returns how many lines there are."""
    ends = np.flatnonzero(signs == _END)
    sums = np.diff(np.cumsum(counts)[ends], prepend=0)
    wrong = np.flatnonzero(sums != width)
    if len(wrong):
        first = int(wrong[0])
        raise BadRows(row + 1 + first, f"has {sums[first]} cells, but the room is {width} wide")
    too_high = np.flatnonzero(values > highest)
    if len(too_high):
        first = int(too_high[0])
        line = row + 1 + int(np.searchsorted(ends, first))
        raise BadRows(line, f"holds {values[first]}, but the highest known is {highest}")
    return len(ends)
