"""Field: paints the density at which a field layer sows its things."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from typing import ClassVar, Literal

import numpy as np
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
from topion.brushes.soft import soft_columns, soft_reach
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.edit import Edit, Record
from topion.model.layer import FULL_DENSITY, Layer, LayerInfo
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed
from topion.model.typed import Colour
from topion.things.field import Field


@dataclass(frozen=True)
class FieldBrush(Field, Spaced):
    """What a field sows, and how its density is painted.

    density : what a stroke leads to, 0 to 1.  radius, soft : of the stroke, in cells; the soft
    edge lies inside the radius.
    """

    kind: ClassVar[str] = "field"
    bay: ClassVar[str] = "Fields"
    density: float = 0.7
    radius: float = 4.0
    soft: float = 2.0
    way: Literal["add", "thin", "set"] = "add"
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
        layer_id, layer = self._layer(place)
        records: tuple[Record, ...] = ()
        if layer is None:
            info = LayerInfo(self.layer or self.name, "field", brush=self.name)
            order = place.room.order
            things = [order.index(known) for known, _ in place.room.bottom_up("things")]
            under = min(things, default=len(order))  # what is placed stands before what is sown
            records = (
                ItemRecord(("layers", place.room_name, layer_id), None, info),
                ItemRecord(
                    ("order", place.room_name), order, (*order[:under], layer_id, *order[under:])
                ),
            )
            density = np.zeros(place.room.info.plan, np.uint8)
        elif (refused := refusal(self, place, layer)) is not None:
            return refused
        else:
            density = layer.plane("density")
        painted = self._painted(place, layer_id, density, marks)
        words = {"add": "", "thin": " thin", "set": " set"}
        return Edit(
            f"{self.name}{words[self.way]}", records + painted if painted else (), self.colour
        )

    def _layer(self, place: Place) -> tuple[str, Layer | None]:
        """The field layer that sows this brush, or the id of one to be added."""
        for layer_id, layer in place.room.bottom_up("field"):
            if layer.info.brush == self.name:
                return layer_id, layer
        return place.room.new_layer_id(self.layer or self.name), None

    def _painted(
        self, place: Place, layer_id: str, density: NDArray[np.uint8], marks: Marks
    ) -> tuple[Record, ...]:
        cells, share = soft_columns(place.room.plan_box, marks, self.radius, self.soft)
        if not len(cells):
            return ()
        flat = np.ravel_multi_index(tuple(cells.T), density.shape).astype(np.intp)
        before = density.reshape(-1)[flat]
        now = before / FULL_DENSITY
        match self.way:
            case "add":
                after = np.maximum(now, np.minimum(self.density, now + self.density * share))
            case "thin":
                after = np.maximum(0.0, now - self.density * share)
            case "set":
                after = now + (self.density - now) * share
        stored = np.round(after * FULL_DENSITY).astype(np.uint8)
        return cells_changed(
            place.room_name,
            layer_id,
            density.shape,
            flat,
            {"density": before},
            {"density": stored},
        )

    def summary(self) -> str:
        count = len(self.sown)
        return f"field · {count} kind{'s' if count != 1 else ''}"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("density", "Density", "number", 0, 1, 0.01, hint="What a stroke leads to"),
            Setting("spacing", "Spacing", "number", 0.5, 4, 0.1, "c", hint="Least distance"),
            Setting("size", "Size", "range", 0.25, 2, 0.05, hint="Scales are spread over this"),
            Setting("radius", "Radius", "number", 0.5, 16, 0.5, "c", hint="Of the stroke"),
            Setting("soft", "Soft edge", "number", 0, 8, 0.25, "c", hint="Inside the radius"),
            Setting("way", "Stroke", "choice", choices=("add", "thin", "set"), hint="What it does"),
            Setting("wanted", "At most", "number", 0, 500, 1, hint="Things in a room; 0: no bound"),
            Setting("seed", "Roll", "seed", hint="Where things fall; the dice rolls anew"),
            PITCH,
            RATE,
        )

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
        if deep:
            floor = Box((0, 0, 0), (1, *DEEP_SCRAP[1:]))
            return Sample(self.changed(layer="", density=1.0), Marks(floor.cells()), DEEP_SCRAP)
        return Sample(self.at_home(""), Marks(Box((0, 0), FLAT_SCRAP).cells()))
