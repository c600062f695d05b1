"""Edits of the slots of a tile set, where they are used, and finding them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from topion.edit.library import put_item
from topion.edit.names import remembered, renamed_everywhere
from topion.errors import BadValue, NameTaken
from topion.grid.arrays import Rgba, TileIds
from topion.model.edit import Edit
from topion.model.layer import LayerKind
from topion.model.project import Project
from topion.model.records import ItemRecord
from topion.model.refs import Kind, uses
from topion.model.shelves import shelves
from topion.model.tileset import Slot, TileRef, TileSet, slot_kind
from topion.weaving.looms import tile_ids
from topion.weaving.settle import shown_tiles

Place = tuple[int, int]


@dataclass(frozen=True)
class SlotUse:
    """Where a slot is used: an item of a shelf, or cells of a room; first : one of them."""

    shelf: str = ""
    name: str = ""
    room: str = ""
    cells: int = 0
    first: tuple[int, ...] = (0, 0)


def slot_at(tileset: TileSet, at: Place) -> Slot:
    """What is known of a slot, by its place."""
    return tileset.slots.get(tileset.name_at(at), Slot(at))


def set_slots(project: Project, tileset_name: str, places: Iterable[Place], **changes: Any) -> Edit:
    """Give slots other traits, frames or times.  Raises BadValue for what a slot cannot have."""
    tileset = project.tileset(tileset_name)
    slots = dict(tileset.slots)
    for at in places:
        changed = replace(slot_at(tileset, at), **changes)
        plain = changed == Slot(at) and tileset.name_at(at) == f"{at[0]},{at[1]}"
        if plain:
            slots.pop(tileset.name_at(at), None)
        else:
            slots[tileset.name_at(at)] = changed
    edit = put_item(project, "tilesets", replace(tileset, slots=slots))
    what = ", ".join(name.replace("_", " ") for name in changes)
    return replace(edit, label=f"{tileset_name}: {what}") if edit else edit


def rename_slot(project: Project, tileset_name: str, old: str, new: str) -> Edit:
    """Give a slot another name, wherever it is used.  Raises BadValue and NameTaken."""
    tileset, new = project.tileset(tileset_name), new.strip()
    slot = tileset.slot(old)
    if new == old:
        return Edit(old)
    if not new or "," in new:
        raise BadValue("the name of a slot", new, "at least one letter, and no comma")
    if new in tileset.slots:
        raise NameTaken("slot", new)
    slots = {new if name == old else name: known for name, known in tileset.slots.items()}
    slots.setdefault(new, slot)
    names = [(slot_kind(tileset_name), old, new)]
    own = ItemRecord(("tilesets", tileset_name), tileset, replace(tileset, slots=slots))
    rest = renamed_everywhere(project, names)
    return Edit(f"Slot {old} is {new}", (own, *rest, *remembered(project, names)))


def slot_uses(project: Project, tileset_name: str, slot: str) -> Iterator[SlotUse]:
    """Everything that lays a slot, and the rooms that were read in which it shows."""
    yield from on_shelves(project, slot_kind(tileset_name), slot)
    numbers = [number for ref, number in tile_ids(project).items()
               if (ref.tileset, ref.slot) == (tileset_name, slot)]  # fmt: skip
    yield from in_rooms(project, "tiles", lambda shown: np.isin(shown, numbers))


def on_shelves(project: Project, kind: Kind, name: str) -> Iterator[SlotUse]:
    """The items of the library that use a name of that kind."""
    for shelf in shelves():
        for item_name, item in project.shelf(shelf.name).items():
            count = sum(use[:2] == (kind, name) for use in uses(item))
            if count:
                yield SlotUse(shelf.name, item_name, cells=count)


def in_rooms(
    project: Project, layers: LayerKind, found: Callable[[TileIds], NDArray[np.bool_]]
) -> Iterator[SlotUse]:
    """The rooms that were read in which cells of those layers show what is found."""
    for room in project.rooms.read_ones():
        for _, layer in room.bottom_up(layers):
            here = found(shown_tiles(project, layer))
            if here.any():
                first = tuple(np.argwhere(here)[0].tolist())
                yield SlotUse(room=room.info.name, cells=int(here.sum()), first=first)


def used_slots(project: Project, tileset_name: str) -> set[str]:
    """The slots that anything in the library lays."""
    kind = slot_kind(tileset_name)
    items = (item for shelf in shelves() for item in project.shelf(shelf.name).values())
    return {use.name for item in items for use in uses(item) if use.kind == kind}


def alike_slots(tileset: TileSet) -> list[tuple[str, ...]]:
    """Slots whose pixels are equal, in groups of two or more."""
    groups: dict[bytes, list[str]] = {}
    for name in tileset.filled_slots():
        groups.setdefault(tileset.pixels(tileset.slot(name).at).tobytes(), []).append(name)
    return [tuple(names) for names in groups.values() if len(names) > 1]


def found_slots(project: Project, tileset_name: str, asked: str) -> set[str]:
    """Slots by letters of their name or tags; `unused` and `alike` find those.  All for nothing."""
    tileset = project.tileset(tileset_name)
    names = set(tileset.filled_slots())
    letters = asked.strip().lower()
    if letters == "unused":
        return names - used_slots(project, tileset_name)
    if letters == "alike":
        return {name for group in alike_slots(tileset) for name in group}
    tags = {name: slot.tags for name, slot in tileset.slots.items()}
    return {n for n in names if any(letters in w.lower() for w in (n, *tags.get(n, ())))}


def drawn_heights(pixels: Rgba, count: int) -> tuple[float, ...]:
    """How high what is drawn reaches, at `count` places from the left to the right edge, 0 to 1."""
    solid = pixels[..., 3] >= 128
    high, wide = solid.shape
    tops = np.where(solid.any(axis=0), high - solid.argmax(axis=0), 0) / high
    columns = np.rint(np.linspace(0, wide - 1, count)).astype(int)
    return tuple(tops[columns].tolist())


def ref_of(tileset: TileSet, at: Place) -> TileRef:
    """The tile of a slot by its place."""
    return TileRef(tileset.name, tileset.name_at(at))
