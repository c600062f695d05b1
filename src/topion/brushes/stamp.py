"""Stamp: lays what was picked in a room, or a block of tiles as it was taken from a sheet."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, ClassVar, Self

import numpy as np

from topion.brushes.kind import (
    DEEP_SCRAP,
    FLAT_SCRAP,
    About,
    BrushKind,
    Outline,
    Sample,
    Setting,
)
from topion.brushes.laying import refusal
from topion.brushes.marks import Marks, Place
from topion.brushes.scraps import turned
from topion.brushes.stamp_settings import Repeat, settings_of_stamp
from topion.brushes.stamped_entries import Copies
from topion.brushes.stamping import Laying, Onto, stamped
from topion.errors import BadValue
from topion.grid.arrays import NO_CELLS, CellList
from topion.grid.boxes import Box
from topion.grid.lines import first_of_each
from topion.grid.orient import turn_words
from topion.grid.ways import Way
from topion.model.edit import Edit
from topion.model.plane import LONGEST_SCRAP, Plane
from topion.model.project import Project
from topion.model.scrap import Scrap, ScrapLayer
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name, between

Block = tuple[tuple[TileRef | None, ...], ...]
ABOUT: dict[About, int] = {"up": 1, "south": 16, "east": 4}  # a quarter each, of 24 turns
_MOST_SHOWN = (28, 40), (24, 24, 24)  # cells of a scrap on its card, flat and deep
_FURTHEST = LONGEST_SCRAP


@dataclass(frozen=True)
class Stamp(BrushKind):
    """block : rows of tiles from a sheet, None leaving the cell as it is.  scrap : or what was
    picked.

    anchor : the cell of it that comes to lie under the pointer, before it is turned; the first one
    without.  turn : quarters clockwise, or one of 24 in a voxel room.  mirrored : west and east
    change places after that.  raised : levels by which it is laid higher.
    repeat : whole stamps side by side from the cell of the press on; one where the button comes up;
    one every `pitch` cells; or `rate` a second while the button is held.
    onto : see `stamping.Laying`.
    """

    kind: ClassVar[str] = "stamp"
    bay: ClassVar[str] = "Stamps"
    name: Name
    block: Block = ()
    layer: str = ""
    colour: Colour = "#5b7d8a"
    scrap: Scrap | None = None
    anchor: tuple[int, ...] = ()
    turn: int = 0
    mirrored: bool = False
    raised: Annotated[int, between(-_FURTHEST, _FURTHEST, "levels")] = 0
    repeat: Repeat = "side by side"
    pitch: Annotated[int, between(1, _FURTHEST, "cells")] = 4
    rate: Annotated[float, between(0.25, 30, "a second")] = 4.0
    onto: Onto = "its cells"

    def __post_init__(self) -> None:
        if self.scrap is None:
            widths = {len(row) for row in self.block}
            if len(widths) != 1 or not any(any(row) for row in self.block):
                raise BadValue("the block", self.block, "equally long rows with at least one tile")
        elif self.block:
            raise BadValue("a stamp", self.name, "either a block of tiles or a scrap")
        axes = self.content.axes
        if self.anchor and len(self.anchor) != axes:
            raise BadValue("the anchor", self.anchor, f"{axes} numbers")
        if any(abs(v) > _FURTHEST for v in self.anchor):
            raise BadValue("the anchor", self.anchor, f"within {_FURTHEST} cells")
        if not 0 <= self.turn < (24 if axes == 3 else 4):
            raise BadValue("the turn", self.turn, "0 to 3 quarters, below 24 in a voxel room")

    @cached_property
    def content(self) -> Scrap:
        """What it lays, as it was taken."""
        return self.scrap or _scrap_of_block(self.name, self.block)

    @property
    def axes(self) -> int:  # type: ignore[override]
        return self.content.axes

    @property
    def material(self) -> str:
        """Tiles of a sheet are a material of their own."""
        return "" if self.scrap else self.name

    @property
    def way(self) -> Way:
        """How it is turned."""
        return Way(self.axes, self.turn, self.mirrored)

    # --- laid -----------------------------------------------------------------------------

    def plan(self, place: Place, marks: Marks) -> Edit:
        if self.scrap is None:
            place = replace(place, layer_id=place.cells_layer(self.layer)[0])
            refused = refusal(self, place, place.room.layers[place.layer_id])
        else:
            refused = refusal(self, place, None)
        if refused is not None:
            return refused
        copies, notes = [], dict[str, None]()
        for cells, flips in marks.flipped_copies():
            way = self._in_mirrors(flips)
            made = turned(place.project, self.content, way)
            notes.update(dict.fromkeys(made.notes))
            corners = self._corners(cells, flips, way, drawn=marks.path is not None)
            copies.append(Copies(made.scrap, corners))
        out = stamped(place, copies, Laying(self.onto, marks.within, marks.override))
        notes.update(dict.fromkeys(out.notes))
        refused_words = tuple(dict.fromkeys(out.refused))
        return Edit(self.name, tuple(out.records), self.colour, refused_words, tuple(notes))

    def _in_mirrors(self, flips: tuple[int, ...]) -> Way:
        """How a mirror picture of it is turned."""
        way = self.way
        for axis in flips:
            way = way.then(Way(self.axes, 2 if axis == -2 else 0, True))
        return way

    def corner_of(self, way: Way) -> tuple[int, ...]:
        """Where its first cell lies, from the cell under the pointer."""
        anchor = np.array([self.anchor or (0,) * self.axes], np.float64)
        at = np.rint(way.positions(anchor, self.content.size))[0].astype(int)
        if self.axes == 3:
            at[0] -= self.raised
        return tuple((-at).tolist())

    def _corners(
        self, cells: CellList, flips: tuple[int, ...], way: Way, *, drawn: bool
    ) -> CellList:
        """(n, axes) where the first cell of each copy lies."""
        if not len(cells):
            return NO_CELLS[:, :1].repeat(self.axes, axis=1)
        if self.repeat == "once":
            cells = cells[-1:]
        elif self.repeat == "at a pitch" and drawn:
            cells = _spaced(cells, self.pitch)
        elif self.repeat != "at a rate":
            steps = (self.pitch,) * self.axes if self.repeat == "at a pitch" else way.shape(
                self.content.size)  # fmt: skip
            run = np.array([-1 if axis - self.axes in flips else 1 for axis in range(self.axes)])
            rows = first_of_each((cells - cells[0]) * run // np.array(steps))
            cells = rows * np.array(steps) * run + cells[0]
        return cells + np.array(self.corner_of(way), np.intp)

    def reach(self, project: Project, marks: Marks) -> Box:
        found = Box((0,) * self.axes, (0,) * self.axes)
        for cells, flips in marks.flipped_copies():
            way = self._in_mirrors(flips)
            corners = self._corners(cells, flips, way, drawn=marks.path is not None)
            box, shape = Box.of_cells(corners), way.shape(self.content.size)
            hi = tuple(b + n - 1 for b, n in zip(box.hi, shape, strict=True))
            found = found.union(Box(box.lo, hi) if box.size else box)
        return found

    def cells_each(self) -> int:
        return self.content.box.size

    def lift_only(self) -> str:
        return "" if self.scrap else self.name

    # --- turned ---------------------------------------------------------------------------

    def turned(self, project: Project) -> Self:
        return self.turned_about("up")

    def tipped(self, project: Project) -> Self:
        if self.axes == 2:
            return super().tipped(project)
        return self.turned_about("east")

    def turned_about(self, axis: About) -> Self:
        """A quarter further about one of the axes that the compass shows."""
        if self.axes == 2:
            way = self.way.then(Way(2, 1))
        else:
            way = self.way.then(Way(3, ABOUT[axis]))
        return self.changed(turn=way.turn, mirrored=way.mirrored)

    def flipped(self) -> Self:
        way = self.way.then(Way(self.axes, 0, True))
        return self.changed(turn=way.turn, mirrored=way.mirrored)

    def straightened(self) -> Self:
        return self.changed(turn=0, mirrored=False, raised=0)

    def lifted_by(self, levels: int) -> Self:
        """Laid so many levels higher; the same in a flat room."""
        return self.changed(raised=self.raised + levels) if self.axes == 3 else self

    def held_at(self, by: tuple[int, ...]) -> Self:
        way, size = self.way, self.content.size
        now = way.positions(np.array([self.anchor or (0,) * self.axes], np.float64), size)
        there = way.inverse().positions(now + np.array(by), way.shape(size))
        return self.changed(anchor=tuple(np.rint(there[0]).astype(int).tolist()))

    def beat(self) -> float:
        return self.rate if self.repeat == "at a rate" else 0.0

    def state(self) -> str:
        turns = turn_words(self.turn).replace("turned ", "")
        up = f"{'up' if self.raised > 0 else 'down'} {abs(self.raised)}" if self.raised else ""
        return ", ".join(w for w in (turns, "mirrored" if self.mirrored else "", up) if w)

    # --- on the rack ----------------------------------------------------------------------

    def summary(self) -> str:
        *deep, height, width = self.content.size
        return "stamp · " + "×".join(map(str, (width, height, *deep)))

    def said(self) -> str:
        return f"{self.summary()} · {self.state()}" if self.state() else self.summary()

    def facts(self) -> tuple[tuple[str, str], ...]:
        if self.scrap is None:
            return super().facts()
        layers = ", ".join(layer.name for layer in self.scrap.layers)
        return (("Holds", self.scrap.holds()), ("Of layers", layers))

    def settings(self) -> tuple[Setting, ...]:
        about = tuple(ABOUT) if self.axes == 3 else ("up",)
        return settings_of_stamp(about, self.repeat)

    def outline(self, *, drawn: bool) -> Outline:
        lo = self.corner_of(self.way)
        size = self.way.shape(self.content.size)
        return Outline(lo=(lo[-2], lo[-1]), size=(size[-2], size[-1]))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        scrap = middle_of(turned(project, self.content, self.way).scrap)
        plain = self.changed(layer="own", block=(), scrap=scrap, anchor=(), turn=0, mirrored=False,
                             raised=0, repeat="once", onto="its cells")  # fmt: skip
        least = DEEP_SCRAP if deep else FLAT_SCRAP
        size = tuple(max(a, b) for a, b in zip(least, scrap.size, strict=True))
        at = tuple((a - b) // 2 for a, b in zip(size, scrap.size, strict=True))
        if deep:
            at = (0, *at[1:])
            box = Box(at, tuple(a + b for a, b in zip(at, scrap.size, strict=True)))
            return Sample(plain, Marks(np.array([at]), override=True), size, ground=False, near=box)
        return Sample(plain, Marks(np.array([at]), override=True), size, ground=False)

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self.content.tiles

    def lays_blocks(self) -> bool | None:
        return self.axes == 3


def _scrap_of_block(name: str, block: Block) -> Scrap:
    """Tiles of a sheet: one layer of a material of its own."""
    tiles = dict.fromkeys(tile for row in block for tile in row if tile)
    number = {tile: n for n, tile in enumerate(tiles, 1)}
    pinned = np.array([[number[t] if t else 0 for t in row] for row in block], np.uint16)
    planes = {"material": Plane((pinned > 0).astype(np.uint16)), "pinned": Plane(pinned)}
    layer = ScrapLayer(name, "tiles", planes)
    return Scrap(pinned.shape, (layer,), (name,), tuple(tiles))


def _spaced(cells: CellList, pitch: int) -> CellList:
    """Of cells along a way, the first and each that lies `pitch` cells or more from the last."""
    kept, last = [0], cells[0]
    far = np.abs(cells - last).max(axis=1)
    while len(ahead := np.flatnonzero(far[kept[-1] :] >= pitch)):
        kept.append(kept[-1] + int(ahead[0]))
        far = np.abs(cells - cells[kept[-1]]).max(axis=1)
    return cells[kept]


def middle_of(scrap: Scrap) -> Scrap:
    """A scrap, or as much of its middle as a card can show."""
    most = _MOST_SHOWN[scrap.axes - 2]
    lo = tuple(max(0, (n - m) // 2) for n, m in zip(scrap.size, most, strict=True))
    if scrap.axes == 3:
        lo = (0, *lo[1:])
    size = tuple(min(n, m) for n, m in zip(scrap.size, most, strict=True))
    if size == scrap.size:
        return scrap
    box = Box(lo, tuple(a + n for a, n in zip(lo, size, strict=True)))
    back = tuple(-v for v in lo)
    layers = tuple(
        replace(layer,
                planes={name: Plane(plane.cells[box.slices[-plane.cells.ndim :]])
                        for name, plane in layer.planes.items()},
                pieces=tuple(p.shifted(back) for p in layer.pieces),
                things=tuple(t.shifted(back) for t in layer.things))
        for layer in scrap.layers
    )  # fmt: skip
    return replace(scrap, size=size, layers=layers, area=None)
