"""Edits of prefabs and of their rules."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from topion.brushes import ThingsBrush
from topion.edit.library import free_name, put_brush, put_item, put_prefab
from topion.edit.picked import things_changed
from topion.edit.pieces import Pick
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.edit import Edit, joined
from topion.model.frames import STILL, FrameSet, Plays
from topion.model.picture import Picture
from topion.model.prefab import PlacementRule, Prefab, PrefabClass, Thing
from topion.model.project import Project
from topion.model.property import Property
from topion.model.tileset import TileSet
from topion.pictures.png import picture_of
from topion.things.ground import counts_of
from topion.things.rules.keeps_cells import KeepsCells

Rules = tuple[PlacementRule, ...]


def set_prefab(project: Project, name: str, **changes: Any) -> Edit:
    """Give a prefab other marks, turns or rules.  Raises BadValue for what it cannot have."""
    edit = put_item(project, "prefabs", replace(project.prefab(name), **changes))
    what = ", ".join(field.replace("_", " ") for field in changes)
    return replace(edit, label=f"{name}: {what}") if edit else edit


def redrawn(prefab: Prefab, picture: Picture, anchor_px: tuple[int, int]) -> Prefab:
    """The prefab with another picture; frames and turned pictures of another size go."""
    fits = picture.size_px == prefab.picture.size_px
    return replace(prefab, picture=picture, anchor_px=anchor_px,
                   frames=prefab.frames if fits else (),
                   turned=prefab.turned if fits else ())  # fmt: skip


def set_picture(project: Project, name: str, picture: Picture, anchor_px: tuple[int, int]) -> Edit:
    """Draw a prefab otherwise; see `redrawn`."""
    edit = put_item(project, "prefabs", redrawn(project.prefab(name), picture, anchor_px))
    return replace(edit, label=f"{name}: picture") if edit else edit


def set_rules(project: Project, name: str, rules: Rules, what: str, *, of_class: bool) -> Edit:
    """Give a prefab, or its class, other rules.  what : was done, for the ribbon."""
    prefab = project.prefab(name)
    if of_class and prefab.class_name:
        edit = put_item(project, "classes", PrefabClass(prefab.class_name, rules))
        return replace(edit, label=f"Class {prefab.class_name}: {what}") if edit else edit
    edit = put_item(project, "prefabs", replace(prefab, rules=rules))
    return replace(edit, label=f"{name}: {what}") if edit else edit


def class_rules(project: Project, class_name: str) -> Rules:
    """The rules that hold for all prefabs of a class."""
    found = project.shelf("classes").get(class_name)
    return found.rules if found is not None else ()


def changed_rule(rules: Rules, number: int, **changes: Any) -> Rules:
    """One of the rules set otherwise.  Raises BadValue for what it cannot have."""
    new: Any = replace(rules[number], **changes)  # type: ignore[type-var]
    return (*rules[:number], new, *rules[number + 1 :])


def moved_rule(rules: Rules, number: int, to: int) -> Rules:
    """One of the rules at another place: the first that refuses speaks."""
    rest = [*rules[:number], *rules[number + 1 :]]
    rest.insert(max(0, min(to, len(rest))), rules[number])
    return tuple(rest)


def without_rule(rules: Rules, number: int) -> Rules:
    """One rule less."""
    return (*rules[:number], *rules[number + 1 :])


def with_cell(footprint: tuple[str, ...], row: int, column: int) -> tuple[str, ...]:
    """A cell of the footprint stood in, or no longer; what is only open at its edges is cut off.

    row, column : may lie one beyond its top, left or right.  The lowest row stays the lowest, and
    the middle of that row stays the middle: it grows to both sides at once.
    """
    rows = [list(line) for line in footprint]
    if row < 0:
        rows, row = [["."] * len(rows[0]), *rows], 0
    if not 0 <= column < len(rows[0]):
        rows = [[".", *line, "."] for line in rows]
        column += 1
    rows[row][column] = "." if rows[row][column] == "#" else "#"
    return _cut(rows)


def _cut(rows: list[list[str]]) -> tuple[str, ...]:
    while len(rows) > 1 and "#" not in rows[0]:
        rows = rows[1:]
    while len(rows[0]) > 2 and all(line[0] == line[-1] == "." for line in rows):
        rows = [line[1:-1] for line in rows]
    return tuple("".join(line) for line in rows)


def placed_in(project: Project, name: str) -> Iterator[tuple[str, int]]:
    """(room, how many) of each room that things of a prefab were placed in."""
    for room in project.rooms:
        count = counts_of(project, room)[name]
        if count:
            yield room, count


def with_property(
    properties: tuple[Property, ...], number: int, new: Property | None
) -> tuple[Property, ...]:
    """Another property in the place of one, or behind the last; None takes it away."""
    rest = list(properties)
    rest[number : number + 1] = [] if new is None else [new]
    return tuple(rest)


def set_values(project: Project, room_name: str, things: Mapping[Pick, Thing], name: str,
               text: str) -> Edit:  # fmt: skip
    """Give things another value of a property; those whose prefab does not have it stay.

    Raises BadValue for a value that one of them cannot have.
    """
    after = {}
    for pick, thing in things.items():
        prefab = project.prefab(thing.prefab)
        known = next((p for p in prefab.properties if p.name == name), None)
        if known is None:
            continue
        value, values = known.checked(text), dict(thing.properties)
        values.pop(name, None)
        after[pick] = replace(thing, properties=values if value == known.value else
                              {**values, name: value})  # fmt: skip
    return things_changed(project, room_name, after, f"Set {name} of")


# --- made of what is there ------------------------------------------------------------------


def prefab_of_picture(name: str, picture: Picture, cell_px: int) -> Prefab:
    """A prefab that stands on the lowest visible row of its picture, as many cells wide as that."""
    _, width = picture.size_px
    cells = max(1, round(width / cell_px))
    return Prefab(
        name,
        picture,
        (_lowest_row(picture.rgba), _anchor_x(width, cells)),
        ("#" * cells,),
        mirrors=True,
        rules=(KeepsCells(),),
    )


def _lowest_row(rgba: np.ndarray) -> int:
    """One below the lowest row with a visible pixel."""
    rows = np.flatnonzero(rgba[..., 3].any(axis=1))
    return int(rows[-1]) + 1 if len(rows) else rgba.shape[0]


def _anchor_x(width: int, cells: int) -> int:
    """The px column over the middle of the thing's own cell, the left one of two middles."""
    return round(width / cells * ((cells - 1) // 2 + 0.5))


def with_thing_brush(project: Project, prefab: Prefab) -> Edit:
    """Put a prefab in the library, and a brush that places it on the rack."""
    brush = ThingsBrush(prefab.name, prefab.name)
    known = project.with_items("prefabs", {prefab.name: prefab})
    edits = [put_prefab(project, prefab), put_brush(known, brush)]
    return joined(f"New thing {prefab.name}", edits)


def prefab_of_slots(tileset: TileSet, box: Box, taken: Iterable[str]) -> Prefab:
    """A prefab with the picture of marked slots as they lie on the sheet, without what lies between
    them.  Raises BadValue if all are empty."""
    (height, width), (rows, columns) = tileset.cut.tile, box.shape
    rgba = np.zeros((rows * height, columns * width, 4), np.uint8)
    for y, x in box.cells().tolist():
        if tileset.filled[y, x]:
            top, left = (y - box.lo[0]) * height, (x - box.lo[1]) * width
            rgba[top : top + height, left : left + width] = tileset.pixels((y, x))
    if not rgba[..., 3].any():
        raise BadValue("the marked block", box.shape, "at least one slot that is not empty")
    first = tileset.name_at((box.lo[0], box.lo[1]))
    name = free_name(first if "," not in first else f"{tileset.name} thing", taken)
    return prefab_of_picture(name, picture_of(rgba), width)


def copied_prefab(project: Project, name: str) -> tuple[Edit, str]:
    """A new prefab like another one, with a brush of its own; and its name."""
    new = free_name(name, project.prefabs, project.brushes)
    return with_thing_brush(project, replace(project.prefab(name), name=new)), new


def prefab_of_frames(tileset: TileSet, box: Box, taken: Iterable[str], ms: int = 160) -> Prefab:
    """An animated prefab: each marked slot that is not empty is a frame, in reading order.

    Raises BadValue for fewer than two.
    """
    places = [(y, x) for y, x in box.cells().tolist() if tileset.filled[y, x]]
    if len(places) < 2:
        raise BadValue("the marked slots", len(places), "two or more that are not empty")
    pictures = tuple(picture_of(np.array(tileset.pixels(at))) for at in places)
    name = free_name(f"{tileset.name} frames", taken)
    first = prefab_of_picture(name, pictures[0], tileset.cut.tile[1])
    return replace(first, frames=(FrameSet(STILL, pictures, (ms,) * len(pictures)),))


def with_frames(
    sets: tuple[FrameSet, ...], name: str, pictures: tuple[Picture, ...], ms: tuple[int, ...],
    plays: Plays = "loops",
) -> tuple[FrameSet, ...]:  # fmt: skip
    """The sets with other frames in one of them; without that set where there are no pictures.

    Raises BadValue for frames that cannot be.
    """
    rest = [known for known in sets if known.name != name]
    at = next((n for n, known in enumerate(sets) if known.name == name), len(rest))
    if pictures:
        rest.insert(at, FrameSet(name, pictures, ms, plays))
    return tuple(rest)
