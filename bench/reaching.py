"""The reach of a room: seen from the side against as many bare steps, from above against labels."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy import ndimage

from bench.ratio import Ratio, compared, timed
from topion.demo.brinehollow import brinehollow
from topion.model.figure import Figure
from topion.scripting import ProjectHandle
from topion.walk import JUMP, LEFT, RIGHT, World, step
from topion.walk.reach import reach_from
from topion.walk.state import State
from topion.walk.strides import Strides

_ROWS, _COLUMNS = 64, 96
_SIDE, _TOP = 1.0, 0.2  # s
_FIGURE = Figure("Raker", 0.8, 1.8, 6.0, 3.0, 5.0)


def ratios() -> Iterator[Ratio]:
    project = brinehollow()
    side, top = (_storeys(project, seen) for seen in ("side", "top"))
    tried = reach_from(side).tried
    yield compared("16  reach of a side view of 96 × 64 / as many steps",
                   lambda: reach_from(side), lambda: _steps(side, tried), 1.5, 3)  # fmt: skip
    strides = Strides(side.world, "side")
    reach_from(side, strides)
    spent = timed(lambda: reach_from(side, strides))
    yield Ratio("16  the same again after a stroke / 1 s", spent / _SIDE, 1, spent, _SIDE)
    spent = min(timed(lambda: reach_from(side)) for _ in range(2))
    yield Ratio("16  the same for the first time / 1 s", spent / _SIDE, 1, spent, _SIDE)
    spent = min(timed(lambda: reach_from(top)) for _ in range(5))
    yield Ratio("16  reach of a top view of 96 × 64 / 0.2 s", spent / _TOP, 1, spent, _TOP)
    free = np.random.default_rng(1).random((_ROWS, _COLUMNS)) < 0.7
    yield compared("16  reach of a top view / label", lambda: reach_from(top),
                   lambda: ndimage.label(free), 20)  # fmt: skip


def _storeys(project: ProjectHandle, seen: str) -> State:
    """A room of floors of many lengths, a jump apart; the figure begins below."""
    room = project.add_room(f"Storeys {seen}", (_ROWS, _COLUMNS), seen=seen)
    brush = "Cellar stone" if seen == "side" else "Brick"
    rng = np.random.default_rng(3)
    for y in range(6, _ROWS - 3, 3):
        x = 2
        while x < _COLUMNS - 6:
            length = int(rng.integers(4, 14))
            if rng.random() < 0.6:
                room.lay(brush, box=((y, x), (y, min(_COLUMNS - 1, x + length))))
            x += length + int(rng.integers(2, 6))
    room.lay(brush, box=((_ROWS - 3, 0), (_ROWS - 1, _COLUMNS - 1)))
    return World(project.data.frozen(), _FIGURE).begin(room.name, (_ROWS - 4, 3))


def _steps(state: State, count: int) -> None:
    for tick in range(count):
        state = step(state, (RIGHT if tick // 100 % 2 else LEFT) | JUMP * (tick % 30 < 15))
