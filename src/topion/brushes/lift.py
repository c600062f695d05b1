"""Lift: removes what meets the marked cells, everything or only what one brush lays."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import BrushKind, Outline, Sample, Setting, all_brushes, brush_named
from topion.brushes.laying import Laid, Nib, lay, marked_cells
from topion.brushes.lifted_things import Lifted, lifted_from
from topion.brushes.marks import Marks, Place
from topion.brushes.shape import laid_flat
from topion.brushes.spaced import PITCH, RATE, Spaced
from topion.errors import UnknownName
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.lines import first_of_each
from topion.model.edit import Edit, Record
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.records import cells_changed, entries_changed
from topion.model.refs import Ref
from topion.model.typed import Colour, Name
from topion.weaving.pieces import covers_cells


@dataclass(frozen=True)
class Lift(Spaced):
    """only : a brush; then only what that brush lays is lifted.  nib : width in cells.

    pieces : what becomes of a piece that shows in a lifted cell: all of it goes, or the lifted
    cells are cut out of it and the rest melts.  What is painted below it stays.  A curve goes as a
    whole, with what fills it.
    """

    kind: ClassVar[str] = "lift"
    lifts: ClassVar[bool] = True
    name: Name = "Lift"
    only: Annotated[str, Ref("brushes")] = ""
    layer: str = ""
    colour: Colour = "#6b7479"
    nib: Nib = 1
    pieces: Literal["whole", "cut out"] = "whole"

    def plan(self, place: Place, marks: Marks) -> Edit:
        cells = marked_cells(place, marks, self.nib)
        label = f"Lift {self.only}" if self.only else self.name
        records: list[Record] = []
        refused: list[str] = []
        gone = Lifted()
        only = brush_named(place.project, self.only) if self.only else None
        for layer_id, layer in place.room.drawn():
            found = self._from_layer(place, layer_id, layer, cells, only)
            mine = lifted_from(place, layer_id, layer, cells, only)
            if (found or mine) and layer.info.locked:
                refused.append(f"layer {layer.info.name} is locked")
            elif layer.info.shown:
                records += found
                gone |= mine
        records += gone.records(place)
        return Edit(label, tuple(records), self.colour, tuple(refused))

    def _from_layer(
        self, place: Place, layer_id: str, layer: Layer, cells: CellList, only: BrushKind | None
    ) -> tuple[Record, ...]:
        if layer.info.kind == "field":
            if only is None or layer.info.brush == only.name:
                return _thinned(place, layer_id, layer, cells)
        elif layer.info.kind != "things" and (only is None or only.material):
            taken, covered = self._pieces_lifted(place, layer_id, layer, cells)
            material = only.material if only else ""
            rest = cells if only else cells[~covered]
            return (*taken, *_cells_lifted(place, layer_id, layer, rest, material))
        return ()

    def _pieces_lifted(
        self, place: Place, layer_id: str, layer: Layer, cells: CellList
    ) -> tuple[tuple[Record, ...], NDArray[np.bool_]]:
        """What takes the pieces away that show in the cells; and in which cells one does."""
        covered = np.zeros(len(cells), bool)
        if not len(cells) or not layer.pieces:
            return (), covered
        hit = []
        for number, piece in reversed(layer.pieces_in(Box.of_cells(cells))):
            shows = covers_cells(place.project, piece, cells) & ~covered
            covered |= shows
            if shows.any() and self.only in ("", piece.brush):
                hit.append((number, piece))
        gone = entries_changed(place.room, layer_id, "pieces", dict.fromkeys(n for n, _ in hit))
        if self.pieces == "whole" or not hit:
            return gone, covered
        rest = laid_flat(place, layer_id, [piece for _, piece in reversed(hit)], without=cells)
        return (*gone, *rest), covered

    def summary(self) -> str:
        return f"only {self.only}" if self.only else "everything"

    def settings(self) -> tuple[Setting, ...]:
        return (
            Setting("only", "Lifts", "choice", choices=_choices, hint="Everything, or one brush's"),
            Setting("nib", "Nib", "number", 1, 9, 1, "c", hint="How many cells wide it lifts"),
            Setting(
                "pieces",
                "Pieces",
                "choice",
                choices=("whole", "cut out"),
                hint="A piece goes as a whole, or the cells are cut out of it",
            ),
            PITCH,
            RATE,
        )

    def outline(self, *, drawn: bool) -> Outline:
        return replace(super().outline(drawn=drawn), form="lifted")

    def sample(self, project: Project, *, deep: bool) -> Sample:
        everything = self.changed(layer="own", only="")
        return Sample(everything, Marks(Box((1, 1), (3, 4)).cells()))


def _choices(project: Project) -> tuple[str, ...]:
    return ("", *(name for name, brush in all_brushes(project).items() if not brush.lifts))


def _cells_lifted(
    place: Place, layer_id: str, layer: Layer, cells: CellList, material: str
) -> tuple[Record, ...]:
    present = layer.plane("material")[tuple(cells.T)]
    try:
        number = place.project.material_id(material) if material else 0
    except UnknownName:
        return ()
    keep = present == number if number else present > 0
    ground = lay(place, layer_id, Laid.of_cells(cells[keep], place.room.info.size, 0))
    return (*ground, *_inlay_lifted(place, layer_id, layer, cells[~keep], number))


def _inlay_lifted(
    place: Place, layer_id: str, layer: Layer, cells: CellList, number: int
) -> tuple[Record, ...]:
    """Takes one inlay away, and leaves the ground below it."""
    if not number or layer.planes.get("inlay") is None or not len(cells):
        return ()
    flat = np.unique(np.ravel_multi_index(tuple(cells.T), layer.size)).astype(np.intp)
    there = layer.plane("inlay").reshape(-1)[flat]
    flat, there = flat[there == number], there[there == number]
    gone = {"inlay": np.zeros_like(there)}
    return cells_changed(place.room_name, layer_id, layer.size, flat, {"inlay": there}, gone)


def _thinned(place: Place, layer_id: str, layer: Layer, cells: CellList) -> tuple[Record, ...]:
    shape = place.room.info.plan
    columns = first_of_each(cells[:, -2:])
    flat = np.ravel_multi_index(tuple(columns.T), shape).astype(np.intp)
    before = layer.plane("density").reshape(-1)[flat]
    return cells_changed(
        place.room_name,
        layer_id,
        shape,
        flat,
        {"density": before},
        {"density": np.zeros_like(before)},
    )
