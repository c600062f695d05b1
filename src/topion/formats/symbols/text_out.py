"""Rooms as text, a symbol a cell, by a legend; what is written reads back the same by it."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from topion.errors import BadValue
from topion.formats.symbols.decoding import signs_of
from topion.formats.symbols.texts import read_text_grids
from topion.model.layer import Layer
from topion.model.legend import BLANK, Legend, Meaning, Reading
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.weaving.settle import shown_materials

Parts = tuple[str, str, str]  # material, prefab and tint of a cell
_NOTHING: Parts = ("", "", "")
_LETTERS = "#%@&*+=oxABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnpqrstuvwyz~^?!<>(){}[]"
_FIRST_OTHER = 0x0391  # letters beyond, where those do not suffice
_UNUSED = "§§"  # that no comment begins with: every line is a row


@dataclass(frozen=True)
class RoomText:
    """text : the rows.  legend : the one by which they read back the same."""

    text: str
    legend: Legend


def room_text(project: Project, room: Room, legend: Legend | None = None) -> RoomText:
    """A flat room as text.  Without a legend, or for what it does not say, one is made.

    Raises BadValue for a voxel room, and for a cell that a legend which was given has no symbol
    for.
    """
    if room.info.axes != 2:
        raise BadValue(f"the room {room.info.name}", "a voxel room", "flat, to be written as text")
    cells = _cells(project, room)
    found = _drafted(cells) if legend is None else _checked(legend, cells, room.info.name)
    coded = any(len(signs_of(m.symbol)) != 1 for m in found.meanings)
    reading = Reading(form="codes" if coded else "signs", parts="none", comments=_UNUSED)
    found = replace(found, reading=reading)
    rows = [[found.symbol_for(*parts) or "" for parts in row] for row in cells]
    text = _coded(rows, found) if coded else "".join("".join(row) + "\n" for row in rows)
    return RoomText(text, found)


def fitting_legend(project: Project, rooms: Iterable[Room]) -> Legend | None:
    """The first legend on the shelf by which all of some rooms can be written."""
    known = [{parts for row in _cells(project, room) for parts in row} for room in rooms]
    for legend in project.shelf("legends").values():
        if all(legend.symbol_for(*parts) is not None for all_parts in known for parts in all_parts):
            found: Legend = legend
            return found
    return None


def _coded(rows: list[list[str]], legend: Legend) -> str:
    """Codes with commas between, and behind the last one where it could be lost.

    Raises BadValue for a legend whose symbols are not told apart so, as with blanks around them.
    """
    ends = len(rows[0]) == 1 or all(row[-1] == BLANK for row in rows)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in rows:
        codes = ["" if symbol == BLANK else symbol for symbol in row]
        writer.writerow([*codes, ""] if ends else codes)
    text = out.getvalue()
    grids = read_text_grids(text.encode(), legend.name, legend.reading).grids
    if [grid.rows() for grid in grids] != [rows]:
        used = {symbol for row in rows for symbol in row if len(symbol) > 1}
        wanted = "codes without blanks around them, and without commas or semicolons"
        raise BadValue(f"the symbols of {legend.name}", ", ".join(sorted(used)), wanted)
    return text


def _cells(project: Project, room: Room) -> list[list[Parts]]:
    """What each cell holds: the uppermost material, a thing, and the foreground of its tint."""
    height, width = room.info.size
    materials = np.zeros((height, width), np.uint16)
    for _, layer in room.cell_layers():
        shown = shown_materials(project, layer)
        materials = np.where(shown > 0, shown, materials)
    names = ("", *project.materials)
    tints = {0: "", **{tint.number: tint.name for tint in project.palette}}
    worn = room.worn_tint
    fore = worn.plane("fore") if worn is not None else np.zeros((height, width), np.uint8)
    things = _things_by_cell(layer for _, layer in room.bottom_up("things"))
    return [
        [
            (names[m], things.get((y, x), ""), tints.get(t, ""))
            for x, (m, t) in enumerate(zip(row, tint_row, strict=True))
        ]
        for y, (row, tint_row) in enumerate(zip(materials.tolist(), fore.tolist(), strict=True))
    ]


def _things_by_cell(layers: Iterable[Layer]) -> dict[tuple[int, int], str]:
    """The prefab of the last thing in each cell."""
    found: dict[tuple[int, int], str] = {}
    for layer in layers:
        thing: Thing
        for thing in layer.things.values():
            found[thing.cell] = thing.prefab
    return found


def _drafted(cells: list[list[Parts]]) -> Legend:
    """A symbol for each thing that cells hold, if possible the first letter of what it is."""
    free = dict.fromkeys(_LETTERS)
    meanings = [Meaning(".")]
    for parts in sorted({parts for row in cells for parts in row} - {_NOTHING}):
        name = next(part for part in (parts[1], *parts) if part)
        last = name.rpartition(" ")[2]
        wanted = [letter for letter in (last, name[0].lower(), name[0].upper()) if letter in free]
        symbol = next(iter([*wanted, *free]), chr(_FIRST_OTHER + len(meanings)))
        free.pop(symbol, None)
        meanings.append(Meaning(symbol, *parts))
    return Legend("Rows", tuple(meanings))


def _checked(legend: Legend, cells: list[list[Parts]], room: str) -> Legend:
    for y, row in enumerate(cells):
        for x, parts in enumerate(row):
            if legend.symbol_for(*parts) is None:
                held = " + ".join(part for part in parts if part) or "nothing"
                wanted = f"something that the legend {legend.name} has a symbol for"
                raise BadValue(f"the cell {x}, {y} of {room}", held, wanted)
    return legend
