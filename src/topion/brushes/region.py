"""Region: draws named areas of cells: views, zones and triggers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal, Self

import numpy as np

from topion.brushes.kind import BrushKind, Setting
from topion.brushes.laying import NIB, Nib, marked_cells, rising
from topion.brushes.marks import Marks, Place
from topion.model.edit import Edit, Record
from topion.model.layer import Layer, LayerInfo
from topion.model.records import ItemRecord, cells_changed
from topion.model.typed import Colour, Name


@dataclass(frozen=True)
class RegionBrush(BrushKind):
    """Draws the region of its name in the room it is used in.

    purpose : `view` is what a camera may show, a `zone` is spoken of by placement rules, a
    `trigger` by conditions; each can speak of any.  gone : it takes cells out of it.
    """

    kind: ClassVar[str] = "region"
    bay: ClassVar[str] = "Regions"
    meets: ClassVar[bool] = True
    name: Name
    purpose: Literal["view", "zone", "trigger"] = "zone"
    colour: Colour = "#b9791a"
    nib: Nib = 1
    gone: bool = False
    layer: str = ""

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer, made = self._layer_of(place)
        if layer.info.locked:
            return Edit(self.name, (), self.colour, (f"region {layer.info.name} is locked",))
        cells = marked_cells(place, marks, self.nib)
        if not len(cells) or (self.gone and made):
            return Edit(self.name, (), self.colour)
        flat = rising(np.asarray(np.ravel_multi_index(tuple(cells.T), layer.size), np.intp))
        before = {"inside": layer.plane("inside").reshape(-1)[flat]}
        after = {"inside": np.full(len(flat), 0 if self.gone else 1, np.uint8)}
        laid = cells_changed(place.room_name, layer_id, layer.size, flat, before, after)
        verb = "Less of" if self.gone else "Region"
        return Edit(f"{verb} {self.name}", (*made, *laid) if laid else (), self.colour)

    def _layer_of(self, place: Place) -> tuple[str, Layer, tuple[Record, ...]]:
        """The region of its name, or a new one with the records that make it."""
        room = place.room
        for layer_id, layer in room.regions():
            if layer.info.name == self.name:
                return layer_id, layer, ()
        fresh = LayerInfo(self.name, "region", purpose=self.purpose)
        layer_id = room.new_layer_id(fresh.name)
        records = (
            ItemRecord(("layers", place.room_name, layer_id), None, fresh),
            ItemRecord(("order", place.room_name), room.order, (*room.order, layer_id)),
        )
        return layer_id, Layer.empty(fresh, room.info.size, room.info.origin), records

    def lifting(self) -> Self:
        return self.changed(gone=not self.gone)

    def summary(self) -> str:
        return f"region · {self.purpose}"

    def said(self) -> str:
        return {"view": "region · what a camera may show",
                "zone": "region · placement rules speak of it",
                "trigger": "region · conditions speak of it"}[self.purpose]  # fmt: skip

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("purpose", "Purpose", "choice", choices=("view", "zone", "trigger"),
                    hint="What a camera may show, what rules or what conditions speak of"),
            NIB,
        )  # fmt: skip
