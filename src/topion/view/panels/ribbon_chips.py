"""Where the chips of the ribbon lie: thousands of them, of which a few are seen."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from topion.model.edit import Edit

_PAD, _GAP, _PLAYHEAD, _FLAG_PAD = 18, 4, 10, 20
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Filter:
    """room, label : of the Edits that are shown; empty for any."""

    room: str = ""
    label: str = ""

    def shows(self, edit: Edit) -> bool:
        """Whether an Edit is of that room and that brush."""
        if self.label and edit.label != self.label:
            return False
        return not self.room or any(dirty.room == self.room for dirty in edit.dirty())


@dataclass(eq=False)
class Chips:
    """numbers : of the Edits that are shown, from 0.  left, right : where they lie, in px from the
    first.  flags : of marks that are shown, (how many Edits lie before it, left, width, name)."""

    numbers: NDArray[np.intp] = field(default_factory=lambda: np.zeros(0, np.intp))
    left: Floats = field(default_factory=lambda: np.zeros(0))
    right: Floats = field(default_factory=lambda: np.zeros(0))
    flags: list[tuple[int, float, float, str]] = field(default_factory=list)
    playhead: float = 0.0
    total: float = 0.0

    @classmethod
    def laid_out(
        cls,
        edits: Sequence[Edit],
        at: int,
        marks: Mapping[int, str],
        wide: Callable[[str], float],
        wanted: Filter,
    ) -> Chips:
        """wide : of a text, in px.  at : of the playhead, so many Edits are on."""
        if wanted == Filter():
            numbers = np.arange(len(edits))
        else:
            numbers = np.array([n for n, e in enumerate(edits) if wanted.shows(e)], np.intp)
        widths = np.array([wide(label_of(edits[n])) + _PAD for n in numbers.tolist()], float)
        extra = np.zeros(len(numbers) + 1)
        places = {k: int(np.searchsorted(numbers, k)) for k in (*marks, at)}
        starts: dict[int, float] = {}
        for k in sorted(marks):
            starts[k] = extra[places[k]]
            extra[places[k]] += wide(marks[k]) + _FLAG_PAD + _GAP
        extra[places[at]] += _PLAYHEAD
        ends = np.concatenate([[0.0], np.cumsum(widths + _GAP)])
        shift = np.cumsum(extra)
        left = ends[:-1] + shift[:-1] if len(numbers) else np.zeros(0)
        before = ends + shift - extra  # where what stands between two chips begins
        flags = [(k, float(before[places[k]] + starts[k]), wide(marks[k]) + _FLAG_PAD, marks[k])
                 for k in sorted(marks)]  # fmt: skip
        place = places[at]
        playhead = float(before[place] + extra[place] - _PLAYHEAD)
        return cls(numbers, left, left + widths, flags, playhead, float(ends[-1] + shift[-1]))

    def seen(self, lo: float, hi: float) -> range:
        """The places of chips that lie between two px."""
        first = int(np.searchsorted(self.right, lo))
        return range(first, int(np.searchsorted(self.left, hi)))

    def at(self, x: float) -> int | None:
        """The place of the chip at a px."""
        place = int(np.searchsorted(self.right, x))
        inside = place < len(self.left) and self.left[place] <= x
        return place if inside else None

    def flag_at(self, x: float) -> tuple[int, str] | None:
        """The mark at a px: how many Edits lie before it, and its name."""
        return next(((k, name) for k, at, wide, name in self.flags if at <= x <= at + wide), None)


def label_of(edit: Edit) -> str:
    """What stands on a chip."""
    part, count = edit.part
    return edit.label if count == 1 else f"{edit.label} {part}/{count}"
