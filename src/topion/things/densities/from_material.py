"""Density by how far a material is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.form import Blank, Form
from topion.model.refs import Ref
from topion.model.room import Room
from topion.model.typed import between
from topion.things.densities.kind import FLIPPED, JOINED, Asked, DensityKind, Shares, ramp
from topion.weaving.looms import made_of
from topion.weaving.settle import shown_materials

_MAPS: Kept[dict[str, tuple[object, NDArray[np.float32]]]] = Kept()
_FAR = 1e6
_MUCH_SMALLER = 4  # times; a part of a room for which the whole is not looked at


@dataclass(frozen=True)
class FromMaterial(DensityKind):
    """Full up to `near` cells from a material, open from `far` cells on."""

    kind: ClassVar[str] = "from material"
    form: ClassVar[Form] = (
        JOINED, " ", FLIPPED, " ", Blank("material", "material", none="no material"),
        " within ", Blank("near", "number", 0, 512), ", none from ",
        Blank("far", "number", 0, 512), " cells on",
    )  # fmt: skip
    material: Annotated[str, Ref("materials", perhaps=True)] = ""
    near: Annotated[float, between(0, 10_000, "cells")] = 0.0
    far: Annotated[float, between(0, 10_000, "cells")] = 4.0

    def shares(self, asked: Asked) -> Shares:
        number = asked.project.material_id(self.material) if self.material in (
            asked.project.materials) else 0  # fmt: skip
        if not number:
            return np.zeros(len(asked.cells))
        far = int(np.ceil(max(self.near, self.far))) + 1
        found = _distances_at(asked, number, far)
        return ramp(found.astype(np.float64), self.near, self.far)

    def title(self) -> str:
        return f"near {self.material or 'nothing'}"


def _distances_at(asked: Asked, number: int, far: int) -> NDArray[np.float32]:
    """(n,) how far each cell is from the material, right as far as `far`; in a small part of the
    room only what is near is looked at."""
    plan = asked.room.plan_box
    if not len(asked.cells):
        return np.empty(0, np.float32)
    near = Box.of_cells(asked.cells).grown(far).clipped(plan)
    if near.size * _MUCH_SMALLER > plan.size:
        return _distances(asked, number)[tuple(asked.cells.T)]
    seen = uppermost(asked, asked.room, near) == number
    if not seen.any():
        return np.full(len(asked.cells), _FAR, np.float32)
    away = scipy.ndimage.distance_transform_edt(~seen)
    return np.asarray(away[tuple((asked.cells - np.array(near.lo)).T)], np.float32)


def _distances(asked: Asked, number: int) -> NDArray[np.float32]:
    """How far each column is from one whose uppermost cell shows the material."""
    room = asked.room
    kept = _MAPS.of(room, None, dict)
    layers = room.cell_layers()
    stamp = (tuple((i, layer.revision) for i, layer in layers),
             made_of(asked.project, room.info.cells_kind), number)  # fmt: skip
    key = str(number)
    known = kept.get(key)
    if known is None or known[0] != stamp:
        seen = uppermost(asked, room) == number
        away = scipy.ndimage.distance_transform_edt(~seen) if seen.any() else np.full(
            seen.shape, _FAR)  # fmt: skip
        known = kept[key] = (stamp, np.asarray(away, np.float32))
    return known[1]


def uppermost(asked: Asked, room: Room, box: Box | None = None) -> NDArray[np.uint16]:
    """The material that is seen from above in each column of the plan, or of a box of it."""
    box = room.plan_box if box is None else box
    whole = Box((0, *box.lo), (room.info.size[0], *box.hi)) if room.info.axes == 3 else box
    found = np.zeros(box.shape, np.uint16)
    for _, layer in room.cell_layers():
        if not layer.info.shown:
            continue
        cells = shown_materials(asked.project, layer, whole)
        if cells.ndim == 3:
            high = cells.shape[0] - 1 - np.argmax(cells[::-1] > 0, axis=0)
            cells = np.take_along_axis(cells, high[None], axis=0)[0]
        found = np.where(cells > 0, cells, found)
    return found
