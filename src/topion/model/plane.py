"""Planes: numbers of cells by themselves, written as rows of text."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadValue
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.plain import CODECS, BadPlain, Codec, from_plain

LONGEST_SCRAP = 4096  # cells a side
MOST_SCRAP_CELLS = 1 << 24


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
