"""Edits of the library and of rooms: brushes, prefabs, tile sets, bays, rooms, layers.

A changed rule book weaves again, in the same Edit, every room that shows it.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from topion.brushes.laying import rewoven
from topion.errors import BadValue, NameTaken
from topion.model.brush import Brush
from topion.model.edit import (
    Edit,
    ItemRecord,
    Record,
    ThingsRecord,
    cells_changed,
)
from topion.model.prefab import Prefab
from topion.model.project import MOST_MATERIALS, MOST_TILES, Bay, Project
from topion.model.room import Layer, LayerInfo, Room, RoomInfo
from topion.model.solid import MOST_BLOCKS, Block
from topion.model.tileset import TileSet

BAYS = ("Ground", "Built", "Things", "Fields", "Stamps")
_BAY_OF_KIND = {"weave": "Ground", "mosaic": "Ground", "stamp": "Stamps", "lift": "Ground"}
_BAY_OF_KIND |= {"things": "Things", "field": "Fields", "crate": "Built", "sculpt": "Ground"}


def put_brush(project: Project, brush: Brush, bay: str = "") -> Edit:
    """Add a brush, or change the one of that name.  Raises BadValue if a table is full."""
    old = project.brushes.get(brush.name)
    records: list[Record] = []
    materials = _with_material(project, brush)
    tiles = _with_tiles(project, brush)
    if materials != project.materials:
        records.append(ItemRecord(("materials",), project.materials, materials))
    if tiles != project.tiles:
        records.append(ItemRecord(("tiles",), project.tiles, tiles))
    records.append(ItemRecord(("brushes", brush.name), old, brush))
    if old is None:
        bays = _with_card(project.bays, brush.name, bay or _BAY_OF_KIND.get(brush.kind, "Ground"))
        records.append(ItemRecord(("bays",), project.bays, bays))
    if project.rooms and _looks(old) != _looks(brush):
        after = replace(
            project,
            brushes={**project.brushes, brush.name: brush},
            materials=materials,
            tiles=tiles,
            derived={},
        )
        records += rewoven(project, after)
    if old == brush:
        return Edit(brush.name)
    return Edit(
        f"{brush.name} set" if old else f"New brush {brush.name}", tuple(records), brush.colour
    )


def _looks(brush: Brush | None) -> object:
    """What decides which tiles its material shows."""
    if brush is None or not hasattr(brush, "book"):
        return None
    return (brush.book(), getattr(brush, "seed", 0))


def _with_material(project: Project, brush: Brush) -> tuple[str, ...]:
    if not brush.material or brush.material in project.materials:
        return project.materials
    if len(project.materials) >= MOST_MATERIALS:
        raise BadValue(
            "the number of materials", len(project.materials) + 1, f"at most {MOST_MATERIALS}"
        )
    return (*project.materials, brush.material)


def _with_tiles(project: Project, brush: Brush) -> tuple[Any, ...]:
    known = set(project.tiles)
    used = dict.fromkeys(brush.tiles_used())
    for ref in used:
        if ref.is_block:
            project.block(ref.slot)  # raises UnknownName
    fresh = [ref for ref in used if ref not in known and not ref.is_block]
    for ref in fresh:
        project.tileset(ref.tileset).slot(ref.slot)  # raises UnknownName
    if len(project.tiles) + len(fresh) > MOST_TILES:
        raise BadValue(
            "the number of tiles that brushes lay",
            len(project.tiles) + len(fresh),
            f"at most {MOST_TILES}",
        )
    return (*project.tiles, *fresh) if fresh else project.tiles


def _with_card(bays: tuple[Bay, ...], brush: str, bay: str) -> tuple[Bay, ...]:
    if all(known.name != bay for known in bays):
        return (*bays, Bay(bay, (brush,)))
    return tuple(
        Bay(known.name, (*known.brushes, brush)) if known.name == bay else known for known in bays
    )


def moved_card(project: Project, brush: str, bay: str, place: int) -> Edit:
    """Move a card of the rack to a place in a bay."""
    bays = []
    for known in project.bays:
        cards = [name for name in known.brushes if name != brush]
        if known.name == bay:
            cards.insert(min(place, len(cards)), brush)
        bays.append(Bay(known.name, tuple(cards)))
    if tuple(bays) == project.bays:
        return Edit("Move card")
    return Edit(f"Move {brush}", (ItemRecord(("bays",), project.bays, tuple(bays)),))


def put_tileset(project: Project, tileset: TileSet) -> Edit:
    """Add a tile set; raises NameTaken."""
    if tileset.name in project.tilesets:
        raise NameTaken("tile set", tileset.name)
    record = ItemRecord(("tilesets", tileset.name), None, tileset)
    return Edit(f"Bring in {tileset.name}", (record,))


def put_block(project: Project, block: Block) -> Edit:
    """Add a block, or change the one of that name.  Raises BadValue for one too many, and
    UnknownName for faces that are not there."""
    for ref in block.faces:
        project.tileset(ref.tileset).slot(ref.slot)
    old = project.blocks.get(block.name)
    if old == block:
        return Edit(block.name)
    records: list[Record] = [ItemRecord(("blocks", block.name), old, block)]
    if block.name not in project.block_names:
        if len(project.block_names) >= MOST_BLOCKS:
            count = len(project.block_names) + 1
            raise BadValue("the number of blocks", count, f"at most {MOST_BLOCKS}")
        names = (*project.block_names, block.name)
        records.append(ItemRecord(("block_names",), project.block_names, names))
    return Edit(f"{block.name} set" if old else f"New block {block.name}", tuple(records))


def put_prefab(project: Project, prefab: Prefab) -> Edit:
    """Add a prefab, or change the one of that name."""
    old = project.prefabs.get(prefab.name)
    if old == prefab:
        return Edit(prefab.name)
    label = f"{prefab.name} set" if old else f"New prefab {prefab.name}"
    return Edit(label, (ItemRecord(("prefabs", prefab.name), old, prefab),))


def add_room(project: Project, info: RoomInfo, layers: tuple[LayerInfo, ...]) -> Edit:
    """A new room with empty layers, bottom to top; raises NameTaken."""
    if info.name in project.rooms:
        raise NameTaken("room", info.name)
    scratch = Room(info)
    records: list[Record] = [ItemRecord(("rooms", info.name), None, info)]
    for layer in layers:
        layer_id = scratch.new_layer_id(layer.name)
        scratch.layers[layer_id] = Layer(layer, {})
        records.append(ItemRecord(("layers", info.name, layer_id), None, layer))
    records.append(ItemRecord(("order", info.name), (), tuple(scratch.layers)))
    return Edit(f"New room {info.name}", tuple(records))


def add_layer(project: Project, room_name: str, info: LayerInfo, above: str = "") -> Edit:
    """A new empty layer above the layer `above`, or on top."""
    room = project.room(room_name)
    layer_id = room.new_layer_id(info.name)
    order = list(room.order)
    order.insert(order.index(above) + 1 if above in order else len(order), layer_id)
    return Edit(
        f"New layer {info.name}",
        (
            ItemRecord(("layers", room_name, layer_id), None, info),
            ItemRecord(("order", room_name), room.order, tuple(order)),
        ),
    )


def set_layer(project: Project, room_name: str, layer_id: str, **changes: Any) -> Edit:
    """Change name, shown, locked, opacity or offset of a layer."""
    info = project.room(room_name).layer(layer_id).info
    new = replace(info, **changes)
    if new == info:
        return Edit(info.name)
    words = {"shown": "Show" if new.shown else "Hide", "locked": "Lock" if new.locked else "Unlock"}
    verb = next((words[key] for key in changes if key in words), "Set")
    return Edit(f"{verb} {new.name}", (ItemRecord(("layers", room_name, layer_id), info, new),))


def move_layer(project: Project, room_name: str, layer_id: str, place: int) -> Edit:
    """Put a layer at a place in the order, 0 at the bottom."""
    room = project.room(room_name)
    order = [known for known in room.order if known != layer_id]
    order.insert(max(0, min(place, len(order))), layer_id)
    if tuple(order) == room.order:
        return Edit("Move layer")
    record = ItemRecord(("order", room_name), room.order, tuple(order))
    return Edit(f"Move {room.layer(layer_id).info.name}", (record,))


def remove_layer(project: Project, room_name: str, layer_id: str) -> Edit:
    """Take a layer away with all that lies in it."""
    room = project.room(room_name)
    layer = room.layer(layer_id)
    order = tuple(known for known in room.order if known != layer_id)
    records = (
        *_emptied(room, layer_id, layer),
        ItemRecord(("order", room_name), room.order, order),
        ItemRecord(("layers", room_name, layer_id), layer.info, None),
    )
    return Edit(f"Remove layer {layer.info.name}", records)


def remove_room(project: Project, room_name: str) -> Edit:
    """Take a room away with all its layers."""
    room = project.room(room_name)
    records: list[Record] = []
    for layer_id, layer in room.bottom_up():
        records += _emptied(room, layer_id, layer)
    records.append(ItemRecord(("order", room_name), room.order, ()))
    for layer_id, layer in room.bottom_up():
        records.append(ItemRecord(("layers", room_name, layer_id), layer.info, None))
    records.append(ItemRecord(("rooms", room_name), room.info, None))
    return Edit(f"Remove room {room_name}", tuple(records))


def _emptied(room: Room, layer_id: str, layer: Layer) -> list[Record]:
    records: list[Record] = []
    planes = layer.planes
    if planes:
        shape = next(iter(planes.values())).shape
        flat = np.flatnonzero(np.logical_or.reduce([p.reshape(-1) > 0 for p in planes.values()]))
        before = {name: plane.reshape(-1)[flat] for name, plane in planes.items()}
        after = {name: np.zeros_like(values) for name, values in before.items()}
        records += cells_changed(room.info.name, layer_id, shape, flat, before, after)
    if layer.things:
        records.append(ThingsRecord(room.info.name, layer_id, dict(layer.things), {}))
    return records


def change_things(
    project: Project, room_name: str, layer_id: str, after: dict[int, Any], label: str
) -> Edit:
    """Replace things by number; None takes one away."""
    layer = project.room(room_name).layer(layer_id)
    before = {number: layer.things[number] for number in after if number in layer.things}
    kept = {number: thing for number, thing in after.items() if thing is not None}
    if before == kept:
        return Edit(label)
    return Edit(label, (ThingsRecord(room_name, layer_id, before, kept),))
