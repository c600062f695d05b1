"""Rooms as plain rows of codes, for programs and people that read text; see docs/FORMATS.md.

A file has a head of `word: value` lines, a legend, an empty line, and then a line for each row of
cells, codes between spaces.  The levels of a voxel room follow each other, the lowest first, with
an empty line between them.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.errors import BadFile, BadValue
from topion.model.layer import Layer
from topion.model.palette import MOST_TINTS, Palette, Tint, named, with_tint
from topion.model.project import Project
from topion.model.room import MOST_CELLS, Room
from topion.model.typed import COLOUR
from topion.weaving.settle import ref_of_tile, shown_tiles

TILES, TINTS = "topion tile rows 1", "topion tint rows 1"
_OPEN = "."
_SIDES = re.compile(r"(\d{1,5})((?: × \d{1,5}){1,2})$")


@dataclass(frozen=True, eq=False)
class TileRows:
    """tiles : the shape of the layer, 0 where open, else the place in `legend` from 1."""

    room: str
    layer: str
    tiles: NDArray[np.uint16]
    legend: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class TintRows:
    """fore, back, bright : the shape of the room.  legend : the colours of its numbers."""

    room: str
    map: str
    fore: NDArray[np.uint8]
    back: NDArray[np.uint8]
    bright: NDArray[np.uint8]
    legend: Palette


# --- written ------------------------------------------------------------------------------


def tile_text(project: Project, room: Room, layer: Layer) -> str:
    """The tiles that show in a layer."""
    tiles = shown_tiles(project, layer)
    numbers = np.unique(tiles[tiles > 0]).tolist()
    places = np.zeros(int(tiles.max(initial=0)) + 1, np.intp)
    places[numbers] = np.arange(1, len(numbers) + 1)
    wide = max(2, len(str(len(numbers))))
    codes = [_OPEN * wide, *(f"{n:0{wide}}" for n in range(1, len(numbers) + 1))]
    legend = [f"{code} {_tile_name(project, layer, number)}"
              for code, number in zip(codes[1:], numbers, strict=True)]  # fmt: skip
    return _text(TILES, room, layer, legend, np.array(codes)[places[tiles]])


def _tile_name(project: Project, layer: Layer, number: int) -> str:
    ref = ref_of_tile(project, layer, number)
    if ref is None:
        return "unknown"
    name = ref.slot if ref.is_block else f"{ref.tileset} / {ref.slot}"
    turn = f" turned {ref.turn}" if ref.turn else ""
    return f"{name}{turn}{' mirrored' if ref.mirrored else ''}"


def tint_text(project: Project, room: Room, layer: Layer) -> str:
    """The codes of a tint map: foreground, background, and `+` for bright."""
    fore, back, bright = (layer.plane(name) for name in ("fore", "back", "bright"))
    wide = fore.astype(np.intp) | back.astype(np.intp) << 7 | bright.astype(np.intp) << 14
    met, places = np.unique(wide, return_inverse=True)
    codes = [_tint_code(n & 127, n >> 7 & 127, n >> 14) for n in met.tolist()]
    legend = [f"{t.number:02} {t.colour} {t.bright} {t.name}" for t in project.palette]
    return _text(TINTS, room, layer, legend, np.array(codes)[places.reshape(wide.shape)])


def _tint_code(fore: int, back: int, bright: int) -> str:
    parts = (f"{value:02}" if value else _OPEN * 2 for value in (fore, back))
    return "".join(parts) + ("+" if bright else "-")


def _text(
    head: str, room: Room, layer: Layer, legend: Sequence[str], codes: NDArray[np.str_]
) -> str:
    size = " × ".join(str(side) for side in reversed(room.info.size))
    rows = [head, f"room: {room.info.name}", f"layer: {layer.info.name}", f"size: {size}"]
    rows += [f"legend: {len(legend)}", *legend]
    levels = codes.reshape(-1, *codes.shape[-2:])
    for level in levels:
        rows += ["", *(" ".join(row) for row in level.tolist())]
    return "\n".join(rows) + "\n"


# --- read ---------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class _Read:
    file: str
    room: str
    layer: str
    size: tuple[int, ...]
    legend: list[tuple[int, str]]  # line and text
    rows: list[tuple[int, list[str]]]


def read_tile_rows(text: str, file: str) -> TileRows:
    """Raises BadFile, which names the line."""
    found = _parsed(text, file, TILES)
    codes: dict[str, int] = {}
    for line, entry in found.legend:
        code, _, name = entry.partition(" ")
        if not name or code in codes:
            raise BadFile(file, "must be a code that is not there yet, and a name", f"line {line}")
        codes[code] = len(codes) + 1
    numbers = {**codes, _OPEN * max(map(len, codes), default=2): 0, _OPEN: 0}

    def number(code: str, line: int) -> int:
        if code not in numbers:
            raise BadFile(file, f"“{code:.20}” is not in the legend", f"line {line}")
        return numbers[code]

    cells = np.array([number(c, line) for line, row in found.rows for c in row], np.uint16)
    legend = tuple(entry.partition(" ")[2] for _, entry in found.legend)
    return TileRows(found.room, found.layer, cells.reshape(found.size), legend)


def read_tint_rows(text: str, file: str) -> TintRows:
    """Raises BadFile, which names the line."""
    found = _parsed(text, file, TINTS)
    legend = tuple(_tint(file, line, entry) for line, entry in found.legend)
    known = {0, *(tint.number for tint in legend)}
    codes: dict[str, tuple[int, int, int]] = {}

    def number(code: str, line: int) -> tuple[int, int, int]:
        if code not in codes:
            codes[code] = _tint_numbers(code, file, line)
        if not known.issuperset(codes[code][:2]):
            raise BadFile(
                file, f"“{code}” names a colour that is not in the legend", f"line {line}"
            )
        return codes[code]

    cells = np.array([number(c, line) for line, row in found.rows for c in row], np.uint8)
    fore, back, bright = (cells[:, n].reshape(found.size) for n in range(3))
    return TintRows(found.room, found.layer, fore, back, bright, legend)


def _tint(file: str, line: int, entry: str) -> Tint:
    number, colour, bright, name = (*entry.split(" ", 3), "", "", "")[:4]
    good = number.isdigit() and 1 <= int(number) <= MOST_TINTS and name.strip()
    if not good or not (COLOUR.holds(colour) and COLOUR.holds(bright)):
        raise BadFile(file, "must be a number, two colours and a name", f"line {line}")
    try:
        return Tint(int(number), name.strip(), colour, bright)
    except BadValue as problem:
        raise BadFile(file, str(problem), f"line {line}") from None


def _tint_numbers(code: str, file: str, line: int) -> tuple[int, int, int]:
    if not re.fullmatch(r"(\d\d|\.\.){2}[+-]", code):
        raise BadFile(file, f"“{code:.20}” is no code of a tint, such as 03..+", f"line {line}")
    fore, back = (0 if part == ".." else int(part) for part in (code[:2], code[2:4]))
    if max(fore, back) > MOST_TINTS:
        raise BadFile(file, f"“{code}” names a colour above {MOST_TINTS}", f"line {line}")
    return fore, back, int(code[4] == "+")


def _parsed(text: str, file: str, head: str) -> _Read:
    lines = text.splitlines()
    if not lines or lines[0].strip() != head:
        raise BadFile(file, f"must begin with “{head}”", "line 1")
    values = {}
    for at, word in enumerate(("room", "layer", "size", "legend"), 1):
        key, _, value = (lines[at] if len(lines) > at else "").partition(": ")
        if key != word:
            raise BadFile(file, f"must be “{word}: …”", f"line {at + 1}")
        values[word] = value.strip()
    size = _size(values["size"], file)
    if not values["legend"].isdecimal() or int(values["legend"]) > len(lines):
        raise BadFile(file, "must say how many lines the legend has", "line 5")
    count = int(values["legend"])
    legend = [(number, line) for number, line in enumerate(lines[5 : 5 + count], 6)]
    rows = list(_rows(lines, 5 + count))
    if len(rows) != math.prod(size[:-1]):
        raise BadFile(file, f"has {len(rows)} rows of cells, not {math.prod(size[:-1])}")
    for number, row in rows:
        if len(row) != size[-1]:
            raise BadFile(file, f"has {len(row)} cells, not {size[-1]}", f"line {number}")
    return _Read(file, values["room"], values["layer"], size, legend, rows)


def _rows(lines: list[str], start: int) -> Iterator[tuple[int, list[str]]]:
    for number, line in enumerate(lines[start:], start + 1):
        if line.strip():
            yield number, line.split()


def _size(text: str, file: str) -> tuple[int, ...]:
    if not _SIDES.fullmatch(text):
        raise BadFile(file, "must be a width × height, or with × levels", "line 4")
    wide, high, *levels = (int(part) for part in text.split(" × "))
    size = (*levels, high, wide)
    if min(size) < 1 or math.prod(size) > MOST_CELLS:
        raise BadFile(file, f"a size of {text} cells is beyond what a room can have", "line 4")
    return size


def onto_palette(rows: TintRows, palette: Palette) -> tuple[Palette, dict[str, np.ndarray]]:
    """The palette with the colours of a file, by name, and its planes by the numbers there.

    Raises BadValue when the palette is full.
    """
    to = np.arange(MOST_TINTS + 1, dtype=np.uint8)
    for tint in rows.legend:
        known = named(palette, tint.name)
        if known is None:
            palette = with_tint(palette, tint.name, tint.colour, tint.bright)
            known = palette[-1]
        to[tint.number] = known.number
    return palette, {"fore": to[rows.fore], "back": to[rows.back], "bright": rows.bright}
