"""Turning what is picked: things and pieces each where they stand, an area or a group as one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from topion.brushes.marks import Place
from topion.brushes.scraps import box_round, turned_in_space
from topion.brushes.scraps import turned as turned_scrap
from topion.brushes.stamped_entries import Copies
from topion.brushes.stamping import Laying, stamped
from topion.edit import pieces as piece_edits
from topion.edit.picked import Picks, entry_of, removed, scrap_of, taken_by_layer, with_along
from topion.edit.picked_moves import placed
from topion.edit.pieces import Pick
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.grid.ways import Way
from topion.model.curve import Curve
from topion.model.edit import Edit, joined, written
from topion.model.prefab import Prefab, Thing
from topion.model.project import Project
from topion.model.records import entries_changed
from topion.model.room import Room


def turned(
    project: Project, room_name: str, picks: Picks, way: Way, *, override: bool = False
) -> tuple[Edit, Picks]:
    """What is picked, turned; and what that is picked by.

    Things and pieces turn each where they stand; with an area, or in a group, all of it turns
    about its middle.
    """
    room = project.room(room_name)
    grouped = any(entry is not None and entry.groups for entry in
                  (entry_of(room, pick) for pick in picks.entries))  # fmt: skip
    curves = any(isinstance(entry_of(room, pick), Curve) for pick in picks.entries)
    if picks.area is not None or grouped or curves:
        picks = replace(picks, entries=with_along(room, picks.entries))
        return _as_one(project, room_name, picks, way)
    scratch = project.scratch()
    verb = "Mirror" if way.mirrored else "Turn"
    plans = [_things_turned(project, room, picks, way, override)]
    if any(isinstance(entry_of(room, pick), Thing) is False for pick in picks.entries):
        plans.append(_pieces_turned(scratch, room_name, picks.entries, way))
    edits = [edit for edit in plans if edit or edit.refused]
    if len(edits) == 1:
        return edits[0], picks
    found = joined(f"{verb} {len(picks.entries)} picked", edits)
    refused = tuple(why for edit in edits for why in edit.refused)
    return replace(found, refused=refused), picks


def _pieces_turned(project: Project, room_name: str, entries: tuple[Pick, ...], way: Way) -> Edit:
    if way.mirrored:
        return piece_edits.mirrored(project, room_name, entries, -1)
    return piece_edits.turned(project, room_name, entries, way.turn % 4)


def _things_turned(project: Project, room: Room, picks: Picks, way: Way, override: bool) -> Edit:
    verb, done = ("Mirror", "mirrored") if way.mirrored else ("Turn", "turned")
    after: dict[tuple[str, str], dict[int, Thing]] = {}
    refused: dict[str, None] = {}
    for pick in picks.entries:
        thing = entry_of(room, pick)
        if not isinstance(thing, Thing) or room.layers[pick.layer].info.locked:
            continue
        prefab = project.prefabs.get(thing.prefab)
        made = None if prefab is None else turned_thing(prefab, thing, way)
        if made is None:
            refused[f"{thing.prefab} cannot be {done} so"] = None
        else:
            after.setdefault((pick.layer, "things"), {})[pick.number] = made
    found, why = placed(Place(project, room.info.name), [], after, override)
    if why:
        refused[why] = None
    records = [record for layer_id, things in found.items()
               for record in entries_changed(room, layer_id, "things", things)]  # fmt: skip
    names = [thing.prefab for own in after.values() for thing in own.values()]
    what = names[0] if len(names) == 1 else f"{len(names)} things"
    return Edit(f"{verb} {what}", tuple(records), refused=tuple(refused))


def turned_thing(prefab: Prefab, thing: Thing, way: Way) -> Thing | None:
    """A thing turned where it stands; None where its prefab may not be."""
    if way.mirrored:
        return replace(thing, mirrored=not thing.mirrored) if prefab.mirrors else None
    if prefab.turns == "none" or (way.tips and not prefab.tips):
        return None
    if way.axes == 2:
        return replace(thing, turn=(thing.turn + 90 * way.turn) % 360)
    return turned_in_space(thing, way)


def _as_one(project: Project, room_name: str, picks: Picks, way: Way) -> tuple[Edit, Picks]:
    scrap = scrap_of(project, room_name, picks)
    if scrap is None:
        return Edit("Turn", (), refused=("nothing is picked",)), picks
    box = box_round(project.room(room_name), picks.area, taken_by_layer(picks))
    made = turned_scrap(project, scrap, way)
    lo = tuple(a + int((n - m) / 2) for a, n, m in
               zip(box.lo, scrap.size, made.scrap.size, strict=True))  # fmt: skip
    scratch = project.scratch(project.rooms.frozen())
    (gone,) = written(scratch, [removed(scratch, room_name, picks)])
    place = Place(scratch, room_name)
    copies = Copies(made.scrap, np.array([lo], np.intp))
    out = stamped(place, [copies], Laying(asks=False))
    laid = Edit("", tuple(out.records))
    area = picks.area
    if area is not None:
        mask = way.array(area.within(box))
        area = Area(Box(lo, tuple(a + n for a, n in zip(lo, mask.shape, strict=True))), mask)
    entries = tuple(Pick(i, n) for i, numbers in out.numbers.items() for n in numbers)
    verb = "Mirror" if way.mirrored else "Turn"
    label = gone.label.replace("Remove", verb, 1)
    edit = replace(joined(label, (gone, laid), gone.colour), notes=(*made.notes, *out.notes))
    return edit, Picks(entries, area, picks.layers)
