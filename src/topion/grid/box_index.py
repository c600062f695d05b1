"""Which of many numbered boxes meet a box.  A plain scan of packed bounds: tens of microseconds
for ten thousand boxes, and a change costs the same however many there are."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from topion.grid.boxes import Box

_FIRST_ROOM = 64


class BoxIndex:
    """Boxes of `axes` axes by number."""

    def __init__(self, axes: int, boxes: Iterable[tuple[int, Box]] = ()) -> None:
        self._lo = np.zeros((axes, _FIRST_ROOM), np.int32)
        self._hi = np.zeros((axes, _FIRST_ROOM), np.int32)
        self._numbers = np.zeros(_FIRST_ROOM, np.int64)
        self._row: dict[int, int] = {}
        for number, box in boxes:
            self.put(number, box)

    def __len__(self) -> int:
        return len(self._row)

    def copy(self) -> BoxIndex:
        """Another one that holds the same."""
        made = BoxIndex(len(self._lo))
        made._lo, made._hi, made._numbers = self._lo.copy(), self._hi.copy(), self._numbers.copy()
        made._row = dict(self._row)
        return made

    def put(self, number: int, box: Box) -> None:
        """Add a box, or move the one of that number."""
        row = self._row.setdefault(number, len(self._row))
        if row == self._lo.shape[1]:
            self._lo, self._hi, self._numbers = (
                np.concatenate([old, np.zeros_like(old)], axis=-1)
                for old in (self._lo, self._hi, self._numbers)
            )
        self._lo[:, row], self._hi[:, row], self._numbers[row] = box.lo, box.hi, number

    def drop(self, number: int) -> None:
        """Take a box out; the last one comes into its row."""
        row = self._row.pop(number)
        last = len(self._row)
        if row != last:
            for part in (self._lo, self._hi, self._numbers):
                part[..., row] = part[..., last]
            self._row[int(self._numbers[row])] = row

    def meeting(self, box: Box) -> list[int]:
        """The numbers of all boxes that share a cell with `box`, in no order."""
        count = len(self._row)
        if not count or not box.size:
            return []
        meets = np.ones(count, bool)
        for axis, (lo, hi) in enumerate(zip(box.lo, box.hi, strict=True)):
            meets &= self._lo[axis, :count] < hi
            meets &= self._hi[axis, :count] > lo
        found: list[int] = self._numbers[:count][meets].tolist()
        return found
