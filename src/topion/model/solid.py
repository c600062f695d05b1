"""Blocks, the tiles of voxel rooms, and the small voxel models they and prefabs can be."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.plain import CODECS, BadPlain, Codec, from_plain
from topion.model.tileset import TileRef
from topion.model.traits import Traits
from topion.model.typed import Colour, Name, typed

LONGEST_MODEL = 256  # voxels a side
LONGEST_BLOCK_MODEL = 16
LONGEST_BLOCK_PATTERN = 16
MOST_COLOURS = 255
MOST_BLOCKS = 2047  # a block and its turn share one 16-bit number
BlockTurns = Literal["none", "quarters", "any"]
_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


@dataclass(frozen=True, eq=False)
class VoxelModel:
    """A small shape of coloured voxels.

    cells : (d, h, w) uint8, 0 where open, else the place of a colour in `palette`, from 1.
    per_cell : voxels to a cell of a room.
    """

    cells: NDArray[np.uint8]
    palette: tuple[str, ...]
    per_cell: int = 16

    def __post_init__(self) -> None:
        if self.cells.ndim != 3 or not all(1 <= n <= LONGEST_MODEL for n in self.cells.shape):
            size = self.cells.shape
            raise BadValue("the size of a model", size, f"three sides of 1 to {LONGEST_MODEL}")
        if not 1 <= len(self.palette) <= MOST_COLOURS:
            raise BadValue("the colours of a model", len(self.palette), f"1 to {MOST_COLOURS}")
        for colour in self.palette:
            if not _COLOUR.fullmatch(colour):
                raise BadValue("a colour of a model", colour, "like #a5533b")
        if int(self.cells.max()) > len(self.palette):
            raise BadValue("a voxel", int(self.cells.max()), f"at most {len(self.palette)}")
        if not 1 <= self.per_cell <= 64:
            raise BadValue("the voxels to a cell", self.per_cell, "1 to 64")
        self.cells.flags.writeable = False

    @property
    def size(self) -> tuple[int, int, int]:
        depth, height, width = self.cells.shape
        return depth, height, width

    @cached_property
    def extent(self) -> Box:
        """The smallest box round its voxels; of no size for an empty model."""
        return Box.of_cells(np.argwhere(self.cells))

    @cached_property
    def rgb(self) -> NDArray[np.uint8]:
        """(colours + 1, 3); row 0 stands for open."""
        rows = [(0, 0, 0), *(tuple(bytes.fromhex(c[1:])) for c in self.palette)]
        return np.array(rows, np.uint8)

    def __eq__(self, other: object) -> bool:
        return (
            isinstance(other, VoxelModel)
            and self.palette == other.palette
            and self.per_cell == other.per_cell
            and np.array_equal(self.cells, other.cells)
        )

    def __hash__(self) -> int:
        return hash((self.size, self.palette, self.per_cell))


def _model_plain(model: VoxelModel) -> dict[str, Any]:
    rows = b"".join(rows_to_text(model.cells.reshape(-1, model.cells.shape[2]).astype(np.uint16)))
    return {
        "size": list(model.size),
        "per_cell": model.per_cell,
        "palette": list(model.palette),
        "rows": rows.decode().split("\n")[:-1],
    }


def _model_from_plain(value: Any) -> VoxelModel:
    if not isinstance(value, dict):
        raise BadPlain((), "must be a model with size, palette and rows")
    known = {"size", "per_cell", "palette", "rows"}
    for key in value:
        if key not in known:
            raise BadPlain((key,), f"is not known here; known are {', '.join(sorted(known))}")
    for key in ("size", "palette", "rows"):
        if key not in value:
            raise BadPlain((key,), "is missing")
    depth, height, width = from_plain(tuple[int, int, int], value["size"], ("size",))
    if not all(1 <= side <= LONGEST_MODEL for side in (depth, height, width)):
        raise BadPlain(("size",), f"must be three sides of 1 to {LONGEST_MODEL}")
    palette = from_plain(tuple[str, ...], value["palette"], ("palette",))
    rows = from_plain(tuple[str, ...], value["rows"], ("rows",))
    text = "".join(f"{row}\n" for row in rows).encode()
    try:
        flat = text_to_rows(text, (depth * height, width), highest=min(len(palette), 255))
    except BadRows as problem:
        raise BadPlain(("rows", max(0, problem.line - 1)), problem.reason) from None
    per_cell = from_plain(int, value.get("per_cell", 16), ("per_cell",))
    return VoxelModel(flat.reshape(depth, height, width).astype(np.uint8), palette, per_cell)


_ROWS = r"^([0-9]+(\*[0-9]+)?( [0-9]+(\*[0-9]+)?)*)?$"
CODECS[VoxelModel] = Codec(
    _model_plain,
    _model_from_plain,
    {
        "type": "object",
        "description": "Coloured voxels; rows of places in the palette from 1, 0 where open.",
        "required": ["size", "palette", "rows"],
        "properties": {
            "size": {"type": "array", "items": {"type": "integer"}, "minItems": 3, "maxItems": 3},
            "per_cell": {"type": "integer"},
            "palette": {"type": "array", "items": {"type": "string"}},
            "rows": {"type": "array", "items": {"type": "string", "pattern": _ROWS}},
        },
        "additionalProperties": False,
    },
)


@typed
@dataclass(frozen=True)
class BlockLook:
    """What a block looks like in a theme.  colour : of a plain block.  palette : of its model.

    Faces follow the theme of their tile sets.
    """

    colour: Colour = "#94744e"
    palette: tuple[Colour, ...] = ()


@typed
@dataclass(frozen=True)
class Block(Traits):
    """What a cell of a voxel room can look like, and how it acts.

    colour : of a plain block, and of any block from afar.
    faces : no tiles; or one for all sides, three for top, sides and bottom, or six in the
    order of `grid.orient.FACES`.
    turns : how a designer may turn it: not at all, by quarters about up, or over as well.
    model : its shape, up to 16³ voxels, instead of a full cube.
    pattern : rows of tiles that repeat over its faces by their place in the room, instead of faces.
    themes : how it looks in those that it looks otherwise in.
    A block is solid ground unless it is told otherwise.
    """

    name: Name
    colour: Colour = "#94744e"
    faces: tuple[TileRef, ...] = ()
    model: VoxelModel | None = None
    turns: BlockTurns = "quarters"
    solid: bool = field(default=True, kw_only=True)
    walkable: bool = field(default=True, kw_only=True)
    pattern: tuple[tuple[TileRef, ...], ...] = field(default=(), kw_only=True)
    carries: bool = field(default=True, kw_only=True)
    themes: dict[str, BlockLook] = field(default_factory=dict, kw_only=True)

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise BadValue("the block's name", self.name, "at least one letter")
        if not _COLOUR.fullmatch(self.colour):
            raise BadValue(f"the colour of block {self.name}", self.colour, "like #a5533b")
        if len(self.faces) not in (0, 1, 3, 6):
            raise BadValue(f"the faces of block {self.name}", len(self.faces), "0, 1, 3 or 6 tiles")
        rows = {len(row) for row in self.pattern}
        if len(rows) > 1 or 0 in rows or max((len(self.pattern), *rows)) > LONGEST_BLOCK_PATTERN:
            wanted = f"rows of the same length, at most {LONGEST_BLOCK_PATTERN} a side"
            raise BadValue(f"the pattern of block {self.name}", self.pattern, wanted)
        if self.pattern and (self.faces or self.model is not None):
            raise BadValue(f"the pattern of block {self.name}", self.pattern, "instead of faces")
        if self.model is not None and max(self.model.size) > LONGEST_BLOCK_MODEL:
            size = self.model.size
            raise BadValue(f"the model of block {self.name}", size, "at most 16 voxels a side")
        self.check_top(f"block {self.name}")

    def worn(self, theme: str) -> Block:
        """The block as it looks in a theme."""
        look = self.themes.get(theme)
        if look is None:
            return self
        model = self.model
        if model is not None and len(look.palette) == len(model.palette):
            model = replace(model, palette=look.palette)
        return replace(self, colour=look.colour, model=model)

    def tiles(self) -> tuple[TileRef, ...]:
        """All tiles that its faces show."""
        return (*self.faces, *(ref for row in self.pattern for ref in row))

    @property
    def six_faces(self) -> tuple[TileRef, ...]:
        """The tile of each face, in the order of FACES; none for a plain block."""
        if self.pattern:
            return (self.pattern[0][0],) * 6
        match self.faces:
            case (every,):
                return (every,) * 6
            case (top, side, bottom):
                return (top, bottom, side, side, side, side)
        return self.faces


TURN_BITS = 5  # of the number of a laid block: its place in the project's table, then its turn
TURN_MASK = (1 << TURN_BITS) - 1


def block_ref(name: str, turn: int = 0) -> TileRef:
    """A block as a brush lays it: a tile of no tile set."""
    return TileRef("", name, turn)
