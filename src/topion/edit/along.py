"""Edits of things that belong to curves: attached, slid, put at a length or a share, detached."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from topion.brushes.following import Followed, To, followed
from topion.brushes.marks import Place
from topion.brushes.stamped_entries import with_records
from topion.edit.curves import COLOUR, count_words, curve_of, locked_layers
from topion.edit.pieces import Pick
from topion.model.curve import Along, Curve
from topion.model.edit import Edit
from topion.model.layer import Entry
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things.along import attached_at, curve_under, slid, standing_along


def attached(
    project: Project, room_name: str, things: Sequence[Pick], pick: Pick, *, onto: bool = False
) -> Edit:
    """Things belong to a curve from now on, each at the nearest of its places; onto it, or as far
    aside as they stand."""
    room = project.room(room_name)
    curve = curve_of(room, pick)
    after: dict[Pick, Thing] = {}
    for own in things:
        thing = room.layers[own.layer].things.get(own.number)
        if thing is not None:
            along = attached_at(curve, thing, on_it=onto)
            after[own] = replace(thing, attached=(pick.layer, pick.number), along=along)
    return _things(project, room, after, f"Attach {count_words(after)}")


def detached(project: Project, room_name: str, things: Sequence[Pick]) -> Edit:
    """Things that stand where they stand, whatever becomes of their curve."""
    room = project.room(room_name)
    after = {}
    for own in things:
        thing = room.layers[own.layer].things.get(own.number)
        if thing is not None and thing.along is not None:
            after[own] = replace(thing, attached=None, along=None)
    return _things(project, room, after, f"Detach {count_words(after)}")


def slid_along(project: Project, room_name: str, things: Sequence[Pick], by: float) -> Edit:
    """So many cells along their curves; round and round where these are closed."""
    room = project.room(room_name)
    after: dict[Pick, Thing] = {}
    for own, thing, curve in _on_curves(room, things):
        if thing.along is not None:
            after[own] = replace(thing, along=slid(thing.along, curve, by))
    return _things(project, room, after, f"Slide {count_words(after)}")


def put_along(
    project: Project, room_name: str, things: Sequence[Pick], **values: float | bool
) -> Edit:
    """Other values of `along` for things: share, aside, up, turn, turns; `length` in cells."""
    room = project.room(room_name)
    after: dict[Pick, Thing] = {}
    for own, thing, curve in _on_curves(room, things):
        if thing.along is not None:
            new = dict(values)
            if "length" in new:
                far = float(curve.line.wrapped(np.array([float(new.pop("length"))]))[0])
                new["share"] = min(far / max(curve.length, 1e-9), 1.0)
            if "share" in new:
                new["share"] = min(max(float(new["share"]), 0.0), 1.0)
            along: Along = replace(thing.along, filled=False, **new)  # type: ignore[arg-type]
            after[own] = replace(thing, along=along)
    return _things(project, room, after, f"Place {count_words(after)} along")


def slid_to(room: Room, thing: Thing, at: tuple[float, ...]) -> Thing:
    """A thing that belongs to a curve, at the place of that which is nearest to another; its share
    alone changes."""
    curve = curve_under(room, thing)
    if curve is None or thing.along is None:
        return thing
    level = curve.axes == 3 and not curve.on_ground
    far, _ = curve.line.nearest(at[-curve.axes :] if level else at[-2:])
    share = round(min(far / max(curve.length, 1e-9), 1.0), 9)
    return replace(thing, along=replace(thing.along, share=share, filled=False))


def _on_curves(room: Room, things: Sequence[Pick]) -> list[tuple[Pick, Thing, Curve]]:
    found = []
    for own in things:
        layer = room.layers.get(own.layer)
        thing = layer.things.get(own.number) if layer else None
        curve = curve_under(room, thing) if thing is not None else None
        if thing is not None and curve is not None:
            found.append((own, thing, curve))
    return found


def _things(project: Project, room: Room, after: dict[Pick, Thing], words: str) -> Edit:
    """Things with another `along`, where they stand then; what fills their curves makes room."""
    refused = locked_layers(room, [own.layer for own in after])
    if refused:
        return Edit(words, (), COLOUR, refused)
    place = Place(project, room.info.name)
    standing = {}
    for own, thing in after.items():
        curve = curve_under(room, thing)
        there = [thing] if curve is None else standing_along(project, room, curve, [thing])
        standing[own] = there[0]
    tables: dict[tuple[str, str], dict[int, Entry]] = {}
    for own, thing in standing.items():
        tables.setdefault((own.layer, "things"), {})[own.number] = thing
    made = _with_room_made(place, tables, after)
    return Edit(words, made.records(place), COLOUR, notes=made.notes())


def _with_room_made(
    place: Place, tables: dict[tuple[str, str], dict[int, Entry]], after: dict[Pick, Thing]
) -> Followed:
    """Things as they come to stand, and what fills the curves they belong to or belonged to."""
    own = Followed(tables)
    before = (place.room.layers[pick.layer].things.get(pick.number) for pick in after)
    curves: dict[To, Curve | None] = {}
    for thing in (*before, *after.values()):
        curve = curve_under(place.room, thing) if thing is not None else None
        if thing is not None and thing.attached and curve is not None and curve.fill is not None:
            curves[thing.attached] = curve
    if not curves:
        return own
    scratch, _ = with_records(place, own.records(place))
    made = followed(Place(scratch, place.room_name), curves)
    for key, table in tables.items():
        made.tables[key] = {**made.tables.get(key, {}), **table}
    return made
