"""A stamp of 256 × 256 × 64 full cells, planned, packed, laid and undone, against a
list of its cells."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from tests.voxel_rooms import library

from bench.ratio import Ratio, compared
from topion.brushes import Stamp
from topion.brushes.marks import Marks, Place
from topion.model.scrap import Plane, Scrap, ScrapLayer

_SHAPE = (64, 256, 256)


def ratios() -> Iterator[Ratio]:
    project = library()
    cells = (1 + (np.arange(np.prod(_SHAPE)) % 53 == 0)).astype(np.uint16).reshape(_SHAPE)
    layer = ScrapLayer("Blocks", "blocks", {"material": Plane(cells)})
    stamp = Stamp("Rock", scrap=Scrap(_SHAPE, (layer,), ("Ground", "Stones")), repeat="once")
    project.add_room("Quarry", (64, 300, 300))
    marks = Marks(np.array([[0, 8, 8]]))
    mask = np.zeros((64, 300, 300), bool)
    mask[:, 8:264, 8:264] = True

    def ours() -> None:
        edit = stamp.plan(Place(project.data, "Quarry"), marks)
        project.history.apply(edit, kept=edit.sealed())
        project.undo()

    def anchor() -> None:
        np.argwhere(mask)

    yield compared("lay a stamp of 256 × 256 × 64 / list its cells", ours, anchor, 10, rounds=3)
