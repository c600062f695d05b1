"""Kinds of records, one module each; each is read by its `kind`.

To add one, write its module after `size.py` and name it in RECORDS.
"""

from __future__ import annotations

from topion.model.edit import Record
from topion.model.plain import BadPlain, JsonRecord
from topion.model.records.cells import CellsRecord, cells_changed
from topion.model.records.entries import EntriesRecord, entries_changed, entries_together
from topion.model.records.item import ItemRecord, taken_away
from topion.model.records.parts import PartsRecord, item_changed
from topion.model.records.room_name import RoomNameRecord
from topion.model.records.size import SizeRecord

RECORDS: dict[str, type[Record]] = {
    cls.kind: cls
    for cls in (CellsRecord, EntriesRecord, ItemRecord, PartsRecord, RoomNameRecord, SizeRecord)
}


def record_from_plain(plain: JsonRecord) -> Record:
    """Raises BadPlain, KeyError, TypeError or ValueError for what is no record."""
    kind = plain["record"]
    if not isinstance(kind, str) or kind not in RECORDS:
        raise BadPlain(("record",), f"{kind!r} is not known")
    return RECORDS[kind].from_plain(plain)


__all__ = [
    "RECORDS",
    "CellsRecord",
    "EntriesRecord",
    "ItemRecord",
    "PartsRecord",
    "RoomNameRecord",
    "SizeRecord",
    "cells_changed",
    "entries_changed",
    "entries_together",
    "item_changed",
    "record_from_plain",
    "taken_away",
]
