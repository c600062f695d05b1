"""Density from the light of a picture."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np

from topion.errors import BadValue
from topion.model.form import Blank, Form
from topion.model.picture import Picture
from topion.model.plane import Plane
from topion.things.densities.kind import FLIPPED, JOINED, Asked, DensityKind, Shares

LARGEST = 1024  # px a side
_FULL = 255
_SPREAD = (("over the room", "stretched over the room"), ("a pixel a cell", "a pixel a cell"))


@dataclass(frozen=True)
class FromPicture(DensityKind):
    """Dense where a picture is light.  cells : (h, w) its light, 0 to 255.  name : of its file."""

    kind: ClassVar[str] = "from picture"
    form: ClassVar[Form] = (
        JOINED, " ", FLIPPED, " the picture ", Blank("name", "picture", none="…"), ", ",
        Blank("spread", "choice", choices=_SPREAD),
    )  # fmt: skip
    cells: Plane
    name: str = ""
    spread: Literal["over the room", "a pixel a cell"] = "over the room"

    def __post_init__(self) -> None:
        shape = self.cells.shape
        if len(shape) != 2 or max(shape) > LARGEST:
            raise BadValue("the picture of a density", shape, f"at most {LARGEST} px a side")
        if self.cells.cells.size and int(self.cells.cells.max()) > _FULL:
            raise BadValue("the picture of a density", int(self.cells.cells.max()), "0 to 255")

    def shares(self, asked: Asked) -> Shares:
        light, plan = self.cells.cells, asked.room.info.plan
        shape = np.array(light.shape)
        if self.spread == "over the room":
            at = (asked.cells + 0.5) * shape / np.array(plan)
            at = np.clip(np.floor(at).astype(np.intp), 0, shape - 1)
        else:
            at = asked.cells % shape
        return np.asarray(light[at[:, 0], at[:, 1]] / _FULL)

    def title(self) -> str:
        return self.name or "picture"


def light_of(picture: Picture, name: str, **values: Any) -> FromPicture:
    """The density of a picture; large ones are thinned.  Raises BadValue."""
    rgba = picture.rgba.astype(np.float64)
    light = rgba[..., :3] @ np.array([0.299, 0.587, 0.114]) * rgba[..., 3] / _FULL
    step = max(1, -(-max(light.shape) // LARGEST))
    grey = np.round(light[::step, ::step]).clip(0, _FULL).astype(np.uint16)
    return FromPicture(Plane(np.ascontiguousarray(grey)), name, **values)
