"""A brush: lays a material, but only near another one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, ClassVar

from tidewrack.shore import cells_of, distance_to
from topion.brushes.kind import BrushKind, Setting
from topion.brushes.laying import Laid, Nib, lay, marked_cells, refusal
from topion.brushes.marks import Marks, Place
from topion.model.edit import Edit
from topion.model.refs import Ref
from topion.model.typed import Colour, Name, between


@dataclass(frozen=True)
class Strandline(BrushKind):
    """lays : the material.  beside : the one it keeps near to.  within : cells from that."""

    kind: ClassVar[str] = "tidewrack strandline"
    bay: ClassVar[str] = "Ground"
    name: Name
    lays: Annotated[str, Ref("materials")]
    beside: Annotated[str, Ref("materials")] = "Water"
    within: Annotated[int, between(1, 16, "cells")] = 2
    layer: str = ""
    colour: Colour = "#8a7f5c"
    nib: Nib = 3

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        cells = marked_cells(place, marks, self.nib)
        far = distance_to(cells_of(place.project, place.room, self.beside))
        here = far[tuple(cells.T)]
        cells = cells[(here > 0) & (here <= self.within)]
        if not len(cells):
            return Edit(
                self.name, (), self.colour, (f"no {self.beside} within {self.within} cells",)
            )
        laid = Laid.of_cells(cells, layer.shape("material"), place.project.material_id(self.lays))
        return Edit(self.name, lay(place, layer_id, laid), self.colour)

    def summary(self) -> str:
        return f"{self.lays} by {self.beside}"

    def settings(self) -> tuple[Setting, ...]:
        return (Setting("nib", "Nib", "number", 1, 9, 1, "c"),
                Setting("within", "Within", "number", 1, 16, 1, "c"))  # fmt: skip
