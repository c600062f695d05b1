"""Rooms and their layers."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from topion.errors import BadValue, UnknownName
from topion.grid.boxes import Box
from topion.model.prefab import Thing

LayerKind = Literal["tiles", "blocks", "things", "field"]
LONGEST_SIDE = 16_384
LONGEST_VOXEL_SIDE = 512
MOST_CELLS = 1 << 26

PLANES: dict[str, dict[str, type]] = {
    "tiles": {"material": np.uint16, "tile": np.uint16, "pinned": np.uint8},
    "blocks": {
        "material": np.uint16,
        "block": np.uint16,
        "turn": np.uint8,
        "pinned": np.uint8,
    },
    "things": {},
    "field": {"density": np.uint8},
}
IN_PLAN = ("density",)  # planes that hold a value for each column of a voxel room
FULL_DENSITY = 255  # a density of 1.0; fields store 255 steps


@dataclass(frozen=True)
class RoomInfo:
    """What is known of a room beside its layers.

    size : cells in array order, (y, x) of a flat room or (z, y, x) of a voxel room.
    cell_px : px a cell of a flat room is drawn with, and of the faces of a voxel room.
    metres : length of a cell of a voxel room.
    """

    name: str
    size: tuple[int, ...]
    cell_px: int = 16
    seen: Literal["top", "side"] = "top"
    backdrop: str = "#e9e2d2"  # colour behind all layers
    notes: str = ""
    metres: float = 1.0

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("the room's name", self.name, "at least one letter")
        longest = LONGEST_VOXEL_SIDE if len(self.size) == 3 else LONGEST_SIDE
        if len(self.size) not in (2, 3) or not all(1 <= side <= longest for side in self.size):
            raise BadValue(
                "the room's size", self.size, f"two or three sides from 1 to {longest} cells"
            )
        if not 0.001 <= self.metres <= 1000:
            raise BadValue("the length of a cell", self.metres, "0.001 to 1000 metres")
        if Box.of_shape(self.size).size > MOST_CELLS:
            raise BadValue("the room's size", self.size, f"at most {MOST_CELLS} cells")
        if not 1 <= self.cell_px <= 512:
            raise BadValue("the cell size", self.cell_px, "1 to 512 px")

    @property
    def axes(self) -> int:
        """2 for a flat room, 3 for a voxel room."""
        return len(self.size)

    def facts(self) -> str:
        """Kind and size in words, width first."""
        size = " × ".join(str(side) for side in (self.size[-1], self.size[-2], *self.size[:-2]))
        if self.axes == 2:
            return f"flat · {size} · {self.cell_px} px"
        return f"voxel · {size} · {self.metres:g} m"

    @property
    def plan(self) -> tuple[int, int]:
        """Its size seen from above: (y, x)."""
        return self.size[-2], self.size[-1]

    @property
    def cells_kind(self) -> LayerKind:
        """The kind of layer that holds its materials."""
        return "blocks" if self.axes == 3 else "tiles"


@dataclass(frozen=True)
class LayerInfo:
    """What the stack shows of a layer.  offset : (y, x) in cells, for drawing only."""

    name: str
    kind: LayerKind
    shown: bool = True
    locked: bool = False
    opacity: float = 1.0
    offset: tuple[float, float] = (0.0, 0.0)
    brush: str = ""  # of a field layer: the field brush whose things it sows

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("the layer's name", self.name, "at least one letter")
        if self.kind not in PLANES:
            raise BadValue("the layer's kind", self.kind, f"one of {', '.join(PLANES)}")
        if not 0 <= self.opacity <= 1:
            raise BadValue("the layer's opacity", self.opacity, "0 to 1")


@dataclass
class Layer:
    """Arrays of cells and the things of one layer; only records of an Edit write into it."""

    info: LayerInfo
    planes: dict[str, np.ndarray]
    things: dict[int, Thing] = field(default_factory=dict)
    revision: int = 0  # counts changes, so that derived data knows when it is stale
    _spots: tuple[int, np.ndarray, np.ndarray] | None = field(
        default=None, compare=False, repr=False
    )

    def spots(self) -> tuple[np.ndarray, np.ndarray]:
        """Numbers (n,) and positions (n, 3) of its things, as arrays for looking things up."""
        if self._spots is None or self._spots[0] != self.revision:
            numbers = np.fromiter(self.things, np.intp, len(self.things))
            at = np.array([t.at for t in self.things.values()], np.float64).reshape(-1, 3)
            self._spots = (self.revision, numbers, at)
        return self._spots[1], self._spots[2]

    def things_near(self, box: Box, reach: float = 0.0) -> dict[int, Thing]:
        """The things whose positions lie in `box` grown by `reach` cells, by number.

        box : of cells, or of columns in plan.
        """
        numbers, at = self.spots()
        at = at[:, -len(box.lo) :]
        lo, hi = np.array(box.lo) - reach, np.array(box.hi) + reach
        near = numbers[((at >= lo) & (at < hi)).all(axis=1)]
        return {number: self.things[number] for number in near.tolist()}

    @classmethod
    def empty(cls, info: LayerInfo, size: tuple[int, ...]) -> Layer:
        planes: dict[str, np.ndarray] = {
            name: np.zeros(plane_shape(name, size), dtype)
            for name, dtype in PLANES[info.kind].items()
        }
        return cls(info, planes)


def plane_shape(plane: str, size: tuple[int, ...]) -> tuple[int, ...]:
    """The shape of a plane of a room of that size."""
    return tuple(size[-2:] if plane in IN_PLAN else size)


@dataclass
class Room:
    """A room: layers by id, and their order from bottom to top."""

    info: RoomInfo
    layers: dict[str, Layer] = field(default_factory=dict)
    order: tuple[str, ...] = ()

    @property
    def box(self) -> Box:
        return Box.of_shape(self.info.size)

    @property
    def plan_box(self) -> Box:
        """Its columns, seen from above; the same as `box` in a flat room."""
        return Box.of_shape(self.info.plan)

    def layer(self, layer_id: str) -> Layer:
        try:
            return self.layers[layer_id]
        except KeyError:
            raise UnknownName(f"layer in {self.info.name}", layer_id, self.layers) from None

    def id_of(self, name: str) -> str:
        """The id of the layer named `name`; raises UnknownName."""
        for layer_id, layer in self.layers.items():
            if layer.info.name == name:
                return layer_id
        names = [layer.info.name for layer in self.layers.values()]
        raise UnknownName(f"layer in {self.info.name}", name, names)

    def cell_layers(self) -> list[tuple[str, Layer]]:
        """(id, layer) of those that hold materials, in drawing order."""
        return self.bottom_up(self.info.cells_kind)

    def bottom_up(self, kind: LayerKind | None = None) -> list[tuple[str, Layer]]:
        """(id, layer) in drawing order, all or those of one kind."""
        pairs = ((layer_id, self.layers[layer_id]) for layer_id in self.order)
        return [(i, layer) for i, layer in pairs if kind is None or layer.info.kind == kind]

    def new_layer_id(self, name: str) -> str:
        """A short id made from `name` that is still free."""
        stem = "".join(c if c.isalnum() else "-" for c in name.lower()).strip("-") or "layer"
        taken, number, found = set(self.layers), 2, stem
        while found in taken:
            found, number = f"{stem}-{number}", number + 1
        return found
