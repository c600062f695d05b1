"""Which things and curves go where they are lifted."""

from __future__ import annotations

from dataclasses import dataclass, field

from topion.brushes.curve import CurveBrush
from topion.brushes.following import Tables, To, followed
from topion.brushes.kind import BrushKind
from topion.brushes.marks import Place
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.model.edit import Record
from topion.model.layer import Layer
from topion.model.prefab import Thing, standing_cell
from topion.model.records import entries_together
from topion.things.along import curve_under
from topion.things.curves import passes
from topion.things.field import Sows
from topion.things.ground import WIDEST_BODY, body_cells


@dataclass
class Lifted:
    """What goes: things, and curves with what fills them."""

    things: set[To] = field(default_factory=set)
    curves: set[To] = field(default_factory=set)

    def __bool__(self) -> bool:
        return bool(self.things or self.curves)

    def __ior__(self, other: Lifted) -> Lifted:
        self.things |= other.things
        self.curves |= other.curves
        return self

    def records(self, place: Place) -> tuple[Record, ...]:
        """That take it away; what else is attached to a curve stays where it stands."""
        tables: Tables = followed(place, dict.fromkeys(self.curves)).tables if self.curves else {}
        for layer_id, number in self.things:
            tables.setdefault((layer_id, "things"), {})[number] = None
        return entries_together(place.room, tables)


def lifted_from(
    place: Place, layer_id: str, layer: Layer, cells: CellList, only: BrushKind | None
) -> Lifted:
    """Things whose bodies meet the cells, and curves that do or that are filled by such things; of
    one brush, only what it lays."""
    found = Lifted()
    if isinstance(only, Sows) or not len(cells):
        return found
    for number, curve in layer.curves.items():
        if (only is None or curve.brush == only.name) and passes(curve, cells):
            found.curves.add((layer_id, number))
    laid = only.places() if only is not None and not isinstance(only, CurveBrush) else ()
    marked = set(map(tuple, cells.tolist()))
    for number, thing in layer.things_near(Box.of_cells(cells), WIDEST_BODY).items():
        fills = curve_under(place.room, thing) if thing.along and thing.along.filled else None
        by_it = only and (fills.brush == only.name if fills else thing.prefab in laid)
        if (only is None or by_it) and marked.intersection(_body(place, thing)):
            if fills and thing.attached:
                found.curves.add(thing.attached)
            else:
                found.things.add((layer_id, number))
    return found


def _body(place: Place, thing: Thing) -> list[tuple[int, ...]]:
    prefab = place.project.prefabs.get(thing.prefab)
    axes = place.room.info.axes
    return body_cells(prefab, thing, axes) if prefab else [standing_cell(thing, axes)]
