"""Anchor 13: PNG pictures of large rooms, in time and in memory of whole processes."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Iterator
from pathlib import Path

from PIL import Image

from bench.ratio import Ratio, compared, peak_mb
from topion.demo.brinehollow import library
from topion.demo.island import add_island
from topion.demo.marsh import add_marsh
from topion.render.bands import Bands
from topion.render.scene import room_bands
from topion.scripting import new

_RENDERS = """
import sys
from topion.cli import main
assert main(["render", *sys.argv[1:]]) == 0
"""


def ratios() -> Iterator[Ratio]:
    demo = library()
    add_marsh(demo, (288, 448))
    add_island(demo)
    for words, room, scale in (("a flat room", "Outer Marsh", 1.0),
                               ("a voxel room", "Lamp Island", 3.0)):  # fmt: skip
        bands = room_bands(demo.data, demo.data.room(room), scale)
        size = f"{bands.width}×{bands.height}"
        yield _written(f"13  PNG of {words}, {size} / Pillow's writing", bands)
    empty = new(None, "Empty")
    empty.add_room("Plain", (512, 1024), 16)
    with tempfile.TemporaryDirectory() as folder:
        demo.save(Path(folder, "demo.topion"))
        empty.save(Path(folder, "empty.topion"))
        for words, name, room, scale in (
            ("flat room", "demo", "Outer Marsh", "1"),
            ("voxel room", "demo", "Lamp Island", "4"),
            ("empty room, 16384×8192,", "empty", "Plain", "1"),
        ):
            project, out = Path(folder, f"{name}.topion"), Path(folder, "out.png")
            peak = peak_mb(_RENDERS, str(project), room, "--scale", scale, "-o", str(out))
            yield Ratio(f"13  peak memory of the {words} as PNG, MB", peak, 300)


def _written(name: str, bands: Bands) -> Ratio:
    finished = Image.fromarray(bands.whole())
    return compared(
        name,
        lambda: sum(len(part) for part in bands.png()),
        lambda: finished.save(io.BytesIO(), "PNG", compress_level=6),
        3,
        rounds=3,
    )
