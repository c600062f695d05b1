"""Edits that bring a voxel model into the library or into a room."""

from __future__ import annotations

import numpy as np

from topion.brushes.laying import Laid, lay
from topion.brushes.marks import Place
from topion.brushes.mosaic import Mosaic
from topion.edit.library import put_block, put_brush
from topion.errors import BadValue
from topion.model.edit import Edit, joined, written
from topion.model.project import Project
from topion.model.solid import LONGEST_BLOCK_MODEL, Block, VoxelModel, block_ref
from topion.weaving.rules import Variant

MOST_MATERIALS_OF_A_MODEL = 16


def block_of_model(project: Project, name: str, model: VoxelModel) -> Edit:
    """A block with the shape of the model, and a brush that lays it."""
    if max(model.size) > LONGEST_BLOCK_MODEL:
        raise BadValue("the size of a block's model", model.size, "at most 16 voxels a side")
    used = model.cells[model.cells > 0]
    rgb = model.rgb[used].mean(axis=0) if len(used) else np.array([150.0] * 3)
    colour = "#{:02x}{:02x}{:02x}".format(*(int(v) for v in rgb))
    top = model.extent.hi[0] / max(model.size)
    block = Block(name, colour, model=model, top=min(1.0, top))
    return with_brush(project, block)


def with_brush(project: Project, block: Block) -> Edit:
    """Put a block in the library, and a mosaic that lays it on the rack."""
    put = put_block(project, block)
    known = project.with_items("blocks", {block.name: block})
    brush = Mosaic(block.name, (Variant(block_ref(block.name)),), colour=block.colour)
    if block.name in project.brushes:
        return put
    return joined(put.label, (put, put_brush(known, brush, "Built")))


def lay_model(
    project: Project, room_name: str, name: str, model: VoxelModel, corner: tuple[int, int, int]
) -> Edit:
    """A model in a room, a cell a voxel: its colours become blocks, each with its brush.

    corner : the lowest cell; what reaches beyond the room is left out.  Raises BadValue for a
    model of too many colours.
    """
    numbers = np.unique(model.cells)
    numbers = numbers[numbers > 0]
    if len(numbers) > MOST_MATERIALS_OF_A_MODEL:
        raise BadValue("the colours of the model", len(numbers), "at most 16 as blocks")
    scratch = project.scratch()
    names = [f"{name} {n}" if len(numbers) > 1 else name for n in range(1, len(numbers) + 1)]
    blocks = (Block(known, model.palette[n - 1]) for known, n in zip(names, numbers, strict=True))
    edits = list(written(scratch, (with_brush(scratch, block) for block in blocks)))
    place = Place(scratch, room_name)
    layer_id, _ = place.cells_layer()
    cells = np.argwhere(model.cells)
    number_at = np.searchsorted(numbers, model.cells[tuple(cells.T)])
    cells = cells + np.array(corner)
    inside = place.room.box.holds(cells)
    flat = np.ravel_multi_index(tuple(cells[inside].T), place.room.info.size).astype(np.intp)
    materials = np.array([scratch.material_id(known) for known in names], np.uint16)
    order = np.argsort(flat)
    laid = Laid(flat[order], materials[number_at[inside]][order])
    edits.append(Edit(name, lay(place, layer_id, laid)))
    return joined(f"Bring in {name}", edits)
