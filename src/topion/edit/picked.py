"""Edits of what is picked: things, pieces and an area of cells, moved or taken away as one.

What lies in layers that are locked or hidden is left alone, and the Edit says so.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from topion.brushes.following import followed
from topion.brushes.groups import name_of_group
from topion.brushes.kind import all_brushes
from topion.brushes.marks import Place
from topion.brushes.scraps import cut_out
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.curve import Curve
from topion.model.edit import Edit, Record
from topion.model.layer import Entry, Layer
from topion.model.piece import Piece
from topion.model.prefab import Thing, snapped_thing
from topion.model.project import Project
from topion.model.records import cells_changed, entries_changed
from topion.model.room import Room
from topion.model.scrap import Scrap
from topion.things.along import attached_at, curve_under

EDIT_COLOUR = "#22303a"


@dataclass(frozen=True, eq=False)
class Picks:
    """entries : things and pieces.  area : of the cells of `layers`, by their ids."""

    entries: tuple[Pick, ...] = ()
    area: Area | None = None
    layers: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.entries) or self.area is not None


@dataclass(frozen=True, eq=False)
class Free:
    """What of the picked may be changed.  by_table : numbers by layer and table.

    refused : why the rest may not.
    """

    by_table: dict[tuple[str, str], list[int]]
    layers: tuple[str, ...]
    refused: tuple[str, ...]

    def entries(self, room: Room) -> Iterator[tuple[tuple[str, str], int, Entry]]:
        """((layer id, table), number, entry) of each."""
        for (layer_id, table), numbers in self.by_table.items():
            for number in numbers:
                yield (layer_id, table), number, room.layers[layer_id].table(table)[number]


def entry_of(room: Room, pick: Pick) -> Thing | Piece | Curve | None:
    """The thing, piece or curve that is meant, if it is there."""
    layer = room.layers.get(pick.layer)
    tables = layer.tables.values() if layer else ()
    found: Any = next((table[pick.number] for table in tables if pick.number in table), None)
    return found


def brush_of(project: Project, room: Room, picks: Picks) -> str:
    """The brush of the piece that was picked first, else of the material that is commonest in the
    area, topmost layer first; nothing where there is none."""
    for pick in picks.entries:
        piece = entry_of(room, pick)
        if isinstance(piece, Piece):
            return piece.brush
    area = picks.area
    for layer_id in reversed(picks.layers) if area is not None else ():
        layer = room.layers.get(layer_id)
        if layer is None or area is None or "material" not in layer.info.traits.planes:
            continue
        cells = area.cells[room.box.holds(area.cells)]
        counts = np.bincount(layer.plane("material")[tuple(cells.T)], minlength=1)
        counts[0] = 0
        name = project.materials[int(counts.argmax()) - 1] if counts.any() else ""
        found = (brush.name for brush in all_brushes(project).values() if brush.material == name)
        if name:
            return next(found, "")
    return ""


def free_of(room: Room, picks: Picks) -> Free:
    by_table: dict[tuple[str, str], list[int]] = {}
    refused: dict[str, None] = {}
    for pick in picks.entries:
        layer = room.layers.get(pick.layer)
        for table, entries in layer.tables.items() if layer else ():
            if pick.number in entries and layer and _may(layer, refused):
                by_table.setdefault((pick.layer, table), []).append(pick.number)
    layers = tuple(i for i in picks.layers if i in room.layers and _may(room.layers[i], refused))
    return Free(by_table, layers if picks.area else (), tuple(refused))


def _may(layer: Layer, refused: dict[str, None]) -> bool:
    info = layer.info
    if info.locked or not info.shown:
        refused[f"layer {info.name} is {'locked' if info.locked else 'hidden'}"] = None
        return False
    return True


def scrap_of(project: Project, room_name: str, picks: Picks) -> Scrap | None:
    """What is picked, cut out; None for nothing.  Raises BadValue for more than can be."""
    room = project.room(room_name)
    there = [p for p in with_along(room, picks.entries) if entry_of(room, p) is not None]
    taken = taken_by_layer(Picks(tuple(there)))
    found = cut_out(project, room, picks.area, picks.layers, taken)
    return None if found is None or found.is_empty else found


def with_along(room: Room, entries: tuple[Pick, ...]) -> tuple[Pick, ...]:
    """The same, with all things of its layer that belong to one of the curves."""
    curves = {pick for pick in entries if isinstance(entry_of(room, pick), Curve)}
    if not curves:
        return entries
    found = dict.fromkeys(entries)
    for layer_id in {pick.layer for pick in curves}:
        for number, thing in room.layers[layer_id].things.items():
            if thing.along is not None and thing.attached in curves:
                found[Pick(layer_id, number)] = None
    return tuple(found)


def taken_by_layer(picks: Picks) -> dict[str, list[int]]:
    """Numbers of things and pieces by the id of their layer."""
    taken: dict[str, list[int]] = {}
    for pick in picks.entries:
        taken.setdefault(pick.layer, []).append(pick.number)
    return taken


# --- changed, taken away, grouped ---------------------------------------------------------


def things_changed(
    project: Project, room_name: str, after: Mapping[Pick, Thing], words: str
) -> Edit:
    """Other values for some things, whatever rules say.  words : of the label."""
    room = project.room(room_name)
    free = free_of(room, Picks(tuple(after)))
    records: list[Record] = []
    for (layer_id, table), numbers in free.by_table.items():
        things = {
            number: _belonging(room, room.layers[layer_id].things[number],
                               after[Pick(layer_id, number)])
            for number in numbers
        }  # fmt: skip
        records += entries_changed(room, layer_id, table, things)
    return edit_of(words, free, room, Picks(tuple(after)), records, project)


def _belonging(room: Room, before: Thing, after: Thing) -> Thing:
    """A thing that belongs to a curve and was put elsewhere: so far aside, and as much turned."""
    curve = curve_under(room, after)
    if curve is None or after.along is None or after.along != before.along:
        return after
    if (before.at, before.turn) == (after.at, after.turn):
        return after
    along = attached_at(curve, after)
    turn = along.turn if after.along.turns else after.turn
    return replace(after, along=replace(along, turns=after.along.turns, turn=turn))


def snapped(project: Project, room_name: str, picks: Picks, cell_parts: int) -> Edit:
    """Things at the nearest middle of a cell, or of a part of one, seen from above."""
    room = project.room(room_name)
    free = free_of(room, picks)
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    for key, number, entry in free.entries(room):
        if isinstance(entry, Thing):
            prefab = project.prefabs.get(entry.prefab)
            parts = prefab.snaps if prefab and prefab.snaps else cell_parts
            after.setdefault(key, {})[number] = snapped_thing(entry, parts)
    records = [record for (layer_id, table), things in after.items()
               for record in entries_changed(room, layer_id, table, things)]  # fmt: skip
    return edit_of("Snap", free, room, picks, records, project)


def removed(project: Project, room_name: str, picks: Picks) -> Edit:
    """Taken away; cells of the area are open then."""
    room = project.room(room_name)
    free = free_of(room, picks)
    records: list[Record] = [*cells_opened(room, picks.area, free.layers)]
    curves: dict[tuple[str, int], Curve | None] = {
        (layer_id, number): None for (layer_id, table), numbers in free.by_table.items()
        if table == "curves" for number in numbers
    }  # fmt: skip
    along = followed(Place(project, room_name), curves)
    for (layer_id, table), numbers in free.by_table.items():
        if table != "curves":
            along.tables.setdefault((layer_id, table), {}).update(dict.fromkeys(numbers))
    records += along.records(Place(project, room_name))
    return edit_of("Remove", free, room, picks, records, project)


def cells_opened(room: Room, area: Area | None, layer_ids: Iterable[str]) -> Iterator[Record]:
    """What leaves nothing in the cells of an area."""
    for layer_id in layer_ids if area is not None else ():
        planes = room.layers[layer_id].planes
        if not planes or area is None:
            continue
        shape = next(iter(planes.values())).shape
        cells = area.in_plan(len(shape)).clipped(Box.of_shape(shape)).cells
        flat = np.ravel_multi_index(tuple(cells.T), shape).astype(np.intp)
        before = {name: plane.reshape(-1)[flat] for name, plane in planes.items()}
        after = {name: np.zeros_like(values) for name, values in before.items()}
        yield from cells_changed(room.info.name, layer_id, shape, flat, before, after)


def grouped(project: Project, room_name: str, picks: Picks) -> Edit:
    """One group round all that is picked; groups that are in it stay."""
    room = project.room(room_name)
    free = free_of(room, picks)
    members = {number: entry for _, number, entry in free.entries(room)}
    if len(members) < 2:
        return Edit("Group", (), EDIT_COLOUR, ("pick two things or pieces at least",))
    name = name_of_group(members, members)
    return _regrouped(project, room, free, picks, "Group", lambda groups: (name, *groups))


def ungrouped(project: Project, room_name: str, picks: Picks) -> Edit:
    """The outermost groups of what is picked are no more."""
    room = project.room(room_name)
    free = free_of(room, picks)
    return _regrouped(project, room, free, picks, "Ungroup", lambda groups: groups[1:])


def _regrouped(
    project: Project, room: Room, free: Free, picks: Picks, verb: str, change: Any
) -> Edit:
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    for key, number, entry in free.entries(room):
        after.setdefault(key, {})[number] = replace(entry, groups=change(entry.groups))
    records: list[Record] = []
    for (layer_id, table), entries in after.items():
        records += entries_changed(room, layer_id, table, entries)
    return edit_of(verb, free, room, picks, records, project)


def with_groups(room: Room, entries: Iterable[Pick]) -> tuple[Pick, ...]:
    """The same, with all that belongs to a group with one of them."""
    found = dict.fromkeys(entries)
    outer = set()
    for pick in list(found):
        entry = entry_of(room, pick)
        if entry is not None and entry.groups:
            outer.add(entry.groups[0])
    if outer:
        for layer_id, layer in room.layers.items():
            for table in layer.tables.values():
                for number, entry in table.items():
                    if entry.groups and entry.groups[0] in outer:
                        found[Pick(layer_id, number)] = None
    return tuple(found)


# --- what all share -----------------------------------------------------------------------


def edit_of(
    verb: str, free: Free, room: Room, picks: Picks, records: Iterable[Record], project: Project
) -> Edit:
    names = [getattr(e, "brush", "") for _, _, e in free.entries(room)]
    brush = next((project.brushes[name] for name in names if name in project.brushes), None)
    colour = brush.colour if brush is not None else EDIT_COLOUR
    notes = tuple(f"{why}, so what is picked there was left alone" for why in free.refused)
    return Edit(label_of(verb, free, room, picks), tuple(records), colour, free.refused, notes)


def label_of(verb: str, free: Free, room: Room, picks: Picks) -> str:
    """`Move Lamp`, `Move 3 things of Lamp`, `Move 40 cells and 2 pieces`."""
    parts = []
    if picks.area and free.layers:
        parts.append(several(picks.area.size, "cell"))
    for table in ("pieces", "curves", "held", "things"):
        found = [e for (_, own), _, e in free.entries(room) if own == table]
        names = dict.fromkeys(getattr(e, "prefab", getattr(e, "brush", "")) or table.rstrip("s")
                              for e in found)  # fmt: skip
        if len(found) == 1:
            parts.append(next(iter(names)))
        elif found:
            word = "things" if table == "held" else table
            parts.append(f"{len(found)} {word}" + (f" of {next(iter(names))}" if len(names) == 1
                                                    else ""))  # fmt: skip
    return f"{verb} {' and '.join(parts)}" if parts else verb
