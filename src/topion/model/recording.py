"""Recordings of a walk: keys by tick, where it begins, and where it ended."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Annotated

from topion.errors import BadValue
from topion.model.figure import PLAIN_FIGURE, Figure
from topion.model.refs import Ref
from topion.model.typed import Name, between, typed

MOST_TICKS = 60 * 60 * 60  # an hour
_RUN = re.compile(r"(?:([1-9][0-9]{0,6})\*)?(-|[a-z]+(?:\+[a-z]+)*)")
KEY_BITS = {"left": 1, "right": 2, "up": 4, "down": 8, "jump": 16, "act": 32, "turn": 64}


@typed
@dataclass(frozen=True)
class End:
    """Where a walk ended.  at : z, y, x of its feet in cells.  ended : "", "room" or "world".

    taken, backs : how many pickups it had, and how often it was brought back.
    """

    room: str = ""
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)
    ended: str = ""
    taken: Annotated[int, between(0, 1 << 31)] = 0
    backs: Annotated[int, between(0, 1 << 31)] = 0


@typed
@dataclass(frozen=True)
class Recording:
    """room : in which it begins, at a place in cells, or where the room starts for none.

    figure : the body as it was.  runs : keys held for so many ticks, like `30*right`,
    `6*right+jump`, `4*-`.  end : where it ended when it was recorded.
    """

    name: Name
    room: Annotated[str, Ref("rooms", perhaps=True)]
    at: tuple[float, ...] = ()
    figure: Figure = PLAIN_FIGURE
    runs: tuple[str, ...] = ()
    end: End = End()

    def __post_init__(self) -> None:
        if len(self.at) not in (0, 2, 3):
            raise BadValue("the place of a recording", self.at, "two or three numbers, or none")
        count = 0
        for run in self.runs:
            ticks, _ = run_of(run)
            count += ticks
        if count > MOST_TICKS:
            raise BadValue("the length of a recording", f"{count} ticks", f"at most {MOST_TICKS}")

    def held(self) -> Iterator[int]:
        """The keys of each tick, as bits; see `topion.walk.keys`."""
        for run in self.runs:
            ticks, held = run_of(run)
            for _ in range(ticks):
                yield held

    @property
    def ticks(self) -> int:
        """How long it is."""
        return sum(run_of(run)[0] for run in self.runs)


def run_of(text: str) -> tuple[int, int]:
    """(ticks, keys) of a run.  Raises BadValue for text that is none."""
    found = _RUN.fullmatch(text)
    names = found[2].split("+") if found and found[2] != "-" else []
    if found is None or len(set(names)) < len(names) or not set(names) <= KEY_BITS.keys():
        wanted = "ticks and keys like 30*right+jump, of " + ", ".join(KEY_BITS)
        raise BadValue("the keys of a recording", text, wanted)
    return int(found[1] or 1), sum(KEY_BITS[name] for name in names)


def runs_of(keys: Iterable[int]) -> tuple[str, ...]:
    """Keys of each tick as runs."""
    runs: list[tuple[int, int]] = []
    for held in keys:
        if runs and runs[-1][1] == held:
            runs[-1] = (runs[-1][0] + 1, held)
        else:
            runs.append((1, held))
    return tuple(f"{count}*{_names(held)}" if count > 1 else _names(held) for count, held in runs)


def _names(held: int) -> str:
    return "+".join(name for name, bit in KEY_BITS.items() if held & bit) or "-"
