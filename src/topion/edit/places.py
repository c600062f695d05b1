"""Edits of the plan: rooms placed, moved and worn there, where the world starts, their order."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from topion.edit.library import free_name, put_item
from topion.edit.rooms import duplicate_room
from topion.errors import UnknownName
from topion.model.edit import Edit, joined
from topion.model.placement import Placement
from topion.model.project import Project
from topion.model.records import ItemRecord, item_changed, taken_away

At = tuple[float, float]  # (y, x) on the sheet, in cells
_INK = "#22303a"


def placed(project: Project, room: str = "") -> dict[str, Placement]:
    """The places of a room on the plan, or of all rooms, by name, in their order."""
    return {name: place for name, place in project.shelf("placements").items()
            if not room or place.room == room}  # fmt: skip


def titles(project: Project) -> dict[str, str]:
    """What each place is called: as its room, and again where that stands there already."""
    found: dict[str, str] = {}
    count: dict[str, int] = {}
    for name, place in project.shelf("placements").items():
        count[place.room] = number = count.get(place.room, 0) + 1
        again = "" if number == 1 else " again" if number == 2 else f", place {number}"
        found[name] = place.room + again
    return found


def place_room(project: Project, room: str, at: At) -> Edit:
    """A room on the plan, perhaps once more.  Raises UnknownName."""
    if room not in project.rooms:
        raise UnknownName("room", room, project.rooms)
    name = free_name(room, project.shelf("placements"))
    again = " again" if placed(project, room) else ""
    record = ItemRecord(("placements", name), None, Placement(name, room, at))
    return Edit(f"Place {room}{again}", (record,), _INK)


def move_places(project: Project, to: Mapping[str, At]) -> Edit:
    """Other places of the sheet for some placements, by name.  Raises UnknownName, BadValue."""
    records = []
    for name, at in to.items():
        place = project.named("placements", name)
        if place.at != at:
            records.append(item_changed(("placements", name), place, replace(place, at=at)))
    known = titles(project)
    what = known[next(iter(to))] if len(to) == 1 else f"{len(to)} rooms"
    return Edit(f"Move {what}", tuple(records), _INK)


def take_off(project: Project, names: Iterable[str]) -> Edit:
    """Take placements off the plan; their rooms stay.  Raises UnknownName."""
    known, names = titles(project), list(names)
    order = list(project.shelf("placements"))
    for name in names:
        project.named("placements", name)  # raises UnknownName
    names.sort(key=order.index, reverse=True)  # undone, each comes back to its place among them
    edits = [Edit("", (taken_away(project, ("placements", name)),)) for name in names]
    what = known[names[0]] if len(names) == 1 else f"{len(names)} rooms"
    return joined(f"Off the plan: {what}", edits, _INK)


def wear_there(project: Project, name: str, theme: str | None, tint: str | None) -> Edit:
    """What a room is worn in at a place; see Placement.  Raises UnknownName."""
    place = project.named("placements", name)
    edit = put_item(project, "placements", replace(place, theme=theme, tint=tint))
    worn = " and ".join(f"“{part}”" for part in (theme, tint) if part) or "as it is"
    return replace(edit, label=f"Wear {titles(project)[name]} {worn}")


def begin_at(project: Project, name: str) -> Edit:
    """Let the world start at a place.  Raises UnknownName."""
    project.named("placements", name)
    records = [
        item_changed(("placements", known), place, replace(place, begins=known == name))
        for known, place in project.shelf("placements").items()
        if place.begins != (known == name)
    ]
    return Edit(f"Start in {project.named('placements', name).room}", tuple(records), "#23786f")


def order_rooms(project: Project, room: str, place: int) -> Edit:
    """A room at another place in the list of rooms, 0 first.  Raises UnknownName."""
    before = tuple(project.rooms)
    if room not in before:
        raise UnknownName("room", room, before)
    names = [name for name in before if name != room]
    names.insert(max(0, min(place, len(names))), room)
    if tuple(names) == before:
        return Edit("Order rooms")
    return Edit(f"Move {room} in the list", (ItemRecord(("rooms",), before, tuple(names)),))


def duplicate_and_place(project: Project, room: str, at: At | None) -> Edit:
    """A copy of a room, on the plan at once if it has a place.  Raises UnknownName."""
    name = free_name(room, project.rooms)
    edit = duplicate_room(project, room, name)
    if at is None:
        return edit
    own = free_name(name, project.shelf("placements"))
    record = ItemRecord(("placements", own), None, Placement(own, name, at))
    return Edit(edit.label, (*edit.records, record), _INK)
