"""What a brush is given: the marks of a stroke, and the place where it is laid."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from topion.errors import UnknownName
from topion.grid.areas import Area
from topion.grid.arrays import NO_CELLS, CellList, Positions
from topion.model.layer import Layer, LayerKind
from topion.model.project import Project
from topion.model.room import Room


@dataclass(frozen=True, eq=False)
class Marks:
    """What a gesture marked: cells, each once, in the order of their coming.

    path : (n, axes) positions of the pointer in cells, for brushes that care where in the cell.
    start : the cell of the press, from which patterns count.
    strength : scales what a field lays, 0 to 1.
    override : things are laid even where a rule refuses.
    across : the axis across which a stroke in a voxel room is flat, for wide nibs.
    parts : the cells of the stroke and of each of its mirror pictures, where it was mirrored.
    within : cells beyond it are left alone.
    flips : for each of the parts, the axes along which it runs the other way.
    knots : the cells of the press and of the release, or all points that were clicked, and their
    mirror pictures; none where they say nothing about the shape that was drawn.
    drawn : where the pointer was, (n, axes), and its mirror pictures.  by : the gesture.
    """

    cells: CellList = field(default_factory=lambda: NO_CELLS)
    path: Positions | None = None
    strength: float = 1.0
    override: bool = False
    across: int | None = None
    parts: tuple[CellList, ...] = ()
    flips: tuple[tuple[int, ...], ...] = ()
    knots: tuple[CellList, ...] = ()
    drawn: tuple[Positions, ...] = ()
    by: str = ""
    within: Area | None = None

    @property
    def start(self) -> tuple[int, ...]:
        return tuple(int(v) for v in self.cells[0]) if len(self.cells) else (0, 0)

    def copies(self) -> tuple[CellList, ...]:
        """The cells of the stroke, and of its mirror pictures apart."""
        return self.parts or (self.cells,)

    def flipped_copies(self) -> Iterator[tuple[CellList, tuple[int, ...]]]:
        """The same, each with the axes along which it runs the other way."""
        yield from zip(self.copies(), self.flips or ((),) * len(self.copies()), strict=True)

    def drawn_copies(self) -> Iterator[tuple[CellList, CellList]]:
        """The cells of each copy, and its knots."""
        for number, cells in enumerate(self.copies()):
            yield cells, self.knots[number] if self.knots else cells[[0, -1]]

    def points(self) -> Positions:
        """The path, or the middles of the cells where there is none."""
        return self.path if self.path is not None else self.cells.astype(np.float64)


@dataclass(frozen=True, eq=False)
class Place:
    """Where a stroke is laid: a room of a project, and the layer the designer works on."""

    project: Project
    room_name: str
    layer_id: str = ""

    @property
    def room(self) -> Room:
        return self.project.room(self.room_name)

    def cells_layer(self, home: str = "") -> tuple[str, Layer]:
        """The layer a brush lays materials on; see `layer_for`."""
        return self.layer_for(self.room.info.cells_kind, home)

    def layer_for(self, kind: LayerKind, home: str = "") -> tuple[str, Layer]:
        """The layer a brush lays on that wants one of `kind`.

        That is its home layer where the room has one, else the layer worked on if it is of
        that kind, else the topmost of that kind.  Raises UnknownName if there is none.
        """
        layers = self.room.bottom_up(kind)
        for layer_id, layer in layers:
            if home and layer.info.name == home:
                return layer_id, layer
        for layer_id, layer in layers:
            if layer_id == self.layer_id:
                return layer_id, layer
        if layers:
            return layers[-1]
        raise UnknownName(f"layer of kind {kind} in {self.room_name}", home or kind, [])
