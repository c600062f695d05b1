"""The sowings of a project's fields, kept until something they stand on changes."""

from __future__ import annotations

from topion.grid.boxes import Box
from topion.model.project import Project
from topion.model.room import Room
from topion.things.sowing import Sowing, is_counted, sow


def sowing_of(project: Project, room: Room, layer_id: str) -> Sowing:
    """What the field layer sows now."""
    cache: dict[tuple[str, str], tuple[object, Sowing]] = project.derived.setdefault("sowings", {})
    key = (room.info.name, layer_id)
    stamp = _stamp(project, room, layer_id)
    cached = cache.get(key)
    if cached is None or cached[0] != stamp:
        cached = (stamp, sow(project, room, layer_id))
        cache[key] = cached
    return cached[1]


def ready_sowing(project: Project, room: Room, layer_id: str) -> Sowing | None:
    """What the field sows, if that is known already."""
    cached = project.derived.get("sowings", {}).get((room.info.name, layer_id))
    fresh = cached is not None and cached[0] == _stamp(project, room, layer_id)
    return cached[1] if fresh and cached is not None else None


def sown_in(project: Project, room: Room, layer_id: str, box: Box | None) -> Sowing:
    """What the field sows at least in `box`; a window is enough unless things are counted."""
    brush = project.brushes.get(room.layers[layer_id].info.brush)
    if box is None or is_counted(project, brush):
        return sowing_of(project, room, layer_id)
    columns = Box(box.lo[-2:], box.hi[-2:])
    return sow(project, room, layer_id, columns.grown(1).clipped(room.plan_box))


def _stamp(project: Project, room: Room, layer_id: str) -> object:
    """Changes whenever anything the field depends on does."""
    brush = project.brushes.get(room.layers[layer_id].info.brush)
    below = [
        (other, layer.revision, id(layer))
        for other, layer in room.bottom_up()
        if layer.info.kind != "field" or other == layer_id
    ]
    return (brush, len(project.prefabs), tuple(below), tuple(project.prefabs.values()))
