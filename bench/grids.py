"""Anchors 4, 5 and 7: sowing, flood, text rows."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
from scipy import ndimage
from scipy.stats import qmc

from bench.ratio import Ratio, compared, timed
from bench.weaving import islands
from topion.grid.flood import flood_box
from topion.grid.runs import rows_to_text, text_to_rows
from topion.grid.spacing import fill_torus


def ratios() -> Iterator[Ratio]:
    yield from _sowing()
    yield from _flood()
    yield from _rows()


def _sowing() -> Iterator[Ratio]:
    side = 60.0  # the anchor is so slow that its points are counted on a smaller domain
    sampler = qmc.PoissonDisk(2, radius=1 / side, rng=np.random.default_rng(1))
    found: list[int] = []
    anchor = timed(lambda: found.append(len(sampler.fill_space())))
    points = len(fill_torus(1, side, 1.0))
    large: list[int] = []
    ours = min(timed(lambda: large.append(len(fill_torus(1, 190.0, 1.0)))) for _ in range(3))
    each, other = ours / large[-1], anchor / found[0]
    yield Ratio(
        "4   sow 25,000 points, time a point / PoissonDisk", each / other, 0.005, each, other
    )
    yield Ratio("4   points found / PoissonDisk's", points / found[0], 1.15, at_least=True)


def _flood() -> Iterator[Ratio]:
    solid = np.ones((2048, 2048), np.uint16)
    maze = (np.indices((2048, 2048)).sum(axis=0) % 7 > 1).astype(np.uint16)
    maze[::9] = 1
    for name, cells, target in (("solid", solid, 0.65), ("a maze", maze, 1.05)):
        yield compared(
            f"5   flood 4 M cells, {name} / label",
            lambda c=cells: flood_box(c, (0, 0) if c[0, 0] else (0, 2)),
            lambda c=cells: ndimage.label(c == 1)[0] == 1,
            target,
            rounds=5,
        )
    room = islands(4096)
    room[2000:2100, 2000:2150] = 9
    yield compared(
        "5   flood 15,000 cells of 4096² / label",
        lambda: flood_box(room, (2050, 2050)),
        lambda: ndimage.label(room == 9),
        0.01,
        rounds=5,
    )


def _rows() -> Iterator[Ratio]:
    room = islands(4096)
    packed = io.BytesIO()
    np.savez_compressed(packed, room)
    text = b"".join(rows_to_text(room))
    yield compared(
        "7   write a 4096² layer as rows / savez_compressed",
        lambda: b"".join(rows_to_text(room)),
        lambda: np.savez_compressed(io.BytesIO(), room),
        0.15,
        rounds=3,
    )
    yield compared(
        "7   read it / load",
        lambda: text_to_rows(text, room.shape),
        lambda: np.load(io.BytesIO(packed.getvalue()))["arr_0"],
        1.6,
        rounds=5,
    )
    yield Ratio("7   bytes of rows / compressed", len(text) / len(packed.getvalue()), 0.45)
