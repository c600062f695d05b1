"""Edits of what is picked: things, pieces and an area of cells, moved or taken away as one.

What lies in layers that are locked or hidden is left alone, and the Edit says so.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from topion.brushes.following import followed
from topion.brushes.groups import loosened, name_of_group
from topion.brushes.kind import all_brushes
from topion.brushes.marks import Place
from topion.brushes.scraps import cut_out
from topion.brushes.shape import nearest_order
from topion.brushes.stamped_entries import allowed, numbered
from topion.edit.attaching import carried
from topion.edit.curves import curve_under, slid_to
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.curve import Curve
from topion.model.edit import Edit, Record
from topion.model.layer import Entry, Layer
from topion.model.piece import Piece
from topion.model.prefab import Thing, snapped_thing
from topion.model.project import Project
from topion.model.records import cells_changed, entries_changed
from topion.model.room import Room
from topion.model.scrap import Scrap
from topion.things.along import attached_at, standing_along
from topion.things.floor import floor_of
from topion.things.ground import Ground, Spots
from topion.things.surfaces import underside
from topion.things.verdict import Verdict, verdict

_EDIT_COLOUR = "#22303a"


@dataclass(frozen=True, eq=False)
class Picks:
    """entries : things and pieces.  area : of the cells of `layers`, by their ids."""

    entries: tuple[Pick, ...] = ()
    area: Area | None = None
    layers: tuple[str, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.entries) or self.area is not None


@dataclass(frozen=True, eq=False)
class _Free:
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
        if layer is None or area is None or not layer.info.traits.planes:
            continue
        cells = area.cells[room.box.holds(area.cells)]
        counts = np.bincount(layer.plane("material")[tuple(cells.T)], minlength=1)
        counts[0] = 0
        name = project.materials[int(counts.argmax()) - 1] if counts.any() else ""
        found = (brush.name for brush in all_brushes(project).values() if brush.material == name)
        if name:
            return next(found, "")
    return ""


def _free(room: Room, picks: Picks) -> _Free:
    by_table: dict[tuple[str, str], list[int]] = {}
    refused: dict[str, None] = {}
    for pick in picks.entries:
        layer = room.layers.get(pick.layer)
        for table, entries in layer.tables.items() if layer else ():
            if pick.number in entries and layer and _may(layer, refused):
                by_table.setdefault((pick.layer, table), []).append(pick.number)
    layers = tuple(i for i in picks.layers if i in room.layers and _may(room.layers[i], refused))
    return _Free(by_table, layers if picks.area else (), tuple(refused))


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


# --- moved --------------------------------------------------------------------------------


def moved(
    project: Project,
    room_name: str,
    picks: Picks,
    by: tuple[float, ...],
    *,
    override: bool = False,
    seats: bool = False,
    asks: bool = True,
) -> Edit:
    """So many cells on, in array order: things also by parts of cells, pieces and cells by whole.

    What the cells uncover becomes open.  A thing that a rule refuses where it comes to stand holds
    all back, unless `override`; where rules are not asked, the survey finds it.  seats : things
    come to stand on what carries there.
    """
    room = project.room(room_name)
    free = _free(room, picks)
    whole = tuple(round(v) for v in by)
    records: list[Record] = [*_cells_moved(room, picks.area, free.layers, whole)]
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    curves: dict[tuple[str, int], Curve | None] = {
        (key[0], number): curve.shifted(by) for key, number, curve in free.entries(room)
        if isinstance(curve, Curve)
    }  # fmt: skip
    for key, number, entry in free.entries(room):
        if isinstance(entry, Curve):
            continue
        if isinstance(entry, Thing) and entry.along is not None and entry.attached in curves:
            continue  # it comes along with its curve
        found = _shifted(entry, by if isinstance(entry, Thing) else whole)
        if isinstance(found, Piece) and not found.box.meets(room.box):
            raise BadValue(f"the place of {found.brush}", found.box.lo, f"inside {room_name}")
        if isinstance(found, Thing):
            prefab = project.prefabs.get(found.prefab)
            curve = curve_under(room, entry)
            if curve is not None:  # it only slides
                slid = slid_to(room, entry, found.at)
                (found,) = standing_along(project, room, curve, [slid])
            else:
                found = snapped_thing(found, prefab.snaps if prefab else 0)
                found = seated(project, room, found) if seats else found
        after.setdefault(key, {})[number] = found
    for (layer_id, table), entries in after.items():
        if table != "things":  # pieces, and what fields hold, which ask nobody
            records += entries_changed(room, layer_id, table, entries)
    things = {key[0]: own for key, own in after.items() if key[1] == "things"}
    place = Place(project, room_name)
    if asks:
        things, why = placed(place, records, after, override)
        if why:
            return Edit(_label("Move", free, room, picks), (), _EDIT_COLOUR, (why, *free.refused))
    for layer_id, own in things.items():
        records += entries_changed(room, layer_id, "things", own)
    pieces = {(key[0], number): entry for key, own in after.items() if key[1] == "pieces"
              for number, entry in own.items()}  # fmt: skip
    records += carried(room, pieces, without=picks.entries)
    if not curves:
        return _edit("Move", free, room, picks, records, project)
    along = followed(place, curves, records)
    edit = _edit("Move", free, room, picks, [*records, *along.records(place)], project)
    return replace(edit, notes=(*edit.notes, *along.notes()))


def _shifted(entry: Entry, by: tuple[float, ...]) -> Entry:
    moved: Entry = entry.shifted(by)
    if isinstance(moved, Thing):
        return replace(moved, y=round(moved.y, 6), x=round(moved.x, 6), z=round(moved.z, 6))
    return moved


def seated(project: Project, room: Room, thing: Thing) -> Thing:
    """The thing on what carries there, or on the wall or ceiling that holds it."""
    axes, view = room.info.axes, room.info.view
    prefab = project.prefabs.get(thing.prefab)
    if prefab is not None and prefab.floats:
        return thing
    _, turn, _, tip = thing.stance
    quarters = round(turn / 90) % 4
    held = tip or (view == "side" and quarters)
    down = underside(view, turn, tip) if held else None
    at = floor_of(project, room).seated(np.array([thing.at[-axes:]]), down)[0].tolist()
    *level, y, x = (round(v, 6) for v in at)
    return replace(thing, y=y, x=x, z=level[0] if level else thing.z)


def placed(
    place: Place,
    records: list[Record],
    after: Mapping[tuple[str, str], Mapping[int, Entry]],
    override: bool,
) -> tuple[dict[str, dict[int, Entry]], str]:
    """Things by layer and number where they may stand, and why they may not."""
    room = place.room
    things = {key: own for key, own in after.items() if key[1] == "things"}
    gone: list[Record] = [record for (layer_id, table), own in things.items()
                          for record in entries_changed(room, layer_id, table,
                                                        dict.fromkeys(own))]  # fmt: skip
    asked = {key: list(own.values()) for key, own in things.items()}
    kept, left = allowed(place, [*records, *gone], asked, override)
    if left:
        return {}, f"{left} {'thing' if left == 1 else 'things'} may not stand there"
    return {key[0]: dict(zip(own, kept[key], strict=True)) for key, own in things.items()}, ""


def verdict_of_move(
    project: Project, room_name: str, pick: Pick, thing: Thing, by: tuple[float, ...]
) -> Verdict | None:
    """The verdict on a thing so many cells on, seated there; None for one of no known prefab."""
    rooms = project.rooms.copy()
    rooms[room_name] = project.room(room_name).frozen()
    scratch = project.scratch(rooms)
    room = scratch.room(room_name)
    for record in entries_changed(room, pick.layer, "things", {pick.number: None}):
        record.write(scratch)
    prefab = project.prefabs.get(thing.prefab)
    if prefab is None:
        return None
    there = seated(scratch, room, snapped_thing(_shifted(thing, by), prefab.snaps))
    at = np.array([there.at[-room.info.axes :]])
    _, turn, mirrored, tip = there.stance
    spots = Spots(prefab, at, turn, mirrored, tip=tip)
    return verdict(Ground(scratch, room), spots)


def _cells_moved(
    room: Room, area: Area | None, layer_ids: Iterable[str], by: tuple[int, ...], keep: bool = False
) -> Iterator[Record]:
    """What brings the cells of an area somewhere else.  keep : they also stay where they are."""
    for layer_id in layer_ids if area is not None else ():
        layer = room.layers[layer_id]
        planes = layer.planes
        if not planes or area is None:
            continue
        shape = next(iter(planes.values())).shape
        own = area.in_plan(len(shape)).clipped(Box.of_shape(shape))
        cells = own.cells
        flat = np.ravel_multi_index(tuple(cells.T), shape).astype(np.intp)
        values = {name: plane.reshape(-1)[flat] for name, plane in planes.items()}
        filled = np.logical_or.reduce([found > 0 for found in values.values()])
        cells, flat = cells[filled], flat[filled]
        there = cells + np.array(by[-len(shape) :], np.intp)
        inside = Box.of_shape(shape).holds(there)
        goal = np.ravel_multi_index(tuple(there[inside].T), shape).astype(np.intp)
        every = np.union1d(goal, np.empty(0, np.intp) if keep else flat)
        at = np.searchsorted(every, goal)
        before = {name: plane.reshape(-1)[every] for name, plane in planes.items()}
        after = {}
        for name in planes:
            after[name] = np.zeros_like(before[name])
            after[name][at] = values[name][filled][inside]
        yield from cells_changed(room.info.name, layer_id, shape, every, before, after)


# --- copied, taken away, grouped ----------------------------------------------------------


def duplicated(
    project: Project, room_name: str, picks: Picks, by: tuple[float, ...], *, override: bool = False
) -> tuple[Edit, Picks]:
    """A copy so many cells on, over what lies there; and what it is picked by.

    Things that rules refuse are left out, unless `override`.
    """
    room = project.room(room_name)
    free = _free(room, replace(picks, entries=with_along(room, picks.entries)))
    whole = tuple(round(v) for v in by)
    records: list[Record] = [*_cells_moved(room, picks.area, free.layers, whole, keep=True)]
    added: dict[tuple[str, str], list[Entry]] = {}
    orders: dict[str, float] = {}
    found = sorted(free.entries(room), key=lambda e: getattr(e[2], "order", 0.0))
    for key, _, entry in found:
        copy = _shifted(entry, whole if isinstance(entry, Piece) else by)
        if isinstance(copy, Piece):
            order = orders.get(key[0]) or nearest_order(room.layers[key[0]])
            orders[key[0]] = order + 1.0
            copy = replace(copy, order=order + 1.0)
        added.setdefault(key, []).append(copy)
    for layer_id in {key[0] for key in added if key[1] == "things"}:
        own = free.by_table.get((layer_id, "curves"), [])
        known = {n: room.layers[layer_id].curves[n] for n in own}
        things = loosened(known, added[layer_id, "things"], layer_id)[1]
        added[layer_id, "things"] = list(things)
    kept, left = allowed(Place(project, room_name), records, added, override)
    fresh, numbers = numbered(room, kept)
    area = picks.area.shifted(whole) if picks.area else None
    edit = _edit("Duplicate", free, room, picks, [*records, *fresh], project)
    if left:
        edit = replace(edit, refused=(*edit.refused, f"{left} refused"))
    entries = tuple(Pick(layer_id, n) for layer_id, own in numbers.items() for n in own)
    return edit, Picks(entries, area, free.layers)


def things_changed(
    project: Project, room_name: str, after: Mapping[Pick, Thing], words: str
) -> Edit:
    """Other values for some things, whatever rules say.  words : of the label."""
    room = project.room(room_name)
    free = _free(room, Picks(tuple(after)))
    records: list[Record] = []
    for (layer_id, table), numbers in free.by_table.items():
        things = {
            number: _belonging(room, room.layers[layer_id].things[number],
                               after[Pick(layer_id, number)])
            for number in numbers
        }  # fmt: skip
        records += entries_changed(room, layer_id, table, things)
    return _edit(words, free, room, Picks(tuple(after)), records, project)


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
    free = _free(room, picks)
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    for key, number, entry in free.entries(room):
        if isinstance(entry, Thing):
            prefab = project.prefabs.get(entry.prefab)
            parts = prefab.snaps if prefab and prefab.snaps else cell_parts
            after.setdefault(key, {})[number] = snapped_thing(entry, parts)
    records = [record for (layer_id, table), things in after.items()
               for record in entries_changed(room, layer_id, table, things)]  # fmt: skip
    return _edit("Snap", free, room, picks, records, project)


def removed(project: Project, room_name: str, picks: Picks) -> Edit:
    """Taken away; cells of the area are open then."""
    room = project.room(room_name)
    free = _free(room, picks)
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
    return _edit("Remove", free, room, picks, records, project)


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
    free = _free(room, picks)
    members = {number: entry for _, number, entry in free.entries(room)}
    if len(members) < 2:
        return Edit("Group", (), _EDIT_COLOUR, ("pick two things or pieces at least",))
    name = name_of_group(members, members)
    return _regrouped(project, room, free, picks, "Group", lambda groups: (name, *groups))


def ungrouped(project: Project, room_name: str, picks: Picks) -> Edit:
    """The outermost groups of what is picked are no more."""
    room = project.room(room_name)
    free = _free(room, picks)
    return _regrouped(project, room, free, picks, "Ungroup", lambda groups: groups[1:])


def _regrouped(
    project: Project, room: Room, free: _Free, picks: Picks, verb: str, change: Any
) -> Edit:
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    for key, number, entry in free.entries(room):
        after.setdefault(key, {})[number] = replace(entry, groups=change(entry.groups))
    records: list[Record] = []
    for (layer_id, table), entries in after.items():
        records += entries_changed(room, layer_id, table, entries)
    return _edit(verb, free, room, picks, records, project)


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


def _edit(
    verb: str, free: _Free, room: Room, picks: Picks, records: Iterable[Record], project: Project
) -> Edit:
    names = [getattr(e, "brush", "") for _, _, e in free.entries(room)]
    brush = next((project.brushes[name] for name in names if name in project.brushes), None)
    colour = brush.colour if brush is not None else _EDIT_COLOUR
    notes = tuple(f"{why}, so what is picked there was left alone" for why in free.refused)
    return Edit(_label(verb, free, room, picks), tuple(records), colour, free.refused, notes)


def _label(verb: str, free: _Free, room: Room, picks: Picks) -> str:
    """`Move Lamp`, `Move 3 things of Lamp`, `Move 40 cells and 2 pieces`."""
    parts = []
    if picks.area and free.layers:
        parts.append(f"{picks.area.size} cell{'' if picks.area.size == 1 else 's'}")
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
