"""What uses a part of the library by its name; renaming it; taking it into another project.

All of it follows from the references that types declare (`topion.model.refs`) and from the
shelves: a new kind of item needs nothing here.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from topion.brushes.region import RegionBrush
from topion.edit.library import put_block, put_brush, put_item
from topion.errors import BadValue, NameTaken
from topion.model.edit import Edit, Record, joined, written
from topion.model.project import Project
from topion.model.records import EntriesRecord, ItemRecord, entries_changed, taken_away
from topion.model.refs import REGIONS, Kind, uses, with_names
from topion.model.room import Room
from topion.model.shelves import MOST_FORMER, SHELVES, TABLES, Former, Item, shelf_named, shelves

_Names = list[tuple[Kind, str, str]]


@dataclass(frozen=True)
class UsedBy:
    """One place that uses a name: an item of a shelf, or a layer of a room."""

    shelf: str = ""
    name: str = ""
    room: str = ""
    layer: str = ""
    count: int = 1


def used_by(project: Project, kind: Kind, name: str) -> Iterator[UsedBy]:
    """Everything that uses the item `name` of a shelf, or a material; rooms are read in passing."""
    for shelf in shelves():
        for item_name, item in project.shelf(shelf.name).items():
            count = sum(use[:2] == (kind, name) for use in uses(item))
            if count:
                yield UsedBy(shelf.name, item_name, count=count)
    for room in project.rooms.each():
        yield from _used_in(room, kind, name)


def _used_in(room: Room, kind: Kind, name: str) -> Iterator[UsedBy]:
    for layer_id, layer in room.bottom_up():
        entries = (entry for table in layer.tables.values() for entry in table.values())
        parts: Iterable[Any] = (layer.info, *entries)
        count = sum(use[:2] == (kind, name) for part in parts for use in uses(part))
        if count:
            yield UsedBy(room=room.info.name, layer=layer_id, count=count)


def rename_item(project: Project, shelf: str, old: str, new: str) -> Edit:
    """Give an item another name, wherever it is used; a brush takes its material or its region
    along.

    Raises UnknownName, NameTaken, and BadValue for an empty name.
    """
    word = shelf_named(shelf).word
    project.named(shelf, old)
    if not new.strip():
        raise BadValue(f"the name of a {word}", new, "at least one letter")
    if new == old:
        return Edit(old)
    if new in project.shelf(shelf):
        raise NameTaken(word, new)
    names = [(shelf, old, new)]
    if shelf == "brushes" and project.brush(old).material == old:
        if new in project.materials:
            raise NameTaken("material", new)
        names.append(("materials", old, new))
    if shelf == "brushes" and isinstance(project.brush(old), RegionBrush):
        _check_region(project, old, new)
        names.append((REGIONS, old, new))
    records = [*_renamed_items(project, shelf, old, new, names)]
    records += _renamed_tables(project, shelf, names)
    for room in project.rooms.each():
        records += _renamed_in(room, names)
    records += remembered(project, names)
    return Edit(f"Rename {old} to {new}", tuple(records))


def remembered(project: Project, names: _Names) -> Iterator[Record]:
    """Who still speaks of the old names, as others do who work in a copy, means the new ones."""
    after = project.former
    for kind, old, new in names:
        kept = (one for one in after if (one.of, one.old) not in ((kind, old), (kind, new)))
        moved = (replace(one, new=new) if (one.of, one.new) == (kind, old) else one for one in kept)
        after = (*moved, Former(kind, old, new))[-MOST_FORMER:]
    yield ItemRecord(("former",), project.former, after)


def rename_region(project: Project, old: str, new: str) -> Edit:
    """Give the regions of a name another one in all rooms, with the brush that draws them and all
    that speaks of them.  Raises NameTaken, and BadValue for an empty name."""
    if isinstance(project.brushes.get(old), RegionBrush):
        return rename_item(project, "brushes", old, new)
    if not new.strip():
        raise BadValue("the name of a region", new, "at least one letter")
    if new == old:
        return Edit(old)
    _check_region(project, old, new)
    return Edit(f"Rename {old} to {new}",
                (*renamed_everywhere(project, [(REGIONS, old, new)]),
                 *remembered(project, [(REGIONS, old, new)])))  # fmt: skip


def _check_region(project: Project, old: str, new: str) -> None:
    """Raises NameTaken where a room has regions of both names."""
    for room in project.rooms.each():
        if room.region(old) is not None and room.region(new) is not None:
            raise NameTaken(f"region of {room.info.name}", new)


def renamed_everywhere(project: Project, names: _Names) -> Iterator[Record]:
    """Other names in all that uses them; what bears them is not changed."""
    yield from _renamed_items(project, "", "", "", names)
    yield from _renamed_tables(project, "", names)
    for room in project.rooms.each():
        yield from _renamed_in(room, names)


def _renamed_items(
    project: Project, shelf: str, old: str, new: str, names: _Names
) -> Iterator[Record]:
    for known in shelves():
        for name, item in project.shelf(known.name).items():
            changed = with_names(item, names)
            if (known.name, name) == (shelf, old):
                gone = taken_away(project, (shelf, old))
                yield gone
                yield ItemRecord((shelf, new), None, replace(changed, name=new), gone.place)
            elif changed != item:
                yield ItemRecord((known.name, name), item, changed)


def _renamed_tables(project: Project, shelf: str, names: _Names) -> Iterator[Record]:
    """Tables whose entries use the names, or are the names themselves."""
    own = {"materials": "materials", **{s.name: s.numbers for s in shelves() if s.numbers}}
    for table in TABLES.values():
        before = getattr(project, table.name)
        after = with_names(before, names, table.kind)
        for kind, old, new in names:
            if own.get(kind) == table.name:
                after = tuple(new if name == old else name for name in after)
        if after != before:
            yield ItemRecord((table.name,), before, after)


def _renamed_in(room: Room, names: _Names) -> Iterator[Record]:
    name = room.info.name
    for layer_id, layer in room.bottom_up():
        info = with_names(layer.info, names)
        if info.kind == "region":
            own = next((new for kind, old, new in names if (kind, old) == (REGIONS, info.name)), "")
            info = replace(info, name=own or info.name)
        if info != layer.info:
            yield ItemRecord(("layers", name, layer_id), layer.info, info)
        for table, entries in layer.tables.items():
            changed = {number: with_names(entry, names) for number, entry in entries.items()}
            found: tuple[EntriesRecord, ...] = entries_changed(room, layer_id, table, changed)
            yield from found


def copy_item(source: Project, target: Project, shelf: str, name: str) -> Edit:
    """Take an item of one project into another, with all that it uses there.

    What is there already and equal is used as it is.  Raises NameTaken for what is there by the
    same name but another thing, and UnknownName.
    """
    source.named(shelf, name)  # raises UnknownName
    needed = needed_for(source, [(shelf, name)])
    fresh = []
    for at_shelf, at_name in needed:
        item = source.named(at_shelf, at_name)
        there = target.shelf(at_shelf).get(at_name)
        if there is not None and there != item:
            raise NameTaken(SHELVES[at_shelf].word, at_name)
        if there is None:
            fresh.append((at_shelf, item))
    scratch = target.scratch()
    edits = list(written(scratch, (put_any(scratch, *entry) for entry in fresh)))
    return joined(f"Take {name} from {source.name}", edits)


def put_any(project: Project, shelf: str, item: Item) -> Edit:
    """Put an item on a shelf, and into the tables that go with it."""
    match shelf:
        case "brushes":
            return put_brush(project, item)
        case "blocks":
            return put_block(project, item)
    return put_item(project, shelf, item)


def needed_by(project: Project, value: Any) -> list[tuple[str, str]]:
    """All items that a value uses, and what those use, as (shelf, name) in the order in which
    they can be put; names that mean nothing are left."""
    return needed_for(project, _used_items(project, value))


def needed_for(project: Project, asked: Iterable[tuple[str, str]]) -> list[tuple[str, str]]:
    """The items themselves and all that they use, in the same way."""
    found: set[tuple[str, str]] = set()
    waiting = list(asked)
    while waiting:
        at = waiting.pop()
        if at not in found:
            found.add(at)
            waiting += _used_items(project, project.named(*at))
    order = list(SHELVES)
    return sorted(found, key=lambda at: (order.index(at[0]), at[1]))


def _used_items(project: Project, value: Any) -> Iterator[tuple[str, str]]:
    """The items that a value uses by name; for a material, the brush that makes it."""
    makers: dict[str, str] = {}
    for use in dict.fromkeys(uses(value)):
        kind, used = use.kind, use.name
        if kind == "materials":
            makers = makers or {b.material: b.name for b in project.brushes.values() if b.material}
            kind, used = "brushes", makers.get(used, "")
        if kind in SHELVES and used in project.shelf(kind):
            yield kind, used
