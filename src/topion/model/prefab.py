"""Prefabs, and the things that are placed from them."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, ClassVar, Literal, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue, UnknownName
from topion.grid.arrays import CellList
from topion.grid.boxes import Box
from topion.grid.orient import TIPS, free_turn, matrices, nearest_turn
from topion.model.condition import ALWAYS, When
from topion.model.curve import Along
from topion.model.frames import MOST_SETS, STILL, FrameSet
from topion.model.model_frames import ModelSet, set_of
from topion.model.picture import Picture
from topion.model.plain import JsonRecord, Unread, keep_unknown
from topion.model.property import MOST_PROPERTIES, Property
from topion.model.refs import Ref
from topion.model.role import Role
from topion.model.solid import VoxelModel
from topion.model.typed import Name, between, typed

Turns = Literal["none", "quarters", "any"]
WIDEST_FOOTPRINT = 32  # cells
FARTHEST_CELL = 1e6
MOST_BELOW = 256  # px or voxels


class PlacementRule(Protocol):
    """What a prefab asks of the place it stands in; the checks are in `topion.things`."""

    @property
    def kind(self) -> str: ...
    @property
    def keeps(self) -> bool:
        """Whether nothing else may come into the cells of a body."""

    @property
    def on(self) -> bool:
        """Whether it is asked at all."""

    def sentence(self) -> str:
        """The rule in plain words."""

    def short(self) -> str:
        """Two or three words for a tally of refusals."""

    def reason(self, measured: object) -> tuple[str, str, str]:
        """A refusal as a sentence, what was measured, and what is wanted."""


@dataclass(frozen=True)
class UnknownRule(Unread):
    """A placement rule of a kind that nobody here knows: it refuses nothing, and is written back
    as it was read.

    unread : its record but for the kind.
    """

    keeps: ClassVar[bool] = False
    on: ClassVar[bool] = True
    kind: str
    unread: JsonRecord = field(hash=False)

    def sentence(self) -> str:
        return f"a rule of kind “{self.kind}”, which is not known here"

    def short(self) -> str:
        return self.kind

    def reason(self, measured: object) -> tuple[str, str, str]:
        return self.sentence(), str(measured), ""


keep_unknown(PlacementRule, UnknownRule)


@typed
@dataclass(frozen=True)
class Prefab:
    """A picture that can be placed, and what it asks of its place.

    footprint : rows of `#` (stands here) and `.`; its bottom middle cell is the thing's cell.
    anchor_px : (y, x) of the pixel that comes to the bottom middle of that cell.
    height : levels of a voxel room its body takes.
    model : its shape in voxel rooms, standing in the middle of its footprint; without one the
    picture stands there upright.  The picture of a model is drawn from it.
    tips : it may be laid with another side up, as on walls and ceilings.
    snaps : it always stands in the middle of cells (1), or of halves, thirds or quarters of them.
    properties : that its things have.  points : named places on its picture, (y, x) px.
    frames : sets of pictures as large as its own, of which that called still is shown.
    turned : its picture turned by one, two and three quarters clockwise, each as large and with
    the same anchor; without them its picture is turned.
    parts : the stamp it is drawn from, if it is made of cells and other things.
    below_px : how much of its picture, and of its model in voxels, lies below what it stands on;
    a post that is sunk into the ground.  Negative: it stands above it.
    floats : where rooms have heights nothing must carry it; it stays at the height it is put at.
    role : what its things do while a room is walked; nothing without one.
    when : it appears, or opens.  counts : for clearing its room.
    model_frames : sets of models as large as its own, of which that called still is shown.
    model_points : named places in its model, (z, y, x) voxels.
    """

    name: Name
    picture: Picture
    anchor_px: tuple[int, int]
    footprint: tuple[str, ...] = ("#",)
    class_name: Annotated[str, Ref("classes", perhaps=True)] = ""
    turns: Turns = "none"
    mirrors: bool = False
    rules: tuple[PlacementRule, ...] = ()
    height: int = 1
    model: VoxelModel | None = None
    tips: bool = False
    snaps: Annotated[int, between(0, 4)] = 0
    properties: tuple[Property, ...] = ()
    points: dict[str, tuple[int, int]] = field(default_factory=dict, hash=False)
    frames: tuple[FrameSet, ...] = ()
    turned: tuple[Picture, ...] = ()
    parts: Annotated[str, Ref("brushes", perhaps=True)] = ""
    below_px: Annotated[int, between(-MOST_BELOW, MOST_BELOW)] = 0
    floats: bool = False
    role: Role | None = None
    when: When = ALWAYS
    counts: bool = False
    model_frames: tuple[ModelSet, ...] = ()
    model_points: dict[str, tuple[int, int, int]] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        widths = {len(row) for row in self.footprint}
        signs = set("".join(self.footprint))
        if len(widths) != 1 or not signs <= {"#", "."} or "#" not in signs:
            raise BadValue("the footprint", self.footprint, "equally long rows of # and .")
        if max(len(self.footprint), *widths) > WIDEST_FOOTPRINT:
            size = (len(self.footprint), *widths)
            raise BadValue("the footprint", size, f"at most {WIDEST_FOOTPRINT} cells a side")
        names = [known.name for known in self.properties]
        if len(set(names)) < len(names) or len(names) > MOST_PROPERTIES:
            wanted = f"at most {MOST_PROPERTIES}, each with a name of its own"
            raise BadValue(f"the properties of {self.name}", ", ".join(names), wanted)
        self._check_frames()
        self._check_model_frames()
        sizes = {picture.size_px for picture in self.turned}
        if len(self.turned) not in (0, 3) or sizes - {self.picture.size_px}:
            high, wide = self.picture.size_px
            told = ", ".join(f"{w} × {h} px" for h, w in (p.size_px for p in self.turned))
            raise BadValue(f"the turned pictures of {self.name}", told,
                           f"three of {wide} × {high} px, as its picture")  # fmt: skip
        if not 1 <= self.height <= WIDEST_FOOTPRINT:
            raise BadValue("the height", self.height, f"1 to {WIDEST_FOOTPRINT} cells")

    def _check_frames(self) -> None:
        names = [known.name for known in self.frames]
        if len(set(names)) < len(names) or len(names) > MOST_SETS:
            wanted = f"at most {MOST_SETS} sets, each with a name of its own"
            raise BadValue(f"the frames of {self.name}", ", ".join(names), wanted)
        for known in self.frames:
            if known.pictures[0].size_px != self.picture.size_px:
                high, wide = self.picture.size_px
                size = "{1} × {0} px".format(*known.pictures[0].size_px)
                raise BadValue(f"the frames {known.name} of {self.name}", size,
                               f"{wide} × {high} px, as its picture")  # fmt: skip

    def _check_model_frames(self) -> None:
        names = [known.name for known in self.model_frames]
        if len(set(names)) < len(names) or len(names) > MOST_SETS:
            wanted = f"at most {MOST_SETS} sets, each with a name of its own"
            raise BadValue(f"the models of {self.name}", ", ".join(names), wanted)
        for known in self.model_frames:
            if self.model is None or known.models[0].size != self.model.size:
                size = " × ".join(map(str, known.models[0].size))
                wanted = "as large as its model"
                raise BadValue(f"the models {known.name} of {self.name}", size, wanted)

    def model_at(self, number: int) -> VoxelModel | None:
        """Its model, or the frame of the still ones with that number, round and round."""
        still = set_of(self.model_frames, STILL)
        return still.models[number % len(still.models)] if still is not None else self.model

    def picture_turned(self, turn: float, mirrored: bool) -> Picture | None:
        """Its own picture for a turn, in degrees clockwise, to be mirrored after that where it is;
        None where it has none for that."""
        quarters = round(turn / 90)
        if not self.turned or abs(turn - 90 * quarters) > 1e-6:
            return None
        known = (self.picture, *self.turned)
        return known[(-quarters if mirrored else quarters) % 4]

    @property
    def foot_px(self) -> tuple[int, int]:
        """(y, x) px of the picture that come to the bottom middle of its cell."""
        return self.anchor_px[0] - self.below_px, self.anchor_px[1]

    def frame_set(self, name: str) -> FrameSet | None:
        """The frames of a set; None where it has none of that name."""
        return next((known for known in self.frames if known.name == name), None)

    def value_of(self, thing: Thing, name: str) -> str:
        """What a thing of this prefab has of a property.  Raises UnknownName."""
        known = {prop.name: prop for prop in self.properties}
        if name not in known:
            raise UnknownName(f"property of {self.name}", name, known)
        return thing.properties.get(name, known[name].value)

    @cached_property
    def offsets(self) -> CellList:
        """(n, 2) cells it stands on, counted from the thing's own cell."""
        mask = np.array([[sign == "#" for sign in row] for row in self.footprint])
        seat = (mask.shape[0] - 1, (mask.shape[1] - 1) // 2)
        offsets = np.argwhere(mask) - seat
        offsets.flags.writeable = False
        return offsets


@typed
@dataclass(frozen=True)
class PrefabClass:
    """What prefabs of a class have in common: rules that hold for each of them, after its own."""

    name: Name
    rules: tuple[PlacementRule, ...] = ()


class Stance(NamedTuple):
    """All that decides how the body of a thing lies round its own cell."""

    prefab: str
    turn: float = 0.0
    mirrored: bool = False
    tip: int = 0


@typed
@dataclass(frozen=True)
class Thing:
    """One placed instance of a prefab.

    y, x : position in cells; whole numbers stand in the middle of a cell.
    z : height of its seat in cells of a voxel room; whole numbers stand on the floor of a level.
    turn : degrees clockwise.  scale : 1 is the prefab's own size.
    overridden : laid against a refusal, on purpose.
    tip : in a voxel room, which side is up, before it is turned; see `grid.orient`.
    groups : numbers of the groups it belongs to, the outermost first.
    lean, roll : in a voxel room, degrees by which it is tipped south and east, before it is turned
    and after a side is up; see `grid.orient`.
    attached : the id of a layer, and the number of a piece or of a curve of it, or 0 for the
    layer: it moves along with that.  along : where on that curve.
    role, when, counts : others than its prefab has; None for those of its prefab.
    """

    prefab: Annotated[str, Ref("prefabs")]
    y: float
    x: float
    turn: float = 0.0
    mirrored: bool = False
    scale: float = 1.0
    overridden: bool = False
    properties: dict[str, str] = field(default_factory=dict, hash=False)
    z: float = 0.0
    tip: Annotated[int, between(0, len(TIPS) - 1)] = 0
    groups: tuple[int, ...] = ()
    lean: float = 0.0
    roll: float = 0.0
    attached: tuple[str, int] | None = None
    role: Role | None = None
    when: When | None = None
    counts: bool | None = None
    along: Along | None = None

    def __post_init__(self) -> None:
        for name in ("y", "x", "z"):
            if not abs(getattr(self, name)) <= FARTHEST_CELL:
                raise BadValue(f"a thing's {name}", getattr(self, name), "within the room's reach")
        if not 0.01 <= self.scale <= 100:
            raise BadValue("a thing's scale", self.scale, "0.01 to 100")
        for name in ("turn", "lean", "roll"):
            if not abs(getattr(self, name)) <= 36_000:
                raise BadValue(f"a thing's {name}", getattr(self, name), "degrees")

    @property
    def at(self) -> tuple[float, float, float]:
        """Its position, (z, y, x); a flat room looks at the last two."""
        return self.z, self.y, self.x

    @property
    def stance(self) -> Stance:
        """How it stands, wherever that is; of a leaning one, the nearest that leans by quarters."""
        if not (self.lean or self.roll):
            return Stance(self.prefab, self.turn, self.mirrored, self.tip)
        tip, quarters = divmod(nearest_turn(self.directions), 4)
        return Stance(self.prefab, quarters * 90.0, self.mirrored, tip)

    @property
    def directions(self) -> NDArray[np.float64]:
        """(3, 3) how it is turned in space."""
        return free_turn(self.turn, self.lean, self.roll, self.tip)

    @property
    def cell(self) -> tuple[int, int]:
        """The cell, or the column, that its anchor stands in."""
        return math.floor(self.y + 0.5), math.floor(self.x + 0.5)

    @property
    def touched(self) -> Box:
        """The same as a box."""
        y, x = self.cell
        return Box((y, x), (y + 1, x + 1))

    def shifted(self, by: tuple[int, ...]) -> Thing:
        """The same thing so many cells on, in array order."""
        *level, y, x = by
        z = self.z + level[0] if level else self.z
        return replace(self, y=self.y + y, x=self.x + x, z=z)


def snapped_to(plan: NDArray[np.float64], parts: int) -> NDArray[np.float64]:
    """(n, 2) positions at the nearest middles of parts of cells; a whole cell has one."""
    return np.round((np.floor((plan + 0.5) * parts) + 0.5) / parts - 0.5, 6)


def snapped_thing(thing: Thing, parts: int) -> Thing:
    """The thing at the nearest middle of a part of a cell, its seat at the nearest such height; as
    it is for no parts."""
    if not parts:
        return thing
    y, x = snapped_to(np.array([[thing.y, thing.x]]), parts)[0].tolist()
    return replace(thing, y=y, x=x, z=round(round(thing.z * parts) / parts, 6))


def turned_offsets(
    prefab: Prefab, turn: float, mirrored: bool, axes: int = 2, tip: int = 0
) -> CellList:
    """(n, axes) cells a turned or mirrored thing stands in, counted from its own cell."""
    if tip and axes == 3:
        upright = turned_offsets(prefab, 0.0, mirrored, axes)
        return upright @ matrices()[4 * tip + round(turn / 90) % 4].T
    offsets = prefab.offsets
    if mirrored:
        offsets = offsets * (1, -1)
    for _ in range(round(turn / 90) % 4):
        offsets = np.stack([offsets[:, 1], -offsets[:, 0]], axis=1)
    if axes == 2:
        return offsets
    levels = np.repeat(np.arange(prefab.height, dtype=np.intp), len(offsets))
    return np.column_stack([levels, np.tile(offsets, (prefab.height, 1))])


def standing_cell(thing: Thing, axes: int) -> tuple[int, ...]:
    """The cell that a thing stands in."""
    return tuple(standing_cells(np.array([thing.at[-axes:]]))[0].tolist())


def standing_cells(positions: NDArray[np.float64]) -> CellList:
    """(n, axes) the cells that things at those positions stand in; the level of a seat
    between two levels is the one above."""
    cells = np.floor(positions + 0.5)
    if positions.shape[1] == 3:
        cells[:, 0] = np.ceil(positions[:, 0] - 1e-6)
    return cells.astype(np.intp)
