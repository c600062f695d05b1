"""What is picked, moved or copied: things, pieces, curves and an area of cells as one."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

import numpy as np

from topion.brushes.following import followed
from topion.brushes.groups import loosened
from topion.brushes.marks import Place
from topion.brushes.shape import nearest_order
from topion.brushes.stamped_entries import allowed, numbered
from topion.edit.along import slid_to
from topion.edit.attaching import carried
from topion.edit.picked import (
    EDIT_COLOUR,
    Picks,
    edit_of,
    free_of,
    label_of,
    with_along,
)
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.told import several
from topion.model.curve import Curve
from topion.model.edit import Edit, Record
from topion.model.layer import Entry
from topion.model.piece import Piece
from topion.model.prefab import Thing, snapped_thing
from topion.model.project import Project
from topion.model.records import cells_changed, entries_changed
from topion.model.room import Room
from topion.things.along import curve_under, standing_along
from topion.things.floor import floor_of
from topion.things.ground import Ground, Spots
from topion.things.surfaces import underside
from topion.things.verdict import Verdict, verdict


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
    free = free_of(room, picks)
    whole = tuple(round(v) for v in by)
    records: list[Record] = [*_cells_moved(room, picks.area, free.layers, whole)]
    after: dict[tuple[str, str], dict[int, Entry]] = {}
    curves: dict[tuple[str, int], Curve | None] = {
        (key[0], number): curve.shifted(by) for key, number, curve in free.entries(room)
        if isinstance(curve, Curve)
    }  # fmt: skip
    for key, number, entry in free.entries(room):
        rides = isinstance(entry, Thing) and entry.along is not None and entry.attached in curves
        if not isinstance(entry, Curve) and not rides:  # the others come along with their curve
            after.setdefault(key, {})[number] = _moved_entry(project, room, entry, by, seats)
    for (layer_id, table), entries in after.items():
        if table != "things":  # pieces, and what fields hold, which ask nobody
            records += entries_changed(room, layer_id, table, entries)
    things = {key[0]: own for key, own in after.items() if key[1] == "things"}
    place = Place(project, room_name)
    if asks:
        things, why = placed(place, records, after, override)
        if why:
            return Edit(label_of("Move", free, room, picks), (), EDIT_COLOUR, (why, *free.refused))
    for layer_id, own in things.items():
        records += entries_changed(room, layer_id, "things", own)
    pieces = {(key[0], number): entry for key, own in after.items() if key[1] == "pieces"
              for number, entry in own.items()}  # fmt: skip
    records += carried(room, pieces, without=picks.entries)
    if not curves:
        return edit_of("Move", free, room, picks, records, project)
    along = followed(place, curves, records)
    edit = edit_of("Move", free, room, picks, [*records, *along.records(place)], project)
    return replace(edit, notes=(*edit.notes, *along.notes()))


def _moved_entry(
    project: Project, room: Room, entry: Thing | Piece, by: tuple[float, ...], seats: bool
) -> Thing | Piece:
    """A piece by whole cells, which may not leave the room; a thing where it may come to stand:
    one that belongs to a curve only slides."""
    if isinstance(entry, Piece):
        piece: Piece = _shifted(entry, tuple(round(v) for v in by))
        if not piece.box.meets(room.box):
            raise BadValue(f"the place of {piece.brush}", piece.box.lo, f"inside {room.info.name}")
        return piece
    found: Thing = _shifted(entry, by)
    curve = curve_under(room, entry)
    if curve is not None:
        return standing_along(project, room, curve, [slid_to(room, entry, found.at)])[0]
    prefab = project.prefabs.get(found.prefab)
    found = snapped_thing(found, prefab.snaps if prefab else 0)
    return seated(project, room, found) if seats else found


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
        return {}, f"{several(left, 'thing')} may not stand there"
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


def duplicated(
    project: Project, room_name: str, picks: Picks, by: tuple[float, ...], *, override: bool = False
) -> tuple[Edit, Picks]:
    """A copy so many cells on, over what lies there; and what it is picked by.

    Things that rules refuse are left out, unless `override`.
    """
    room = project.room(room_name)
    free = free_of(room, replace(picks, entries=with_along(room, picks.entries)))
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
    edit = edit_of("Duplicate", free, room, picks, [*records, *fresh], project)
    if left:
        edit = replace(edit, refused=(*edit.refused, f"{left} refused"))
    entries = tuple(Pick(layer_id, n) for layer_id, own in numbers.items() for n in own)
    return edit, Picks(entries, area, free.layers)
