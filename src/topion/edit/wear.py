"""Edits of what rooms are worn in: tint maps, the palette, themes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from topion.edit.library import free_name
from topion.edit.rooms import add_layer, clear_layer, set_room
from topion.errors import BadValue
from topion.model.edit import Edit, Record, joined
from topion.model.layer import Layer, LayerInfo
from topion.model.palette import Palette, checked
from topion.model.project import Project
from topion.model.records import ItemRecord, cells_changed, item_changed, taken_away
from topion.model.room import Room
from topion.model.theme_sheet import ThemeSheet, sheet_name
from topion.model.themes import theme_names


def wear(
    project: Project, room_name: str, *, theme: str | None = None, tint: str | None = None
) -> Edit:
    """Show a room in another theme, by name, or tint map, by id; empty text takes it off.

    Raises UnknownName for a theme or a map that is not there.
    """
    room = project.room(room_name)
    changes: dict[str, object] = {}
    if theme is not None:
        if theme and theme not in theme_names(project):
            raise BadValue(
                "the theme", theme, f"one of {', '.join(theme_names(project)) or 'none'}"
            )
        changes["theme"] = theme
    if tint is not None:
        if tint and not room.layer(tint).info.traits.worn:
            raise BadValue("the tint map", room.layer(tint).info.name, "a tint map")
        changes["tint"] = tint
    edit = set_room(project, room_name, **changes)
    worn = theme if theme is not None else (room.layer(tint).info.name if tint else "")
    return replace(
        edit, label=f"Wear {worn or ('first theme' if theme is not None else 'no tints')}"
    )


def add_tint_map(project: Project, room_name: str, name: str = "Tints", copy_of: str = "") -> Edit:
    """A new tint map, which is worn then; its name is made free.  copy_of : the id of another one,
    whose tints it begins with."""
    room = project.room(room_name)
    names = [layer.info.name for _, layer in room.tint_maps()]
    info = LayerInfo(free_name(name, names), "tints")
    layer_id = room.new_layer_id(info.name)
    made = add_layer(project, room_name, info)
    worn = item_changed(("rooms", room_name), room.info, replace(room.info, tint=layer_id))
    planes = tuple(copied_planes(room, copy_of, layer_id)) if copy_of else ()
    return Edit(f"New tint map {info.name}", (*made.records, *planes, worn))


def copied_planes(room: Room, layer_id: str, new_id: str) -> tuple[Record, ...]:
    """What fills the planes of a new layer as those of another one are."""
    layer = room.layer(layer_id)
    if not layer.planes:
        return ()
    planes = dict(layer.planes)
    shape = next(iter(planes.values())).shape
    filled = np.logical_or.reduce([plane > 0 for plane in planes.values()])
    flat = np.flatnonzero(filled)
    after = {name: plane.reshape(-1)[flat] for name, plane in planes.items()}
    before = {name: np.zeros_like(values) for name, values in after.items()}
    return cells_changed(room.info.name, new_id, shape, flat, before, after)


def clear_tint_map(project: Project, room_name: str, layer_id: str) -> Edit:
    """No cell of a tint map is tinted any more; the map stays."""
    return clear_layer(project, room_name, layer_id)


def put_tint_map(
    project: Project, room_name: str, name: str, planes: dict[str, np.ndarray], palette: Palette
) -> Edit:
    """A tint map as it was read, in place of the one of that name, and a palette that has its
    colours.  planes : fore, back and bright, the shape of the room.  Raises BadValue."""
    room = project.room(room_name)
    if any(plane.shape != room.info.size for plane in planes.values()):
        raise BadValue(
            "the size of the tint map", next(iter(planes.values())).shape, f"{room.info.size}"
        )
    parts = [set_palette(project, palette)]
    known = next((i for i, layer in room.tint_maps() if layer.info.name == name), "")
    layer = room.layers[known] if known else Layer(LayerInfo(name, "tints"), room.info.size)
    layer_id = known or room.new_layer_id(name)
    if not known:
        parts.append(add_layer(project, room_name, layer.info))
    flat = np.arange(room.box.size, dtype=np.intp)
    before = {plane: layer.plane(plane).reshape(-1) for plane in planes}
    after = {plane: values.reshape(-1).astype(np.uint8) for plane, values in planes.items()}
    cells = cells_changed(room_name, layer_id, room.info.size, flat, before, after)
    return joined(f"Bring in {name}", [*parts, Edit(name, cells)])


def set_palette(project: Project, palette: Palette, label: str = "Palette") -> Edit:
    """Another palette.  Raises BadValue for one with something twice."""
    if checked(palette) == project.palette:
        return Edit(label)
    return Edit(label, (ItemRecord(("palette",), project.palette, palette),))


def set_two_tone(project: Project, name: str, two_tone: bool) -> Edit:
    """Let light pixels of a tile set take the foreground of tints and dark ones the background, or
    none; the sheets of its themes too."""
    tileset = project.tileset(name)
    changed = {("tilesets", name): (tileset, replace(tileset, two_tone=two_tone))}
    for sheet in project.shelf("themes").values():
        if sheet.tileset == name:
            changed["themes", sheet.name] = (sheet, replace(sheet, two_tone=two_tone))
    records = [item_changed(at, a, b) for at, (a, b) in changed.items() if a.two_tone != two_tone]
    verb = "takes tints" if two_tone else "keeps its colours"
    return Edit(f"{name} {verb}", tuple(records))


def put_theme_sheet(project: Project, sheet: ThemeSheet) -> Edit:
    """Add the sheet of a theme for a tile set, or put it in place of the one that is there."""
    project.tileset(sheet.tileset)
    old = project.shelf("themes").get(sheet.name)
    if old == sheet:
        return Edit(sheet.name)
    label = f"Theme {sheet.theme} for {sheet.tileset}"
    return Edit(label, (item_changed(("themes", sheet.name), old, sheet),))


def remove_theme(project: Project, theme: str) -> Edit:
    """Take a theme away with all its sheets; rooms that wear it show their first sheets."""
    records: list[Record] = [taken_away(project, ("themes", sheet.name))
                             for sheet in project.shelf("themes").values()
                             if sheet.theme == theme]  # fmt: skip
    return Edit(f"Remove theme {theme}", tuple(records))


__all__ = [
    "add_tint_map",
    "clear_tint_map",
    "put_theme_sheet",
    "put_tint_map",
    "remove_theme",
    "set_palette",
    "set_two_tone",
    "sheet_name",
    "wear",
]
