"""Run: a row or a column with a start, middles and an end; it grows along the drag."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

import numpy as np

from topion.brushes.forms import Form, form_of, turned_side
from topion.brushes.kind import DEEP_SCRAP, Sample, Setting
from topion.brushes.marks import Marks
from topion.brushes.shape import STAYS, Drawn, Handle, ShapeKind, as_points
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.piece import Piece
from topion.model.project import Project
from topion.model.tileset import TileRef
from topion.model.typed import Colour, Name
from topion.weaving.rules import Orientation, oriented_ref
from topion.weaving.shapes import Coded

ROLES = ("start", "middle", "end", "alone")
_STANDING = {"top": "start", "upright": "middle", "bottom": "end", "single": "alone"}
_STAND_INS = {"start": ("middle", "end", "alone"), "middle": ("start", "end", "alone"),
              "end": ("middle", "start", "alone"), "alone": ("middle", "start", "end")}  # fmt: skip
_STEPS = {"e": (0, 0, 1), "s": (0, 1, 0), "w": (0, 0, -1), "n": (0, -1, 0), "u": (1, 0, 0),
          "d": (-1, 0, 0)}  # fmt: skip
_MOST_CELLS = 4096
_WAY = {"e": "lying", "w": "to the west", "s": "standing", "n": "upwards", "u": "upwards",
        "d": "standing"}  # fmt: skip


@dataclass(frozen=True)
class Run(ShapeKind):
    """parts : `start middle end alone` as they lie from west to east, and, where standing runs
    look otherwise, `top upright bottom single`.  middles : further ones that alternate with it.
    """

    kind: ClassVar[str] = "run"
    name: Name
    parts: dict[str, TileRef]
    middles: tuple[TileRef, ...] = ()
    layer: str = ""
    colour: Colour = "#4f7f96"
    stays: bool = True

    def __post_init__(self) -> None:
        if not self.parts:
            raise BadValue("the parts of a run", (), "at least one")
        for key in self.parts:
            if key not in ROLES and key not in _STANDING:
                known = ", ".join((*ROLES, *_STANDING))
                raise BadValue("a part of a run", key, f"one of {known}")
        kinds = {ref.is_block for ref in (*self.parts.values(), *self.middles)}
        if len(kinds) > 1:
            raise BadValue("the parts of a run", len(self.parts), "tiles only, or blocks only")

    @property
    def _ways_it_goes(self) -> str:
        return "eswnud" if self.axes == 3 else "eswn"

    @cached_property
    def _named(self) -> dict[str, TileRef]:
        """The parts by role and the way the run goes, such as `start:e`."""
        down = "d" if self.axes == 3 else "s"
        return {
            f"{key}:e" if key in ROLES else f"{_STANDING[key]}:{down}": ref
            for key, ref in self.parts.items()
        }

    @cached_property
    def found(self) -> dict[str, Form]:
        """What each form shows, by role and way."""
        return {
            f"{role}:{way}": form_of(self._wanted(role, way), self._named, _oriented, self.ways)
            for way in self._ways_it_goes
            for role in ROLES
        }

    @staticmethod
    def _wanted(role: str, way: str) -> list[str]:
        if way == "u":  # what is its start is the foot of one that goes down
            role, way = {"start": "end", "end": "start"}.get(role, role), "d"
        ways = (way, "e") if way == "d" else (way,)
        return [f"{r}:{w}" for w in ways for r in (role, *_STAND_INS[role])]

    @cached_property
    def forms(self) -> tuple[TileRef | None, ...]:
        plain = [form.tile for form in self.found.values()]
        more = [oriented_ref(ref, self._way_of(way)) for way in self._ways_it_goes
                for ref in self.middles]  # fmt: skip
        return (*plain, *more)

    def _way_of(self, way: str) -> Orientation:
        return next((w for w in self.ways if turned_side("e", w) == way), self.ways[0])

    def lacking(self) -> tuple[str, ...]:
        missing = [key.split(":") for key, form in self.found.items() if form.found == "stand-in"]
        return tuple(dict.fromkeys(
            role if way in "ew" else f"{role} {_WAY[way]}" for role, way in missing
        ))  # fmt: skip

    def coded(self, piece: Piece) -> Coded:
        box, way = piece.box, self.way_of(piece)
        length = max(box.shape)
        place = self._ways_it_goes.index(way)
        role = np.ones(length, np.uint16)
        role[0], role[-1] = 0, 2
        if length == 1:
            role[0] = 3
        codes = role + np.uint16(1 + place * len(ROLES))
        if self.middles and length > 2:
            turn = np.arange(length - 2) % (len(self.middles) + 1)
            first = 1 + len(self.found) + place * len(self.middles)
            codes[1:-1] = np.where(turn, first + turn - 1, codes[1:-1])
        if sum(_STEPS[way]) < 0:
            codes = codes[::-1]
        return Coded(box.lo, codes.reshape(box.shape).astype(np.uint16))

    def way_of(self, piece: Piece) -> str:
        """The side it grows to; east for a single cell."""
        step = np.sign(np.subtract(piece.points[-1], piece.points[0]))
        step = np.array([0] * (3 - len(step)) + step.tolist())
        if self.axes == 3 and piece.turn and not step.any():
            step = np.array(_STEPS["esw"[piece.turn % 3]])
        return next((w for w in self._ways_it_goes if (step == _STEPS[w]).all()), "e")

    # --- from strokes, and pulling --------------------------------------------------------

    def drawn(self, marks: Drawn) -> Piece:
        first, last = marks.knots[0], marks.knots[-1]
        if marks.way is None:  # an area: along its longer side
            box = Box.of_cells(marks.cells)
            first, last = np.array(box.lo), np.array(box.hi) - 1
        return self.fitted(Piece(self.name, as_points(np.stack([first, last]))))

    def fitted(self, piece: Piece) -> Piece:
        """Straight, along the longest axis; the start stays."""
        first, last = np.array(piece.points[0]), np.array(piece.points[-1])
        by = last - first
        axis = len(by) - 1 - int(np.argmax(np.abs(by)[::-1]))
        end = first.copy()
        end[axis] += np.clip(by[axis], 1 - _MOST_CELLS, _MOST_CELLS - 1)
        return replace(piece, points=as_points(np.stack([first, end])))

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        way = np.array(_STEPS[self.way_of(piece)][3 - len(piece.points[0]) :])
        ends = ((0, -1), (len(piece.points) - 1, 1))
        return tuple(
            Handle(tuple((np.array(piece.points[n]) + way * side * 0.5).tolist()), point=n)
            for n, side in ends
        )

    def pulled(self, piece: Piece, handle: Handle, by: tuple[int, ...]) -> Piece:
        """Along its own axis; one of a single cell goes where it is pulled."""
        points, step = np.array(piece.points), np.array(by)
        lies = points[0] != points[-1]
        if lies.any():
            step[~lies] = 0
        points[handle.point] += step
        moved = replace(piece, points=as_points(points))
        if handle.point == 0:  # the other end stays
            turned = self.fitted(replace(moved, points=moved.points[::-1]))
            return replace(turned, points=turned.points[::-1])
        return self.fitted(moved)

    def words(self, piece: Piece) -> str:
        count = max(piece.box.shape)
        return f"run, {several(count, 'cell')}"

    def measure(self, piece: Piece) -> str:
        return several(max(piece.box.shape), "cell")

    def size_words(self, piece: Piece) -> str:
        return f"×{max(piece.box.shape)}"

    def summary(self) -> str:
        caps = sum(part in self.parts for part in ("start", "end", "top", "bottom"))
        return f"run · {several(caps, 'cap')}"

    def settings(self) -> tuple[Setting, ...]:
        return (STAYS,)

    def sample(self, project: Project, *, deep: bool) -> Sample:
        if deep:
            return Sample(self, Marks(Box((1, 3, 1), (2, 4, 6)).cells()), DEEP_SCRAP)
        standing = not any(role in self.parts for role in ROLES)
        box = Box((0, 2), (4, 3)) if standing else Box((1, 0), (2, 5))
        return Sample(self.at_home("own"), Marks(box.cells()))


def _oriented(name: str, way: Orientation) -> str:
    role, side = name.split(":")
    return f"{role}:{turned_side(side, way)}"
