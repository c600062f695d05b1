"""Echo: fills cells in the manner of a sample; only neighbourhoods seen in it are laid."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property, partial
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from topion import progress
from topion.brushes.kind import BrushKind, Sample, Setting
from topion.brushes.laying import SEED, Laid, lay, marked_cells, refusal
from topion.brushes.marks import Marks, Place
from topion.errors import BadValue
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.echo import UNKNOWN, echo
from topion.grid.told import several
from topion.grid.windows import Values, Windows
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.scrap import Scrap, ScrapLayer
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, Seed
from topion.weaving.looms import tile_id

Look = Literal[2, 3]
MOST_CHOICES = 1 << 28  # places to fill, times windows: bits that are kept at once


@dataclass(frozen=True)
class Echo(BrushKind):
    """sample : what was picked; of its layers of cells the one with most in it.  looks_at : cells
    along each side of the neighbourhoods.  turns, mirrors : whether the sample counts in its
    quarter turns, and in a mirror, too; tiles laid by hand stay as they stand.
    """

    kind: ClassVar[str] = "echo"
    name: Name
    sample_of: Scrap
    layer: str = ""
    colour: Colour = "#7a6f9b"
    looks_at: Look = 2
    turns: bool = False
    mirrors: bool = False
    seed: Seed = 0

    def __post_init__(self) -> None:
        if not len(self._windows):
            wanted = f"an area at least {self.looks_at} cells wide with something in it"
            raise BadValue(f"the sample of {self.name}", self.sample_of.size, wanted)
        if self.sample_of.axes == 3 and self.looks_at != 2:
            raise BadValue(f"what {self.name} looks at", self.looks_at, "2 cells in voxel rooms")

    # --- the sample -----------------------------------------------------------------------

    @cached_property
    def _cells(self) -> ScrapLayer | None:
        layers = [la for la in self.sample_of.layers if "material" in la.planes]
        return max(layers, key=lambda la: np.count_nonzero(la.planes["material"].cells),
                   default=None)  # fmt: skip

    @cached_property
    def _kinds(self) -> tuple[NDArray[np.intp], Values]:
        """(v, 2) material and pinned tile of each value, in the tables of the sample; and the
        values of its cells."""
        layer = self._cells
        nothing = np.zeros(self.sample_of.size, np.uint16)
        planes = [layer.planes[name].cells if layer is not None and name in layer.planes
                  else nothing for name in ("material", "pinned")]  # fmt: skip
        both = np.stack([plane.reshape(-1) for plane in planes], axis=1).astype(np.intp)
        kinds, value = np.unique(both, axis=0, return_inverse=True)
        return kinds, value.reshape(self.sample_of.size).astype(np.int32)

    @cached_property
    def _windows(self) -> Windows:
        _, values = self._kinds
        return Windows.seen(values, self.sample_of.mask, self.looks_at, list(self._copies()))

    def _copies(self) -> Iterator[Callable[[Any], Any]]:
        """Its turned and mirrored copies, about the upright."""
        for mirror in (False, True) if self.mirrors else (False,):
            for turn in range(4) if self.turns else range(1):
                if turn or mirror:
                    yield partial(_copy, turn=turn, mirrored=mirror)

    # --- laying ---------------------------------------------------------------------------

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        cells = marked_cells(place, marks)
        if not len(cells) or place.room.info.axes != self.sample_of.axes:
            return Edit(self.name)
        rim = self.looks_at - 1
        box = Box.of_cells(cells).grown(rim).clipped(place.room.box)
        if box.size * len(self._windows) > MOST_CHOICES:
            most = MOST_CHOICES // len(self._windows)
            raise BadValue("the area to be filled", box.size, f"at most {most} cells at once")
        fill = np.zeros(box.shape, bool)
        fill[tuple((cells - np.array(box.lo)).T)] = True
        table = self._table(place.project)
        found = echo(self._windows, self._given(layer, box, table), fill, self.seed,
                     layer.from_origin(box.lo), lambda: progress.step("filling"))  # fmt: skip
        return self._edit(place, layer_id, box, fill, found.values, found.left, table)

    def _table(self, project: Project) -> NDArray[np.intp]:
        """(v, 2) the same in the numbers of the project; -1 for what it does not have."""
        kinds, _ = self._kinds
        known = {name: n for n, name in enumerate(project.materials, 1)}
        materials = [0, *(known.get(name, -1) for name in self.sample_of.materials)]
        tiles = [0, *(tile_id(project, ref) for ref in self.sample_of.tiles)]
        return np.stack([np.array(materials)[kinds[:, 0]], np.array(tiles)[kinds[:, 1]]], axis=1)

    def _given(self, layer: Layer, box: Box, table: NDArray[np.intp]) -> Values:
        """The values that lie in a box; UNKNOWN for what the sample does not have."""
        material = layer.plane("material")[box.slices].astype(np.intp)
        pinned = layer.plane("pinned")[box.slices].astype(np.intp)
        values = np.full(box.shape, UNKNOWN, np.int32)
        for number, (own, tile) in enumerate(table.tolist()):
            values[(material == own) & (pinned == tile)] = number
        return values

    def _edit(
        self,
        place: Place,
        layer_id: str,
        box: Box,
        fill: NDArray[np.bool_],
        values: Values,
        left: NDArray[np.bool_],
        table: NDArray[np.intp],
    ) -> Edit:
        at = np.argwhere(fill) + np.array(box.lo)
        flat = np.asarray(np.ravel_multi_index(tuple(at.T), place.room.info.size), np.intp)
        value = np.where(left, 0, values)[fill]
        laid = np.maximum(table[value], 0)
        laid[left[fill]] = 0
        found = Laid(flat, laid[:, 0].astype(np.uint16), laid[:, 1].astype(np.uint16))
        return Edit(self.name, lay(place, layer_id, found), self.colour,
                    notes=_left_open(np.argwhere(left) + np.array(box.lo)))  # fmt: skip

    # --- what it says of itself -----------------------------------------------------------

    def summary(self) -> str:
        return f"echo · {len(self._windows)} neighbourhoods"

    def settings(self) -> tuple[Setting, ...]:
        looks: tuple[Setting, ...] = ()
        if self.sample_of.axes == 2:
            hint = "Cells along each side of the neighbourhoods that are laid"
            looks = (Setting("looks_at", "Looks at", "number", 2, 3, 1, "c", hint=hint),)
        return (
            *looks,
            Setting("turns", "Turned", "switch", hint="The sample counts in quarter turns"),
            Setting("mirrors", "Mirrored", "switch", hint="The sample counts mirrored"),
            SEED,
        )

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self.sample_of.tiles

    def lays_blocks(self) -> bool | None:
        return self.sample_of.axes == 3

    def most_ghosted(self) -> int:
        return 60

    def facts(self) -> tuple[tuple[str, str], ...]:
        size = " × ".join(str(side) for side in reversed(self.sample_of.size))
        return (*super().facts(), ("Sample", f"{size} cells"))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        """A part of a room filled by it."""
        size = (4, 8, 8) if deep else (10, 14)
        cells = Box((1, *(0,) * (len(size) - 1)) if deep else (0, 0), size).cells()
        return Sample(self.at_home("own") if not deep else self, Marks(cells), size, ground=False)


def _copy(array: Any, turn: int, mirrored: bool) -> Any:
    """Turned clockwise in plan, then mirrored left-right."""
    out = np.rot90(array, -turn % 4, axes=(-2, -1))
    return out[..., ::-1] if mirrored else out


def _left_open(cells: CellList) -> tuple[str, ...]:
    """Where nothing fitted."""
    if not len(cells):
        return ()
    first = ", ".join(str(v) for v in cells[0].tolist())
    what = several(len(cells), "cell")
    return (f"nothing in the sample fits in {what}, the first at {first}; left open",)
