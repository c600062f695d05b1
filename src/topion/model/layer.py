"""Layers: what is stored in them, and the tiles that follow from it.

Only what a designer decided is stored: materials, pinned tiles, densities, things.  Records of
an Edit write that, and it alone is kept in journals and folders.  What shows follows from it;
`topion.weaving.settle` makes it, box by box, when somebody looks.
"""

from __future__ import annotations

import itertools
import weakref
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.arrays import CellList, MaterialIds, TileIds
from topion.grid.box_index import BoxIndex
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.curve import Curve
from topion.model.derived import fresh_stamp
from topion.model.piece import Piece
from topion.model.prefab import Thing
from topion.model.refs import Ref
from topion.model.typed import Name, typed

Entry: TypeAlias = Any  # of a numbered table: a dataclass that never changes, and says what it
# touches: a box of cells, or of columns in plan
LayerKind = Literal["tiles", "blocks", "things", "field", "tints", "region"]
Purpose = Literal["", "view", "zone", "trigger"]
FULL_DENSITY = 255  # a density of 1.0; fields store 255 steps
OWN_SIZE = 128  # of a size mask: as large as the field says; 0 is the same, 255 twice as large
LARGEST_SIZE = 2.0
BLOCK_SIDES = {2: 64, 3: 16}  # of the blocks of cells that are settled together, by axes
FARTHEST_REACH = 2  # cells from which a material can tell what another cell shows
_MOST_PENDING = 64
_LARGEST_PENDING = 1 << 14  # cells
_DENSE = 4  # a box is settled whole if it holds at most so many times the cells written


def sizes_of(stored: NDArray[np.uint8]) -> NDArray[np.float64]:
    """What is stored in a size mask as times the size of the field: 1 where none was painted."""
    own = np.where(stored > 0, stored / OWN_SIZE, 1.0)
    return np.where(stored == FULL_DENSITY, LARGEST_SIZE, own)


@dataclass(frozen=True)
class KindOfLayer:
    """planes : stored arrays and their types.  in_plan : they hold a value for each column.

    tables : numbered entries, and their type.  shows : whether tiles follow from it.
    laid_over : the table whose entries are compiled over its cells.  worn : it is not drawn
    itself, but tells in which colours the others are.  told : it is not drawn itself, but tells
    which cells are meant.
    """

    planes: Mapping[str, type] = field(default_factory=dict)
    tables: Mapping[str, type] = field(default_factory=dict)
    in_plan: bool = False
    shows: bool = False
    laid_over: str = ""
    worn: bool = False
    told: bool = False

    @property
    def main_table(self) -> str:
        """The table that its layers are there for; nothing where they hold cells."""
        return "" if self.planes else next(iter(self.tables), "")


_CELLS: dict[str, type] = {"material": np.uint16, "pinned": np.uint16}
KINDS_OF_LAYERS: dict[str, KindOfLayer] = {
    "tiles": KindOfLayer(
        {**_CELLS, "inlay": np.uint16}, {"pieces": Piece}, shows=True, laid_over="pieces"
    ),
    "blocks": KindOfLayer(_CELLS, {"pieces": Piece}, shows=True, laid_over="pieces"),
    "things": KindOfLayer(tables={"things": Thing, "curves": Curve}),
    "field": KindOfLayer(
        {"density": np.uint8, "size": np.uint8}, {"held": Thing, "bans": Ban}, in_plan=True
    ),
    "tints": KindOfLayer(dict.fromkeys(("fore", "back", "bright"), np.uint8), worn=True),
    "region": KindOfLayer({"inside": np.uint8}, told=True),
}


@typed
@dataclass(frozen=True)
class LayerInfo:
    """What the stack shows of a layer.

    offset : (y, x) in cells, for drawing only.  brush : of a field layer, whose things it sows.
    attached : the id of the layer it moves along with.  group : of layers that are shown and
    hidden together.  purpose : of a region: what a camera may show, a zone that rules and fields
    speak of, or a trigger of conditions.  values : its properties, name and text.
    levels : of a field in a voxel room, the only ones on which it sows, half-open.  drift : (y, x)
    cells by which a field has moved along with its ground, from where chance counts.
    """

    name: Name
    kind: LayerKind
    shown: bool = True
    locked: bool = False
    opacity: float = 1.0
    offset: tuple[float, float] = (0.0, 0.0)
    brush: Annotated[str, Ref("brushes")] = ""
    attached: str = ""
    group: str = ""
    purpose: Purpose = ""
    values: tuple[tuple[str, str], ...] = ()
    levels: tuple[int, int] | None = None
    drift: tuple[int, int] | None = None

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("the layer's name", self.name, "at least one letter")
        if self.kind not in KINDS_OF_LAYERS:
            known = ", ".join(KINDS_OF_LAYERS)
            raise BadValue("the layer's kind", self.kind, f"one of {known}")
        if not 0 <= self.opacity <= 1:
            raise BadValue("the layer's opacity", self.opacity, "0 to 1")

    @property
    def traits(self) -> KindOfLayer:
        """What layers of its kind hold."""
        return KINDS_OF_LAYERS[self.kind]


@dataclass(eq=False)
class Shown:
    """Tiles of a layer, and which of them no longer follow from what is stored.

    tile : the shape of the room; of blocks a number with its turn (see TURN_BITS).
    material : what shows with the pieces over the painted cells; None where there never were any.
    over : the tiles of inlays, drawn over the others; None where there never were any.
    stale : by blocks of BLOCK_SIDES cells.  pending : boxes in which cells were written since.
    by : what they were woven by, as the weaver knows it.  settled : whether none of it is stale.
    """

    tile: TileIds
    stale: NDArray[np.bool_]
    by: Any
    pending: list[Box] = field(default_factory=list)
    settled: bool = False
    material: MaterialIds | None = None
    over: TileIds | None = None

    @classmethod
    def nothing(cls, size: tuple[int, ...], by: object) -> Shown:
        """All of it yet to be woven."""
        side = BLOCK_SIDES[len(size)]
        blocks = tuple(-(-n // side) for n in size)
        return cls(np.zeros(size, np.uint16), np.ones(blocks, bool), by)

    def copy(self) -> Shown:
        pending = list(self.pending)
        material, over = (p if p is None else p.copy() for p in (self.material, self.over))
        return Shown(
            self.tile.copy(), self.stale.copy(), self.by, pending, self.settled, material, over
        )

    def settle(self) -> None:
        """To be called when parts of it were woven."""
        self.settled = not self.pending and not self.stale.any()

    def touch(self, flat: NDArray[np.intp], box: Box) -> None:
        """What shows near these flat cells, all within `box`, is to be woven anew."""
        self.settled = False
        if box.size > _DENSE * len(flat) and not self._may_wait(box):
            self._touch_cells(np.stack(np.unravel_index(flat, self.tile.shape), axis=1))
        else:
            self.touch_box(box)

    def _may_wait(self, box: Box) -> bool:
        return box.size <= _LARGEST_PENDING and len(self.pending) < _MOST_PENDING

    def _touch_cells(self, cells: CellList) -> None:
        side, axes = BLOCK_SIDES[cells.shape[1]], cells.shape[1]
        for reach in itertools.product((-FARTHEST_REACH, FARTHEST_REACH), repeat=axes):
            at = (cells + np.array(reach)) // side
            self.stale[tuple(np.clip(at, 0, np.array(self.stale.shape) - 1).T)] = True

    def touch_box(self, box: Box) -> None:
        """The same for all cells of a box."""
        box = box.clipped(Box.of_shape(self.tile.shape))
        if not box.size:
            return
        self.settled = False
        if self.pending:  # what is settled at once costs less than twice the same
            both = self.pending[-1].union(box)
            if both.size <= self.pending[-1].size + box.size:
                box = both
                self.pending.pop()
        if self._may_wait(box):
            self.pending.append(box)
            return
        side = BLOCK_SIDES[len(box.lo)]
        near = box.grown(FARTHEST_REACH)
        lo = tuple(max(0, a // side) for a in near.lo)
        self.stale[Box(lo, tuple(-(-b // side) for b in near.hi)).slices] = True


@dataclass(eq=False)
class Layer:
    """What one layer stores.  Only records of an Edit write into it.

    size, origin : of its room, in cells.  planes that were never written are not there and read as
    zeros.
    revision : a stamp of its contents: two layers with the same one hold the same.
    """

    info: LayerInfo
    size: tuple[int, ...]
    planes: dict[str, np.ndarray] = field(default_factory=dict)
    tables: dict[str, dict[int, Any]] = field(default_factory=dict)
    revision: int = field(default_factory=fresh_stamp)
    shown: Shown | None = None
    origin: tuple[int, ...] = ()
    _readers: weakref.WeakSet[Layer] = field(default_factory=weakref.WeakSet, repr=False)
    _spots: tuple[int, np.ndarray, np.ndarray] | None = field(default=None, repr=False)
    _index: BoxIndex | None = field(default=None, repr=False)  # of its pieces

    @classmethod
    def empty(cls, info: LayerInfo, size: tuple[int, ...], origin: tuple[int, ...] = ()) -> Layer:
        return cls(info, size, origin=origin)

    def from_origin(self, cell: tuple[int, ...]) -> tuple[int, ...]:
        """A cell as chance counts it: from where the first cell of its room was at first, so that
        a room that grew shows what it showed."""
        if not any(self.origin):
            return cell
        axes = len(cell)
        return tuple(v + o for v, o in zip(cell, self.origin[-axes:], strict=True))

    # --- planes ---------------------------------------------------------------------------

    def shape(self, plane: str) -> tuple[int, ...]:
        """The shape of one of its planes."""
        self._dtype(plane)
        return tuple(self.size[-2:] if self.info.traits.in_plan else self.size)

    def _dtype(self, plane: str) -> type:
        return self.info.traits.planes[plane]

    def plane(self, name: str) -> np.ndarray:
        """A stored plane, to be read; zeros without memory where none was ever written."""
        found = self.planes.get(name)
        if found is not None:
            return found
        return np.broadcast_to(self._dtype(name)(0), self.shape(name))

    def has(self, plane: str) -> bool:
        """Whether layers of its kind have that plane."""
        return plane in self.info.traits.planes

    def _own(self, name: str) -> np.ndarray:
        """A stored plane, to be written: nobody else reads these very numbers."""
        found = self.planes.get(name)
        if found is None:
            found = self.planes[name] = np.zeros(self.shape(name), self._dtype(name))
        return found

    def write_cells(
        self, flat: NDArray[np.intp], values: Mapping[str, np.ndarray], box: Box
    ) -> None:
        """Put (n,) values of planes into flat cells, all of which lie in `box`."""
        self._part_from_readers()
        for name, new in values.items():
            self._own(name).reshape(-1)[flat] = new
        self.revision = fresh_stamp()
        if self.shown is not None:
            self.shown.touch(flat, box)

    def put_planes(self, planes: dict[str, np.ndarray]) -> None:
        """Other arrays in place of all of its planes."""
        self.planes, self.revision, self.shown = planes, fresh_stamp(), None

    def resize(self, size: tuple[int, ...], shift: tuple[int, ...]) -> None:
        """Another size; `shift` is where its old first cell comes to lie.  Raises BadValue if
        anything but zeros would be cut away."""
        moved = {}
        for name, old in self.planes.items():
            here = shift[-old.ndim :]
            new = np.zeros(size[-old.ndim :], old.dtype)
            source, target = [], []
            for step, was, now in zip(here, old.shape, new.shape, strict=True):
                source.append(slice(max(0, -step), max(0, min(was, now - step))))
                target.append(slice(max(0, step), max(0, min(now, was + step))))
            new[tuple(target)] = old[tuple(source)]
            if np.count_nonzero(new) != np.count_nonzero(old):
                raise BadValue(f"what is cut from layer {self.info.name}", name, "open cells")
            moved[name] = new
        self.size = size
        self.origin = tuple(a - b for a, b in zip(self.origin or (0,) * len(size), shift,
                                                  strict=True))  # fmt: skip
        self.put_planes(moved)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is stored in it."""
        return not any(self.tables.values()) and not any(p.any() for p in self.planes.values())

    # --- numbered entries -----------------------------------------------------------------

    def table(self, name: str) -> dict[int, Entry]:
        """Its entries of one kind by number, in rising order; to be read."""
        return self.tables.get(name) or {}

    def write_entries(self, name: str, gone: Mapping[int, Entry], new: Mapping[int, Entry]) -> None:
        """Take entries away and put others in."""
        self._part_from_readers()
        if name == self.info.traits.laid_over:
            self._lay_over(gone, new)
        known = self._spots if self._spots and self._spots[0] == self.revision else None
        table = self.tables.setdefault(name, {})
        for number in gone:
            if number not in new:
                table.pop(number, None)
        behind = next(reversed(table), 0)
        moves = any(number < behind and number not in table for number in new)
        table.update(new)
        if moves:  # into its place among the others
            self.tables[name] = dict(sorted(table.items()))
        self.revision = fresh_stamp()
        if known is not None and name == "things":
            self._spots = (self.revision, *_spots_after(known[1], known[2], gone, new))

    def _lay_over(self, gone: Mapping[int, Entry], new: Mapping[int, Entry]) -> None:
        """What shows where pieces go or come is to be settled anew."""
        if self._index is not None:
            for number in gone:
                self._index.drop(number)
            for number, piece in new.items():
                self._index.put(number, piece.touched)
        if self.shown is not None:
            for piece in (*gone.values(), *new.values()):
                self.shown.touch_box(piece.touched)

    @property
    def pieces(self) -> dict[int, Piece]:
        """Its pieces by number, in rising order; to be read."""
        return self.table("pieces")

    def pieces_in(self, box: Box) -> list[tuple[int, Piece]]:
        """(number, piece) of those that may lay cells of `box`, farthest first."""
        pieces = self.pieces
        if not pieces:
            return []
        if self._index is None:
            boxes = ((number, piece.touched) for number, piece in pieces.items())
            self._index = BoxIndex(len(self.size), boxes)
        found = [(number, pieces[number]) for number in self._index.meeting(box)]
        return sorted(found, key=lambda pair: (pair[1].order, pair[0]))

    @property
    def things(self) -> dict[int, Thing]:
        """Its things by number, in rising order; to be read."""
        return self.table("things")

    @property
    def curves(self) -> dict[int, Curve]:
        """Its curves by number, in rising order; to be read."""
        return self.table("curves")

    def positions(self) -> tuple[np.ndarray, np.ndarray]:
        """Numbers (n,) and positions (n, 3) of its things, as arrays for looking things up."""
        if self._spots is None or self._spots[0] != self.revision:
            things = self.things
            numbers = np.fromiter(things, np.intp, len(things))
            at = np.array([t.at for t in things.values()], np.float64).reshape(-1, 3)
            self._spots = (self.revision, numbers, at)
        return self._spots[1], self._spots[2]

    def things_near(self, box: Box, reach: float = 0.0) -> dict[int, Thing]:
        """The things whose positions lie in `box` grown by `reach` cells, by number.

        box : of cells, or of columns in plan.
        """
        numbers, at = self.positions()
        at = at[:, -len(box.lo) :]
        lo, hi = np.array(box.lo) - reach, np.array(box.hi) + reach
        near = numbers[((at >= lo) & (at < hi)).all(axis=1)]
        return {number: self.things[number] for number in near.tolist()}

    # --- reading while others write -------------------------------------------------------

    def set_info(self, info: LayerInfo) -> None:
        self.info, self.revision = info, fresh_stamp()

    def frozen(self) -> Layer:
        """The layer as it is now, whatever is written into this one later.

        Both share their arrays until then; a copy is made only while the other is in use.
        """
        made = Layer(self.info, self.size, dict(self.planes), dict(self.tables), self.revision,
                     self.shown, self.origin, _spots=self._spots,
                     _index=None if self._index is None else self._index.copy())  # fmt: skip
        self._readers.add(made)
        made._readers.add(self)
        return made

    def readers(self) -> list[Layer]:
        """Frozen copies of it that are in use, or what it was frozen from."""
        while True:
            try:
                return list(self._readers)
            except RuntimeError:  # a thread let go of one just then
                continue

    def own_shown(self) -> Shown | None:
        """The tiles it shows, to be written."""
        if self.shown is not None and self._is_shared("shown"):
            self.shown = self.shown.copy()
        return self.shown

    def _is_shared(self, name: str) -> bool:
        mine = getattr(self, name)
        return any(getattr(other, name) is mine for other in self.readers())

    def _part_from_readers(self) -> None:
        """Before a write: nobody who reads a frozen copy of this layer sees it."""
        if not self._readers:
            return
        others = self.readers()
        for name, plane in self.planes.items():
            if any(other.planes.get(name) is plane for other in others):
                self.planes[name] = plane.copy()
        for name, table in self.tables.items():
            if any(other.tables.get(name) is table for other in others):
                self.tables[name] = dict(table)
        self.own_shown()


def _spots_after(
    numbers: np.ndarray, at: np.ndarray, gone: Mapping[int, Entry], new: Mapping[int, Entry]
) -> tuple[np.ndarray, np.ndarray]:
    """Numbers and positions of things, without some and with others, numbers rising."""
    out = np.fromiter({**gone, **new}, np.intp)
    kept = ~np.isin(numbers, out) if len(out) else np.ones(len(numbers), bool)
    numbers, at = numbers[kept], at[kept]
    fresh = np.sort(np.fromiter(new, np.intp, len(new)))
    places = np.searchsorted(numbers, fresh)
    here = np.array([new[n].at for n in fresh.tolist()], np.float64).reshape(-1, 3)
    return np.insert(numbers, places, fresh), np.insert(at, places, here, axis=0)
