"""What all shape brushes share: a stroke is a piece, and may be pulled into another shape."""

from __future__ import annotations

import functools
import itertools
from abc import abstractmethod
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.brushes.forms import DEEP_WAYS, FLAT_WAYS
from topion.brushes.kind import BrushKind, Sample, Seeded, Setting
from topion.brushes.laying import Laid, lay, refusal
from topion.brushes.marks import Marks, Place
from topion.grid.areas import Area
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.orient import composed_turns
from topion.grid.turns import composed, mirrored_along
from topion.model.edit import Edit, Record
from topion.model.layer import Layer
from topion.model.piece import Piece, Point
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.tileset import TileRef
from topion.weaving.pieces import compiled
from topion.weaving.rules import Orientation
from topion.weaving.shapes import Coded

STAYS = Setting("stays", "A piece", "switch", hint="It stays one; else its cells are laid")


@dataclass(frozen=True)
class Handle:
    """Where a piece can be pulled.

    at : in cells, the middle of a cell being whole.  sides : of a box, by axis the side that is
    pulled: -1, 0 for none, or 1.  point : of a path, which of its points; `inserts` a new one
    before it.  pulls : of a point of a curve, its handle before or after it.
    """

    at: tuple[float, ...]
    sides: tuple[int, ...] = ()
    point: int = -1
    inserts: bool = False
    pulls: str = ""


@dataclass(frozen=True, eq=False)
class Drawn:
    """One copy of a stroke.  cells : that it marked.  knots : (k, axes) cells of the press and the
    release, or of all clicked points.  way : how many positions the pointer's way has; None where
    an area was marked.  flip : the axes along which the copy runs the other way."""

    cells: CellList
    knots: CellList
    way: int | None = None
    flip: tuple[int, ...] = ()


class ShapeKind(BrushKind):
    """A brush whose strokes stay pieces.

    joins : see `topion.weaving.shapes`.  oriented : whether pieces have a turn and a mirror of
    their own; else all that turns is their points.
    """

    bay: ClassVar[str] = "Built"
    joins: ClassVar[bool] = False
    oriented: ClassVar[bool] = False
    parts: dict[str, TileRef]
    stays: bool

    @property
    def material(self) -> str:
        return self.name

    @property
    def axes(self) -> int:  # type: ignore[override]
        """Blocks are for voxel rooms, tiles for flat ones."""
        return 3 if next(iter(self.parts.values())).is_block else 2

    @property
    def ways(self) -> tuple[Orientation, ...]:
        """How its parts may be turned and mirrored."""
        return DEEP_WAYS if self.axes == 3 else FLAT_WAYS

    @property
    @abstractmethod
    def forms(self) -> tuple[TileRef | None, ...]:
        """What code 1, 2 … shows."""

    @abstractmethod
    def coded(self, piece: Piece) -> Coded:
        """The form in each cell of a piece, whatever the room."""

    @abstractmethod
    def lacking(self) -> tuple[str, ...]:
        """Names of the forms for which another part stands in."""

    @abstractmethod
    def words(self, piece: Piece) -> str:
        """A piece in a few words: `panel 9 × 5`."""

    def joints(self, piece: Piece) -> Iterator[tuple[tuple[int, ...], TileRef]]:
        """Cells that a piece joins to what lies beside it, and what must show there."""
        return iter(())

    # --- from strokes to pieces -----------------------------------------------------------

    @abstractmethod
    def drawn(self, marks: Drawn) -> Piece:
        """The piece of one copy of a stroke."""

    @property
    def seed_of_new(self) -> int:
        """For what falls by chance in new pieces."""
        return self.seed if isinstance(self, Seeded) else 0

    def fitted(self, piece: Piece) -> Piece:
        """The nearest piece to that one that can be made."""
        return piece

    def planned(self, marks: Marks) -> list[Piece]:
        """The pieces of a stroke: one, and one a mirror picture."""
        if not len(marks.cells):
            return []
        flips = marks.flips or ((),) * len(marks.copies())
        copies = zip(marks.drawn_copies(), flips, strict=True)
        way = None if marks.path is None else len(marks.path) // len(flips)
        made = (self.drawn(Drawn(cells, knots, way, flip)) for (cells, knots), flip in copies)
        return list(dict.fromkeys(made))

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        refused = refusal(self, place, layer)
        if refused is not None:
            return refused
        inside = place.room.box
        pieces = [piece for piece in self.planned(marks) if piece.box.meets(inside)]
        if not pieces:
            return Edit(self.name)
        if marks.within is not None and not all(_lies_in(self, p, marks.within) for p in pieces):
            return Edit(self.name, (), self.colour, ("it reaches beyond what is picked",))
        if self.stays:
            records = new_pieces(place, layer_id, pieces)
        else:
            records = laid_flat(place, layer_id, pieces)
        return Edit(f"{self.name} {self.size_words(pieces[0])}", records, self.colour)

    def reach(self, project: Project, marks: Marks) -> Box:
        boxes = (piece.box for piece in self.planned(marks))
        return functools.reduce(Box.union, boxes, Box.of_cells(marks.cells[:0]))

    def size_words(self, piece: Piece) -> str:
        """How large a piece is, width first."""
        *_, height, width = piece.box.shape
        deep = f" × {piece.box.shape[0]}" if len(piece.box.shape) == 3 else ""
        return f"{width} × {height}{deep}"

    def measure(self, piece: Piece) -> str:
        """What a pull says at the pointer."""
        return f"{self.size_words(piece)} cells"

    # --- pulling --------------------------------------------------------------------------

    @abstractmethod
    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        """Where a piece can be pulled."""

    @abstractmethod
    def pulled(self, piece: Piece, handle: Handle, by: tuple[int, ...]) -> Piece:
        """The piece with one of its handles so many cells on."""

    def without_point(self, piece: Piece, number: int) -> Piece:
        """Without one of the points it goes through, where it has more than its ends."""
        return piece

    def resized(self, piece: Piece, shape: tuple[int, ...]) -> Piece:
        """The piece at another size from its first corner, as near as can be made.

        Raises BadValue for a size that no piece can have.
        """
        lo = piece.box.lo
        hi = tuple(a + max(1, side) - 1 for a, side in zip(lo, shape, strict=True))
        replace(piece, points=(lo, hi))  # refuses it
        return self.fitted(_stretched(piece, lo, hi))

    def ticks(self, piece: Piece) -> tuple[tuple[tuple[float, ...], str], ...]:
        """Where sizes snap that can be made: a place in cells, and the size in words."""
        return ()

    def turned_piece(self, piece: Piece, quarters: int = 1) -> Piece:
        """Turned about up by quarters clockwise, about its middle."""
        for _ in range(quarters % 4):
            piece = self.as_turned(replace(piece, points=_turned_points(piece)))
        return self.fitted(piece)

    def as_turned(self, piece: Piece) -> Piece:
        """The turn of its own that a piece has after a quarter clockwise; its points stay."""
        if not self.oriented:
            return piece
        if self.axes == 3:
            return replace(piece, turn=int(composed_turns()[piece.turn, 1]))
        turn, mirrored = composed((piece.turn, piece.mirrored), (1, False))
        return replace(piece, turn=turn, mirrored=mirrored)

    def as_in_mirror(self, piece: Piece, axis: int) -> Piece:
        """The turn and mirror of its own that a piece has in a mirror; its points stay."""
        if not self.oriented or self.axes == 3:  # blocks cannot be mirrored, only their places
            return piece
        turn, mirrored = composed((piece.turn, piece.mirrored), mirrored_along(axis))
        return replace(piece, turn=turn, mirrored=mirrored)

    def mirrored_piece(self, piece: Piece, axis: int) -> Piece:
        """Mirrored where it stands; axis -1 swaps west and east, -2 north and south."""
        lo, hi = piece.box.lo[axis], piece.box.hi[axis] - 1
        points = np.array(piece.points)
        points[:, axis] = lo + hi - points[:, axis]
        return self.fitted(self.as_in_mirror(replace(piece, points=as_points(points)), axis))

    # --- on the rack ----------------------------------------------------------------------

    def tiles_used(self) -> tuple[TileRef, ...]:
        return self._tiles

    @cached_property
    def _tiles(self) -> tuple[TileRef, ...]:
        return tuple(dict.fromkeys(ref for ref in self.forms if ref is not None))

    def swatches(self) -> tuple[TileRef, ...]:
        return tuple(dict.fromkeys(self.parts.values()))

    def lays_blocks(self) -> bool | None:
        return self.axes == 3

    def facts(self) -> tuple[tuple[str, str], ...]:
        lacking = self.lacking()
        if not lacking:
            return super().facts()
        more = f" and {len(lacking) - 3} more" if len(lacking) > 3 else ""
        return (*super().facts(), ("Without a part", ", ".join(lacking[:3]) + more))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        return Sample(self.at_home("own"), Marks(Box((1, 1), (3, 4)).cells()))


def _lies_in(brush: ShapeKind, piece: Piece, area: Area) -> bool:
    """Whether all that a piece shows lies in an area."""
    coded = brush.coded(piece)
    return bool(area.within(coded.box)[coded.codes > 0].all())


# --- records ------------------------------------------------------------------------------


def new_pieces(place: Place, layer_id: str, pieces: Sequence[Piece]) -> tuple[Record, ...]:
    """The record that puts pieces nearest of all in a layer."""
    layer = place.room.layers[layer_id]
    order, number = nearest_order(layer), place.room.next_number()
    fresh = {number + n: replace(piece, order=order + n + 1.0) for n, piece in enumerate(pieces)}
    return entries_changed(place.room, layer_id, "pieces", fresh)


def nearest_order(layer: Layer) -> float:
    """The order of the nearest piece of a layer; 0 where there is none."""
    return max((piece.order for piece in layer.pieces.values()), default=0.0)


def laid_flat(
    place: Place, layer_id: str, pieces: Sequence[Piece], without: CellList | None = None
) -> tuple[Record, ...]:
    """The record that lays what pieces show, farthest first, as cells pinned by hand.

    without : (n, axes) cells that are left out.
    """
    layer = place.room.layers[layer_id]
    box = functools.reduce(Box.union, (piece.touched for piece in pieces)).clipped(place.room.box)
    over = compiled(place.project, layer, pieces, box)
    if without is not None:
        inside = without[box.holds(without)] - np.array(box.lo)
        over.covered[tuple(inside.T)] = False
    at = np.nonzero(over.covered)
    flat = np.ravel_multi_index(
        tuple(axis + lo for axis, lo in zip(at, box.lo, strict=True)), layer.size
    )
    return lay(place, layer_id, Laid(np.asarray(flat, np.intp), over.material[at], over.tile[at]))


# --- points -------------------------------------------------------------------------------


def as_points(cells: NDArray[np.integer]) -> tuple[Point, ...]:
    """(n, axes) cells as the points of a piece."""
    return tuple(tuple(int(v) for v in row) for row in cells)


def _turned_points(piece: Piece) -> tuple[Point, ...]:
    """A quarter clockwise in plan; four of them come back to where they began."""
    *_, top, left = piece.box.lo
    *_, height, width = piece.box.shape
    points = np.array(piece.points)
    y, x = points[:, -2] - top, points[:, -1] - left
    turned = points.copy()
    turned[:, -2] = top + int((height - width) / 2) + x
    turned[:, -1] = left + int((width - height) / 2) + height - 1 - y
    return as_points(turned)


def _stretched(piece: Piece, lo: Sequence[int], hi: Sequence[int]) -> Piece:
    """With its points spread evenly over another box, both corners inside."""
    points = np.array(piece.points, np.float64)
    old_lo, old_hi = np.array(piece.box.lo), np.array(piece.box.hi) - 1
    share = np.divide(points - old_lo, old_hi - old_lo, where=old_hi > old_lo,
                      out=np.zeros_like(points))  # fmt: skip
    flat = old_hi == old_lo  # no extent yet: the last point makes it
    share[-1, flat] = 1.0
    spread = np.rint(np.array(lo) + share * (np.array(hi) - np.array(lo)))
    return replace(piece, points=as_points(spread.astype(np.intp)))


def side_handles(box: Box) -> Iterator[Handle]:
    """All corners and the middles of all sides of a box, for any number of axes."""
    axes = len(box.lo)
    for sides in itertools.product((-1, 0, 1), repeat=axes):
        pulled = sum(side != 0 for side in sides)
        if pulled not in (1, axes):
            continue
        yield Handle(at_side(box, sides), sides)


def at_side(box: Box, sides: tuple[int, ...]) -> tuple[float, ...]:
    """Where the corner of a box lies, or the middle of a side, in cells."""
    return tuple(
        lo - 0.5 if side < 0 else hi - 0.5 if side > 0 else (lo + hi - 1) / 2
        for side, lo, hi in zip(sides, box.lo, box.hi, strict=True)
    )


def pulled_box(box: Box, sides: tuple[int, ...], by: tuple[int, ...]) -> Box:
    """A box with some of its sides so many cells on; at least one cell stays on each axis."""
    lo, hi = list(box.lo), list(box.hi)
    for axis, (side, step) in enumerate(zip(sides, by, strict=True)):
        if side < 0:
            lo[axis] = min(lo[axis] + step, hi[axis] - 1)
        elif side > 0:
            hi[axis] = max(hi[axis] + step, lo[axis] + 1)
    return Box(tuple(lo), tuple(hi))


def corners(box: Box) -> tuple[Point, Point]:
    """The first and the last cell of a box."""
    return box.lo, tuple(v - 1 for v in box.hi)
