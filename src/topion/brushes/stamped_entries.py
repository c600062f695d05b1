"""Laying the things and pieces of a scrap, where rules allow it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from topion.brushes.groups import apart, regrouped, tied
from topion.brushes.marks import Place
from topion.brushes.shape import nearest_order
from topion.grid.areas import Area
from topion.grid.arrays import CellList, CellMask
from topion.grid.boxes import Box
from topion.model.ban import Ban
from topion.model.edit import Record
from topion.model.layer import Entry
from topion.model.prefab import Stance, Thing, standing_cells
from topion.model.project import Project
from topion.model.records import EntriesRecord, entries_changed
from topion.model.room import Room
from topion.model.scrap import Scrap, ScrapLayer
from topion.things.ground import Ground, Spots
from topion.things.verdict import allowed_spots

Target = tuple[str, ScrapLayer]  # the id of a layer, and what of a scrap is laid in it
Key = tuple[str, str]  # a layer's id and the name of a table
Added = dict[Key, list[Entry]]


@dataclass(frozen=True, eq=False)
class Copies:
    """Where a scrap is laid: its first cell at each of (n, axes) corners."""

    scrap: Scrap
    corners: CellList

    def areas(self) -> Iterator[Area]:
        """What each copy covers."""
        own = Area(self.scrap.box, np.asarray(self.scrap.mask))
        return (own.shifted(tuple(corner)) for corner in self.corners.tolist())


@dataclass(frozen=True, eq=False)
class Known:
    """Copies of a scrap, and the layers that its own are laid in."""

    copies: Copies
    targets: tuple[Target, ...]


def entries_of(room: Room, known: Sequence[Known], within: Area | None) -> Added:
    """All pieces and things, by where they go; things in what an earlier copy covers are left
    out, and so is what does not lie in the area."""
    added: Added = {}
    covered = _Covered(room, known)
    orders: dict[str, float] = {}
    number = 0
    for one in known:
        for corner, area in zip(one.copies.corners.tolist(), one.copies.areas(), strict=True):
            number += 1
            for layer_id, layer in one.targets:
                order = orders.get(layer_id) or nearest_order(room.layers[layer_id])
                for piece in layer.pieces:
                    moved = piece.shifted(tuple(corner))
                    if moved.box.meets(room.box) and lies_in(within, moved.box):
                        order += 1.0
                        moved = replace(moved, order=order, groups=apart(piece.groups, number))
                        added.setdefault((layer_id, "pieces"), []).append(moved)
                orders[layer_id] = order
                curves = [curve.shifted(tuple(corner)) for curve in layer.curves]
                stays = all(lies_in(within, curve.box) for curve in curves)
                own = added.setdefault((layer_id, "curves"), []) if curves else []
                first = len(own)
                own += curves if stays else ()
                for thing in layer.things:
                    there = thing.shifted(tuple(corner))
                    inside = within is None or stands_in(within, there, room.info.axes)
                    if inside and not covered.holds(there):
                        there = replace(there, groups=apart(thing.groups, number))
                        if there.attached is not None and not there.attached[0]:
                            to = ("", first + there.attached[1]) if stays else None
                            there = replace(there, attached=to,
                                            along=there.along if stays else None)  # fmt: skip
                        added.setdefault((layer_id, "things"), []).append(there)
            covered.add(area)
    return added


class _Covered:
    """The cells that copies have laid so far, as far as anybody asks."""

    def __init__(self, room: Room, known: Sequence[Known]) -> None:
        self._room = room
        several = sum(len(one.copies.corners) for one in known) > 1
        things = any(layer.things for one in known for _, layer in one.targets)
        self._cells = np.zeros(room.info.size, bool) if several and things else None

    def add(self, area: Area) -> None:
        """A copy was laid."""
        both = area.box.clipped(self._room.box)
        if self._cells is not None and both.size:
            self._cells[both.slices] |= area.within(both)

    def holds(self, thing: Thing) -> bool:
        """Whether a thing would stand in one of them."""
        if self._cells is None:
            return False
        return stands_in(Area(self._room.box, self._cells), thing, self._room.info.axes)


def lies_in(area: Area | None, box: Box) -> bool:
    """Whether all of a box belongs to the area; always without one."""
    return area is None or bool(area.within(box).all())


def stands_in(area: Area, thing: Thing, axes: int) -> bool:
    """Whether the own cell of a thing belongs to the area."""
    return bool(area.holds(standing_cells(np.array([thing.at[-axes:]])))[0])


def cleared(room: Room, known: Sequence[Known]) -> Iterator[Record]:
    """Takes away the things that stand in the copies, and pieces that lie in one as a whole."""
    areas = [area for one in known for area in one.copies.areas()]
    for layer_id in dict.fromkeys(target[0] for one in known for target in one.targets):
        layer = room.layers[layer_id]
        things = {n: None for n, thing in layer.things.items()
                  if any(stands_in(area, thing, room.info.axes) for area in areas)}  # fmt: skip
        pieces = {n: None for n, piece in layer.pieces.items()
                  if any(lies_in(area, piece.box) for area in areas)}  # fmt: skip
        yield from entries_changed(room, layer_id, "things", things)
        yield from entries_changed(room, layer_id, "pieces", pieces)


def allowed(
    place: Place, records: Sequence[Record], added: Added, override: bool
) -> tuple[Added, int]:
    """What is added without the things that rules refuse on the ground that `records` make, and
    how many those are.  override : they are laid all the same, and marked so."""
    if not any(table == "things" for _, table in added):
        return added, 0
    ground = Ground(*with_records(place, records))
    left, kept = 0, dict(added)
    for key, own in added.items():
        if key[1] == "things":
            good = verdicts(ground, own).tolist()
            left += 0 if override else good.count(False)
            kept[key] = [
                thing if ok else replace(thing, overridden=True)
                for thing, ok in zip(own, good, strict=True)
                if ok or override
            ]
    return kept, left


def with_records(place: Place, records: Sequence[Record]) -> tuple[Project, Room]:
    """A scratch project in which these are written, and its room."""
    rooms = place.project.rooms.copy()
    rooms[place.room_name] = place.room.frozen()
    scratch = place.project.scratch(rooms)
    for record in records:
        record.write(scratch)
    return scratch, scratch.room(place.room_name)


def verdicts(ground: Ground, things: Sequence[Thing]) -> CellMask:
    """(n,) which of the things may stand there; those laid against a refusal may."""
    good = np.array([thing.overridden for thing in things], bool)
    alike: dict[Stance, list[int]] = {}
    for row, thing in enumerate(things):
        alike.setdefault(thing.stance, []).append(row)
    axes = ground.room.info.axes
    for stance, rows in alike.items():
        prefab = ground.project.prefabs.get(stance.prefab)
        if prefab is not None:
            at = np.array([things[row].at[-axes:] for row in rows])
            spots = Spots(prefab, at, stance.turn, stance.mirrored, tip=stance.tip)
            good[rows] |= allowed_spots(ground, spots)
    return good


def numbered(room: Room, added: Added) -> tuple[list[EntriesRecord], dict[str, list[int]]]:
    """Records that put all of it in, to be written in this order, and the numbers it gets by the
    id of its layer."""
    number, highest = room.next_number(), room.numbers
    flat = [(key, entry) for key, own in added.items() for entry in own]
    fresh = regrouped({number + n: entry for n, (_, entry) in enumerate(flat)})
    by_key: dict[Key, dict[int, Entry]] = {}
    for (key, _), (own, entry) in zip(flat, fresh.items(), strict=True):
        by_key.setdefault(key, {})[own] = entry
    records, numbers = [], dict[str, list[int]]()
    for (layer_id, table), entries in by_key.items():
        curves = [(layer_id, own) for own in by_key.get((layer_id, "curves"), ())]
        if table == "things":
            entries = {own: tied(thing, curves) for own, thing in entries.items()}
        if table == "bans":
            held = [*by_key.get((layer_id, "held"), ())]
            entries = {own: _of_held(ban, held) for own, ban in entries.items()}
        last = max(entries)
        records.append(EntriesRecord(room.info.name, layer_id, table, {}, entries, last - highest))
        highest = last
        numbers.setdefault(layer_id, []).extend(entries)
    return records, numbers


def _of_held(ban: Ban, held: Sequence[int]) -> Ban:
    """A copied ban, of the copy of the held thing that it names by its rank, less than 0."""
    if ban.held >= 0:
        return ban
    return replace(ban, held=held[-ban.held - 1] if -ban.held <= len(held) else 0)
