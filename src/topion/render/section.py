"""A voxel room as a section: what is seen of every level from one side."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import TURN_BITS
from topion.render.faces import face_book
from topion.render.volume import block_layer
from topion.render.wear import colours_of, wear_of
from topion.weaving.settle import filled, shown_at

Side = Literal["south", "east"]
_FARTHEST = 0.55  # how much of its colour the farthest cell keeps


def section(project: Project, room: Room, side: Side) -> NDArray[np.uint32]:
    """(d, w) words 0xAARRGGBB, level 0 first: the nearest cell of each row, paler with distance.

    From the south the columns run west to east, from the east south to north.
    """
    layer = block_layer(room)
    depth, height, width = room.info.size
    across = width if side == "south" else height
    if layer is None:
        return np.zeros((depth, across), np.uint32)
    full = filled(project, layer)
    seen = full[:, ::-1, :] if side == "south" else full.transpose(0, 2, 1)[:, ::-1, ::-1]
    nearest = seen.argmax(axis=1)
    levels, columns = np.indices(nearest.shape)
    if side == "south":
        cells = np.stack([levels, height - 1 - nearest, columns], axis=-1)
    else:
        cells = np.stack([levels, height - 1 - columns, width - 1 - nearest], axis=-1)
    tiles = shown_at(project, layer, cells.reshape(-1, 3)).reshape(nearest.shape)
    number = tiles >> TURN_BITS
    colours = block_colours(project, room.info.theme)[number]
    codes = wear_of(room).codes(room.box)
    for code in np.unique(codes).tolist() if codes is not None else ():
        fore = colours_of(project, code)[0]
        if fore is not None:
            colours[codes[tuple(np.moveaxis(cells, -1, 0))] == code] = fore  # type: ignore[index]
    far = nearest / max(1, seen.shape[1] - 1)
    share = (1 - far * (1 - _FARTHEST))[..., None]
    rgb = colours * share + np.array([251, 250, 245]) * (1 - share)
    wide = rgb.astype(np.uint32)
    words = np.uint32(0xFF000000) | wide[..., 0] << 16 | wide[..., 1] << 8 | wide[..., 2]
    return np.where(seen.any(axis=1), words, 0).astype(np.uint32)


def block_colours(project: Project, theme: str = "") -> NDArray[np.float64]:
    """(blocks + 1, 3) one colour for each block: what its south side shows."""
    book = face_book(project, theme)
    out = np.zeros((len(project.block_names) + 1, 3))
    for number, name in enumerate(project.block_names, 1):
        model = book.models.get(number)
        if model is None:
            look = book.faces[number << TURN_BITS, 4]
            out[number] = book.rgb[look]
        else:
            used = model.cells[model.cells > 0]
            own = tuple(bytes.fromhex(project.blocks[name].worn(theme).colour[1:]))
            out[number] = model.rgb[used].mean(axis=0) if len(used) else own
    return out
