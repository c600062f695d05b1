"""Strokes as they were drawn, to be marked for any brush, and again for another one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.brushes.gestures import Gesture, Mirror, cell_of, mirrored
from topion.brushes.kind import BrushKind, Nibbed, SoftEdged, Stepped
from topion.brushes.marks import Marks, Place
from topion.errors import TopionError
from topion.grid.areas import Area
from topion.grid.arrays import Positions
from topion.grid.lines import at_pitch, first_of_each, path_cells, widened
from topion.weaving.settle import shown_materials

Pressing = Literal["nib", "strength", "nothing"]


@dataclass(frozen=True, eq=False)
class Drawn:
    """points : (n, axes) where the pointer went, in cells.  mirrors, within, override : as they
    were then; see Marks.  pressures : (n,) of a pen, 0 to 1, which scale the nib of a drag or its
    strength; none where there was no pen."""

    points: Positions
    gesture: Gesture
    mirrors: tuple[Mirror, ...] = ()
    within: Area | None = None
    override: bool = False
    pressures: NDArray[np.float64] | None = None
    pressing: Pressing = "nothing"

    def marks(self, place: Place, brush: BrushKind) -> Marks:
        """The cells that the stroke marks for a brush."""
        marks = replace(self._marks(place, brush), override=self.override, within=self.within)
        if self.pressures is None or len(self.pressures) != len(self.points):
            return marks
        soft = self.pressing == "nib" and isinstance(brush, SoftEdged)  # which has no nib
        if (soft or self.pressing == "strength") and len(self.points):
            return replace(marks, strength=float(np.clip(self.pressures.max(), 0.05, 1.0)))
        return marks

    def _pressed(self, nib: int) -> Marks | None:
        """The cells of a drag whose nib is as wide as the pen pressed; None where it does not
        matter."""
        pressures, gesture = self.pressures, self.gesture
        if pressures is None or len(pressures) != len(self.points) or self.pressing != "nib":
            return None
        wide = np.maximum(1, np.round(nib * np.clip(pressures, 0.0, 1.0))).astype(int)
        if nib < 2 or gesture.kind != "drag" or (wide == nib).all():
            return None
        turns = [0, *(np.flatnonzero(np.diff(wide)) + 1).tolist(), len(wide)]
        parts = []
        for first, end in pairwise(turns):  # each goes on from where the one before ended
            way = path_cells(cell_of(self.points[max(0, first - 1) : end]))
            way = way[1:] if first and len(way) > 1 else way
            parts.append(widened(way, int(wide[first]), across=gesture.across))
        at = cell_of(self.points[[0, -1]])
        return Marks(first_of_each(np.concatenate(parts)), across=gesture.across, knots=(at,),
                     drawn=(self.points,), by="drag")  # fmt: skip

    def _marks(self, place: Place, brush: BrushKind) -> Marks:
        drag = self.gesture.kind == "drag" and len(self.points) > 0
        if drag and (brush.beat() or brush.gap()):  # each is a mark, and none between
            points = self.points if brush.beat() else at_pitch(self.points, brush.gap())
            soft = isinstance(brush, (Nibbed, SoftEdged, Stepped))
            marks = Marks(first_of_each(cell_of(points)), points if soft else None,
                          across=self.gesture.across)  # fmt: skip
            return mirrored(marks, self.mirrors)
        pressed = self._pressed(brush.nib) if isinstance(brush, Nibbed) else None
        if pressed is not None:
            return mirrored(pressed, self.mirrors)
        try:
            compared = flooded_cells(place, brush) if self.gesture.kind == "flood" else None
        except TopionError:  # no layer to flood; planning says so
            compared = None
        return mirrored(self.gesture.marks(self.points, compared), self.mirrors)

    def until(self, count: int) -> Drawn:
        """Its first points alone."""
        pressures = None if self.pressures is None else self.pressures[:count]
        return replace(self, points=self.points[:count], pressures=pressures)

    def moved_to(self, cell: tuple[int, ...]) -> Drawn:
        """The same drawn so that it begins in another cell."""
        by = np.array(cell) - cell_of(self.points[:1])[0]
        return replace(self, points=self.points + by)


def flooded_cells(place: Place, brush: BrushKind) -> np.ndarray:
    """What a flood with this brush compares: the layer it lays on, or what lies uppermost."""
    room = place.room
    if brush.material:
        _, layer = place.cells_layer(brush.layer)
        return shown_materials(place.project, layer)
    top = np.zeros(room.info.size, np.uint16)
    for _, layer in room.cell_layers():
        material = shown_materials(place.project, layer)
        np.copyto(top, material, where=material > 0)
    return top
