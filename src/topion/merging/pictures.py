"""Pictures put together, pixel by pixel."""

from __future__ import annotations

import base64
import json

import numpy as np

from topion.formats.stems import unstemmed
from topion.merging.files import MergedFile
from topion.merging.records import conflict_name
from topion.model.conflict import ItemConflict
from topion.model.plain import to_plain
from topion.model.shelves import SHELVES
from topion.pictures.png import png_bytes, read_png, with_note


def merged_picture(file: str, base: bytes | None, ours: bytes, theirs: bytes) -> MergedFile:
    """Three versions of a PNG.  Where both changed the same pixels otherwise, or the size, ours
    stands, and theirs is kept in it.  Raises BadFile."""
    sides = [read_png(data, file).rgba for data in (ours, theirs)]
    before = read_png(base, file).rgba if base is not None else None
    alike = len({side.shape for side in (*sides, *([] if before is None else [before]))}) == 1
    if alike and before is not None:
        changed, free = ((a != b).any(axis=2) for a, b in ((sides[1], before), (sides[0], before)))
        both = changed & free & (sides[0] != sides[1]).any(axis=2)
        if not both.any():
            take = changed & ~free
            return MergedFile(png_bytes(np.where(take[..., None], sides[1], sides[0])))
    if alike and np.array_equal(sides[0], sides[1]):
        return MergedFile(ours)
    shelf, _, rest = file.partition("/")
    stem, _, field = rest.removesuffix(".png").partition(".")
    known = SHELVES[shelf].pictures if shelf in SHELVES else ()
    field, name = field or (known[0] if known else "picture"), unstemmed(stem)
    values = {field: base64.b64encode(theirs).decode()}
    conflict = to_plain(
        ItemConflict(conflict_name(shelf, name, values), shelf, name, values=values)
    )
    return MergedFile(with_note(ours, json.dumps(conflict)), (conflict,))
