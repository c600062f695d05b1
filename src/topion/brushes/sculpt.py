"""Sculpt: raises, lowers, levels and smooths the columns of a voxel room."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.brushes.kind import (
    DEEP_SCRAP,
    Sample,
    Setting,
    all_brushes,
)
from topion.brushes.laying import Laid, lay, refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.soft import soft_columns, soft_reach
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.arrays import CellList, MaterialIds
from topion.grid.boxes import Box
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.typed import Colour, Name
from topion.things.floor import tile_facts
from topion.weaving.settle import shown_tiles

_SMOOTHED_OVER = 2.0  # cells, the spread of the Gaussian that smoothing tends to
_WORDS = {"raise": "Raise", "lower": "Lower", "level": "Level", "smooth": "Smooth"}


@dataclass(frozen=True)
class Sculpt(Spaced):
    """way : what a stroke does to the height of each column.  levels : how far at most.

    radius, soft : of the stroke in cells, seen from above.
    only : the material that counts as ground, or nothing for the uppermost of each column.
    fill : laid where a column is raised from nothing, or out of what cannot be walked on.
    Columns that end in blocks laid by hand, such as a crate, stay as they are.
    """

    kind: ClassVar[str] = "sculpt"
    axes: ClassVar[int] = 3
    name: Name
    way: Literal["raise", "lower", "level", "smooth"] = "raise"
    levels: int = 1
    radius: float = 4.0
    soft: float = 3.0
    only: Annotated[str, Ref("materials")] = ""
    fill: Annotated[str, Ref("materials")] = ""
    layer: str = ""
    colour: Colour = "#8a7a5c"

    def __post_init__(self) -> None:
        limits = {"levels": (1, 64), "radius": (0.5, 200), "soft": (0, 200)}
        for field, (lo, hi) in limits.items():
            if not lo <= getattr(self, field) <= hi:
                raise BadValue(f"the {field}", getattr(self, field), f"{lo} to {hi}")

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        columns, share = soft_columns(place.room.plan_box, marks, self.radius, self.soft)
        if not len(columns):
            return Edit(self.name)
        material = layer.plane("material")
        number = place.project.material_id(self.only) if self.only else 0
        box = Box.of_cells(columns).grown(4).clipped(place.room.plan_box)
        heights = surface_heights(material[(slice(None), *box.slices)], number)
        at = columns - box.lo
        before = heights[tuple(at.T)]
        start = tuple(np.clip(np.array(marks.start[-2:]) - box.lo, 0, np.array(box.shape) - 1))
        after = self._after(heights, at, share, int(heights[start]))
        tops = (np.maximum(before - 1, 0), *columns.T)
        by_hand = (layer.plane("pinned")[tops] > 0) & (before > 0)
        after = np.where(by_hand, before, np.clip(after, 0, material.shape[0]))
        ground = self._ground(place, layer, tops, before)
        cells, materials = _moved(material, ground, columns, before, after)
        if marks.within is not None:
            inside = marks.within.holds(cells)
            cells, materials = cells[inside], materials[inside]
        if not len(cells):
            return Edit(self.name)
        flat = np.ravel_multi_index(tuple(cells.T), material.shape).astype(np.intp)
        order = np.argsort(flat)
        records = lay(place, layer_id, Laid(flat[order], materials[order]))
        return Edit(f"{_WORDS[self.way]} ground", records, self.colour)

    def _after(
        self, heights: NDArray[np.intp], at: CellList, share: NDArray[np.float64], start: int
    ) -> NDArray[np.intp]:
        """(n,) the heights of the columns after the stroke."""
        now = heights[tuple(at.T)].astype(np.float64)
        match self.way:
            case "raise":
                wanted = now + np.rint(self.levels * share)
            case "lower":
                wanted = now - np.rint(self.levels * share)
            case "level":
                step = np.clip(start - now, -self.levels, self.levels)
                wanted = now + np.rint(step * share)
            case "smooth":
                mean = scipy.ndimage.gaussian_filter(heights.astype(np.float64), _SMOOTHED_OVER,
                                               mode="nearest")  # fmt: skip
                step = np.clip(mean[tuple(at.T)] - now, -self.levels, self.levels)
                wanted = np.rint(now + step * share)
        return np.asarray(wanted, np.intp)

    def _ground(
        self, place: Place, layer: Layer, tops: tuple[Any, ...], before: NDArray[np.intp]
    ) -> MaterialIds:
        """(n,) the material that each column is raised with."""
        top = layer.plane("material")[tops]
        if not self.fill:
            return np.asarray(top)
        tiles = shown_tiles(place.project, layer)[tops]
        firm = tile_facts(place.project, place.room).walkable[tiles]
        fill = place.project.material_id(self.fill)
        return np.where((before > 0) & firm, top, fill).astype(np.uint16)

    def reach(self, project: Project, marks: Marks) -> Box:
        return soft_reach(marks, self.radius)

    def summary(self) -> str:
        return f"sculpt · {self.way}"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("way", "Stroke", "choice", choices=tuple(_WORDS), hint="What it does"),
            Setting("levels", "Levels", "number", 1, 8, 1, hint="How far a column moves at most"),
            Setting("radius", "Radius", "number", 0.5, 24, 0.5, "c", hint="Of the stroke"),
            Setting("soft", "Soft edge", "number", 0, 16, 0.5, "c", hint="Inside the radius"),
            Setting("only", "Ground", "choice", choices=_choices, hint="What counts as ground"),
            Setting("fill", "Fills with", "choice", choices=_choices, hint="Where nothing lies"),
            PITCH,
            RATE,
        )

    def sample(self, project: Project, *, deep: bool) -> Sample:
        own = self.changed(radius=2.6, soft=2.0, only="", fill="")
        marks = Marks(np.array([[0, 3, 3]]), np.array([[0.0, 3.0, 3.0]]))
        return Sample(own, marks, DEEP_SCRAP, levels=2)


def _moved(
    material: MaterialIds,
    ground: MaterialIds,
    columns: CellList,
    before: NDArray[np.intp],
    after: NDArray[np.intp],
) -> tuple[CellList, MaterialIds]:
    """The cells between the old and the new heights, and what comes to lie in them."""
    count = np.abs(after - before)
    which = np.repeat(np.arange(len(columns)), count)
    lowest = np.minimum(before, after)
    steps = np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)
    cells = np.column_stack([lowest[which] + steps, columns[which]])
    values = np.where((after > before)[which], ground[which], 0).astype(np.uint16)
    here = material[tuple(cells.T)]
    keep = here != values
    keep &= ~((values > 0) & (here > 0))  # what hangs above is not built over
    return cells[keep], values[keep]


def _choices(project: Project) -> tuple[str, ...]:
    made = (
        b.material for b in all_brushes(project).values() if any(t.is_block for t in b.tiles_used())
    )
    return ("", *dict.fromkeys(name for name in made if name))


def surface_heights(material: MaterialIds, number: int = 0) -> NDArray[np.intp]:
    """(h, w) how many levels up the uppermost cell of material `number`, or of any, reaches."""
    filled = material == number if number else material > 0
    depth = material.shape[0]
    top = depth - np.argmax(filled[::-1], axis=0)
    return np.asarray(np.where(filled.any(axis=0), top, 0), np.intp)
