"""Edits to plain JSON values and back, for the journal and for sending them elsewhere."""

from __future__ import annotations

import base64
import binascii
from typing import Any

from topion.grid.boxes import Box
from topion.model.brush import Brush
from topion.model.edit import CellsRecord, Edit, ItemRecord, Record, SealedCells, ThingsRecord
from topion.model.plain import BadPlain, from_plain, to_plain
from topion.model.prefab import Prefab, Thing
from topion.model.project import Bay
from topion.model.room import LayerInfo, RoomInfo
from topion.model.solid import Block
from topion.model.tileset import TileRef, TileSet

_ITEM_TYPES: dict[str, Any] = {
    "rooms": RoomInfo,
    "layers": LayerInfo,
    "order": tuple[str, ...],
    "materials": tuple[str, ...],
    "tiles": tuple[TileRef, ...],
    "block_names": tuple[str, ...],
    "blocks": Block,
    "bays": tuple[Bay, ...],
    "name": str,
    "tilesets": TileSet,
    "brushes": Brush,
    "prefabs": Prefab,
}


def edit_to_plain(edit: Edit) -> dict[str, Any]:
    """JSON values that `edit_from_plain` turns back into an Edit that does the same."""
    return {
        "label": edit.label,
        "colour": edit.colour,
        "records": [_record_to_plain(record) for record in edit.sealed().records],
    }


def edit_from_plain(value: Any) -> Edit:
    """Raises BadPlain for anything but what `edit_to_plain` writes."""
    try:
        records = tuple(_record_from_plain(record) for record in value["records"])
        return Edit(str(value["label"]), records, str(value["colour"]))
    except (KeyError, TypeError, ValueError, AttributeError) as problem:
        raise BadPlain((), f"is not an edit ({problem})") from None


def _record_to_plain(record: Record) -> dict[str, Any]:
    if isinstance(record, SealedCells):
        plain = {"record": "cells", **to_plain(record)}
        plain["packed"] = base64.b64encode(record.packed).decode()
        return plain
    if isinstance(record, ThingsRecord):
        return {"record": "things", **to_plain(record)}
    if isinstance(record, ItemRecord):
        return {
            "record": "item",
            "address": list(record.address),
            "before": to_plain(record.before),
            "after": to_plain(record.after),
        }
    raise TypeError(f"no plain form for {type(record).__name__}")


def _record_from_plain(plain: dict[str, Any]) -> Record:
    kind = plain["record"]
    if kind == "cells":
        return _cells_from_plain(plain)
    if kind == "things":
        before, after = (
            from_plain(dict[int, Thing], plain[side], ("records", side))
            for side in ("before", "after")
        )
        return ThingsRecord(plain["room"], plain["layer"], before, after)
    if kind == "item":
        address = tuple(str(step) for step in plain["address"])
        wanted = _ITEM_TYPES[address[0]]
        before, after = (
            None if plain[side] is None else from_plain(wanted, plain[side], (*address, side))
            for side in ("before", "after")
        )
        return ItemRecord(address, before, after)
    raise BadPlain(("record",), f"{kind!r} is not known")


def _cells_from_plain(plain: dict[str, Any]) -> CellsRecord | SealedCells:
    try:
        packed = base64.b64decode(plain["packed"], validate=True)
    except binascii.Error:
        raise BadPlain(("packed",), "is not base64 text") from None
    return SealedCells(
        plain["room"],
        plain["layer"],
        tuple(plain["shape"]),
        from_plain(Box, plain["touched"], ("touched",)),
        plain["count"],
        tuple((str(name), str(dtype)) for name, dtype in plain["planes"]),
        packed,
        bool(plain.get("backwards", False)),
    )
