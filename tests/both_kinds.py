"""A project with a flat and a voxel room, and every kind of item."""

from __future__ import annotations

from tests.rooms import small_room
from tests.voxel_rooms import library
from topion.edit.history import History
from topion.scripting import ProjectHandle


def both_kinds() -> ProjectHandle:
    """A project with a flat room Yard and a voxel room Isle."""
    project = small_room((10, 12)).project
    solid = library()
    for block in solid.data.blocks.values():
        project.add_block(block)
    for prefab in solid.data.prefabs.values():
        project.add_prefab(prefab)
    for name, brush in solid.data.brushes.items():
        if name not in project.data.brushes:
            project.add_brush(brush)
    rock = solid.data.brush("Stones")
    project.add_brush(type(rock)("Rock", rock.tiles))
    room = project.add_room("Isle", (8, 9, 10))
    room.lay("Ground", box=((0, 0, 0), (2, 8, 9)))
    project.history = History(project.data)
    return project
