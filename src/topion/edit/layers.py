"""Edits of layers with all that lies in them: copied, merged, moved, attached, in groups."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

import numpy as np

from topion.brushes.groups import loosened
from topion.brushes.stamped_entries import numbered
from topion.edit.attaching import attached_to_layer
from topion.edit.library import free_name
from topion.edit.pieces import Pick, melted
from topion.edit.rooms import add_layer, moving_along, remove_layer, shifted_layer
from topion.edit.wear import copied_planes
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.model.edit import Edit, Record, joined, written
from topion.model.layer import Entry, Layer, LayerInfo
from topion.model.project import Project
from topion.model.records import EntriesRecord, cells_changed, entries_changed, item_changed
from topion.model.room import Room

Step = tuple[int, ...]


# --- attached -----------------------------------------------------------------------------


def attach(project: Project, room_name: str, layer_id: str, to: str = "") -> Edit:
    """Let a field or a layer of things move along with another layer; with none, stand by itself.

    Raises BadValue for layers of cells, and for a ring of them.
    """
    room = project.room(room_name)
    layer = room.layer(layer_id)
    if layer.info.kind not in ("things", "field"):
        raise BadValue(f"layer {layer.info.name}", layer.info.kind, "a field or a layer of things")
    if to and (to == layer_id or to in moving_along(room, layer_id)):
        name = room.layer(to).info.name
        raise BadValue(f"what {layer.info.name} is attached to", name, "not itself or its like")
    other = room.layer(to).info.name if to else ""
    label = f"Attach {layer.info.name} to {other}" if to else f"Detach {layer.info.name}"
    return _set(room, {layer_id: replace(layer.info, attached=to)}, label)


def move_contents(project: Project, room_name: str, layer_id: str, by: Step) -> Edit:
    """All that lies in a layer so many cells on, and in those that are attached to it; what leaves
    the room is gone.  Locked ones stay.  Raises BadValue."""
    room = project.room(room_name)
    if len(by) != room.info.axes:
        raise BadValue("the way of the contents", by, f"{room.info.axes} numbers in {room_name}")
    ids = moving_along(room, layer_id)
    locked = tuple(f"layer {room.layers[i].info.name} is locked" for i in ids
                   if room.layers[i].info.locked)  # fmt: skip
    free = [i for i in ids if not room.layers[i].info.locked]
    records = [r for i in free for r in shifted_layer(room, i, by)] if any(by) else []
    records += _drifted(room, free, by) if any(by) else ()
    records += attached_to_layer(room, tuple(free), by) if any(by) else ()
    name = room.layer(layer_id).info.name
    more = f" and {len(free) - 1} more" if len(free) > 1 else ""
    return Edit(f"Move what lies in {name}{more}", tuple(records), refused=locked)


def _drifted(room: Room, layer_ids: list[str], by: Step) -> Iterator[Record]:
    """What lets fields sow as before where they are moved to."""
    for layer_id in layer_ids:
        info = room.layers[layer_id].info
        if info.kind == "field":
            y, x = info.drift or (0, 0)
            moved = replace(info, drift=(y + by[-2], x + by[-1]))
            yield item_changed(("layers", room.info.name, layer_id), info, moved)


# --- copied and merged --------------------------------------------------------------------


def duplicate_layer(project: Project, room_name: str, layer_id: str) -> Edit:
    """The same layer once more, above it; its things and pieces get numbers of their own."""
    room = project.room(room_name)
    layer = room.layer(layer_id)
    names = {other.info.name for other in room.layers.values()}
    info = replace(layer.info, name=free_name(f"{layer.info.name} copy", names))
    new_id = room.new_layer_id(info.name)
    made = add_layer(project, room_name, info, above=layer_id)
    planes = copied_planes(room, layer_id, new_id)
    own: dict[tuple[str, str], list[Entry]] = {
        (new_id, table): list(entries.values())
        for table, entries in layer.tables.items() if table not in ("things", "curves")
    }  # fmt: skip
    curves, things = loosened(layer.curves, layer.things.values(), layer_id)
    ranks = {number: -rank for rank, number in enumerate(layer.table("held"), 1)}
    bans = [replace(ban, held=ranks.get(ban.held, 0)) for ban in layer.table("bans").values()]
    own |= {(new_id, "curves"): [*curves], (new_id, "things"): [*things], (new_id, "bans"): [*bans]}
    entries, _ = numbered(room, {key: values for key, values in own.items() if values})
    return Edit(f"Duplicate {layer.info.name}", (*made.records, *planes, *entries))


def layer_below(room: Room, layer_id: str) -> str:
    """The next layer below of the same kind; nothing without one."""
    kind = room.layer(layer_id).info.kind
    ids = [known for known, _ in room.bottom_up(kind)]
    at = ids.index(layer_id)
    return ids[at - 1] if at else ""


def merge_down(project: Project, room_name: str, layer_id: str) -> Edit:
    """Put all that lies in a layer into the next below of its kind, as it was seen over that, and
    take the layer away.

    Pieces of the lower one that would come to lie over painted cells of the upper one are melted.
    Raises BadValue where there is none below, it is locked, drawn beside, or of another field.
    """
    room = project.room(room_name)
    upper, below = room.layer(layer_id), layer_below(room, layer_id)
    name = upper.info.name
    if not below:
        raise BadValue(f"what lies below {name}", "nothing", f"another layer of {upper.info.kind}")
    lower = room.layers[below]
    for layer in (upper, lower):
        if layer.info.locked:
            raise BadValue(f"layer {layer.info.name}", "locked", "unlocked to be merged")
    if upper.info.offset != lower.info.offset or upper.info.brush != lower.info.brush:
        raise BadValue(
            f"layer {name}", "otherwise set", f"the offset and brush of {lower.info.name}"
        )
    scratch = project.scratch(project.rooms.copy())
    scratch.rooms[room_name] = room.frozen()
    parts = [_melted_below(project, room, upper, below)]
    list(written(scratch, parts))
    parts.append(Edit("", tuple(_laid_into(scratch.room(room_name), layer_id, below))))
    list(written(scratch, parts[1:]))
    parts.append(remove_layer(scratch, room_name, layer_id))
    return joined(f"Merge {name} into {lower.info.name}", parts, "#6b7479")


def _melted_below(project: Project, room: Room, upper: Layer, below: str) -> Edit:
    """Melts the pieces of a layer that painted cells of the one above lie over."""
    lower, material = room.layers[below], upper.planes.get("material")
    if not lower.pieces or material is None or not material.any():
        return Edit("")
    filled = material > 0
    hit = [
        Pick(below, number) for number, piece in lower.pieces.items()
        if filled[piece.touched.clipped(Box.of_shape(filled.shape)).slices].any()
    ]  # fmt: skip
    return melted(project, room.info.name, hit)


def _laid_into(room: Room, layer_id: str, below: str) -> Iterator[Record]:
    upper, lower = room.layers[layer_id], room.layers[below]
    if upper.planes:
        shape = next(iter(upper.planes.values())).shape
        filled = np.logical_or.reduce([plane > 0 for plane in upper.planes.values()])
        flat = np.flatnonzero(filled)
        before = {n: lower.plane(n).reshape(-1)[flat] for n in upper.info.traits.planes}
        after = {n: upper.plane(n).reshape(-1)[flat] for n in upper.info.traits.planes}
        if upper.info.kind == "field":
            after = {n: np.maximum(after[n], before[n]) for n in after}
        if upper.info.kind == "tints":  # what one leaves as it is, the other may give
            after = {n: np.where(after[n] > 0, after[n], before[n]) for n in after}
        yield from cells_changed(room.info.name, below, shape, flat, before, after)
    nearest = max((piece.order for piece in lower.pieces.values()), default=0.0)
    farthest = min((piece.order for piece in upper.pieces.values()), default=0.0)
    for table, entries in upper.tables.items():
        moved = dict(entries)
        if table == "pieces":
            lift = nearest + 1 - farthest
            moved = {n: replace(p, order=p.order + lift) for n, p in entries.items()}
        if table == "things":  # those of its curves belong to these where they come
            moved = {n: replace(t, attached=(below, t.attached[1]))
                     if t.along is not None and t.attached is not None
                     and t.attached[0] == layer_id else t for n, t in entries.items()}  # fmt: skip
        yield from entries_changed(room, layer_id, table, dict.fromkeys(entries))
        if moved:  # they keep their numbers
            yield EntriesRecord(room.info.name, below, table, {}, moved)


# --- groups -------------------------------------------------------------------------------


def group_layers(project: Project, room_name: str, layer_ids: Iterable[str], name: str) -> Edit:
    """Layers that are shown and hidden together from now on; an empty name takes them out."""
    room = project.room(room_name)
    infos = {i: replace(room.layer(i).info, group=name) for i in layer_ids}
    return _set(room, infos, f"Group {name}" if name else "Ungroup layers")


def groups_of(room: Room) -> dict[str, list[str]]:
    """The ids of the layers of each group, by its name."""
    found: dict[str, list[str]] = {}
    for layer_id, layer in room.bottom_up():
        if layer.info.group:
            found.setdefault(layer.info.group, []).append(layer_id)
    return found


def show_group(project: Project, room_name: str, name: str, shown: bool) -> Edit:
    """Show or hide all layers of a group."""
    room = project.room(room_name)
    infos = {i: replace(room.layers[i].info, shown=shown) for i in groups_of(room).get(name, ())}
    return _set(room, infos, f"{'Show' if shown else 'Hide'} {name}")


def show_layer(project: Project, room_name: str, layer_id: str, shown: bool) -> Edit:
    """Show or hide a layer, and with it all of its group."""
    info: LayerInfo = project.room(room_name).layer(layer_id).info
    if info.group:
        return show_group(project, room_name, info.group, shown)
    return _set(project.room(room_name), {layer_id: replace(info, shown=shown)},
                f"{'Show' if shown else 'Hide'} {info.name}")  # fmt: skip


def _set(room: Room, infos: dict[str, LayerInfo], label: str) -> Edit:
    records = [
        item_changed(("layers", room.info.name, layer_id), room.layers[layer_id].info, info)
        for layer_id, info in infos.items()
        if info != room.layers[layer_id].info
    ]
    return Edit(label, tuple(records))
