"""Scraps: what was cut out of a room, to be laid again anywhere.

A scrap stands by itself: its cells hold places in tables of its own names, so it means the same in
every project.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Annotated, Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.layer import KINDS_OF_LAYERS, LayerKind
from topion.model.piece import Piece
from topion.model.plain import CODECS, BadPlain, Codec, from_plain
from topion.model.prefab import Thing
from topion.model.refs import Ref
from topion.model.tileset import TileRef
from topion.model.typed import Name, typed

LONGEST_SCRAP = 4096  # cells a side
MOST_SCRAP_CELLS = 1 << 24
MOST_SCRAP_LAYERS = 64
_TABLES = {"material": "materials", "inlay": "materials", "pinned": "tiles"}


@dataclass(frozen=True, eq=False)
class Plane:
    """Numbers of cells.  cells : uint16, two or three axes; never written."""

    cells: NDArray[np.uint16]

    def __post_init__(self) -> None:
        self.cells.flags.writeable = False

    @property
    def shape(self) -> tuple[int, ...]:
        return tuple(int(side) for side in self.cells.shape)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Plane) and np.array_equal(self.cells, other.cells)

    def __hash__(self) -> int:
        return hash(self.shape)


def check_size(size: tuple[int, ...]) -> None:
    """Raises BadValue for a size that no scrap can have."""
    wanted = f"two or three sides of 1 to {LONGEST_SCRAP}, at most {MOST_SCRAP_CELLS} cells"
    sides = len(size) in (2, 3) and all(1 <= side <= LONGEST_SCRAP for side in size)
    if not sides or math.prod(size) > MOST_SCRAP_CELLS:
        raise BadValue("the size of a scrap", size, wanted)


def _plane_plain(plane: Plane) -> dict[str, Any]:
    rows = b"".join(rows_to_text(plane.cells.reshape(-1, plane.shape[-1])))
    return {"size": list(plane.shape), "rows": rows.decode().split("\n")[:-1]}


def _plane_from_plain(value: Any) -> Plane:
    if not isinstance(value, dict) or value.keys() != {"size", "rows"}:
        raise BadPlain((), "must be a record of size and rows")
    size = from_plain(tuple[int, ...], value["size"], ("size",))
    check_size(size)
    rows = from_plain(tuple[str, ...], value["rows"], ("rows",))
    text = "".join(f"{row}\n" for row in rows).encode()
    try:
        flat = text_to_rows(text, (math.prod(size[:-1]), size[-1]), highest=0xFFFF)
    except BadRows as problem:
        raise BadPlain(("rows", max(0, problem.line - 1)), problem.reason) from None
    return Plane(flat.reshape(size))


_ROWS = r"^([0-9]+(\*[0-9]+)?( [0-9]+(\*[0-9]+)?)*)?$"
CODECS[Plane] = Codec(
    _plane_plain,
    _plane_from_plain,
    {
        "type": "object",
        "description": "Numbers of cells, row by row; of several levels, the lowest first.",
        "required": ["size", "rows"],
        "properties": {
            "size": {"type": "array", "items": {"type": "integer"}, "minItems": 2, "maxItems": 3},
            "rows": {"type": "array", "items": {"type": "string", "pattern": _ROWS}},
        },
        "additionalProperties": False,
    },
)


@typed
@dataclass(frozen=True)
class ScrapLayer:
    """One layer of a scrap.

    name, kind, brush : of the layer it was taken from.  planes : what is stored, with places in
    the tables of the scrap from 1; a density as it is.  pieces, things : counted from its first
    cell.
    """

    name: Name
    kind: LayerKind
    planes: dict[str, Plane] = field(default_factory=dict, hash=False)
    pieces: tuple[Piece, ...] = ()
    things: tuple[Thing, ...] = ()
    brush: Annotated[str, Ref("brushes")] = ""

    @property
    def is_empty(self) -> bool:
        """Whether nothing lies in it."""
        filled = any(plane.cells.any() for plane in self.planes.values())
        return not (filled or self.pieces or self.things)


@typed
@dataclass(frozen=True)
class Scrap:
    """size : cells in array order, two or three axes.  layers : from bottom to top.

    materials, tiles : what numbers in its planes stand for, from 1.  area : 1 in the cells that
    belong to it, where not all of the box do.
    """

    size: tuple[int, ...]
    layers: tuple[ScrapLayer, ...] = ()
    materials: tuple[Annotated[str, Ref("materials")], ...] = ()
    tiles: tuple[TileRef, ...] = ()
    area: Plane | None = None

    def __post_init__(self) -> None:
        check_size(self.size)
        if len(self.layers) > MOST_SCRAP_LAYERS:
            raise BadValue(
                "the layers of a scrap", len(self.layers), f"at most {MOST_SCRAP_LAYERS}"
            )
        if self.area is not None and self.area.shape != self.size:
            raise BadValue("the area of a scrap", self.area.shape, f"of its size, {self.size}")
        if any(ref.is_block != (self.axes == 3) for ref in self.tiles):
            wanted = "blocks" if self.axes == 3 else "tiles of tile sets"
            raise BadValue("the tiles of a scrap", "of the other kind", wanted)
        for layer in self.layers:
            self._check(layer)

    def _check(self, layer: ScrapLayer) -> None:
        kind = KINDS_OF_LAYERS[layer.kind]
        if kind.shows and (layer.kind == "blocks") != (self.axes == 3):
            raise BadValue(f"layer {layer.name} of a scrap", layer.kind, "of its kind of room")
        for name, plane in layer.planes.items():
            shape = self.size[-2:] if kind.in_plan else self.size
            if name not in kind.planes or plane.shape != shape:
                raise BadValue(f"{name} of layer {layer.name}", plane.shape, f"a plane of {shape}")
            most = len(getattr(self, _TABLES[name])) if name in _TABLES else 255
            if plane.cells.size and int(plane.cells.max()) > most:
                raise BadValue(f"{name} of layer {layer.name}", int(plane.cells.max()),
                               f"at most {most}")  # fmt: skip
        strange = (layer.pieces and not kind.laid_over) or (layer.things and kind.planes)
        if strange:
            raise BadValue(f"layer {layer.name} of a scrap", layer.kind, "what such a layer holds")
        if any(piece.axes != self.axes for piece in layer.pieces):
            raise BadValue(f"a piece of layer {layer.name}", "of the other kind", "of its room")

    @property
    def axes(self) -> int:
        """2 of flat rooms, 3 of voxel rooms."""
        return len(self.size)

    @property
    def box(self) -> Box:
        return Box.of_shape(self.size)

    @cached_property
    def mask(self) -> NDArray[np.bool_]:
        """The cells that belong to it; to be read."""
        if self.area is None:
            return np.broadcast_to(np.True_, self.size)
        return self.area.cells > 0

    @property
    def is_empty(self) -> bool:
        """Whether nothing lies in it."""
        return all(layer.is_empty for layer in self.layers)

    def holds(self) -> str:
        """What lies in it, in a few words: `214 cells, 3 pieces, 5 things`."""
        counts = {"cell": self.count_cells(), "piece": 0, "thing": 0}
        for layer in self.layers:
            counts["piece"] += len(layer.pieces)
            counts["thing"] += len(layer.things)
        said = (f"{n} {word}{'' if n == 1 else 's'}" for word, n in counts.items() if n)
        fields = [layer.brush or layer.name for layer in self.layers if layer.kind == "field"
                  and not layer.is_empty]  # fmt: skip
        return ", ".join((*said, *fields)) or "nothing"

    def count_cells(self) -> int:
        """Of materials, in all layers."""
        planes = (layer.planes.get("material") for layer in self.layers)
        return sum(int(np.count_nonzero(plane.cells)) for plane in planes if plane is not None)
