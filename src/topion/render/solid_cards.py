"""The pictures on the cards of brushes that lay blocks or shape the ground."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from topion.brushes.laying import lays_blocks
from topion.errors import TopionError
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.brush import Brush, Marks, Place
from topion.model.project import Project
from topion.model.room import Layer, LayerInfo, Room, RoomInfo
from topion.render.eye import Eye
from topion.render.faces import face_book
from topion.render.portraits import halved
from topion.render.raster import draw, sky
from topion.render.volume import room_faces

_SCRAP = (6, 6, 7)
_PX = (61, 83)  # of the card's picture
_SHARED = ("looms", "face book", "model faces", "block facts")
_BLOB = ((1, 2), (1, 3), (2, 1), (2, 2), (2, 3), (2, 4), (3, 2), (3, 3), (3, 4), (3, 5), (4, 4))


def is_solid(project: Project, brush: Brush) -> bool:
    """Whether the brush belongs to voxel rooms: it lays blocks, or prefabs that are models."""
    names = [s.prefab for s in getattr(brush, "sown", ())] or [getattr(brush, "prefab", "")]
    if any(name in project.prefabs and project.prefabs[name].model for name in names):
        return True
    return getattr(brush, "axes", 0) == 3 or bool(lays_blocks(brush))


def solid_card(project: Project, brush: Brush) -> Rgba:
    """(h, w, 4) what the brush lays on a scrap of ground."""
    room = Room(RoomInfo("scrap", _SCRAP))
    for kind in ("blocks", "things"):
        room.layers[kind] = Layer.empty(LayerInfo(kind, kind), _SCRAP)
    room.order = tuple(room.layers)
    face_book(project)
    derived = {key: project.derived[key] for key in _SHARED if key in project.derived}
    scrap = replace(project, rooms={"scrap": room}, derived=derived)
    base = _ground(project, brush)
    floor = Box((0, 0, 0), (1 if brush.kind != "sculpt" else 2, *_SCRAP[1:]))
    if base is not None:
        _lay(scrap, base, floor.cells())
    if brush.kind == "things":
        placed = replace(brush, layer="things")  # type: ignore[type-var]
        _lay(scrap, placed, np.array([[1, 3, 3]]), override=True)
    elif brush.kind == "field":
        _lay(scrap, replace(brush, layer="", density=1.0), floor.cells())  # type: ignore[type-var]
    elif brush.kind == "sculpt":
        sculpt: Any = brush
        own = replace(sculpt, radius=2.6, soft=2.0, only="", fill="")
        _lay(scrap, own, np.array([[0, 3, 3]]), np.array([[0.0, 3.0, 3.0]]))
    elif brush.kind == "crate":
        _lay(scrap, brush, Box((1, 1, 2), (3, 4, 5)).cells())
    else:
        levels = (0, 1) if base is None else (1, 2)
        blob = _BLOB if len(brush.tiles_used()) > 1 else _BLOB[1:8]
        _lay(scrap, brush, np.array([(level, y, x) for level in levels for y, x in blob]))
    near = brush.kind == "things"
    return halved(_drawn(scrap, room, Box((1, 2, 2), (3, 5, 5)) if near else None))


def _drawn(scrap: Project, room: Room, shown: Box | None) -> Rgba:
    height, width = (2 * side for side in _PX)
    eye = Eye(height=height, width=width, yaw=-38.0, pitch=34.0)
    eye = eye.framing(shown or Box((0, 0, 0), (3, *_SCRAP[1:])), 1.12)
    return draw(room_faces(scrap, room), face_book(scrap).pictures, eye, sky(height, width))


def _ground(project: Project, brush: Brush) -> Brush | None:
    """What lies under the card's brush: what its rules ask for, else the first ground of blocks
    but itself."""
    prefab = project.prefabs.get(getattr(brush, "prefab", ""))
    own: tuple[Any, ...] = getattr(brush, "rules", ()) if brush.kind == "field" else ()
    rules: tuple[Any, ...] = (*own, *(prefab.rules if prefab else ()))
    wanted = [n for rule in rules if rule.kind == "on" for n in rule.materials]
    order = [name for bay in project.bays for name in bay.brushes]
    grounds = [
        known
        for known in (project.brushes[n] for n in order if n in project.brushes)
        if known.kind == "weave" and known.name != brush.name and is_solid(project, known)
    ]
    asked = [known for known in grounds if known.material in wanted]
    return next(iter([*asked, *grounds]), None)


def _lay(
    scrap: Project,
    brush: Brush,
    cells: np.ndarray,
    path: np.ndarray | None = None,
    *,
    override: bool = False,
) -> None:
    try:
        edit = brush.plan(Place(scrap, "scrap"), Marks(cells, path, override=override))
        for record in edit.records:
            record.write(scrap)
    except TopionError:
        return  # a brush that names what is not there shows an empty card
