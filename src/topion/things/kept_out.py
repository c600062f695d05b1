"""Walls that an Edit would lay into cells that things keep."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from topion.grid.arrays import CellList, CellMask
from topion.grid.boxes import Box
from topion.grid.told import cell_told
from topion.model.edit import Edit
from topion.model.prefab import WIDEST_FOOTPRINT, Thing
from topion.model.project import Project
from topion.model.room import Room
from topion.things.floor import Floor, floor_of
from topion.things.ground import body_cells
from topion.things.rules.keeps_cells import KeepsCells, Walls
from topion.things.rules.kind import rules_of


@dataclass(frozen=True)
class KeptOut:
    """A thing that would get a wall into its cells.  cells : how many of them; first : one.

    walls : what its rule says becomes of that.
    """

    prefab: str
    room: str
    first: tuple[int, ...]
    cells: int
    walls: Walls

    def told(self) -> str:
        """In a sentence."""
        at = cell_told(self.first)
        more = f" and {self.cells - 1} more" if self.cells > 1 else ""
        return f"{self.prefab} keeps cell {at}{more} of {self.room}"


def keepers(project: Project) -> dict[str, Walls]:
    """What each prefab that does not let walls in says of them."""
    found: dict[str, Walls] = {}
    for name, prefab in project.prefabs.items():
        for rule in rules_of(project, prefab):
            if isinstance(rule, KeepsCells) and rule.on and rule.walls != "let in":
                found[name] = rule.walls
                break
    return found


def kept_out(project: Project, edit: Edit) -> list[KeptOut]:
    """The things into whose cells the Edit would lay a wall; those that it takes away or moves, and
    those that were laid against a refusal, keep nothing.  Refused ones come first."""
    said = keepers(project)
    changed: dict[str, list[Box]] = {}
    for part in edit.dirty() if said else ():
        if part.cells and part.box is not None and part.room in project.rooms:
            changed.setdefault(part.room, []).append(part.box)
    found = []
    for room_name, boxes in changed.items():
        found += list(_in_room(project, edit, room_name, boxes, said))
    return sorted(found, key=lambda one: one.walls != "refused")


def _in_room(
    project: Project, edit: Edit, room_name: str, boxes: list[Box], said: dict[str, Walls]
) -> Iterator[KeptOut]:
    room = project.room(room_name)
    if not any(thing.prefab in said for thing in _near(room, boxes)):
        return
    rooms = project.rooms.copy()
    rooms[room_name] = room.frozen()
    scratch = project.scratch(rooms)
    for record in edit.records:
        record.write(scratch)
    after = scratch.room(room_name)
    before, then, axes = floor_of(project, room), floor_of(scratch, after), room.info.axes
    grown = np.subtract(room.info.origin or (0,) * axes, after.info.origin or (0,) * axes)
    for thing in _near(after, boxes):
        if thing.prefab not in said or thing.overridden:
            continue
        cells = np.array(body_cells(project.prefabs[thing.prefab], thing, axes), np.intp)
        cells = cells[after.box.holds(cells)]
        laid = cells[_walled(then, cells) & ~_walled(before, cells - grown)]
        if len(laid):
            first = tuple(laid[0].tolist())
            yield KeptOut(thing.prefab, room_name, first, len(laid), said[thing.prefab])


def _walled(floor: Floor, cells: CellList) -> CellMask:
    return np.asarray(floor.walls(cells) | (floor.filled(cells) > 0))


def _near(room: Room, boxes: list[Box]) -> list[Thing]:
    """Things whose bodies may reach into the boxes."""
    found = {}
    for layer_id, layer in room.bottom_up("things"):
        for box in boxes:
            for number, thing in layer.things_near(box, WIDEST_FOOTPRINT).items():
                found[layer_id, number] = thing
    return list(found.values())
