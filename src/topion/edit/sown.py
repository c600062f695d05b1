"""Single things of a field: held where they stand or were put, banned, made plain, given back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.edit import Edit
from topion.model.layer import Entry, Layer
from topion.model.prefab import Thing, standing_cells
from topion.model.project import Project
from topion.model.records import entries_together
from topion.model.room import Room
from topion.things.field import Field, field_of
from topion.things.sowings import sowing_of, sown_in

MOST_AT_ONCE = 100_000
_COLOUR = "#6f8f3f"
_SHARE_OF_SPACING = 0.5
_LEAST_RADIUS = 0.3
Tables = dict[tuple[str, str], dict[int, Entry]]


def sown_at(project: Project, room: Room, *cells: tuple[int, ...]) -> tuple[str, Thing] | None:
    """What a shown field sows in the first of some cells that has any, and the id of its layer;
    None for none, and for what is held there."""
    if not cells:
        return None
    column = Box.of_cells(np.array([cell[-2:] for cell in cells], np.intp)).grown(2)
    column = column.clipped(room.plan_box)
    if not column.size:
        return None
    found: list[tuple[int, str, Thing]] = []
    for layer_id, layer in reversed(room.bottom_up("field")):
        if not layer.info.shown or layer.info.locked:
            continue
        sowing = sown_in(project, room, layer_id, column)
        for nth, cell in enumerate(cells):
            rows = [r for r in sowing.at(*cell) if not (len(sowing.held) and sowing.held[r])]
            if rows:
                found.append((nth, layer_id, sowing.thing(rows[0])))
                break
    best = min(found, key=lambda one: one[0], default=None)
    return None if best is None else best[1:]


def sown_inside(
    project: Project, room: Room, layer_id: str, area: Area | None = None
) -> list[Thing]:
    """The things that a field sows, in an area or everywhere, without those that are held."""
    sowing = sowing_of(project, room, layer_id)
    rows = np.arange(len(sowing))
    if len(sowing.held):
        rows = rows[sowing.held[rows] == 0]
    if area is not None:
        cells = standing_cells(sowing.positions[rows])
        own = area.in_plan(2) if area.mask.ndim == 3 and room.info.axes == 2 else area
        rows = rows[own.holds(cells)]
    return [sowing.thing(row) for row in rows[:MOST_AT_ONCE].tolist()]


def held(
    project: Project, room_name: str, layer_id: str, things: Sequence[Thing]
) -> tuple[Edit, tuple[Pick, ...]]:
    """Sown things stay where they stand from now on, whatever is rolled or painted; and what they
    are picked by then."""
    room = project.room(room_name)
    layer, first = room.layers[layer_id], room.next_number()
    tables: Tables = {(layer_id, "held"): {}, (layer_id, "bans"): {}}
    for n, thing in enumerate(things):
        tables[layer_id, "held"][first + n] = thing
        ban = _ban(project, room, layer, thing)
        tables[layer_id, "bans"][first + len(things) + n] = replace(ban, held=first + n)
    picks = tuple(Pick(layer_id, number) for number in tables[layer_id, "held"])
    return _edit(room, layer_id, tables, f"Hold {_count(things)}"), picks


def banned(project: Project, room_name: str, layer_id: str, things: Sequence[Thing]) -> Edit:
    """Nothing of the field stands any more where these do."""
    room = project.room(room_name)
    layer, first = room.layers[layer_id], room.next_number()
    bans = {first + n: _ban(project, room, layer, thing) for n, thing in enumerate(things)}
    return _edit(room, layer_id, {(layer_id, "bans"): bans}, f"Ban {_count(things)}")


def made_plain(
    project: Project, room_name: str, layer_id: str, things: Sequence[Thing], target: str = ""
) -> Edit:
    """Sown or held things become plain ones; the field sows nothing in their places.

    target : the layer of things that they come into, else the lowest above the field, else the
    topmost.  Raises BadValue without one.
    """
    room = project.room(room_name)
    layer, first = room.layers[layer_id], room.next_number()
    target = target or _layer_above(room, layer_id)
    gone = {n: t for n, t in layer.table("held").items() if any(t is own for own in things)}
    tables: Tables = {(target, "things"): {}, (layer_id, "bans"): {},
                      (layer_id, "held"): dict.fromkeys(gone)}  # fmt: skip
    for n, thing in enumerate(things):
        tables[target, "things"][first + n] = thing
        tables[layer_id, "bans"][first + len(things) + n] = _ban(project, room, layer, thing)
    for number, ban in layer.table("bans").items():
        if ban.held in gone:
            tables[layer_id, "bans"][number] = replace(ban, held=0)
    return _edit(room, layer_id, tables, f"Make {_count(things)} plain")


def given_back(project: Project, room_name: str, picks: Iterable[Pick]) -> Edit:
    """Plain things go, and the fields that sow their prefabs may stand there again."""
    room = project.room(room_name)
    tables: Tables = {}
    names: list[Thing] = []
    for pick in picks:
        layer = room.layers.get(pick.layer)
        thing = layer.things.get(pick.number) if layer else None
        if thing is None:
            continue
        for layer_id in _fields_of(project, room, thing.prefab):
            for number in _bans_at(room.layers[layer_id], thing, room.info.axes):
                tables.setdefault((layer_id, "bans"), {})[number] = None
                tables.setdefault((pick.layer, "things"), {})[pick.number] = None
        if pick.number in tables.get((pick.layer, "things"), {}):
            names.append(thing)
    if not names:
        raise BadValue("what is given back", "none of these", "things that a field had sown")
    return _edit(room, "", tables, f"Give {_count(names)} back")


def let_grow(project: Project, room_name: str, picks: Iterable[Pick]) -> Edit:
    """Held things go; what the field sows stands in the places again from which they were taken."""
    room = project.room(room_name)
    tables: Tables = {}
    names = []
    for pick in picks:
        layer = room.layers.get(pick.layer)
        thing = layer.table("held").get(pick.number) if layer else None
        if layer is None or thing is None:
            continue
        names.append(thing)
        tables.setdefault((pick.layer, "held"), {})[pick.number] = None
        for number, ban in layer.table("bans").items():
            if ban.held == pick.number:
                tables.setdefault((pick.layer, "bans"), {})[number] = None
    return _edit(room, "", tables, f"Let {_count(names)} grow")


def bans_lifted(project: Project, room_name: str, layer_id: str, area: Area | None = None) -> Edit:
    """The field may stand again where it was banned, in an area or everywhere; places of held
    things stay theirs."""
    room = project.room(room_name)
    layer = room.layers[layer_id]
    gone: dict[int, Entry] = {}
    for number, ban in layer.table("bans").items():
        cell = np.floor(np.array([ban.at]) + 0.5).astype(np.intp)
        inside = area is None or bool(area.in_plan(2).holds(cell[:, -2:])[0])
        if inside and ban.held not in layer.table("held"):
            gone[number] = None
    return _edit(room, layer_id, {(layer_id, "bans"): gone}, f"Lift {len(gone)} bans")


# --- what all share -----------------------------------------------------------------------


def _edit(room: Room, layer_id: str, tables: Tables, words: str) -> Edit:
    layers = {key[0] for key, own in tables.items() if own} | ({layer_id} if layer_id else set())
    locked = [room.layers[i].info.name for i in sorted(layers) if room.layers[i].info.locked]
    if locked:
        return Edit(words, (), _COLOUR, tuple(f"layer {name} is locked" for name in locked))
    return Edit(words, entries_together(room, tables), _COLOUR)


def _ban(project: Project, room: Room, layer: Layer, thing: Thing) -> Ban:
    sown: Field | None = field_of(project, layer)
    factors = [part.spacing for part in sown.sown if part.prefab == thing.prefab] if sown else []
    spacing = (sown.spacing if sown else 1.0) * max(factors, default=1.0)
    at = tuple(round(v, 6) for v in thing.at[-room.info.axes :])
    return Ban(at, max(_LEAST_RADIUS, spacing * _SHARE_OF_SPACING))


def _layer_above(room: Room, layer_id: str) -> str:
    things = [i for i, layer in room.bottom_up("things") if not layer.info.locked]
    if not things:
        raise BadValue("where plain things go", "no layer of things that is not locked", "one")
    above = room.order[room.order.index(layer_id) :]
    return next((i for i in things if i in above), things[-1])


def _fields_of(project: Project, room: Room, prefab: str) -> list[str]:
    found = []
    for layer_id, layer in room.bottom_up("field"):
        sown = field_of(project, layer)
        if sown is not None and any(part.prefab == prefab for part in sown.sown):
            found.append(layer_id)
    return found


def _bans_at(layer: Layer, thing: Thing, axes: int) -> list[int]:
    """The bans in which a thing stands that keep no place of a held one."""
    at = np.array(thing.at[-axes:])
    free = {n: ban for n, ban in layer.table("bans").items() if not ban.held}
    away = {n: float(np.linalg.norm(np.array(ban.at) - at)) for n, ban in free.items()}
    return [number for number, ban in free.items() if away[number] < ban.radius]


def _count(things: Sequence[Thing]) -> str:
    names = dict.fromkeys(thing.prefab for thing in things)
    if len(things) == 1:
        return next(iter(names))
    return f"{len(things)} of {next(iter(names))}" if len(names) == 1 else f"{len(things)} things"
