"""The picture on a brush's card: the brush itself, laid on a scrap."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from topion.errors import TopionError
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.grid.hashing import seed_of, unit
from topion.model.brush import Brush, Marks, Place
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Layer, LayerInfo, Room, RoomInfo
from topion.render.atlas import mean_colours
from topion.render.scene import render_room
from topion.render.solid_cards import is_solid, solid_card
from topion.render.sprites import mean_colour

SCRAP = (4, 5)  # cells
_BLOB = ((0, 3), (1, 1), (1, 2), (1, 3), (2, 1), (2, 2), (2, 3), (2, 4), (3, 2))


def card_picture(project: Project, brush: Brush) -> Rgba:
    """(h, w, 4) what the brush lays on a scrap; only the backdrop if it cannot lay there."""
    if is_solid(project, brush):
        return solid_card(project, brush)
    size = _scrap_size(brush)
    infos = {
        "base": LayerInfo("base", "tiles"),
        "own": LayerInfo("own", "tiles"),
        "things": LayerInfo("things", "things"),
    }
    room = Room(RoomInfo("scrap", size, _cell_px(project)))
    room.layers = {key: Layer.empty(info, size) for key, info in infos.items()}
    room.order = tuple(room.layers)
    scrap = replace(project, rooms={"scrap": room}, derived=_shared(project))
    base = _base_for(project, brush)
    if base is not None:
        _lay(scrap, replace(base, layer="base"), Marks(Box.of_shape(size).cells()))  # type: ignore[type-var]
    home: Any = replace(brush, layer={"things": "things", "field": ""}.get(brush.kind, "own"))  # type: ignore[type-var]
    if brush.kind == "lift":
        home = replace(home, only="")
    _lay(scrap, home, _marks(brush, size))
    return render_room(scrap, room)


def _shared(project: Project) -> dict[Any, Any]:
    """Derived data that depends on the library alone, for use in a scrap."""
    keys = ("looms", "tile ids", "atlases", "sprites")
    for key in ("atlases", "sprites"):
        project.derived.setdefault(key, {})
    return {key: project.derived[key] for key in keys if key in project.derived}


def _lay(scrap: Project, brush: Brush, marks: Marks) -> None:
    try:
        edit: Edit = brush.plan(Place(scrap, "scrap"), marks)
        for record in edit.records:
            record.write(scrap)
    except TopionError:
        return  # a brush that names what is not there shows an empty card


def _cell_px(project: Project) -> int:
    sizes = [room.info.cell_px for room in project.rooms.values()]
    sizes += [max(t.cut.tile) for t in project.tilesets.values()]
    return min(64, sizes[0]) if sizes else 16


def _scrap_size(brush: Brush) -> tuple[int, int]:
    block = getattr(brush, "block", None)
    if block is None:
        return SCRAP
    return max(SCRAP[0], len(block)), max(SCRAP[1], len(block[0]))


def _base_for(project: Project, brush: Brush) -> Brush | None:
    """What lies under the card's brush: what its rules ask for, else the first ground."""
    wanted: list[str] = []
    if brush.kind == "things":
        prefab = project.prefabs.get(brush.prefab)  # type: ignore[attr-defined]
        wanted = _asked_ground(prefab.rules if prefab else ())
    elif brush.kind == "field":
        wanted = _asked_ground(brush.rules)  # type: ignore[attr-defined]
    order = [name for bay in project.bays for name in bay.brushes]
    grounds = [project.brushes[n] for n in order if n in project.brushes]
    grounds = [b for b in grounds if b.kind in ("weave", "mosaic") and b.name != brush.name]
    grounds = [b for b in grounds if not is_solid(project, b)]
    for ground in grounds:
        if ground.material in wanted:
            return ground
    return grounds[0] if grounds and brush.kind != "stamp" else None


def _asked_ground(rules: tuple[Any, ...]) -> list[str]:
    return [name for rule in rules if rule.kind == "on" for name in rule.materials]


def _marks(brush: Brush, size: tuple[int, int]) -> Marks:
    if brush.kind == "stamp":
        return Marks(np.zeros((1, 2), np.intp))
    if brush.kind == "things":
        return Marks(np.array([[size[0] - 2, size[1] // 2]]), override=True)
    if brush.kind in ("field", "mosaic"):
        inner = Box((0, 0), size) if brush.kind == "field" else Box((1, 1), (3, 4))
        return Marks(inner.cells())
    if brush.kind == "lift":
        return Marks(Box((1, 1), (3, 4)).cells())
    return Marks(np.array(_BLOB, np.intp))


def thumbnail(project: Project, room: Room, layer_id: str, most_px: int) -> np.ndarray:
    """(h, w) premultiplied words of one layer, about one pixel for every few cells."""
    layer = room.layers[layer_id]
    step = max(1, -(-max(room.info.size) // most_px))
    height, width = (-(-side // step) for side in room.info.size)
    if layer.info.kind == "tiles":
        return np.asarray(mean_colours(project)[layer.planes["tile"][::step, ::step]])
    out = np.zeros((height, width), np.uint32)
    if layer.info.kind == "field":
        density = layer.planes["density"][::step, ::step] / 255.0
        ys, xs = np.indices(density.shape)
        brush = project.brushes.get(layer.info.brush)
        colour = int(brush.colour[1:], 16) if brush else 0x6F8F3F
        out[unit(seed_of("thumbnail"), ys, xs) < density * 0.7] = 0xFF000000 | colour
        return out
    for thing in layer.things.values():
        y, x = (v // step for v in thing.cell)
        if 0 <= y < height and 0 <= x < width:
            out[y : y + 2, x : x + 2] = mean_colour(project, thing.prefab)
    return out
