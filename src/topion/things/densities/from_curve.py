"""Density by how far a curve is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

import numpy as np
import scipy  # its parts are loaded at first use

from topion.model.derived import Kept
from topion.model.form import Blank, Form
from topion.model.refs import Ref
from topion.model.typed import between
from topion.things.densities.kind import FLIPPED, JOINED, Asked, DensityKind, Shares, ramp

_TREES: Kept[dict[str, tuple[object, scipy.spatial.cKDTree | None]]] = Kept()
_APART = 0.2  # cells between the places of a curve that are looked at
ANY = "any curve"


@dataclass(frozen=True)
class FromCurve(DensityKind):
    """Full up to `near` cells from the curves that a brush drew, open from `far` cells on."""

    kind: ClassVar[str] = "from curve"
    form: ClassVar[Form] = (
        JOINED, " ", FLIPPED, " curves of ", Blank("brush", "curves", none=ANY), " within ",
        Blank("near", "number", 0, 512), ", none from ", Blank("far", "number", 0, 512),
        " cells on",
    )  # fmt: skip
    brush: Annotated[str, Ref("brushes", perhaps=True)] = ""
    near: Annotated[float, between(0, 10_000, "cells")] = 0.5
    far: Annotated[float, between(0, 10_000, "cells")] = 3.0

    def shares(self, asked: Asked) -> Shares:
        tree = self._tree(asked)
        if tree is None:
            return np.zeros(len(asked.cells))
        away, _ = tree.query(asked.cells, distance_upper_bound=max(self.near, self.far) + 1)
        return ramp(np.minimum(np.asarray(away), 1e6), self.near, self.far)

    def _tree(self, asked: Asked) -> scipy.spatial.cKDTree | None:
        layers = asked.room.bottom_up("things")
        stamp = tuple((i, layer.revision) for i, layer in layers)
        kept = _TREES.of(asked.room, None, dict)
        known = kept.get(self.brush)
        if known is None or known[0] != stamp:
            at = [
                curve.line.samples(_APART)[:, -2:]
                for _, layer in layers
                for curve in layer.curves.values()
                if self.brush in ("", curve.brush)
            ]
            tree = scipy.spatial.cKDTree(np.concatenate(at)) if at else None
            known = kept[self.brush] = (stamp, tree)
        return known[1]

    def title(self) -> str:
        return f"near {self.brush or ANY}"
