"""What every kind of brush answers: how it plans, and the facets by which others know it.

Nobody asks a brush for its kind.  A kind declares what differs from the plain answers here;
panels, cards, ghosts and checks read these.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal, Protocol, Self, TypeAlias, cast, runtime_checkable

import numpy as np

from topion.brushes.marks import Marks, Place
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.grid.ways import Way
from topion.model.curve import Curve, Fill
from topion.model.edit import Edit
from topion.model.facets import Facet
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.model.room import Room
from topion.model.scrap import Scrap
from topion.model.tileset import TileRef
from topion.things.ground import Spots

FLAT_SCRAP, DEEP_SCRAP = (4, 5), (6, 6, 7)  # cells of the rooms on which samples are laid
_FLAT_BLOB = ((0, 3), (1, 1), (1, 2), (1, 3), (2, 1), (2, 2), (2, 3), (2, 4), (3, 2))
_DEEP_BLOB = ((1, 2), (1, 3), (2, 1), (2, 2), (2, 3), (2, 4), (3, 2), (3, 3), (3, 4), (3, 5),
              (4, 4))  # fmt: skip


About = Literal["up", "south", "east"]
Hand = Literal["left", "right"]
Value: TypeAlias = Any  # of a setting: a number, a pair of them, text, or yes and no


@dataclass(frozen=True)
class Setting:
    """One row of the In hand panel: the brush field `name` and how it may be set.

    form : number, range, switch, choice, seed or text; `about` turns by quarters, about an axis
    each; `cell` is a place in cells, `pattern` a pattern of things, `tint` a colour of the palette,
    `mix` prefabs with weights.  none : what the choice of no name is called.
    """

    name: str
    label: str
    form: str = "number"
    lo: float = 0.0
    hi: float = 1.0
    step: float = 0.01
    unit: str = ""
    choices: tuple[str, ...] | Callable[[Project], tuple[str, ...]] = ()
    hint: str = ""
    none: str = "everything"


@dataclass(frozen=True, eq=False)
class Sample:
    """What a card shows: the brush, its marks, and what lies under them on a scrap.

    brush : as it lays for the picture.  size : of the scrap in cells.
    ground : whether something lies there before; levels : so many of them, in a voxel room.
    near : the part of a voxel scrap that fills the picture; None for all of it.
    on_ground : the marks lie on the ground, so they come lower where there is none.
    """

    brush: BrushKind
    marks: Marks
    size: tuple[int, ...] = FLAT_SCRAP
    ground: bool = True
    levels: int = 1
    near: Box | None = None
    on_ground: bool = False


@dataclass(frozen=True)
class Outline:
    """What is drawn at the pointer before a press.

    form : the cells that are laid, a ring of `radius` cells with a soft edge, or those cells
    crossed out.  lo, size : of the rectangle in cells, from the cell of the pointer.
    """

    form: Literal["cells", "ring", "lifted"] = "cells"
    lo: tuple[int, int] = (0, 0)
    size: tuple[int, int] = (1, 1)
    radius: float = 0.0
    inner: float = 0.0


class CannotTurn(TopionError):
    """A brush was asked to turn or mirror what may not be."""

    def __init__(self, what: str, how: str = "turned") -> None:
        super().__init__(f"{what} cannot be {how}")


class BrushKind(ABC):
    """A brush: plain data that can plan what it would lay.

    bay : of the rack, where its card comes to lie.  axes : of the only rooms it lays in; 0 for
    any.  lifts : it takes away.  boxed : it lays one box, whatever the gesture.  meets : in a
    voxel room its strokes mean the blocks that are hit, not the open cells before them.
    aims : settings that say what strokes are for: for the next one, not for a warm one.
    """

    kind: ClassVar[str]
    bay: ClassVar[str] = "Ground"
    axes: ClassVar[int] = 0
    lifts: ClassVar[bool] = False
    boxed: ClassVar[bool] = False
    meets: ClassVar[bool] = False
    aims: ClassVar[tuple[str, ...]] = ()
    name: str
    layer: str
    colour: str

    @property
    def material(self) -> str:
        """The material it gives to cells, or nothing."""
        return ""

    @abstractmethod
    def plan(self, place: Place, marks: Marks) -> Edit:
        """The change that `marks` ask for.  The project is read, never written."""

    def spots(self, place: Place, marks: Marks) -> Spots | None:
        """Where it is asked to stand things one by one; None for brushes that do not."""
        return None

    @abstractmethod
    def summary(self) -> str:
        """A few words for the card: kind and what it lays."""

    def settings(self) -> tuple[Setting, ...]:
        """The rows of In hand."""
        return ()

    def tiles_used(self) -> tuple[TileRef, ...]:
        """What it can lay; tiles enter the project's table with it."""
        return ()

    def swatches(self) -> tuple[TileRef, ...]:
        """What In hand shows of what it lays, likeliest first."""
        return self.tiles_used()

    def lays_blocks(self) -> bool | None:
        """Whether what it lays are blocks or tiles, by the first of them; None for neither."""
        used = self.tiles_used()
        return used[0].is_block if used else None

    def covers_ground(self, *, deep: bool) -> bool:
        """Whether it lays what a scrap, of blocks where it is `deep`, can be covered with."""
        return False

    def reach(self, project: Project, marks: Marks) -> Box:
        """Round all cells that a stroke may lay, also beyond the room."""
        nib = self.nib if isinstance(self, Nibbed) and marks.path is not None else 1
        box = Box.of_cells(marks.cells)
        low = nib // 2
        lo = tuple(v - low for v in box.lo)
        hi = tuple(v + nib - 1 - low for v in box.hi)
        if len(box.lo) == 3 and marks.across is not None:  # a nib is flat there
            at = marks.across
            lo, hi = ((*s[:at], o[at], *s[at + 1 :]) for s, o in ((lo, box.lo), (hi, box.hi)))
        return Box(lo, hi)

    def cells_each(self) -> int:
        """How many cells one mark lays, about."""
        return 1

    def most_ghosted(self) -> int:
        """How many marks it plans within a frame; more are shown when they are laid.  0 for as
        many as any brush."""
        return 0

    def in_hand(self, hand: Hand) -> Self:
        """As it lays in that hand."""
        return self

    def lifting(self) -> Self | None:
        """What takes away again what it lays; None where a lift brush does."""
        return None

    def taken_at(self, place: Place, cell: tuple[int, ...]) -> Self | None:
        """With what lies in a cell, picked from there; None for brushes that are not set so.

        Raises BadValue where there is nothing of the kind."""
        return None

    def colours(self, project: Project) -> tuple[str, str] | None:
        """The two colours that its card shows instead of a sample, each may be empty."""
        return None

    def lift_only(self) -> str:
        """The brush whose marks are lifted instead while that is asked for; nothing for all."""
        return self.name

    def state(self) -> str:
        """How it is turned, mirrored or shifted now, for its card; nothing as it was made."""
        return ""

    def places(self) -> Mapping[str, float]:
        """The prefabs it places, each with its weight."""
        return {}

    def asks(self) -> tuple[PlacementRule, ...]:
        """What it asks of places beside the rules of its prefabs."""
        return ()

    def said(self) -> str:
        """The line below its name in In hand."""
        return self.summary()

    def facts(self) -> tuple[tuple[str, str], ...]:
        """What In hand also tells, though it is not set there: label and value."""
        return (("Lays on", self.layer),) if self.layer else ()

    def outline(self, *, drawn: bool) -> Outline:
        """At the pointer.  drawn : whether the gesture widens by the nib."""
        nib = self.nib if drawn and isinstance(self, Nibbed) else 1
        return Outline(lo=(-(nib // 2), -(nib // 2)), size=(nib, nib))

    def sample(self, project: Project, *, deep: bool) -> Sample:
        """What its card shows, on a flat scrap or on one of blocks."""
        if not deep:
            return Sample(self.at_home("own"), Marks(np.array(_FLAT_BLOB, np.intp)))
        blob = _DEEP_BLOB if len(self.tiles_used()) > 1 else _DEEP_BLOB[1:8]
        cells = np.array([(level, y, x) for level in (1, 2) for y, x in blob])
        return Sample(self, Marks(cells), DEEP_SCRAP, on_ground=True)

    def at_home(self, layer: str) -> Self:
        """The same brush with another home layer."""
        return self.changed(layer=layer)

    def changed(self, **fields: object) -> Self:
        """The same brush with other values.  Raises BadValue."""
        known: Any = self
        made: Self = replace(known, **fields)
        return made

    # --- turning, asked for by keys -------------------------------------------------------

    def turned(self, project: Project) -> Self:
        """By its next step about the upright.  Raises CannotTurn; the same if it has no turn."""
        return self

    def tipped(self, project: Project) -> Self:
        """Another side up.  Raises CannotTurn."""
        raise CannotTurn(self.name, "tipped over")

    def turned_about(self, axis: About) -> Self:
        """A quarter about an axis of the room.  Raises CannotTurn."""
        raise CannotTurn(self.name, f"turned about {axis}")

    def held_at(self, by: tuple[int, ...]) -> Self:
        """Held by the cell of it that lies so many cells on; the same where that means nothing."""
        return self

    def held_by_next(self, place: Place, cell: tuple[int, ...]) -> Self:
        """On the next surface that carries it there: floor, walls, ceiling.  Raises CannotTurn."""
        raise CannotTurn(self.name, "held by walls and ceilings")

    def beat(self) -> float:
        """How many marks a second a stroke makes while its button is held; 0 for as many as the
        pointer comes over."""
        return 0.0

    def gap(self) -> float:
        """Cells from mark to mark of a drag; 0 for all that it comes over."""
        return 0.0

    def lifted_by(self, levels: int) -> Self:
        """Laid so many levels higher; the same where that means nothing."""
        return self

    def flipped(self) -> Self:
        """Left and right change places; the same if it cannot be mirrored."""
        return self

    def straightened(self) -> Self:
        """Without turn, mirror or scale of its own."""
        return self


@runtime_checkable
class Nibbed(Facet, Protocol):
    """The facet of brushes that drags and lines lay wide.  nib : in cells."""

    nib: int


@runtime_checkable
class Seeded(Facet, Protocol):
    """The facet of brushes that choose by chance."""

    seed: int


@runtime_checkable
class SoftEdged(Facet, Protocol):
    """The facet of brushes whose strokes fade out: over the last `soft` of `radius` cells."""

    radius: float
    soft: float


@runtime_checkable
class Stepped(Facet, Protocol):
    """The facet of brushes that lay on parts of cells.  cell_parts : to a cell, 1 to 4."""

    cell_parts: Literal[1, 2, 3, 4]


@runtime_checkable
class DrawsCurves(Facet, Protocol):
    """The facet of brushes that draw curves.  fill : what stands along them."""

    @property
    def fill(self) -> Fill | None: ...

    def curves(self, place: Place, marks: Marks) -> tuple[Curve, ...]:
        """What is drawn.  Raises BadValue for what is no curve."""


@runtime_checkable
class LaysScrap(Facet, Protocol):
    """The facet of brushes that lay what was cut out of a room."""

    @property
    def content(self) -> Scrap:
        """What is laid, before it is turned."""

    @property
    def way(self) -> Way:
        """How it is turned."""

    def corner_of(self, way: Way) -> tuple[int, ...]:
        """Where its first cell lies, turned so, from the cell of a mark."""


def brush_named(project: Project, name: str) -> BrushKind:
    """Raises UnknownName."""
    return cast(BrushKind, project.brush(name))


def brush_or_none(project: Project, name: str) -> BrushKind | None:
    """The brush of that name, if there is one."""
    return cast("BrushKind | None", project.brushes.get(name))


def all_brushes(project: Project) -> Mapping[str, BrushKind]:
    """All brushes by name."""
    return cast(Mapping[str, BrushKind], project.brushes)


def lays_here(brush: BrushKind, room: Room) -> bool:
    """Whether what the brush lays, tiles or blocks, is what the room is made of."""
    if brush.axes and brush.axes != room.info.axes:
        return False
    blocks = brush.lays_blocks()
    return blocks is None or blocks == (room.info.cells_kind == "blocks")
