"""Planes of a layer as files that can be read by themselves: a head, and rows of text.

The head, a line of JSON, tells the size, from which cell it counts, and the names behind the
numbers, so that such a file may come from a project with other numbers for the same names.  Rows
of former versions have no head.  Behind the rows may stand lines of conflicts, as a merge leaves
them.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile
from topion.formats.text import parse_json, read_value
from topion.grid.boxes import Box
from topion.grid.runs import BadRows, rows_to_text, text_to_rows
from topion.model.conflict import NameInCells
from topion.model.plain import Json
from topion.model.room import LONGEST_SIDE, MOST_CELLS

_CONFLICT = b"\nconflict "
_MOST_HEAD = 1 << 23  # bytes


@dataclass(frozen=True)
class PlaneHead:
    """size : in cells, in array order.  start : its first cell, counted from where the first cell
    of its room was when that was made.
    names : by number, of what is there.  turned : so many of the lowest bits of each number tell
    how the named block is turned.
    """

    size: tuple[int, ...]
    start: tuple[int, ...] = ()
    names: Mapping[int, NameInCells] = field(default_factory=dict)
    turned: int = 0

    @property
    def box(self) -> Box:
        """Its cells, counted from where the first cell of the room was when that was made."""
        return Box.of_shape(self.size).shifted(self.start or (0,) * len(self.size))

    def line(self) -> bytes:
        """As it stands in a file."""
        plain: dict[str, Json] = {"size": list(self.size)}
        if any(self.start):
            plain["from"] = list(self.start)
        if self.turned:
            plain["turned"] = self.turned
        if self.names:
            plain["names"] = {str(n): name[0] if len(name) == 1 else list(name)
                              for n, name in sorted(self.names.items())}  # fmt: skip
        return json.dumps(plain, ensure_ascii=False).encode() + b"\n"


def head_of(data: bytes, file: object) -> PlaneHead | None:
    """The head of a file; None for rows of former versions, which have none.  Raises BadFile."""
    if not data.startswith(b"{"):
        return None
    line = data[: data.find(b"\n") + 1]
    if not line or len(line) > _MOST_HEAD:
        raise BadFile(file, "has a head that does not end", "line 1")
    plain = parse_json(line, file)
    known = {"size": tuple[int, ...], "from": tuple[int, ...], "turned": int, "names": dict}
    if not isinstance(plain, dict) or not plain.keys() <= known.keys() or "size" not in plain:
        raise BadFile(file, f"must begin with a head of {', '.join(known)}", "line 1")
    size = read_value(tuple[int, ...], plain["size"], line, file, ("size",))
    start = read_value(tuple[int, ...], plain.get("from", []), line, file, ("from",))
    turned = read_value(int, plain.get("turned", 0), line, file, ("turned",))
    sides = 2 <= len(size) <= 3 and all(0 < side <= LONGEST_SIDE for side in size)
    if not sides or math.prod(size) > MOST_CELLS:
        raise BadFile(file, "size: must be two or three sides of cells", "line 1")
    if start and (len(start) != len(size) or max(map(abs, start)) > LONGEST_SIDE):
        raise BadFile(file, f"from: must be {len(size)} numbers of cells", "line 1")
    if not 0 <= turned <= 8:
        raise BadFile(file, "turned: must be 0 to 8 bits", "line 1")
    return PlaneHead(size, start, _names(plain.get("names", {}), file), turned)


def _names(plain: Json, file: object) -> dict[int, NameInCells]:
    found: dict[int, NameInCells] = {}
    wanted = "names by number, of tiles lists of a set, a slot and a turn"
    wrong = BadFile(file, f"names: must be {wanted}", "line 1")
    if not isinstance(plain, dict):
        raise wrong
    for key, name in plain.items():
        parts = (name,) if isinstance(name, str) else tuple(name) if isinstance(name, list) else ()
        good = 1 <= len(parts) <= 3 and all(isinstance(part, str) and part for part in parts)
        if not good or not key.isascii() or not key.isdecimal() or not 0 < int(key[:6]) < 1 << 16:
            raise wrong
        found[int(key[:6])] = parts
    return found


@dataclass(frozen=True, eq=False)
class PlaneFile:
    """What such a file holds.  cells : in the shape of its head.  conflicts : as JSON values.
    headed : whether the head stands in the file.
    """

    head: PlaneHead
    cells: NDArray[np.uint16]
    conflicts: tuple[Json, ...] = ()
    headed: bool = True


def plane_bytes(head: PlaneHead, cells: np.ndarray, conflicts: Iterable[Json] = ()) -> bytes:
    """The file of a plane.  cells : in the shape of the head."""
    rows = rows_to_text(cells.reshape(-1, cells.shape[-1]))
    return b"".join([head.line(), *rows]) + conflict_lines(conflicts)


def conflict_lines(conflicts: Iterable[Json]) -> bytes:
    """Lines that stand behind rows."""
    lines = (f"conflict {json.dumps(plain, ensure_ascii=False)}\n" for plain in conflicts)
    return "".join(lines).encode()


def split_rows(data: bytes, file: object) -> tuple[bytes, tuple[Json, ...]]:
    """(the rows with their head, conflicts behind them as JSON values).  Raises BadFile."""
    at = data.find(_CONFLICT)
    if at < 0:
        return data, ()
    lines = data[at + 1 :].splitlines()
    first = data.count(b"\n", 0, at + 1) + 1
    found = []
    for number, line in enumerate(lines, first):
        if not line.startswith(_CONFLICT[1:]):
            raise BadFile(file, "has rows behind its conflicts", f"line {number}")
        try:
            found.append(parse_json(line[len(_CONFLICT) - 1 :], file))
        except BadFile as problem:
            raise BadFile(file, problem.reason, f"line {number}") from None
    return data[: at + 1], tuple(found)


def plain_shape(rows: bytes) -> tuple[int, int]:
    """How many rows there are, and how many cells the first one stands for; 0 where it is none."""
    first, wide = rows.partition(b"\n")[0], 0
    for part in first.split():
        count, star, _ = part.partition(b"*")
        if star and not count.isdigit():
            return rows.count(b"\n"), 0
        wide += int(count[:6]) if star else 1
    return rows.count(b"\n"), wide


def read_plane(
    data: bytes,
    file: object,
    shape: tuple[int, ...] | None = None,
    each_strip: Callable[[], None] | None = None,
) -> PlaneFile:
    """A plane file.  shape : of rows that have no head; None for what they look like.  Raises
    BadFile, which names the line.

    The size is not larger than a room may be; whether it is one that is wanted is not asked.
    """
    rows, conflicts = split_rows(data, file)
    head = head_of(rows, file)
    if head is not None:
        rows = rows[rows.find(b"\n") + 1 :]
    known = head or PlaneHead(shape or plain_shape(rows))
    size = math.prod(known.size[:-1]), known.size[-1]
    lines = rows.count(b"\n")
    if lines != size[0]:  # told before memory is taken
        line = lines + 1 + (head is not None)
        raise BadFile(file, f"has {lines} rows, but {size[0]} are declared", f"line {line}")
    try:
        cells = text_to_rows(rows, size, each_strip=each_strip)
    except BadRows as problem:
        line = problem.line + (head is not None)
        raise BadFile(file, problem.reason, f"line {line}") from None
    return PlaneFile(known, cells.reshape(known.size), conflicts, head is not None)


def check_highest(cells: np.ndarray, most: int, file: object, first_line: int) -> None:
    """Raises BadFile for cells above the highest number that is known."""
    if cells.size and int(cells.max()) > most:
        rows = cells.reshape(-1, cells.shape[-1])
        line = int(np.argmax((rows > most).any(axis=1)))
        found = int(rows[line][rows[line] > most][0])
        reason = f"holds {found}, but the highest known is {most}"
        raise BadFile(file, reason, f"line {line + first_line}")


__all__ = ["PlaneFile", "PlaneHead", "check_highest", "conflict_lines", "head_of", "plain_shape",
           "plane_bytes", "read_plane", "split_rows"]  # fmt: skip
