"""Rooms from texts and pictures: many small files, one large picture, and rooms made of them."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
from PIL import Image

from bench.ratio import Ratio, compared
from topion import scripting
from topion.edit.symbols import Wanted, drafted, rooms_from_symbols
from topion.formats.symbols.pictures import read_picture_grid
from topion.formats.symbols.texts import read_text_grids
from topion.grid.hashing import unit
from topion.grid.symbols import counted

_ROOMS, _SIZE = 200, (24, 40)
_PICTURE = (2048, 2048)


def _text(number: int) -> bytes:
    signs = np.array(list("#..o $@~"))
    height, width = _SIZE
    cells = (unit(number, *np.indices(_SIZE)) * len(signs)).astype(int)
    rows = signs[cells]
    rows[[0, -1]] = "#"
    rows[:, [0, -1]] = "#"
    assert rows.shape == (height, width)
    return ("\n".join("".join(row) for row in rows) + "\n").encode()


def ratios() -> Iterator[Ratio]:
    texts = [_text(number) for number in range(_ROOMS)]

    def read() -> None:
        for number, data in enumerate(texts):
            read_text_grids(data, f"{number}.txt")

    def plainly() -> None:
        for data in texts:
            np.array([list(row) for row in data.decode().split("\n") if row])

    yield compared(f"read {_ROOMS} text rooms / split them into letters", read, plainly, 4)

    grids = [read_text_grids(data, f"{n}.txt").grids[0] for n, data in enumerate(texts)]
    legend = drafted("bench", counted(grids))
    project = scripting.new(None, "Bench").data

    def make() -> None:
        rooms_from_symbols(project, grids, legend, Wanted(make=True))

    yield compared(f"make {_ROOMS} rooms of them / split them", make, plainly, 3)

    colours = np.array([[0, 0, 0], [200, 40, 40], [40, 200, 40], [40, 40, 200]], np.uint8)
    cells = (unit(7, *np.indices(_PICTURE)) * len(colours)).astype(int)
    out = io.BytesIO()
    Image.fromarray(colours[cells]).save(out, "png", compress_level=1)
    data = out.getvalue()

    def picture() -> None:
        read_picture_grid(data, "map.png")

    def decode() -> None:
        np.asarray(Image.open(io.BytesIO(data)).convert("RGBA"))

    yield compared("4 million px as symbols / decode the PNG", picture, decode, 5, rounds=3)
