"""Ramp: a slope from corner to corner, filled below, with tiles that join it at foot and head.

One step is as wide and as high as the parts of the slope are: `rise` cells up on `run` along.
The parts `slope 1`, `slope 2` … are the cells that the slope crosses in a step, from the low end;
`under 1` … lie right below it, by column of a step, `fill` below those; `foot` lies before the low
end; `head` takes the cell behind the high end, where level ground begins.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from topion.brushes.kind import DEEP_SCRAP, Sample, Setting
from topion.brushes.laying import Nib
from topion.brushes.marks import Marks
from topion.brushes.shape import (
    STAYS,
    Drawn,
    Handle,
    ShapeKind,
    at_side,
    corners,
    pulled_box,
)
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.orient import composed_turns
from topion.model.piece import Piece, Point
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.rules import Orientation, oriented_ref
from topion.weaving.shapes import Coded

LONGEST_STEP = 16  # cells
_MOST_STEPS = 256
_UPSIDE_DOWN = 8  # the turn of a block whose top looks down, and whose east stays east


@dataclass(frozen=True)
class Ramp(ShapeKind):
    """parts : tiles or blocks by name, as they lie where it rises to the east; at least one.

    upside_down : new ones hang from above.  width : cells across of one drawn in a voxel room.
    """

    kind: ClassVar[str] = "ramp"
    oriented: ClassVar[bool] = True
    name: Name
    parts: dict[str, TileRef]
    rise: int = 1
    run: int = 1
    layer: str = ""
    colour: Colour = "#8c8c84"
    upside_down: bool = False
    width: Nib = 1
    stays: bool = True

    def __post_init__(self) -> None:
        if not self.parts:
            raise BadValue("the parts of a ramp", (), "at least one")
        whole = 1 <= self.rise <= LONGEST_STEP and 1 <= self.run <= LONGEST_STEP
        if not whole or math.gcd(self.rise, self.run) > 1:
            wanted = f"two numbers from 1 to {LONGEST_STEP} in lowest terms"
            raise BadValue("rise and run of a ramp", (self.rise, self.run), wanted)
        for key in self.parts:
            if key not in self.slots:
                known = ", ".join(self.slots)
                raise BadValue("a part of a ramp", key, f"one of {known}")
        if len({ref.is_block for ref in self.parts.values()}) > 1:
            raise BadValue("the parts of a ramp", len(self.parts), "tiles only, or blocks only")

    # --- parts ----------------------------------------------------------------------------

    @cached_property
    def slots(self) -> tuple[str, ...]:
        """The names that parts can have, in the order of codes."""
        slopes = (f"slope {n}" for n in range(1, self.rise + self.run))
        under = (f"under {n}" for n in range(1, self.run + 1))
        return (*slopes, *under, "fill", "foot", "head")

    def _tile(self, slot: str) -> TileRef | None:
        """What shows there: the part, or what stands in for it; nothing where it is left open."""
        if slot in self.parts:
            return self.parts[slot]
        if slot.startswith("slope"):
            number = int(slot.split()[1])
            others = sorted((abs(int(k.split()[1]) - number), k) for k in self.parts
                            if k.startswith("slope"))  # fmt: skip
            return self.parts[others[0][1]] if others else next(iter(self.parts.values()))
        if slot.startswith("under"):
            return self.parts.get("fill")
        return None

    @cached_property
    def forms(self) -> tuple[TileRef | None, ...]:
        tiles = [self._tile(slot) for slot in self.slots]
        return tuple(tile and self._as_laid(tile, order) for order in range(8) for tile in tiles)

    def _as_laid(self, tile: TileRef, order: int) -> TileRef:
        if not tile.is_block:
            return oriented_ref(tile, Orientation(order % 4, order >= 4))
        over = composed_turns()[tile.turn, _UPSIDE_DOWN] if order >= 4 else tile.turn
        return tile._replace(turn=int(composed_turns()[over, order % 4]))

    def lacking(self) -> tuple[str, ...]:
        wanted = (slot for slot in self.slots if slot.startswith("slope"))
        more = () if "fill" in self.parts or self.rise == self.run == 1 else ("fill",)
        return (*(slot for slot in wanted if slot not in self.parts), *more)

    @cached_property
    def _profile(self) -> NDArray[np.uint16]:
        """(rise, run) codes of one step by height and column, 0 above the slope; `fill` below."""
        codes = np.zeros((self.rise, self.run), np.uint16)
        number = 0
        for column in range(self.run):
            low = column * self.rise // self.run
            high = -(-(column + 1) * self.rise // self.run)
            for height in range(low, high):
                number += 1
                codes[height, column] = number
            if low:
                codes[low - 1, column] = self._code(f"under {column + 1}")
                codes[: low - 1, column] = self._code("fill")
        return codes

    def _code(self, slot: str) -> int:
        return self.slots.index(slot) + 1

    # --- compiled -------------------------------------------------------------------------

    def steps_of(self, piece: Piece) -> int:
        """How many steps its box holds."""
        return max(1, self._along(piece.box, piece.turn) // self.run)

    def _along(self, box: Box, turn: int) -> int:
        """How long it is in the direction in which it rises."""
        return box.shape[-2] if turn % 2 else box.shape[-1]

    def _side(self, count: int) -> NDArray[np.uint16]:
        """(height, along) codes seen from the side, the lowest row first, with a column more at
        both ends for foot and head."""
        long, high = count * self.run, count * self.rise
        codes = np.zeros((high, long + 2), np.uint16)
        step = self._profile
        for n in range(count):
            here = slice(1 + n * self.run, 1 + (n + 1) * self.run)
            bottom = n * self.rise
            codes[bottom : bottom + self.rise, here] = step
            codes[:bottom, here] = self._code("fill")
            if bottom:
                under = [self._code(f"under {c + 1}") for c in range(self.run)]
                touches = step[0] <= self.rise + self.run - 1  # the slope reaches its lowest row
                row = codes[bottom - 1, here]
                row[touches] = np.array(under, np.uint16)[touches]
        if "foot" in self.parts:
            codes[0, 0] = self._code("foot")
        if "head" in self.parts:
            codes[-1, -1] = self._code("head")
        return codes

    def coded(self, piece: Piece) -> Coded:
        side = self._side(self.steps_of(piece))
        box, turn = piece.box, piece.turn % 4
        order = turn + (4 if piece.mirrored else 0)
        side = np.where(side, side + np.uint16(order * len(self.slots)), 0).astype(np.uint16)
        beside = (1, 0) if turn % 2 else (0, 1)
        if self.axes == 2:
            codes = np.rot90(side[::-1], -turn)
            codes = codes[:, ::-1] if piece.mirrored else codes
            return Coded(tuple(v - b for v, b in zip(box.lo, beside, strict=True)), codes)
        side = side[::-1] if piece.mirrored else side
        across = box.shape[-1] if turn % 2 else box.shape[-2]
        codes = np.rot90(np.repeat(side[:, None], across, axis=1), -turn, axes=(-2, -1))
        corner = tuple(v - b for v, b in zip(box.lo, (0, *beside), strict=True))
        return Coded(corner, np.ascontiguousarray(codes))

    def joints(self, piece: Piece) -> Iterator[tuple[tuple[int, ...], TileRef]]:
        """Those of its head."""
        coded, forms = self.coded(piece), len(self.slots)
        heads = (coded.codes - 1) % forms == self._code("head") - 1
        for at in np.argwhere(heads & (coded.codes > 0)).tolist():
            cell = tuple(a + b for a, b in zip(coded.corner, at, strict=True))
            tile = self.forms[int(coded.codes[tuple(at)]) - 1]
            if tile is not None:
                yield cell, tile

    # --- from strokes ---------------------------------------------------------------------

    def drawn(self, marks: Drawn) -> Piece:
        """Between the press and the release: it rises to the upper one; of two at one height, to
        where it was drawn."""
        press, release = marks.knots[0], marks.knots[-1]
        if len(marks.knots) > 0 and marks.way is None and (press == release).all():
            box = Box.of_cells(marks.cells)
            press, release = np.array(box.lo), np.array(box.hi) - 1
        return self._drawn_deep(press, release) if self.axes == 3 else self._drawn(press, release)

    def _drawn(self, press: NDArray[np.intp], release: NDArray[np.intp]) -> Piece:
        down, right = (int(v) for v in release - press)
        count = self._steps_for(abs(right) + 1, abs(down) + 1 if down else 0)
        high, long = count * self.rise, count * self.run
        sideways = -1 if right < 0 else 1
        far = (press[0] + (high - 1) * (1 if down > 0 else -1), press[1] + (long - 1) * sideways)
        points = tuple(int(v) for v in press), tuple(int(v) for v in far)
        east = (sideways > 0) != (down > 0)
        return self._placed(points, 0 if east else 2)

    def _placed(self, points: tuple[Point, ...], rises: int) -> Piece:
        """rises : 0 to the east, 2 to the west."""
        way = (0, rises == 2)
        if self.upside_down:  # half a turn keeps the slope and swaps its sides
            way = (2, rises == 2)
        made = Piece(self.name, points, turn=way[0], mirrored=way[1])
        return replace(made, points=corners(made.box))

    def _drawn_deep(self, press: NDArray[np.intp], release: NDArray[np.intp]) -> Piece:
        by = release - press
        turn = (2 if by[2] < 0 else 0) if abs(by[2]) >= abs(by[1]) else (3 if by[1] < 0 else 1)
        axis, other = (1, 2) if turn % 2 else (2, 1)
        count = self._steps_for(abs(int(by[axis])) + 1, 0)
        far = press.copy()
        far[0] += count * self.rise - 1
        far[axis] += (count * self.run - 1) * (-1 if turn in (2, 3) else 1)
        across = max(self.width, abs(int(by[other])) + 1)
        far[other] += (across - 1) * (-1 if by[other] < 0 else 1)
        points = tuple(int(v) for v in press), tuple(int(v) for v in far)
        made = Piece(self.name, points, turn=turn, mirrored=self.upside_down)
        return replace(made, points=corners(made.box))

    def _steps_for(self, long: int, high: int) -> int:
        """The number of steps that comes nearest to a size in cells; a height of 0 says
        nothing."""
        count = max(round(long / self.run), round(high / self.rise))
        return min(max(1, count), _MOST_STEPS)

    # --- pulling --------------------------------------------------------------------------

    def fitted(self, piece: Piece) -> Piece:
        """From corner to corner in whole steps; its first corner stays."""
        return self._fit(piece, piece.box, (-1,) * len(piece.box.lo))

    def _fit(self, piece: Piece, box: Box, stays: tuple[int, ...]) -> Piece:
        """The piece in the box of whole steps nearest to `box`.  stays : the sides that stay."""
        turned = piece.turn % 2
        upright = 0 if self.axes == 3 else (1 if turned else 0)
        along = (-2 if turned else -1) if self.axes == 3 else (0 if turned else 1)
        shape = list(box.shape)
        shape[upright], shape[along] = 0, 0
        count = self._steps_for(box.shape[along], box.shape[upright])
        shape[upright], shape[along] = count * self.rise, count * self.run
        lo = [
            old_lo if side <= 0 else old_hi - new
            for side, old_lo, old_hi, new in zip(stays, box.lo, box.hi, shape, strict=True)
        ]
        hi = tuple(a + side for a, side in zip(lo, shape, strict=True))
        return replace(piece, points=corners(Box(tuple(lo), hi)))

    def as_in_mirror(self, piece: Piece, axis: int) -> Piece:
        """One of blocks that rises along the axis rises the other way."""
        if self.axes == 2:
            return super().as_in_mirror(piece, axis)
        along = -2 if piece.turn % 2 else -1
        return replace(piece, turn=(piece.turn + 2) % 4) if axis == along else piece

    def _low_end(self, piece: Piece) -> tuple[int, ...]:
        """By axis, the side of the box at which the slope begins: -1 or 1."""
        turn, flipped = piece.turn % 4, piece.mirrored
        if self.axes == 3:
            east = {0: (0, -1), 1: (-1, 0), 2: (0, 1), 3: (1, 0)}[turn]
            return (1 if flipped else -1, *east)
        # of one that rises to the east the low end lies south-west, (y, x) = (1, -1)
        y, x = 1, -1
        for _ in range(turn):
            y, x = x, -y
        return (y, -x if flipped else x)

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        low = self._low_end(piece)
        ends = [tuple(s * v for v in low) for s in (1, -1)]
        if self.axes == 2:
            return tuple(Handle(at_side(piece.box, end), end) for end in ends)
        across = 2 if piece.turn % 2 else 1
        sides = []
        for side in (-1, 1):
            one = [0, 0, 0]
            one[across] = side
            sides.append(tuple(one))
        slope = [tuple(0 if a == across else v for a, v in enumerate(end)) for end in ends]
        return tuple(Handle(at_side(piece.box, s), s) for s in (*slope, *sides))

    def pulled(self, piece: Piece, handle: Handle, by: tuple[int, ...]) -> Piece:
        box = pulled_box(piece.box, handle.sides, by)
        stays = tuple(-side or -1 for side in handle.sides)
        return self._fit(piece, box, stays)

    def ticks(self, piece: Piece) -> tuple[tuple[tuple[float, ...], str], ...]:
        """From the high end down, one step more than it has."""
        if self.axes == 3:
            return ()
        low = self._low_end(piece)
        long, high = (self.rise, self.run) if piece.turn % 2 else (self.run, self.rise)
        box, found = piece.box, []
        top = at_side(box, tuple(-v for v in low))
        for count in range(1, self.steps_of(piece) + 2):
            at = (top[0] + low[0] * count * high, top[1] + low[1] * count * long)
            found.append((at, f"{count * long} × {count * high}"))
        return tuple(found)

    def words(self, piece: Piece) -> str:
        return f"ramp {self.size_words(piece)}"

    def summary(self) -> str:
        over = " · upside down" if self.upside_down else ""
        return f"ramp · {self.run} : {self.rise}{over}"

    def facts(self) -> tuple[tuple[str, str], ...]:
        return (*super().facts(), ("Snaps to", f"{self.run} × {self.rise} cells"))

    def settings(self) -> tuple[Setting, ...]:
        over = Setting("upside_down", "Hangs", "switch", hint="It hangs from above")
        if self.axes == 2:
            return (over, STAYS)
        return (Setting("width", "Width", "number", 1, 9, 1, "c", hint="Cells across"), over, STAYS)

    def sample(self, project: Project, *, deep: bool) -> Sample:
        if deep:
            knots = np.array([(1, 2, 1), (1, 4, 5)])
            return Sample(self, Marks(knots, knots.astype(float), knots=(knots,)), DEEP_SCRAP)
        count = max(1, min(4 // self.run, 3 // self.rise))
        far = (3 - count * self.rise + 1, count * self.run)
        knots = np.array([(3, 1), far])
        return Sample(self.at_home("own"), Marks(knots, knots.astype(float), knots=(knots,)))
