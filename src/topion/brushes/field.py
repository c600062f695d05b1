"""Field: paints the density at which a field layer sows its things."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Annotated, ClassVar, Literal

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.brushes.kind import (
    DEEP_SCRAP,
    FLAT_SCRAP,
    Outline,
    Sample,
    Setting,
)
from topion.brushes.laying import refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.soft import Falloff, soft_columns, soft_reach
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.edit import Edit, Record
from topion.model.layer import (
    FULL_DENSITY,
    LARGEST_SIZE,
    OWN_SIZE,
    Layer,
    LayerInfo,
    sizes_of,
)
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed
from topion.model.typed import Colour, between
from topion.things.field import Field

_STROKES = (
    Setting("paints", "Paints", "choice", choices=("density", "size"),
            hint="How many stand there, or how large they are"),
    Setting("way", "Stroke", "choice", choices=("add", "thin", "set", "smooth"),
            hint="What it does"),
    Setting("strength", "Strength", "number", 0, 1, 0.05,
            hint="How far a stroke goes towards what it leads to"),
    Setting("radius", "Radius", "number", 0.5, 16, 0.5, "c", hint="Of the stroke"),
    Setting("soft", "Soft edge", "number", 0, 8, 0.25, "c", hint="Inside the radius"),
    Setting("falloff", "Falloff", "choice", choices=("smooth", "straight", "round", "sharp"),
            hint="How the stroke fades out over its soft edge"),
)  # fmt: skip
_SOWN = (
    Setting("spacing", "Spacing", "number", 0.5, 4, 0.1, "c", hint="Least distance"),
    Setting("size", "Size", "range", 0.25, 2, 0.05, hint="Scales are spread over this"),
    Setting("wanted", "At most", "number", 0, 500, 1, hint="Things in a room; 0: no bound"),
    Setting("per_100", "Per 100 c", "number", 0, 100, 1,
            hint="At most so many on 100 cells of full density; 0: no bound"),
    Setting("avoids", "Avoids", "choice",
            choices=("nothing", "things", "fields", "things and fields"),
            hint="What lies in layers below, in the order of layers"),
    Setting("clear", "Clear by", "number", 0, 8, 0.25, "c",
            hint="Cells from what it avoids, middle to middle"),
    Setting("storey", "Storey", "number", 0, 16, 1, "levels",
            hint="In voxel rooms: a stroke is for the storey it lies in; 0: for all"),
    Setting("seed", "Roll", "seed", hint="Where things fall; the dice rolls anew"),
)  # fmt: skip


@dataclass(frozen=True)
class FieldBrush(Field, Spaced):
    """What a field sows, and how its density is painted.

    density : what a stroke leads to, 0 to 1.  radius, soft : of the stroke, in cells; the soft
    edge lies inside the radius.  falloff : how it fades out there.  strength : how far a stroke
    goes towards what it leads to.  paints : the density, or the size of what stands there;
    scale : what a stroke of sizes leads to, times the size of the field.  storey : in voxel rooms,
    levels of a storey; the stroke is for the one that it lies in, 0 for all.
    """

    kind: ClassVar[str] = "field"
    aims: ClassVar[tuple[str, ...]] = ("paints",)
    bay: ClassVar[str] = "Fields"
    density: float = 0.7
    radius: float = 4.0
    soft: float = 2.0
    way: Literal["add", "thin", "set", "smooth"] = "add"
    falloff: Falloff = "smooth"
    strength: Annotated[float, between(0, 1)] = 1.0
    paints: Literal["density", "size"] = "density"
    scale: Annotated[float, between(0.1, LARGEST_SIZE)] = 1.5
    storey: Annotated[int, between(0, 512, "levels")] = 0
    layer: str = ""
    colour: Colour = "#6f8f3f"

    def __post_init__(self) -> None:
        limits = {"spacing": (0.1, 100), "density": (0, 1), "radius": (0.5, 500), "soft": (0, 500)}
        for field, (lo, hi) in limits.items():
            if not lo <= getattr(self, field) <= hi:
                raise BadValue(f"the {field}", getattr(self, field), f"{lo} to {hi}")
        if not self.sown:
            raise BadValue("what the field sows", (), "at least one prefab")
        if not 0.05 <= self.size[0] <= self.size[1] <= 20:
            raise BadValue("the size", self.size, "a range within 0.05 to 20")
        if self.wanted < 0:
            raise BadValue("the wanted count", self.wanted, "0 or more")

    def plan(self, place: Place, marks: Marks) -> Edit:
        levels = self._levels(place, marks)
        layer_id, layer = self._layer(place, levels)
        records: tuple[Record, ...] = ()
        if layer is None:
            records = self._new_layer(place, layer_id, levels)
            layer = Layer.empty(LayerInfo(self.name, "field"), place.room.info.size)
        elif (refused := refusal(self, place, layer)) is not None:
            return refused
        painted = self._painted(place, layer_id, layer, marks)
        words = {"add": "", "thin": " thin", "set": " set", "smooth": " smooth"}
        of = " size" if self.paints == "size" else ""
        label = f"{self.name}{of}{words[self.way]}"
        return Edit(label, records + painted if painted else (), self.colour)

    def _levels(self, place: Place, marks: Marks) -> tuple[int, int] | None:
        """The levels of the storey that the stroke lies in; None for all."""
        if not self.storey or place.room.info.axes == 2 or not len(marks.cells):
            return None
        low = int(marks.cells[0, 0]) // self.storey * self.storey
        return low, low + self.storey

    def _new_layer(
        self, place: Place, layer_id: str, levels: tuple[int, int] | None
    ) -> tuple[Record, ...]:
        """A layer that sows it: what is placed stands before what is sown."""
        name = self.layer or self.name
        if levels is not None:
            name = f"{name} · levels {levels[0]}–{levels[1] - 1}"
        info = LayerInfo(name, "field", brush=self.name, levels=levels)
        order = place.room.order
        things = [order.index(known) for known, _ in place.room.bottom_up("things")]
        under = min(things, default=len(order))
        after = (*order[:under], layer_id, *order[under:])
        return (ItemRecord(("layers", place.room_name, layer_id), None, info),
                ItemRecord(("order", place.room_name), order, after))  # fmt: skip

    def _layer(self, place: Place, levels: tuple[int, int] | None) -> tuple[str, Layer | None]:
        """The field layer that sows this brush, or the id of one to be added."""
        own = [(i, layer) for i, layer in place.room.bottom_up("field")
               if layer.info.brush == self.name and (levels is None or layer.info.levels == levels)
               ]  # fmt: skip
        for layer_id, layer in own:
            if layer_id == place.layer_id:
                return layer_id, layer
        if own:
            return own[0]
        return place.room.new_layer_id(self.layer or self.name), None

    def _painted(
        self, place: Place, layer_id: str, layer: Layer, marks: Marks
    ) -> tuple[Record, ...]:
        cells, share = soft_columns(place.room.plan_box, marks, self.radius, self.soft,
                                    self.falloff)  # fmt: skip
        if not len(cells):
            return ()
        plane = layer.plane(self.paints)
        flat = np.ravel_multi_index(tuple(cells.T), plane.shape).astype(np.intp)
        before = plane.reshape(-1)[flat]
        share = share * self.strength
        now = _shown_values(before, self.paints)
        if self.way == "smooth":
            near = _smoothed(plane, cells, self.paints)
            after = now + (near - now) * share
        elif self.paints == "size":
            after = self._sized(now, share)
        else:
            after = self._dense(now, share)
        stored = _stored_values(after, before, now, self.paints)
        return cells_changed(place.room_name, layer_id, plane.shape, flat,
                             {self.paints: before}, {self.paints: stored})  # fmt: skip

    def _dense(self, now: NDArray[np.float64], share: NDArray[np.float64]) -> NDArray[np.float64]:
        match self.way:
            case "add":
                lifted = np.minimum(self.density, now + self.density * share)
                return np.maximum(now, lifted)
            case "thin":
                return np.maximum(0.0, now - self.density * share)
        return np.asarray(now + (self.density - now) * share)

    def _sized(self, now: NDArray[np.float64], share: NDArray[np.float64]) -> NDArray[np.float64]:
        """Larger or smaller by what the scale differs from 1, or towards it."""
        by = abs(self.scale - 1.0)
        match self.way:
            case "add":
                return np.maximum(now, np.minimum(1.0 + by, now + by * share))
            case "thin":
                return np.minimum(now, np.maximum(1.0 - by, now - by * share))
        return np.asarray(now + (self.scale - now) * share)

    def summary(self) -> str:
        count = len(self.sown)
        return f"field · {several(count, 'kind')}"

    def settings(self) -> tuple[Setting, ...]:
        lead = Setting("density", "Density", "number", 0, 1, 0.01, hint="What a stroke leads to")
        if self.paints == "size":
            lead = Setting("scale", "Size to", "number", 0.1, LARGEST_SIZE, 0.05, "×",
                           hint="What a stroke leads to, times the field's own size")  # fmt: skip
        mix = Setting("sown", "Sows", "mix", hint="One of them at each place, by weight")
        return (mix, *_STROKES[:1], lead, *_STROKES[1:], *_SOWN, PITCH, RATE)

    @cached_property
    def field(self) -> Field:
        """What it sows, whatever paints its density."""
        return Field(**{own.name: getattr(self, own.name) for own in fields(Field)})

    def places(self) -> Mapping[str, float]:
        return {sown.prefab: sown.weight for sown in self.sown}

    def asks(self) -> tuple[PlacementRule, ...]:
        return self.rules

    def said(self) -> str:
        return f"field · sows {', '.join(sown.prefab for sown in self.sown)}"

    def reach(self, project: Project, marks: Marks) -> Box:
        return soft_reach(marks, self.radius)

    def outline(self, *, drawn: bool) -> Outline:
        return Outline("ring", radius=self.radius, inner=max(0.0, self.radius - self.soft))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        own = self.changed(parts=(), avoids="nothing", paints="density", way="add", storey=0,
                           per_100=0.0)  # fmt: skip
        if deep:
            floor = Box((0, 0, 0), (1, *DEEP_SCRAP[1:]))
            return Sample(own.changed(layer="", density=1.0), Marks(floor.cells()), DEEP_SCRAP)
        return Sample(own.at_home(""), Marks(Box((0, 0), FLAT_SCRAP).cells()))


def _shown_values(stored: NDArray[np.uint8], of: str) -> NDArray[np.float64]:
    """What is stored as densities from 0 to 1, or as sizes, 1 where none was painted."""
    if of == "size":
        return sizes_of(stored)
    return np.asarray(stored / FULL_DENSITY)


def _stored_values(
    after: NDArray[np.float64], before: NDArray[np.uint8], now: NDArray[np.float64], of: str
) -> NDArray[np.uint8]:
    """The opposite; what does not change stays as it is stored."""
    if of == "size":
        made = np.round(after * OWN_SIZE).clip(1, FULL_DENSITY)
        made = np.where(made == OWN_SIZE, 0, made)  # as if none was ever painted
        return np.where(np.abs(after - now) < 1e-9, before, made).astype(np.uint8)
    return np.asarray(np.round(after * FULL_DENSITY).astype(np.uint8))


def _smoothed(plane: NDArray[np.uint8], cells: CellList, of: str) -> NDArray[np.float64]:
    """(n,) the mean of each cell and the eight round it; the edge of a room goes on as it is."""
    box = Box.of_cells(cells)
    near = box.grown(1).clipped(Box.of_shape(plane.shape))
    values = _shown_values(plane[near.slices], of)
    mean = scipy.ndimage.uniform_filter(values, 3, mode="nearest")
    return np.asarray(mean[tuple((cells - np.array(near.lo)).T)])
