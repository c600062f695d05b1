"""Drawings of many sizes that lie loosely on a sheet: a slot round each."""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded at first use

from topion.grid.arrays import CellMask
from topion.model.tileset import LONGEST_TILE_PX, Cut

_MOST_ISLANDS = 4000
_JOINED_PX = 1  # islands so near are one drawing
_SPECK_PX = 1
Rect = tuple[int, int, int, int]


def islands_cut(drawn: CellMask) -> Cut | None:
    """Slots from the rectangles round what hangs together, in reading order; None for sheets
    that are full, or too much in pieces, or one piece."""
    if drawn.all():
        return None
    wide = scipy.ndimage.binary_dilation(drawn, np.ones((3, 3), bool), iterations=_JOINED_PX)
    pieces, count = scipy.ndimage.label(wide, np.ones((3, 3), bool))
    if not 2 <= count <= _MOST_ISLANDS:
        return None
    boxes = []
    for found in scipy.ndimage.find_objects(np.where(drawn, pieces, 0), count):
        if found is None:
            continue
        lo, hi = [part.start for part in found], [part.stop for part in found]
        boxes.append((*lo, *hi))
    boxes = _without_specks(_merged(boxes))
    sides = [max(box[k + 2] - box[k] for box in boxes) for k in (0, 1)] if boxes else [0, 0]
    tile = (sides[0], sides[1])
    if len(boxes) < 2 or max(tile) > LONGEST_TILE_PX or not Cut.can_have(len(boxes), tile):
        return None
    rects = tuple((top, left, bottom - top, right - left)
                  for top, left, bottom, right in _in_rows(boxes))  # fmt: skip
    return Cut(tile, rects=rects)


def _merged(boxes: list[Rect]) -> list[Rect]:
    """Rectangles that overlap joined, until none do."""
    found = np.array(boxes, np.intp).reshape(-1, 4)
    while True:
        meets = np.ones((len(found), len(found)), bool)
        for axis in (0, 1):
            low, high = found[:, axis], found[:, axis + 2]
            meets &= (low[:, None] < high) & (high[:, None] > low)
        count, group = scipy.sparse.csgraph.connected_components(meets, directed=False)
        if count == len(found):
            return [(int(a), int(b), int(c), int(d)) for a, b, c, d in found]
        joined = np.empty((count, 4), np.intp)
        joined[:, :2], joined[:, 2:] = np.iinfo(np.intp).max, 0
        np.minimum.at(joined[:, :2], group, found[:, :2])
        np.maximum.at(joined[:, 2:], group, found[:, 2:])
        found = joined


def _without_specks(boxes: list[Rect]) -> list[Rect]:
    return [box for box in boxes
            if max(box[2] - box[0], box[3] - box[1]) > _SPECK_PX]  # fmt: skip


def _in_rows(boxes: list[Rect]) -> list[Rect]:
    """Reading order: rows of rectangles whose heights overlap, each from the left."""
    rows: list[list[Rect]] = []
    for box in sorted(boxes):
        middle = (box[0] + box[2]) / 2
        row = next((row for row in rows if row[0][0] <= middle < row[0][2]), None)
        if row is None:
            rows.append([box])
        else:
            row.append(box)
    return [box for row in rows for box in sorted(row, key=lambda one: one[1])]
