"""Edits to plain JSON values and back, for the journal and for sending them elsewhere."""

from __future__ import annotations

import zlib

from topion.errors import TopionError
from topion.model.edit import Edit
from topion.model.plain import BadPlain, Json, JsonRecord, from_plain
from topion.model.records import record_from_plain


def edit_to_plain(edit: Edit) -> JsonRecord:
    """JSON values that `edit_from_plain` turns back into an Edit that does the same."""
    return {
        "label": edit.label,
        "colour": edit.colour,
        "records": [record.plain() for record in edit.records],
        **({"part": list(edit.part)} if edit.part != (1, 1) else {}),
    }


def edit_from_plain(value: Json) -> Edit:
    """Raises BadPlain for anything but what `edit_to_plain` writes."""
    try:
        records = tuple(record_from_plain(record) for record in value["records"])
        part = from_plain(tuple[int, int], value.get("part", [1, 1]), ("part",))
        return Edit(str(value["label"]), records, str(value["colour"]), part=part)
    except BadPlain:
        raise
    except (
        KeyError, TypeError, ValueError, AttributeError, OverflowError, zlib.error, TopionError,
    ) as problem:  # fmt: skip
        raise BadPlain((), f"is not an edit ({problem})") from None
