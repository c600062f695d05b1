"""The picture of a composite prefab, drawn from its parts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from topion.brushes.parts import box_round, filled_cells, footprint_of
from topion.grid.arrays import CellMask
from topion.model.picture import Picture
from topion.model.project import Project
from topion.model.room import Room
from topion.model.solid import VoxelModel
from topion.pictures.png import picture_of
from topion.render.composed_models import composed_model
from topion.render.model_pictures import model_picture
from topion.render.pixels import as_rgba, filled
from topion.render.scene import lay_layer


@dataclass(frozen=True)
class CompositeLook:
    """What a prefab takes from its parts; see `Prefab`."""

    picture: Picture
    anchor_px: tuple[int, int]
    footprint: tuple[str, ...]
    height: int = 1
    model: VoxelModel | None = None


def composite_look(project: Project, room: Room) -> CompositeLook:
    """How what lies in a room of parts looks and stands: the picture is cut as tightly as it is
    drawn; parts of a voxel room become a model.  Raises BadValue for nothing, and for what is too
    wide for a footprint."""
    held = filled_cells(project, room)
    footprint, (y, x) = footprint_of(held)
    if room.info.axes == 3:
        return _solid(project, room, held, footprint)
    side = room.info.cell_px
    height, width = (cells * side for cells in room.info.size)
    words = filled((height, width), "")
    for layer_id, layer in room.drawn():
        if layer.info.shown:
            lay_layer(project, room, layer_id, room.box, side, words, layer.info.opacity)
    rgba = as_rgba(words)
    seen = np.argwhere(rgba[..., 3] > 0)
    (top, left), (bottom, right) = seen.min(axis=0).tolist(), (seen.max(axis=0) + 1).tolist()
    anchor = ((y + 1) * side - top, x * side + side // 2 - left)
    return CompositeLook(picture_of(rgba[top:bottom, left:right]), anchor, footprint)


def _solid(
    project: Project, room: Room, held: CellMask, footprint: tuple[str, ...]
) -> CompositeLook:
    box = box_round(np.argwhere(held))
    model = composed_model(project, room, box)
    rgba, foot = model_picture(model, "corner")
    return CompositeLook(picture_of(rgba), foot, footprint, box.shape[0], model)
