"""Anchor 17: why a thing may not stand among 10,000 others, and the nearest spot where it may,
against one query of a k-d tree for as many candidates; and a thing laid among 100,000, against
counting all anew."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.spatial import cKDTree
from tests.rooms import prefab, small_room, stand

from bench.ratio import Ratio, compared
from topion.brushes import ThingsBrush
from topion.grid.neighbours import window_offsets
from topion.model.prefab import Thing
from topion.things.ground import Ground, Spots
from topion.things.rules import ClearOf, KeepsCells
from topion.things.standing import Standing, taken_by
from topion.things.verdict import SEARCH_RADIUS_CELLS, verdict

_SIDE, _COUNT, _MANY = 512, 10_000, 100_000


def ratios() -> Iterator[Ratio]:
    room = small_room((_SIDE, _SIDE))
    room.project.add_prefab(prefab("Post", ClearOf(2.5), KeepsCells()))
    rng = np.random.default_rng(17)
    cells = rng.permutation(_SIDE * _SIDE)[:_COUNT]
    at = np.stack(np.divmod(cells, _SIDE), axis=1).astype(float)
    stand(room, *(Thing("Post", y, x) for y, x in at.tolist()))
    ground, tree = Ground(room.project.data, room.data), cKDTree(at)
    made = room.project.data.prefab("Post")
    offsets = window_offsets(SEARCH_RADIUS_CELLS)
    asked = at[:64]

    def ours() -> None:
        for place in asked:
            verdict(ground, Spots(made, place[None] + (0.0, 1.0)))

    def anchor() -> None:
        for place in asked:
            tree.query(place + offsets)

    yield compared("nearest allowed spot among 10,000 things / one query", ours, anchor, 3)
    yield _among_many()


def _among_many() -> Ratio:
    room = small_room((_SIDE, _SIDE))
    project = room.project
    project.add_prefab(prefab("Post", ClearOf(1.0), KeepsCells()))
    project.add_brush(ThingsBrush("Post", "Post"))
    cells = np.random.default_rng(18).permutation(_SIDE * _SIDE)
    stand(room, *(Thing("Post", float(c // _SIDE), float(c % _SIDE)) for c in cells[:_MANY]))
    free = iter(cells[_MANY:].tolist())
    pairs = [(("things", n), t) for n, t in enumerate(room.things())]

    def ours() -> None:
        c = next(free)
        room.lay("Post", cells=[(c // _SIDE, c % _SIDE)])

    def anchor() -> None:
        standing = Standing.of(project.data, pairs, 2)
        taken_by(project.data, standing, only_keepers=False)

    ours()
    return compared("a thing laid among 100,000 / all counted anew", ours, anchor, 0.25)
