"""Strokes as they were drawn, to be marked for any brush, and again for another one."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from topion.brushes.gestures import Gesture, Mirror, cell_of, mirrored
from topion.brushes.kind import BrushKind, Nibbed, SoftEdged, Stepped
from topion.brushes.marks import Marks, Place
from topion.errors import TopionError
from topion.grid.areas import Area
from topion.grid.arrays import Positions
from topion.grid.lines import at_pitch, first_of_each
from topion.weaving.settle import shown_materials


@dataclass(frozen=True, eq=False)
class Drawn:
    """points : (n, axes) where the pointer went, in cells.  mirrors, within, override : as they
    were then; see Marks."""

    points: Positions
    gesture: Gesture
    mirrors: tuple[Mirror, ...] = ()
    within: Area | None = None
    override: bool = False

    def marks(self, place: Place, brush: BrushKind) -> Marks:
        """The cells that the stroke marks for a brush."""
        return replace(self._marks(place, brush), override=self.override, within=self.within)

    def _marks(self, place: Place, brush: BrushKind) -> Marks:
        drag = self.gesture.kind == "drag" and len(self.points) > 0
        if drag and (brush.beat() or brush.gap()):  # each is a mark, and none between
            points = self.points if brush.beat() else at_pitch(self.points, brush.gap())
            soft = isinstance(brush, (Nibbed, SoftEdged, Stepped))
            marks = Marks(first_of_each(cell_of(points)), points if soft else None,
                          across=self.gesture.across)  # fmt: skip
            return mirrored(marks, self.mirrors)
        try:
            compared = flooded_cells(place, brush) if self.gesture.kind == "flood" else None
        except TopionError:  # no layer to flood; planning says so
            compared = None
        return mirrored(self.gesture.marks(self.points, compared), self.mirrors)

    def until(self, count: int) -> Drawn:
        """Its first points alone."""
        return replace(self, points=self.points[:count])

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
