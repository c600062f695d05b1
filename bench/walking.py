"""The walk: it starts in under 0.3 s, and a tick takes a small part of a sixtieth of a second."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench.ratio import Ratio, compared, timed
from topion.demo.alive import CELLAR
from topion.demo.brinehollow import brinehollow
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.model.records import entries_changed
from topion.scripting import ProjectHandle
from topion.walk import RIGHT, World, step
from topion.walk.state import State

_SIDE, _THINGS, _TICKS = 512, 10_000, 120
_START, _TICK = 0.3, 1 / 60  # s
_STILL = ("Salt token", "Crate", "Door", "Valve wheel", "Lantern post")


def ratios() -> Iterator[Ratio]:
    project = brinehollow()
    small, large = (_crowded(project, name, count) for name, count in
                    (("Few", 20), ("Many", _THINGS)))  # fmt: skip
    spent = min(timed(lambda: World(project.data.frozen()).begin(large)) for _ in range(3))
    yield Ratio("15  start in 512² with 10,000 things / 0.3 s", spent / _START, 1, spent, _START)
    spent = min(timed(lambda: _walked(project, CELLAR)) for _ in range(5)) / _TICKS
    yield Ratio("15  a tick in the cellar of the demo / a sixtieth", spent / _TICK, 0.05, spent,
                _TICK)  # fmt: skip
    begun = {name: World(project.data.frozen()).begin(name) for name in (small, large)}
    yield compared(
        "15  a tick among 10,000 still things / among 20",
        lambda: _on(begun[large]),
        lambda: _on(begun[small]),
        4,
    )


def _crowded(project: ProjectHandle, name: str, count: int) -> str:
    """A room of its own with so many things, all over it."""
    room = project.add_room(name, (_SIDE, _SIDE), seen="side")
    rng = np.random.default_rng(1)
    at = rng.integers(_SIDE, size=(count, 2)).tolist()
    things = {n + 1: Thing(_STILL[n % len(_STILL)], y, x) for n, (y, x) in enumerate(at)}
    layer_id = next(i for i, _ in room.data.bottom_up("things"))
    records = entries_changed(room.data, layer_id, "things", things)
    project.history.apply(Edit("Things", tuple(records)))
    return name


def _walked(project: ProjectHandle, room: str) -> State:
    return _on(World(project.data).begin(room))


def _on(state: State) -> State:
    for _ in range(_TICKS):
        state = step(state, RIGHT)
    return state
