"""Rooms and their layers."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from topion.errors import BadValue, UnknownName
from topion.grid.boxes import Box
from topion.model.conflict import Conflict
from topion.model.derived import fresh_stamp
from topion.model.layer import Layer, LayerInfo, LayerKind
from topion.model.light import PLAIN, Light
from topion.model.typed import Colour, Name, typed

LONGEST_SIDE = 16_384
LONGEST_VOXEL_SIDE = 512
MOST_CELLS = 1 << 26
MOST_BYTES = 1 << 30  # that the cells of a project take in memory
View = Literal["top", "side", "voxel"]


@typed
@dataclass(frozen=True)
class RoomInfo:
    """What is known of a room beside its layers.

    size : cells in array order, (y, x) of a flat room or (z, y, x) of a voxel room.
    cell_px : px a cell of a flat room is drawn with, and of the faces of a voxel room.
    metres : length of a cell of a voxel room.
    grows : strokes past its edge make it larger.
    origin : its first cell, counted from where that was when it was made; empty as long as it is
    there.  What falls by chance counts from it, so that nothing changes where a room grows.
    theme, tint : what it is worn in: the name of a theme, and the id of a tint map; empty for the
    first sheets, and for colours as they are.  light : of a voxel room.
    tags : words by which rules of things know it.
    """

    name: Name
    size: tuple[int, ...]
    cell_px: int = 16
    seen: Literal["top", "side"] = "top"
    backdrop: Colour = "#e9e2d2"  # colour behind all layers
    notes: str = ""
    metres: float = 1.0
    grows: bool = False
    origin: tuple[int, ...] = ()
    theme: str = ""
    tint: str = ""
    light: Light = PLAIN
    tags: tuple[str, ...] = ()

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
        if self.origin and len(self.origin) != len(self.size):
            raise BadValue("the room's origin", self.origin, f"{len(self.size)} numbers")
        if any(abs(v) > LONGEST_SIDE for v in self.origin):
            raise BadValue("the room's origin", self.origin, f"within {LONGEST_SIDE} cells")
        if not 1 <= self.cell_px <= 512:
            raise BadValue("the cell size", self.cell_px, "1 to 512 px")

    def moved_origin(self, shift: tuple[int, ...]) -> tuple[int, ...]:
        """The origin after its old first cell came to lie at `shift`."""
        found = tuple(a - b for a, b in zip(self.origin or (0,) * self.axes, shift, strict=True))
        return found if any(found) else ()

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
    def view(self) -> View:
        """How it is looked at, which tells what is up in it."""
        return "voxel" if self.axes == 3 else self.seen

    @property
    def cells_kind(self) -> LayerKind:
        """The kind of layer that holds its materials."""
        return "blocks" if self.axes == 3 else "tiles"

    def may_hold(self, layer: LayerInfo) -> bool:
        """Whether a layer suits it: tiles lie in flat rooms, blocks in voxel rooms."""
        return not layer.traits.shows or layer.kind == self.cells_kind


@dataclass(eq=False)
class Room:
    """A room: layers by id, and their order from bottom to top.

    numbers : the highest that was ever given to an entry of a layer here; see `next_number`.
    conflicts : what both sides of a merge changed, and nobody settled yet.
    stamp : of all but its layers.  derived : see `topion.model.derived`.
    """

    info: RoomInfo
    layers: dict[str, Layer] = field(default_factory=dict)
    order: tuple[str, ...] = ()
    numbers: int = 0
    conflicts: tuple[Conflict, ...] = ()
    stamp: int = field(default_factory=fresh_stamp)
    derived: dict[Any, tuple[object, Any]] = field(default_factory=dict, repr=False)
    _given: int = 0  # also by Edits that were undone since
    _as_read: tuple[int, int] = (0, 0)  # the latest stamp when it was read, and one it had before

    @property
    def revision(self) -> int:
        """A stamp of all its contents: two rooms with the same one hold the same."""
        latest = max((self.stamp, *(layer.revision for layer in self.layers.values())))
        return self._as_read[1] if latest == self._as_read[0] else latest

    def stands_for(self, stamp: int) -> None:
        """Its contents had this stamp before they were read."""
        self._as_read = (self.revision, stamp)

    def changed(self) -> None:
        """Something beside its layers was written."""
        self.stamp = fresh_stamp()

    def next_number(self) -> int:
        """A number that no entry of any layer here ever had, also none that was undone."""
        return max(self.numbers, self._given) + 1

    def give_numbers(self, highest: int) -> None:
        """Numbers up to `highest` are given now; those given before stay so."""
        self._given = max(self._given, self.numbers, highest)
        self.numbers = highest

    def skip_numbers(self, count: int) -> None:
        """Leave the next so many numbers to others, who give them in copies of this room."""
        self._given = max(self._given, self.numbers) + count

    @property
    def highest_given(self) -> int:
        """The highest number that was ever given, also by Edits that were undone since."""
        return max(self.numbers, self._given)

    def take_numbers_back(self, given: int) -> None:
        """Numbers above `given` may be given again: the Edit that gave them is gone for good, and
        nobody spoke of them."""
        self._given = max(given, self.numbers)

    def frozen(self) -> Room:
        """The room as it is now, whatever becomes of it; see Layer.frozen."""
        layers = {layer_id: layer.frozen() for layer_id, layer in self.layers.items()}
        kept = {key: value for key, value in [*self.derived.items()] if key.travels}
        return Room(self.info, layers, self.order, self.numbers, self.conflicts, self.stamp, kept,
                    self._given, self._as_read)  # fmt: skip

    @property
    def bytes_stored(self) -> int:
        """What its cells take in memory."""
        planes = (p for layer in self.layers.values() for p in layer.planes.values())
        return sum(plane.nbytes for plane in planes)

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

    def drawn(self) -> list[tuple[str, Layer]]:
        """(id, layer) of those that are drawn, in drawing order: all but tint maps and regions."""
        return [pair for pair in self.bottom_up()
                if not (pair[1].info.traits.worn or pair[1].info.traits.told)]  # fmt: skip

    def regions(self) -> list[tuple[str, Layer]]:
        """(id, layer) of its regions."""
        return self.bottom_up("region")

    def region(self, name: str) -> Layer | None:
        """The region of that name; None without one."""
        return next((la for _, la in self.regions() if la.info.name == name), None)

    def tint_maps(self) -> list[tuple[str, Layer]]:
        """(id, layer) of its tint maps."""
        return self.bottom_up("tints")

    @property
    def worn_tint(self) -> Layer | None:
        """The tint map that it is worn in; None for colours as they are."""
        layer = self.layers.get(self.info.tint)
        return layer if layer is not None and layer.info.traits.worn else None

    def new_layer_id(self, name: str) -> str:
        """A short id made from `name` that is still free."""
        stem = "".join(c if c.isalnum() else "-" for c in name.lower()).strip("-") or "layer"
        taken, number, found = set(self.layers), 2, stem
        while found in taken:
            found, number = f"{stem}-{number}", number + 1
        return found
