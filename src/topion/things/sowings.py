"""The sowings of a room's fields, kept until something they stand on changes."""

from __future__ import annotations

from topion.grid.boxes import Box
from topion.model.derived import Kept
from topion.model.project import Project
from topion.model.room import Room
from topion.things.density import parts_of
from topion.things.field import Field, field_of
from topion.things.sowing import is_counted, sow
from topion.things.sown import Sowing
from topion.weaving.looms import made_of

_SOWINGS: Kept[dict[str, tuple[object, Sowing]]] = Kept()
_IN_WINDOWS: Kept[dict[str, tuple[object, dict[Box, Sowing]]]] = Kept()
_MOST_WINDOWS = 128  # of one layer; as many as a view holds, and some beside it


def _kept(room: Room) -> dict[str, tuple[object, Sowing]]:
    """Of each field layer of the room, by id: its stamp and what it sows."""
    return _SOWINGS.of(room, None, dict)


def sowing_of(project: Project, room: Room, layer_id: str) -> Sowing:
    """What the field layer sows now."""
    ready = ready_sowing(project, room, layer_id)
    if ready is None:
        stamp = _stamp(project, room, layer_id)
        ready = sow(project, room, layer_id)
        _kept(room)[layer_id] = (stamp, ready)
    return ready


def ready_sowing(project: Project, room: Room, layer_id: str) -> Sowing | None:
    """What the field sows, if that is known already."""
    cached = _kept(room).get(layer_id)
    if cached is None or cached[0] != _stamp(project, room, layer_id):
        return None
    return cached[1]


def sown_in(project: Project, room: Room, layer_id: str, box: Box | None) -> Sowing:
    """What the field sows at least in `box`; a window is enough unless things are counted."""
    window = room.plan_box
    if box is not None and not is_counted(project, field_of(project, room.layers[layer_id])):
        window = Box(box.lo[-2:], box.hi[-2:]).grown(1).clipped(room.plan_box)
    if window == room.plan_box:
        return sowing_of(project, room, layer_id)
    ready = ready_sowing(project, room, layer_id)
    return _window_of(project, room, layer_id, window) if ready is None else ready


def _window_of(project: Project, room: Room, layer_id: str, window: Box) -> Sowing:
    """What it sows in a window: sown once, as what stands there is drawn again and again."""
    stamp, layers = _stamp(project, room, layer_id), _IN_WINDOWS.of(room, None, dict)
    if layer_id not in layers or layers[layer_id][0] != stamp:
        layers[layer_id] = (stamp, {})
    windows = layers[layer_id][1]
    found = windows.pop(window, None)
    if found is None:
        found = sow(project, room, layer_id, window)
    windows[window] = found  # last, as it was asked for last
    if len(windows) > _MOST_WINDOWS:
        windows.pop(next(iter(windows)), None)
    return found


def _looks_at_others(field: Field | None) -> bool:
    """Whether what a field sows depends on other fields."""
    return field is not None and (
        "fields" in field.avoids or any(part.reads_fields() for part in parts_of(field))
    )


def _stamp(project: Project, room: Room, layer_id: str) -> object:
    field = field_of(project, room.layers[layer_id])
    others = _looks_at_others(field)
    below = [
        (other, layer.revision, field_of(project, layer) if others else None)
        for other, layer in room.bottom_up()
        if others or layer.info.kind != "field" or other == layer_id
    ]
    woven = made_of(project, room.info.cells_kind) if room.info.view != "top" else None
    return field, project.stamp("prefabs", "classes"), tuple(below), woven
