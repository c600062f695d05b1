"""Strokes as scripts ask for them, and what they read."""

from __future__ import annotations

from typing import Any

import numpy as np

from topion.brushes import BrushKind, ThingsBrush
from topion.brushes.drawn import flooded_cells
from topion.brushes.gestures import Gesture, GestureKind
from topion.brushes.marks import Marks, Place
from topion.edit.history import History as History
from topion.edit.library import put_brush, put_prefab
from topion.edit.models import block_of_model, lay_model
from topion.edit.rooms import (
    add_room,
)
from topion.errors import BadValue, NameTaken, UnknownName
from topion.grid.arrays import Positions
from topion.model.edit import Edit, joined, written
from topion.model.layer import LayerInfo
from topion.model.project import Project
from topion.model.room import Room, RoomInfo
from topion.model.solid import VoxelModel
from topion.render.portraits import model_prefab
from topion.weaving.looms import loom_for
from topion.weaving.settle import shown_materials, shown_ref
from topion.weaving.why import Why

Cell = tuple[int, ...]
_FARTHEST = 1e6  # cells: rooms are smaller, and lines longer than that are a mistake


def marks_of(brush: BrushKind, place: Place, way: dict[str, object]) -> Marks:
    """The marks of a stroke given in one of the ways.  Raises BadValue."""
    kinds = ("cells", "line", "box", "flood", "curve")
    given: dict[str, Any] = {key: way[key] for key in kinds if way.get(key) is not None}
    if len(given) != 1:
        raise BadValue(
            "the way of the stroke", sorted(given), "one of cells, line, box, flood or curve"
        )
    kind, value = next(iter(given.items()))
    points = _points(kind, value, place.room.info.size)
    if kind == "cells":
        return Marks(np.floor(points + 0.5).astype(np.intp))
    options = {k: bool(way.get(k)) for k in ("outline", "corners", "everywhere")}
    gesture_kind: GestureKind = kind  # type: ignore[assignment]
    return Gesture(gesture_kind, **options).marks(points, flooded_cells(place, brush))


def _points(kind: str, value: Any, size: Cell) -> Positions:
    """(n, axes) positions of a stroke, or of the cells of a mask as large as the room."""
    if isinstance(value, np.ndarray) and value.dtype == bool:
        if kind != "cells" or value.shape != size:
            told = " × ".join(map(str, size))
            raise BadValue(f"the {kind} of the stroke", value, f"positions, or a mask of {told}")
        return np.argwhere(value).astype(np.float64)
    axes = "(z, y, x)" if len(size) == 3 else "(y, x)"
    try:
        points = np.array([value] if kind == "flood" else list(value), np.float64)
        points = points.reshape(len(points), len(size))
        if not (np.abs(points) <= _FARTHEST).all() or (kind == "box" and len(points) != 2):
            raise ValueError
    except (TypeError, ValueError, OverflowError):
        what = f"two corners {axes}" if kind == "box" else f"positions {axes} in cells"
        raise BadValue(f"the {kind} of the stroke", value, what) from None
    return points


def plan_model(
    project: Project,
    name: str,
    model: VoxelModel,
    into: str,
    room: str = "",
    corner: tuple[int, int, int] = (0, 0, 0),
) -> Edit:
    """The Edit that makes a model a prefab, a block, or cells of a room; see `import_mesh`."""
    if into == "block":
        return block_of_model(project, name, model)
    if into == "prefab":
        if name in project.prefabs or name in project.brushes:
            raise NameTaken("prefab or brush", name)
        prefab = model_prefab(name, model)
        put = put_prefab(project, prefab)
        known = project.with_items("prefabs", {name: prefab})
        return joined(put.label, (put, put_brush(known, ThingsBrush(name, name))))
    if into != "room":
        raise UnknownName("way to bring in a mesh", into, ("prefab", "block", "room"))
    if room:
        return lay_model(project, room, name, model, corner)
    info = RoomInfo(name, model.size)
    made = add_room(project, info, (LayerInfo("Blocks", "blocks"), LayerInfo("Things", "things")))
    known = project.scratch()
    list(written(known, [made]))
    return joined(f"Bring in {name}", (made, lay_model(known, name, name, model, (0, 0, 0))))


def why_cell(project: Project, room: Room, layer_id: str, cell: Cell) -> Why | None:
    """Why a cell of a tile layer shows its tile; a pinned tile has no rule."""
    layer = room.layers[layer_id]
    material = shown_materials(project, layer)
    if layer.plane("pinned")[cell]:
        name = project.material_name(int(material[cell]))
        return Why(name, 0, "pinned", 0, False, 0, 1, shown_ref(project, layer, cell), name)
    return loom_for(project, layer).why(material, *cell, first=layer.from_origin((0,) * len(cell)))
