"""The voxels of a small model as a room of colours, and back into the model.

Every colour is a block and a brush of its own name; what is open is open.  The room stands in a
project of its own, so that every gesture, mirrors and picking work on it as on any voxel room.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from topion.brushes import Lift
from topion.edit.library import put_block, put_brush, put_item
from topion.edit.models import with_brush
from topion.edit.pixels import CLEAR
from topion.errors import BadValue
from topion.model.edit import Edit, written
from topion.model.frames import STILL
from topion.model.layer import Layer, LayerInfo
from topion.model.model_frames import FrameAt, ModelSet, set_of, with_frame
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.rooms import Rooms
from topion.model.solid import MOST_COLOURS, Block, BlockLook, VoxelModel

ROOM, LAYER = "voxels", "voxels"


def cubed(model: VoxelModel, side: int = 0) -> VoxelModel:
    """The model in a cube in which all of its cell can be built: on the floor, in the middle.

    side : voxels; the longest of the model unless that is less.
    """
    side = max(side, *model.size)
    if model.size == (side,) * 3:
        return model
    cells = np.zeros((side,) * 3, np.uint8)
    depth, height, width = model.size
    top, left = (side - height) // 2, (side - width) // 2
    cells[:depth, top : top + height, left : left + width] = model.cells
    return VoxelModel(cells, model.palette, model.per_cell)


def model_project(model: VoxelModel, more: Iterable[str] = ()) -> Project:
    """A project with the room of a model, and a brush for each colour, like #a5533b.

    more : colours beyond those of its palette.
    """
    names = tuple(dict.fromkeys((*model.palette, *more)))
    project = Project("colours")
    for name in names:
        list(written(project, [with_brush(project, Block(name, name))]))
    list(written(project, [put_brush(project, Lift(CLEAR), "Colours")]))
    table = np.zeros(len(model.palette) + 1, np.uint16)
    for number, name in enumerate(model.palette, 1):
        table[number] = project.material_id(name)
    layer = Layer.empty(LayerInfo(LAYER, "blocks"), model.size)
    layer.put_planes({"material": table[model.cells]})
    room = Room(RoomInfo(ROOM, model.size))
    room.layers, room.order = {LAYER: layer}, (LAYER,)
    project.rooms = Rooms([(ROOM, room)])
    return project


def carved(model: VoxelModel, project: Project) -> VoxelModel:
    """The model as its room shows it now; colours it had keep their places in its palette.

    Raises BadValue for more colours than a model can have.
    """
    material = project.room(ROOM).layers[LAYER].plane("material")
    names = [project.materials[n - 1] for n in np.unique(material[material > 0]).tolist()]
    palette = [*model.palette, *(name for name in names if name not in model.palette)]
    if len(palette) > MOST_COLOURS:
        raise BadValue("the colours of a model", len(palette), f"at most {MOST_COLOURS}")
    cells = _numbers(project, palette)[material]
    return VoxelModel(cells, tuple(palette), model.per_cell)


def _numbers(project: Project, palette: list[str]) -> NDArray[np.uint8]:
    """The place in a palette of each material, 0 for what is open."""
    table = np.zeros(len(project.materials) + 1, np.uint8)
    for number, name in enumerate(project.materials, 1):
        if name in palette:
            table[number] = palette.index(name) + 1
    return table


def with_model(project: Project, name: str, model: VoxelModel, label: str = "") -> Edit:
    """Give a block a model in place of its faces; themes have the colours that are new, too."""
    block = project.named("blocks", name)
    themes = {theme: _extended(look, model) for theme, look in block.themes.items()}
    new = replace(block, model=model, faces=(), pattern=(), themes=themes)
    edit = put_block(project, replace(new, colour=_mean(model, block.colour)))
    return replace(edit, label=label or f"Voxels of {name}") if edit else edit


def with_prefab_model(
    project: Project, name: str, model: VoxelModel, label: str = "", frame: FrameAt | None = None
) -> Edit:
    """Give a prefab a model; its cells, height and picture stay.

    frame : the one that is changed, where it has frames; the first of the still ones is its model.
    Where the size is another one, all frames come to be as large.
    """
    prefab = project.prefab(name)
    sets = prefab.model_frames
    if prefab.model is not None and prefab.model.size != model.size:
        sets = tuple(replace(own, models=tuple(resized(m, model.size) for m in own.models))
                     for own in sets)  # fmt: skip
    whole = resized(prefab.model, model.size) if prefab.model is not None else model
    if frame is None or frame == FrameAt():
        whole = model
    if sets:
        sets = with_frame(sets, frame or FrameAt(), model)
    new = replace(prefab, model=whole, model_frames=sets)
    edit = put_item(project, "prefabs", new)
    return replace(edit, label=label or f"Voxels of {name}") if edit else edit


def with_model_set(project: Project, name: str, sets: tuple[ModelSet, ...]) -> Edit:
    """Give a prefab other frames of its model, whose first still one is its model."""
    prefab = project.prefab(name)
    still = set_of(sets, STILL)
    model = still.models[0] if still is not None else prefab.model
    edit = put_item(project, "prefabs", replace(prefab, model=model, model_frames=sets))
    return replace(edit, label=f"Frames of {name}") if edit else edit


def resized(model: VoxelModel, size: tuple[int, int, int]) -> VoxelModel:
    """The model with more or less room about it, its foot in the middle of the ground.

    Raises BadValue for sides beyond what a model can have.
    """
    if model.size == size:
        return model
    made = VoxelModel(np.zeros(size, np.uint8), model.palette, model.per_cell)
    cells = np.zeros(made.size, np.uint8)
    shift = [0, *((new - old) // 2 for new, old in zip(size[1:], model.size[1:], strict=True))]
    to, of = [], []
    for by, new, old in zip(shift, size, model.size, strict=True):
        to.append(slice(max(0, by), min(new, old + by)))
        of.append(slice(max(0, -by), min(old, new - by)))
    cells[tuple(to)] = model.cells[tuple(of)]
    return VoxelModel(cells, model.palette, model.per_cell)


def cells_of_model(model: VoxelModel) -> tuple[tuple[str, ...], int]:
    """The footprint of a model, in the middle of which it stands, and its levels."""
    if not model.extent.size:
        return ("#",), 1
    high, deep, wide = model.extent.hi[0], *model.size[1:]
    rows, columns = (max(1, -(-side // model.per_cell)) for side in (deep, wide))
    plan = model.cells.any(axis=0)
    top, left = ((n * model.per_cell - side) // 2 for n, side in ((rows, deep), (columns, wide)))
    whole = np.zeros((rows * model.per_cell, columns * model.per_cell), bool)
    whole[top : top + deep, left : left + wide] = plan
    parts = whole.reshape(rows, model.per_cell, columns, model.per_cell)
    cells: NDArray[np.bool_] = np.asarray(parts.any(axis=(1, 3)))
    footprint = tuple("".join("#" if here else "." for here in row) for row in cells)
    return footprint, max(1, -(-high // model.per_cell))


def _extended(look: BlockLook, model: VoxelModel) -> BlockLook:
    """A look of a theme with as many colours as the model."""
    if not look.palette:
        return look
    return replace(look, palette=look.palette + model.palette[len(look.palette) :])


def _mean(model: VoxelModel, otherwise: str) -> str:
    """The colour of a model from afar."""
    used = model.cells[model.cells > 0]
    if not len(used):
        return otherwise
    return "#{:02x}{:02x}{:02x}".format(*model.rgb[used].mean(axis=0).astype(int).tolist())
