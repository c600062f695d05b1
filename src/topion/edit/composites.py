"""Composite prefabs: made of what is picked, and drawn anew when their parts change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Protocol

from topion.brushes import Stamp
from topion.brushes.parts import PARTS, is_part_of_itself, parts_of, parts_project
from topion.edit.library import free_name, put_brush, put_prefab
from topion.edit.picked import Picks, scrap_of
from topion.edit.prefabs import redrawn, with_thing_brush
from topion.errors import BadValue
from topion.model.edit import Edit, joined, written
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.model.room import Room
from topion.model.scrap import Scrap
from topion.model.solid import VoxelModel
from topion.things.rules.keeps_cells import KeepsCells


class Look(Protocol):
    """How parts look and stand; see `render.composites`."""

    @property
    def picture(self) -> Picture: ...
    @property
    def anchor_px(self) -> tuple[int, int]: ...
    @property
    def footprint(self) -> tuple[str, ...]: ...
    @property
    def height(self) -> int: ...
    @property
    def model(self) -> VoxelModel | None: ...


Drawn = Callable[[Project, Room], Look]


def composite_made(project: Project, room_name: str, picks: Picks, name: str, drawn: Drawn) -> Edit:
    """A prefab of what is picked in a room, with a card that places it; its parts are kept as
    a stamp beside it.  drawn : tells how parts look.  Raises BadValue for what cannot be one."""
    if name in project.prefabs or name in project.brushes:
        raise BadValue("the prefab", name, "a name that no prefab or brush has")
    scrap = scrap_of(project, room_name, picks)
    if scrap is None:
        raise BadValue("what is picked", "nothing", "cells or things")
    cell_px = project.room(room_name).info.cell_px
    scratch = parts_project(project, scrap, cell_px)
    look = drawn(scratch, scratch.room(PARTS))
    stamp = Stamp(free_name(f"{name} parts", project.brushes), scrap=scrap, repeat="once")
    prefab = Prefab(name, look.picture, look.anchor_px, look.footprint,
                    rules=(KeepsCells(),), parts=stamp.name, height=look.height,
                    model=look.model)  # fmt: skip
    known = project.scratch()
    kept = [*written(known, [put_brush(known, stamp)])]
    return joined(f"New thing {name}", [*kept, with_thing_brush(known, prefab)])


def scrap_of_parts(project: Project, name: str) -> Scrap:
    """The parts of a composite prefab.  Raises BadValue for one without."""
    brush = project.brushes.get(project.prefab(name).parts)
    if not isinstance(brush, Stamp) or brush.scrap is None:
        raise BadValue(f"the parts of {name}", "missing", "a stamp of a scrap")
    return brush.scrap


def parts_set(project: Project, name: str, scratch: Project, drawn: Drawn) -> Edit:
    """A composite prefab with the parts that lie in the room of a scratch project: all its things
    look so too.  Raises BadValue where that is nothing, or the prefab itself."""
    prefab, room = project.prefab(name), scratch.room(PARTS)
    scrap = parts_of(scratch, room)
    if scrap is None:
        raise BadValue(f"the parts of {name}", "nothing", "at least one cell or thing")
    if is_part_of_itself(project, name, scrap):
        raise BadValue(f"the parts of {name}", name, "other things than itself")
    look = drawn(scratch, room)
    stamp = project.brushes[prefab.parts]
    assert isinstance(stamp, Stamp)
    drawn_anew = redrawn(prefab, look.picture, look.anchor_px)
    new = replace(drawn_anew, footprint=look.footprint, height=look.height, model=look.model)
    edits = [put_brush(project, replace(stamp, scrap=scrap, anchor=())), put_prefab(project, new)]
    return joined(f"Parts of {name}", [edit for edit in edits if edit])
