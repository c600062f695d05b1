"""The plan of five hundred rooms: laid out, snapped; and pictures from disk or drawn."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from bench.ratio import Ratio, compared, timed
from topion.demo.brinehollow import library
from topion.edit.logic import link_doors
from topion.edit.pieces import Pick
from topion.edit.places import place_room
from topion.formats.overviews import Shelved, library_print, room_print
from topion.model.prefab import Thing
from topion.plan.sheet import joints, laid_out, rects_of, snapped
from topion.plan.threads import threads
from topion.render.overview import overview
from topion.roles import Door
from topion.scripting import ProjectHandle
from topion.scripting import open as open_project
from topion.walk.links import doors_of

_ROOMS, _ACROSS = 500, 25
_FRAME = 0.1  # s
_SIZE = (40, 64)


def ratios() -> Iterator[Ratio]:
    world = _world()
    project = world.data
    known = {name: doors_of(project, name) for name in project.rooms}
    spots = laid_out(project, known)
    rects, one = rects_of(spots.values()), spots["Room 7"].rect

    def lay_out() -> None:
        found = laid_out(project, known)
        threads(found, known)
        joints(list(found.values()))

    spent = min(timed(lay_out) for _ in range(5))
    yield Ratio("16  500 rooms laid out, with threads and joints / 100 ms", spent / _FRAME, 1,
                spent, _FRAME)  # fmt: skip
    yield compared("16  a room snapped to 500 others / sorting 2000 numbers",
                   lambda: snapped(one, rects, 3.0, 0.5),
                   lambda: np.sort(rects.ravel()), 20)  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        world.save(Path(folder, "w.topion"))
        yield from _pictures(open_project(Path(folder, "w.topion")))


def _pictures(world: ProjectHandle) -> Iterator[Ratio]:
    """What is kept on disk against what is drawn."""
    project, shelved = world.data, Shelved(world.data)
    library_mark = library_print(project)
    names = list(project.rooms)[:40]

    def draw() -> None:
        for name in names:
            picture = overview(project, project.rooms.passing(name), 160)
            shelved.write(picture, library_mark, room_print(project, name), 160)

    def read() -> None:
        for name in names:
            assert shelved.read(library_mark, room_print(project, name), 160) is not None

    drawn = timed(draw)
    kept = min(timed(read) for _ in range(3))
    yield Ratio("16  pictures of rooms from disk / drawn anew", kept / drawn, 0.5, kept, drawn)


def _world() -> ProjectHandle:
    """Rooms in rows, each with doors to the next one and to the one below."""
    project = library()
    for number in range(_ROOMS):
        room = project.add_room(f"Room {number}", _SIZE)
        room.lay("Mud", box=((0, 0), (39, 63)))
        layer_id = room.data.id_of("Things")
        doors = [
            Thing("Plank door", y, x, role=Door())
            for y, x in ((20, 0), (20, 63), (0, 32), (39, 32))
        ]
        room.data.layers[layer_id].write_entries("things", {}, dict(enumerate(doors, 1)))
        room.data.give_numbers(len(doors))
        at = (float(number // _ACROSS * 48), float(number % _ACROSS * 68))
        project.history.apply(place_room(project.data, room.name, at))
    for number in range(_ROOMS - _ACROSS):
        for here, there, other in ((2, number + 1, 1), (4, number + _ACROSS, 3)):
            ends = (
                (f"Room {number}", Pick(layer_id, here)),
                (f"Room {there}", Pick(layer_id, other)),
            )
            project.history.apply(link_doors(project.data, *ends, back=number % 3 > 0))
    return project
