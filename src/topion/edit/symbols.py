"""Rooms from grids of symbols, by a legend that says what each symbol stands for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from topion.edit.library import put_item
from topion.edit.plain_parts import plain_colour, plain_colours, plain_materials, plain_prefabs
from topion.edit.wear import set_palette
from topion.edit.whole import whole_room
from topion.errors import UnknownName
from topion.grid.symbols import SymbolGrid
from topion.model.edit import Edit, joined, written
from topion.model.layer import Layer, LayerInfo
from topion.model.legend import CLEAR, Legend, Meaning
from topion.model.palette import with_tint
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.typed import COLOUR, LONGEST_NAME

Step = Callable[[str], object]
GROUND, THINGS, TINTS = "Ground", "Things", "Tints"
_LONGEST_TITLE = 80


@dataclass(frozen=True)
class Wanted:
    """What rooms are made like.  make : plain tiles, prefabs and colours for names that the
    project does not have; else they are refused."""

    cell_px: int = 16
    seen: Literal["top", "side"] = "top"
    make: bool = False


def unmapped(legend: Legend, symbols: Iterable[str]) -> list[str]:
    """The symbols of which the legend says nothing."""
    return [symbol for symbol in symbols if symbol not in legend.by_symbol]


def drafted(
    name: str, symbols: Iterable[str], legend: Legend | None = None, project: Project | None = None
) -> Legend:
    """A legend in which each symbol that the other one does not know has a drafted meaning."""
    name = _cleaned(name)[:_LONGEST_TITLE].strip() or "Legend"
    known = legend.by_symbol if legend is not None else {}
    meanings = [known.get(symbol) or drafted_meaning(symbol, project) for symbol in symbols]
    return replace(legend or Legend(name), name=name, meanings=tuple(meanings))


def drafted_meaning(symbol: str, project: Project | None = None) -> Meaning:
    """A material called as the symbol, or the prefab of the project that is; nothing for a blank
    and for clear pixels."""
    if not symbol.strip() or symbol == CLEAR:
        return Meaning(symbol)
    if project is not None and symbol in project.materials:
        return Meaning(symbol, material=symbol)
    if project is not None and symbol in project.prefabs:
        return Meaning(symbol, prefab=symbol)
    own = len(symbol) > 2 and (project is None or symbol not in project.brushes)
    return Meaning(symbol, material=symbol if own else f"Symbol {symbol}")


def lacking(project: Project, legend: Legend) -> dict[str, list[str]]:
    """What the legend speaks of and the project does not have, by kind."""
    tints = {tint.name for tint in project.palette}
    return {
        "material": [n for n in legend.names("material") if n not in project.materials],
        "prefab": [n for n in legend.names("prefab") if n not in project.prefabs],
        "colour of the palette": [n for n in legend.names("tint") if n not in tints],
    }


def rooms_from_symbols(
    project: Project, grids: Sequence[SymbolGrid], legend: Legend, wanted: Wanted = Wanted(),
    step: Step = lambda _: None,
) -> Edit:  # fmt: skip
    """A room for each grid, and the legend on its shelf, as one Edit.

    Symbols without a meaning are open cells.  Raises UnknownName for what the project lacks, and
    BadValue where a table of it is full.
    """
    scratch = project.scratch()
    edits = list(written(scratch, _made(scratch, legend, wanted)))
    edits += written(scratch, [put_item(scratch, "legends", legend)])
    builder = _Builder(scratch, legend, wanted)
    taken = set(project.rooms)
    records = []
    for grid in grids:
        name = free_room_name(room_title(grid, several=_several(grids, grid)), taken)
        taken.add(name)
        step(name)
        records += list(whole_room(builder.room(name, grid)))
    count = len(grids)
    label = f"Bring in {count} rooms" if count != 1 else f"Bring in {name}"
    return joined(label, [*edits, Edit(label, tuple(records))])


def _several(grids: Sequence[SymbolGrid], grid: SymbolGrid) -> bool:
    return len(grids) > 1 and not grid.title and grid.line > 1


def room_title(grid: SymbolGrid, *, several: bool = False) -> str:
    """What a room is called: its title, else its file."""
    stem = grid.file.rpartition("/")[2].rpartition(".")[0] or grid.file or "Room"
    clean = _cleaned(grid.title or stem)
    if grid.title and (clean.isdigit() or len(clean) < 2):
        clean = f"{stem} {clean}"
    return clean[:_LONGEST_TITLE].strip() or "Room"


def _cleaned(text: str) -> str:
    """Without what cannot be seen, on one line."""
    return "".join(letter for letter in " ".join(text.split()) if letter.isprintable())


def free_room_name(stem: str, taken: set[str]) -> str:
    """The name, or with the first number behind it that is free."""
    stem, number, found = stem[: LONGEST_NAME - 8], 2, stem
    while found in taken:
        found, number = f"{stem} {number}", number + 1
    return found


def _made(project: Project, legend: Legend, wanted: Wanted) -> Iterator[Edit]:
    """What the project lacks, made plainly where that is wanted."""
    found = lacking(project, legend)
    if not wanted.make:
        known = {"material": project.materials, "prefab": project.prefabs,
                 "colour of the palette": [t.name for t in project.palette]}  # fmt: skip
        for kind, names in found.items():
            for name in names:
                raise UnknownName(kind, name, known[kind])
    yield from plain_materials(project, own_colours(legend, found["material"]), wanted.cell_px)
    yield from plain_prefabs(project, found["prefab"], wanted.cell_px)
    palette = project.palette
    for name in found["colour of the palette"]:
        palette = with_tint(palette, name, plain_colour(name))
    if palette != project.palette:
        yield set_palette(project, palette, "Colours of a legend")


def own_colours(legend: Legend, materials: Iterable[str]) -> dict[str, str]:
    """Of each material the colour that stands for it, or one of its own."""
    symbols = {m.material: m.symbol for m in reversed(legend.meanings)}
    plain = plain_colours(materials)
    return {name: symbols[name] if COLOUR.holds(symbols.get(name, "")) else colour
            for name, colour in plain.items()}  # fmt: skip


class _Builder:
    """Makes rooms by one legend."""

    def __init__(self, project: Project, legend: Legend, wanted: Wanted) -> None:
        self.project, self.legend, self.wanted = project, legend, wanted
        homes = {brush.material: brush.layer for brush in project.brushes.values()
                 if brush.material and getattr(brush, "layer", "")}  # fmt: skip
        self.homes = {name: homes.get(name, "") or GROUND for name in legend.names("material")}
        self.ids = {name: n for n, name in enumerate(project.materials, 1)}
        self.tints = {tint.name: tint.number for tint in project.palette}
        self.layers = _in_order(project, dict.fromkeys(self.homes.values()) or {GROUND: None})

    def room(self, name: str, grid: SymbolGrid) -> Room:
        """A room that stands by itself."""
        info = RoomInfo(name, grid.size, self.wanted.cell_px, self.wanted.seen)
        room = Room(info)
        meanings = [self.legend.by_symbol.get(symbol, Meaning(symbol)) for symbol in grid.symbols]
        for layer in self.layers:
            ids = [self.ids[m.material] if m.material and self.homes[m.material] == layer else 0
                   for m in meanings]  # fmt: skip
            planes = {"material": np.array(ids, np.uint16)[grid.cells]}
            _add(room, LayerInfo(layer, "tiles"), planes)
        _add(room, LayerInfo(THINGS, "things"), {}, self._things(grid, meanings))
        if any(m.tint for m in meanings):
            fore = np.array([self.tints.get(m.tint, 0) for m in meanings], np.uint8)[grid.cells]
            room.info = replace(
                room.info, tint=_add(room, LayerInfo(TINTS, "tints"), {"fore": fore})
            )
        room.order = tuple(room.layers)
        room.numbers = max((max(la.things, default=0) for la in room.layers.values()), default=0)
        return room

    def _things(self, grid: SymbolGrid, meanings: Sequence[Meaning]) -> dict[int, Thing]:
        """Things by number, from the top row on."""
        placing = np.array([bool(m.prefab) for m in meanings])
        at = np.argwhere(placing[grid.cells])
        return {
            number: Thing(meanings[grid.cells[y, x]].prefab, float(y), float(x))
            for number, (y, x) in enumerate(at.tolist(), 1)
        }


def _in_order(project: Project, names: Mapping[str, object]) -> list[str]:
    """Layers from bottom to top as other rooms of the project have them; unknown ones last."""
    infos = (room for name in project.rooms if (room := project.rooms.peek(name)) is not None)
    known = [layer.info.name for room in infos for _, layer in room.bottom_up("tiles")]
    places = {name: known.index(name) if name in known else len(known) for name in names}
    return sorted(names, key=lambda name: places[name])


def _add(room: Room, info: LayerInfo, planes: dict[str, np.ndarray],
         things: dict[int, Thing] | None = None) -> str:  # fmt: skip
    """A layer on top of a room in the making; its id."""
    layer_id = room.new_layer_id(info.name)
    layer = Layer.empty(info, room.info.size)
    layer.put_planes(planes)
    if things:
        layer.tables["things"] = things
    room.layers[layer_id] = layer
    return layer_id
