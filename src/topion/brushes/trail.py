"""Trail: a path with right-angle turns, which meets itself and its like.

A part is named by the sides on which it goes on, in the order n e s w: `ew` is straight, `es` a
corner, `e` an end, `esw` a tee, `nesw` a cross; `alone` goes nowhere.  In a voxel room a capital
letter is a side on which it goes on one level higher, so `Ew` is a step that rises to the east.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.brushes.forms import Form, form_of, turned_side
from topion.brushes.kind import DEEP_SCRAP, Sample, Setting
from topion.brushes.marks import Marks
from topion.brushes.shape import STAYS, Drawn, Handle, ShapeKind, as_points
from topion.errors import BadValue
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.piece import MOST_POINTS, Piece
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.rules import Orientation
from topion.weaving.shapes import Coded

SIDES = "nesw"
ALONE = "alone"
_STEPS = np.array([(-1, 0), (0, 1), (1, 0), (0, -1)])  # (y, x) by side
_WORDS = {0: "alone", 1: "end", 3: "tee", 4: "cross"}


@dataclass(frozen=True)
class Trail(ShapeKind):
    """parts : tiles or blocks by the sides on which they go on; at least one."""

    kind: ClassVar[str] = "trail"
    joins: ClassVar[bool] = True
    name: Name
    parts: dict[str, TileRef]
    layer: str = ""
    colour: Colour = "#b98a4d"
    stays: bool = True

    def __post_init__(self) -> None:
        if not self.parts:
            raise BadValue("the parts of a trail", (), "at least one")
        for key in self.parts:
            if key != ALONE and key != _key(key):
                raise BadValue("a part of a trail", key, "sides in the order n e s w, or alone")
        if len({ref.is_block for ref in self.parts.values()}) > 1:
            raise BadValue("the parts of a trail", len(self.parts), "tiles only, or blocks only")
        if self.axes == 2 and any(key != key.lower() for key in self.parts):
            raise BadValue("the parts of a trail", "with steps", "blocks, for a voxel room")

    @cached_property
    def found(self) -> dict[str, Form]:
        """What each form shows, by the sides on which it goes on."""
        return {
            key: form_of(_stand_ins(key), self.parts, _oriented, self.ways)
            for key in dict.fromkeys(map(_key_of_bits, self._every_bits))
        }

    @property
    def _every_bits(self) -> range:
        return range(1 << (8 if self.axes == 3 else 4))

    @cached_property
    def forms(self) -> tuple[TileRef | None, ...]:
        """Codes are twice the bits of the sides, and one: so they can be taken together."""
        shown: list[TileRef | None] = []
        for bits in self._every_bits:
            shown += [self.found[_key_of_bits(bits)].tile, None]
        return tuple(shown)

    def lacking(self) -> tuple[str, ...]:
        missing = [key for key, form in self.found.items() if form.found == "stand-in"]
        return tuple(dict.fromkeys(map(_words, missing)))

    # --- compiled -------------------------------------------------------------------------

    def coded(self, piece: Piece) -> Coded:
        cells = trail_cells(piece)
        box = Box.of_cells(cells)
        codes = np.zeros(box.shape, np.uint16)
        at = cells - np.array(box.lo)
        bits = np.ones(len(cells), np.uint16)
        steps = np.diff(cells, axis=0)
        side = np.argmax((steps[:, None, -2:] == _STEPS).all(axis=2), axis=1)
        rises = steps[:, 0] if cells.shape[1] == 3 else np.zeros(len(steps), np.intp)
        bits[:-1] |= _bit(side, rises > 0)
        bits[1:] |= _bit((side + 2) % 4, rises < 0)
        np.bitwise_or.at(codes, tuple(at.T), bits)
        return Coded(box.lo, codes)

    # --- from strokes, and pulling --------------------------------------------------------

    def drawn(self, marks: Drawn) -> Piece:
        if marks.way is None:  # an area: round it
            box = Box.of_cells(marks.cells)
            points = _round(box) if len(marks.cells) > 1 else marks.knots[:1]
        elif len(marks.knots) > 2 or marks.way <= 2:
            points = marks.knots
        else:
            points = marks.cells
        return self.fitted(Piece(self.name, as_points(_thinned(points))))

    def fitted(self, piece: Piece) -> Piece:
        """It rises at most one level a cell; points it does not turn at are let go."""
        points = np.array(piece.points)
        if points.shape[1] == 3:
            for n in range(1, len(points)):
                length = int(np.abs(points[n, 1:] - points[n - 1, 1:]).sum())
                rise = points[n, 0] - points[n - 1, 0]
                points[n, 0] = points[n - 1, 0] + np.clip(rise, -length, length)
        keep = np.ones(len(points), bool)
        keep[1:] = (points[1:] != points[:-1]).any(axis=1)
        return replace(piece, points=as_points(points[keep][:MOST_POINTS]))

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        points = np.array(piece.points, np.float64)
        closed = len(points) > 2 and piece.points[0] == piece.points[-1]
        own = [Handle(tuple(p), point=n) for n, p in enumerate(points.tolist())]
        between = [
            Handle(tuple(middle), point=n, inserts=True)
            for n, middle in enumerate(((points[1:] + points[:-1]) / 2).tolist(), 1)
        ]
        return (*(own[:-1] if closed else own), *between)

    def pulled(self, piece: Piece, handle: Handle, by: tuple[int, ...]) -> Piece:
        points = [list(point) for point in piece.points]
        closed = len(points) > 2 and points[0] == points[-1]
        if handle.inserts:
            points.insert(handle.point, [int(v) for v in np.floor(np.array(handle.at) + 0.5)])
        for axis, step in enumerate(by):
            points[handle.point][axis] += step
        if closed and handle.point == 0 and not handle.inserts:
            points[-1] = list(points[0])
        return self.fitted(replace(piece, points=tuple(tuple(p) for p in points)))

    def without_point(self, piece: Piece, number: int) -> Piece:
        """The piece without one of its points; the last one stays."""
        left = tuple(p for n, p in enumerate(piece.points) if n != number)
        return self.fitted(replace(piece, points=left)) if left else piece

    def words(self, piece: Piece) -> str:
        return f"trail · {self.size_words(piece)}"

    def measure(self, piece: Piece) -> str:
        return several(len(trail_cells(piece)), "cell")

    def size_words(self, piece: Piece) -> str:
        count = len(piece.points)
        return several(count, "point")

    def summary(self) -> str:
        return f"trail · {several(len(self.parts), 'part')}"

    def settings(self) -> tuple[Setting, ...]:
        return (STAYS,)

    def sample(self, project: Project, *, deep: bool) -> Sample:
        if deep:
            knots = np.array([(1, 4, 1), (1, 2, 1), (1, 2, 5)])
            return Sample(self, Marks(knots, knots.astype(float), knots=(knots,)), DEEP_SCRAP)
        knots = np.array([(3, 0), (3, 2), (1, 2), (1, 4)])
        way = Marks(knots, knots.astype(np.float64), knots=(knots,))
        return Sample(self.at_home("own"), way)


def trail_cells(piece: Piece) -> CellList:
    """(n, axes) cells from its first point to its last, each a side neighbour of the next in
    plan.  Between two points it goes along the longer way first, and rises from the lower one."""
    parts = [np.array(piece.points[:1], np.intp)]
    for before, after in zip(piece.points, piece.points[1:], strict=False):
        parts.append(_between(np.array(before), np.array(after)))
    return np.concatenate(parts)


def _between(before: NDArray[np.intp], after: NDArray[np.intp]) -> CellList:
    """The cells behind `before` up to `after`."""
    by = after - before
    down, right = int(by[-2]), int(by[-1])
    steps = [(np.sign(down), 0)] * abs(down), [(0, np.sign(right))] * abs(right)
    first, then = steps if abs(down) > abs(right) else steps[::-1]
    way = np.cumsum(np.array([*first, *then], np.intp).reshape(-1, 2), axis=0)
    cells = np.tile(before, (len(way), 1))
    cells[:, -2:] += way
    if len(before) == 3 and len(way):
        along = np.arange(1, len(way) + 1)
        rise = int(by[0])
        if rise > 0:
            cells[:, 0] += np.minimum(along, rise)
        else:  # from the lower one too, so that steps lie the same whichever way it was drawn
            cells[:, 0] += np.minimum(0, rise + len(way) - along)
    return cells


def _round(box: Box) -> CellList:
    """The corners of a box of cells, and back to the first."""
    lo, hi = np.array(box.lo), np.array(box.hi) - 1
    corners = np.array([(lo[-2], lo[-1]), (lo[-2], hi[-1]), (hi[-2], hi[-1]), (hi[-2], lo[-1]),
                        (lo[-2], lo[-1])])  # fmt: skip
    levels = np.tile(lo[:-2], (5, 1))
    return np.concatenate([levels, corners], axis=1)


def _thinned(cells: CellList) -> CellList:
    """Only those at which a way of neighbouring cells turns, and its ends."""
    if len(cells) < 3:
        return cells
    steps = np.diff(cells, axis=0)
    keep = np.ones(len(cells), bool)
    keep[1:-1] = (np.sign(steps[1:]) != np.sign(steps[:-1])).any(axis=1) | (
        np.count_nonzero(steps[1:], axis=1) > 1
    )
    return cells[keep]


# --- names of parts -----------------------------------------------------------------------


def _bit(side: NDArray[np.intp], rises: NDArray[np.bool_]) -> NDArray[np.uint16]:
    """Bits 1 to 4 stand for the sides, 5 to 8 for sides on which it rises."""
    return (np.uint16(2) << (side + 4 * rises).astype(np.uint16)).astype(np.uint16)


def _key_of_bits(bits: int) -> str:
    letters = ""
    for n, side in enumerate(SIDES):
        if bits >> (n + 4) & 1:
            letters += side.upper()
        elif bits >> n & 1:
            letters += side
    return letters or ALONE


def _key(letters: str) -> str:
    """The same letters in order."""
    return "".join(letter for side in SIDES for letter in letters if letter.lower() == side)


def _oriented(key: str, way: Orientation) -> str:
    if key == ALONE:
        return key
    turned = (turned_side(letter.lower(), way) for letter in key)
    cases = (new.upper() if old.isupper() else new for new, old in zip(turned, key, strict=True))
    return _key("".join(cases))


def _stand_ins(key: str) -> Iterator[str]:
    """The form itself and what stands in for it, best first."""
    yield key
    if key == ALONE:
        yield from ("e", "ew")
        return
    rising = [letter for letter in key if letter.isupper()]
    if rising:
        ahead = rising[0]
        behind = SIDES[(SIDES.index(ahead.lower()) + 2) % 4]
        yield _key(ahead + behind)
        yield ahead
        key = key.lower()
        yield key
    if len(key) == 1:
        yield _key(key + SIDES[(SIDES.index(key) + 2) % 4])
    for other in ("nesw", "nes", "ew", "es", "e"):
        yield from dict.fromkeys(
            _oriented(other, Orientation(turn, False)) for turn in range(4)
            if set(_oriented(other, Orientation(turn, False))) <= set(key)
        )  # fmt: skip
    yield ALONE


def _words(key: str) -> str:
    if key == ALONE:
        return ALONE
    if key != key.lower():
        return "step"
    straight = key in ("ns", "ew")
    return "straight" if straight else _WORDS.get(len(key), "corner")
