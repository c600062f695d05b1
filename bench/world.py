"""Anchor 12: a world of 500 rooms of 64×96 with six layers: opening, saving, the survey.

Each runs in a process of its own where memory counts, so that nothing is shared.
"""

from __future__ import annotations

import json
import os
import resource
import tempfile
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

import topion
from bench.ratio import Ratio, peak_mb, timed
from bench.weaving import islands
from topion.demo.brinehollow import library
from topion.edit.serial import edit_to_plain
from topion.model.layer import Layer, LayerInfo
from topion.model.room import Room, RoomInfo
from topion.scripting import ProjectHandle
from topion.survey import survey
from topion.weaving.settle import shown_tiles

_SIZE = (64, 96)
_LAYERS = (("Ground", "tiles"), ("Water", "tiles"), ("Cover", "tiles"), ("Roof", "tiles"),
           ("Things", "things"), ("More", "things"))  # fmt: skip


def ratios() -> Iterator[Ratio]:
    with tempfile.TemporaryDirectory() as place:
        small = _saved(Path(place) / "small.topion", 50)
        world = _saved(Path(place) / "world.topion", 500)
        yield from _opening(world)
        yield from _stroke(small, world)
        yield from _seed(world)


def _saved(folder: Path, count: int) -> Path:
    project = library()
    cells = islands(256)
    for number in range(count):
        info = RoomInfo(f"Room {number}", _SIZE)
        room = Room(info)
        for at, (name, kind) in enumerate(_LAYERS):
            layer = Layer(LayerInfo(name, kind), _SIZE)  # type: ignore[arg-type]
            if kind == "tiles":
                top, left = (number * 7 + at * 31) % 190, (number * 13 + at * 17) % 150
                part = cells[top : top + _SIZE[0], left : left + _SIZE[1]]
                layer.put_planes({"material": np.where(part > at, part, 0).astype(np.uint16)})
            room.layers[name.lower()] = layer
        room.order = tuple(room.layers)
        project.data.rooms[info.name] = room
    project.save(folder)
    return folder


def _opening(world: Path) -> Iterator[Ratio]:
    heads = sorted(world.glob("rooms/*/room.json"))
    opened = min(timed(lambda: topion.open(world)) for _ in range(5))
    loaded = min(timed(lambda: [json.loads(p.read_bytes()) for p in heads]) for _ in range(5))
    yield Ratio(
        "12  open 500 rooms / json.load of their heads", opened / loaded, 1.5, opened, loaded
    )
    yield Ratio("12  open 500 rooms, s", opened, 0.5)
    yield Ratio("12  memory of it beyond the bare program, MB", _memory(world) - _memory(None), 60)


def _memory(folder: Path | None) -> float:
    """Peak memory in MB of a process that opens a project, or only loads the program."""
    code = "import topion, topion.scripting, sys\n"
    return peak_mb(code + (f"kept = topion.open({str(folder)!r})\n" if folder else ""))


def _stroke(small: Path, world: Path) -> Iterator[Ratio]:
    saves, surveys = [], []
    for folder in (small, world):
        project = topion.open(folder)
        room = project.room("Room 7")
        project.check()
        save, survey = [], []
        for step in range(7):
            room.lay("Mud", cells=[(step, 3)])
            survey.append(timed(project.check))
            save.append(timed(project.save))
        saves.append(float(np.median(save)))
        surveys.append(float(np.median(survey)))
    files = list((world / "rooms/Room 7").iterdir())
    write = timed(lambda: _write_all(files, world.parent))
    yield Ratio("12  save after a stroke / write and fsync of its files", saves[1] / write, 3,
                saves[1], write)  # fmt: skip
    yield Ratio("12  save after a stroke, ms", saves[1] * 1000, 50)
    yield Ratio("12  the same in 500 rooms / in 50", saves[1] / saves[0], 1.25, saves[1], saves[0])
    project = topion.open(world)
    room = project.room("Room 7")
    alone = ProjectHandle(project.data.scratch(type(project.data.rooms)([("Room 7", room.data)])))
    one = min(timed(lambda: _asked_anew(alone)) for _ in range(5))
    yield Ratio("12  survey after a stroke / of that room", surveys[1] / one, 2, surveys[1], one)
    yield Ratio("12  survey after a stroke, ms", surveys[1] * 1000, 50)


def _asked_anew(project: ProjectHandle) -> None:
    survey(project.data)


def _write_all(files: list[Path], place: Path) -> None:
    for path in files:
        with (place / "scrap").open("wb") as out:
            out.write(path.read_bytes())
            out.flush()
            os.fsync(out.fileno())


def _seed(world: Path) -> Iterator[Ratio]:
    project = topion.open(world)
    for name in project.rooms():
        shown_tiles(project.data, project.room(name).data.layers["ground"])
    brush = project.data.brush("Mud")
    start = time.perf_counter()
    project.add_brush(replace(brush, seed=brush.seed + 1))
    took = time.perf_counter() - start
    text = json.dumps(edit_to_plain(project.history.edits[-1]))
    yield Ratio("–   another seed of a weave in 500 rooms, ms", took * 1000, 50)
    yield Ratio("–   its record in the journal, bytes", len(text), 1024)
    used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"    (this process took {used:.0f} MB with all rooms read and settled)")
