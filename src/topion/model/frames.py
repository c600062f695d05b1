"""Frames of animated prefabs, in named sets."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from functools import cached_property
from itertools import accumulate
from typing import Literal

from topion.errors import BadValue
from topion.model.picture import Picture
from topion.model.typed import Name, typed

Plays = Literal["loops", "there and back", "once"]
STILL = "still"  # the set that is shown where nothing else happens
SETS = (STILL, "walking", "acting", "open", "shut")  # that the walk knows
MOST_FRAMES, MOST_SETS = 64, 16


class Timed:
    """Frames by their times.  ms : how long each stays.  plays : how they follow each other."""

    name: str
    ms: tuple[int, ...]
    plays: Plays

    def check_times(self, count: int) -> None:
        """Raises BadValue where there are not so many times, or for one that cannot be."""
        what = f"the frames of {self.name}"
        if not 1 <= count <= MOST_FRAMES:
            raise BadValue(what, count, f"1 to {MOST_FRAMES} frames")
        if len(self.ms) != count:
            raise BadValue(f"the times of {self.name}", len(self.ms), "one for each frame")
        if not all(20 <= ms <= 60_000 for ms in self.ms):
            raise BadValue(f"a time of {self.name}", self.ms, "20 to 60000 ms")

    @cached_property
    def _order(self) -> tuple[int, ...]:
        count = len(self.ms)
        back = range(count - 2, 0, -1) if self.plays == "there and back" else ()
        return (*range(count), *back)

    @cached_property
    def _ends(self) -> list[int]:
        return list(accumulate(self.ms[number] for number in self._order))

    @property
    def length_ms(self) -> int:
        """How long it takes to come to its start again, or to its end."""
        return self._ends[-1]

    def frame_at(self, time_ms: float) -> int:
        """Which frame shows at a time from its start."""
        if self.plays == "once" and time_ms >= self.length_ms:
            return len(self.ms) - 1
        at = bisect_right(self._ends, time_ms % self.length_ms)
        return self._order[min(at, len(self._order) - 1)]


@typed
@dataclass(frozen=True)
class FrameSet(Timed):
    """name : such as still, walking, open.  pictures : each as large as the others.  ms : how long
    each stays.  plays : from the start again, back the same way, or once and then the last."""

    name: Name
    pictures: tuple[Picture, ...]
    ms: tuple[int, ...]
    plays: Plays = "loops"

    def __post_init__(self) -> None:
        self.check_times(len(self.pictures))
        if len({picture.size_px for picture in self.pictures}) > 1:
            raise BadValue(f"the frames of {self.name}", "of several sizes", "all of one size")
