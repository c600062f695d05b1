"""Clips from files: a mesh, a volume, heights or a room of another project, laid as stamps."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from topion.brushes.mosaic import Mosaic
from topion.edit.clips import Clip, clip_of, usual_anchor
from topion.edit.picked import Picks, scrap_of
from topion.edit.pieces import Pick
from topion.errors import BadFile, BadValue
from topion.formats.folder import read_project
from topion.formats.meshes.read import SUFFIXES, Step, Up
from topion.formats.meshes.voxels import model_from_file
from topion.formats.volumes import (
    Volume,
    slices_in,
    volume_of_heights,
    volume_of_npy,
    volume_of_slices,
)
from topion.grid.areas import Area
from topion.model.plane import Plane
from topion.model.scrap import Scrap, ScrapLayer
from topion.model.shelves import Item
from topion.model.solid import Block, block_ref
from topion.weaving.rules import Variant

LAYER = "Blocks"


def clip_of_file(
    path: Path,
    name: str,
    *,
    size: int = 32,
    levels: int = 16,
    up: Up | None = None,
    material: str = "",
    step: Step = lambda _: None,
) -> Clip:
    """A mesh, an `.npy` array, a folder of PNG slices, or a grey PNG as heights, as a clip.

    size : of a mesh, in cells along its longest side.  levels : that white of a picture stands
    for.  material : all cells are of it; else each colour comes as a block with its brush.
    Raises BadFile and BadValue.
    """
    suffix = path.suffix.lower()
    if suffix in SUFFIXES:
        model = model_from_file(path, size, up=up, step=step)
        volume = Volume(model.cells, model.palette)
    elif suffix == ".npy":
        volume = volume_of_npy(path)
    elif path.is_dir():
        volume = volume_of_slices(slices_in(path), step)
    elif suffix == ".png":
        volume = volume_of_heights(path, levels)
    else:
        known = ", ".join((*SUFFIXES, ".npy", ".png"))
        raise BadFile(path.name, f"is nothing that becomes a stamp; known are {known} and folders "
                                 "of PNG slices")  # fmt: skip
    return clip_of_volume(volume, name, material)


def clip_of_volume(volume: Volume, name: str, material: str = "") -> Clip:
    """The same from cells: in one material that is there, or with blocks of their own."""
    used = np.unique(volume.cells)
    used = used[used > 0]
    to = np.zeros(256, np.uint16)
    if material:
        to[used] = 1
        names: tuple[str, ...] = (material,)
    else:
        to[used] = np.arange(1, len(used) + 1)
        names = tuple(f"{name} {n}" for n in range(1, len(used) + 1))
    cells = to.take(volume.cells)
    layer = ScrapLayer(LAYER, "blocks", {"material": Plane(cells)})
    scrap = Scrap(tuple(int(n) for n in cells.shape), (layer,), names)
    colours = [volume.colours[int(n) - 1] for n in used]
    library = {} if material else _blocks(names, colours)
    return Clip(scrap, library, usual_anchor(scrap, "voxel"), name)


def _blocks(names: tuple[str, ...], colours: list[str]) -> Mapping[str, Mapping[str, Item]]:
    """Plain blocks and brushes that lay them."""
    pairs = list(zip(names, colours, strict=True))
    blocks = {name: Block(name, colour) for name, colour in pairs}
    brushes = {name: Mosaic(name, (Variant(block_ref(name)),), colour=c) for name, c in pairs}
    return {"blocks": blocks, "brushes": brushes}


def rooms_of(folder: Path) -> list[str]:
    """The rooms of another project.  Raises BadFile."""
    return list(read_project(folder).rooms)


def clip_of_room(folder: Path, room_name: str) -> Clip:
    """A whole room of another project, with all that it needs.  Raises BadFile, UnknownName, and
    BadValue for one that holds nothing or more than a scrap can."""
    project = read_project(folder)
    room = project.room(room_name)
    entries = tuple(
        Pick(layer_id, number)
        for layer_id, layer in room.bottom_up()
        for table in layer.tables.values()
        for number in table
    )
    picks = Picks(entries, Area.of_box(room.box), tuple(room.order))
    scrap = scrap_of(project, room_name, picks)
    if scrap is None:
        raise BadValue(f"room {room_name} of {project.name}", "empty", "something in it")
    return clip_of(project, scrap, room_name, usual_anchor(scrap, room.info.view))
