"""Anchor 9: memory and time of undo; and fields of 100,000 things, open and save."""

from __future__ import annotations

import tempfile
import tracemalloc
from collections.abc import Iterator
from pathlib import Path

import numpy as np

import topion
from bench.ratio import Ratio, compared, timed
from bench.weaving import islands
from topion.brushes import FieldBrush, Sown
from topion.brushes.kind import brush_named
from topion.demo.brinehollow import library
from topion.edit.sown import banned, held
from topion.model.edit import Edit
from topion.model.layer import Layer
from topion.model.records import cells_changed
from topion.scripting import ProjectHandle, RoomHandle
from topion.things.sowing import sow


def ratios() -> Iterator[Ratio]:
    yield from _undo()
    yield from _fields()
    yield from _folder()


def _undo() -> Iterator[Ratio]:
    project = library()
    room = project.add_room("Room", (1024, 1024))
    rng = np.random.default_rng(1)
    plane = _plane(room.data.layers["ground"])
    starts = [_walk(rng) for _ in range(100)]
    tracemalloc.start()
    before = tracemalloc.take_snapshot()
    first = project.history.at
    for number, dabs in enumerate(starts):
        project.history.apply(_stroke(plane, dabs, number % 3 + 1))
    ours = _grown(before)
    before = tracemalloc.take_snapshot()
    copies = []
    for number, dabs in enumerate(starts):
        for y, x in dabs:
            part = np.s_[y : y + 5, x : x + 5]
            copies.append((part, plane[part].copy(), np.full((5, 5), number % 3 + 1, np.uint16)))
    slices = _grown(before)
    tracemalloc.stop()
    yield Ratio("9   memory of slice copies / of our records", slices / ours, 20, at_least=True)
    last = project.history.at

    def undo_all() -> None:
        project.history.jump(first)

    def write_all() -> None:
        for part, old, _ in copies:
            plane[part] = old

    times = []
    for _ in range(5):
        project.history.jump(last)
        times.append((timed(undo_all), timed(write_all)))
    mine, other = (float(np.median([t[i] for t in times])) for i in (0, 1))
    yield Ratio("9b  undo 10,000 dabs / 10,000 slice writes", mine / other, 1.0, mine, other)


def _plane(layer: Layer) -> np.ndarray:
    """Its materials as an array that is there."""
    layer.put_planes({"material": np.zeros(layer.size, np.uint16)})
    return layer.planes["material"]


def _walk(rng: np.random.Generator) -> list[tuple[int, int]]:
    """A hundred dabs along a stroke."""
    steps = rng.integers(-3, 4, (100, 2)).cumsum(axis=0) + rng.integers(200, 800, 2)
    return [(int(y), int(x)) for y, x in steps.clip(0, 1018)]


def _stroke(plane: np.ndarray, dabs: list[tuple[int, int]], value: int) -> Edit:
    flat = np.unique(
        [(y + dy) * 1024 + x + dx for y, x in dabs for dy in range(5) for dx in range(5)]
    )
    old = plane.reshape(-1)[flat]
    new = {"material": np.full(len(flat), value, np.uint16)}
    return Edit("dabs", cells_changed("Room", "ground", plane.shape, flat, {"material": old}, new))


def _grown(before: tracemalloc.Snapshot) -> int:
    now = tracemalloc.take_snapshot()
    return max(1, sum(s.size_diff for s in now.compare_to(before, "filename")))


def _fields() -> Iterator[Ratio]:
    project = library()
    room = project.add_room("Room", (400, 400), 16, (("Ground", "tiles"), ("Things", "things")))
    room.lay("Mud", box=((0, 0), (399, 399)))
    one = (Sown("Reed tall"),)
    three = (Sown("Reed tall", 6), Sown("Reed short", 2, 1.2), Sown("Bulrush", 1, 1.5))
    project.add_brush(FieldBrush("Plain", one, spacing=1.0, density=1.0))
    project.add_brush(FieldBrush("Rich", three, spacing=1.0, density=0.9))
    room.lay("Plain", box=((0, 0), (399, 399)))
    room.lay("Rich", box=((0, 0), (399, 399)))
    plain, rich = _layer(room, "Plain"), _layer(room, "Rich")
    print(f"    ({len(sow(project.data, room.data, plain)):,} things in the plain field)")
    yield compared(
        "4b  100,000 things, mask and three classes / without",
        lambda: sow(project.data, room.data, rich),
        lambda: sow(project.data, room.data, plain),
        2.0,
        rounds=5,
    )
    _hold_and_ban(project, room, rich)
    yield compared(
        "4b  the same with sizes, 500 held and 500 banned / without",
        lambda: sow(project.data, room.data, rich),
        lambda: sow(project.data, room.data, plain),
        2.0,
        rounds=5,
    )


def _hold_and_ban(project: ProjectHandle, room: RoomHandle, layer_id: str) -> None:
    """Some of the things of a field held and banned, and a size painted everywhere."""
    found = sow(project.data, room.data, layer_id)
    rows = range(0, len(found), max(1, len(found) // 1000))
    things = [found.thing(row) for row in rows][:1000]
    edit, _ = held(project.data, room.name, layer_id, things[:500])
    project.history.apply(edit)
    project.history.apply(banned(project.data, room.name, layer_id, things[500:]))
    sizes = brush_named(project.data, "Rich").changed(paints="size", way="set", scale=1.4)
    room.lay(sizes, box=((0, 0), (399, 399)))


def _layer(room: RoomHandle, brush: str) -> str:
    return next(i for i, layer in room.data.bottom_up("field") if layer.info.brush == brush)


def _folder() -> Iterator[Ratio]:
    project = _large()
    planes = [layer.plane("material") for _, layer in project.room("Room").data.bottom_up("tiles")]
    with tempfile.TemporaryDirectory() as place:
        folder, packed = Path(place) / "p.topion", Path(place) / "p.npz"
        save = timed(lambda: project.save(folder))
        anchor = timed(lambda: np.savez_compressed(packed, *planes))
        yield Ratio("–   save 4096² × 4 / savez_compressed", save / anchor, 0.5, save, anchor)
        opened = timed(lambda: topion.open(folder).data.room("Room"))
        loaded = timed(lambda: [np.load(packed)[f"arr_{i}"] for i in range(4)])
        yield Ratio(
            "–   open 4096² × 4 and read its room / load", opened / loaded, 8.0, opened, loaded
        )


def _large() -> ProjectHandle:
    project = library()
    layers = (("Water", "tiles"), ("Ground", "tiles"), ("Cover", "tiles"), ("Pans", "tiles"))
    room = project.add_room("Room", (4096, 4096), 16, layers)  # type: ignore[arg-type]
    cells = islands(4096)
    for i, (_, layer) in enumerate(room.data.bottom_up("tiles")):
        layer.put_planes({"material": np.where(cells > i, i + 1, 0).astype(np.uint16)})
    return project
