"""Part of a room as a QImage: tiles copied straight into its memory, sprites by Qt."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QColor, QImage, QPainter, QPixmap

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.render.atlas import atlas_of
from topion.render.pixels import Words
from topion.render.scene import tiles_in_box
from topion.render.sprites import (
    DOT_PX,
    dots_in,
    overhang_cells,
    placed_sprites,
    things_in,
)
from topion.weaving.settle import shown_tiles

_FORMAT = QImage.Format.Format_ARGB32_Premultiplied


def wrapped(words: Words) -> QImage:
    """A QImage over the same memory; keep `words` as long as it is used."""
    words = np.ascontiguousarray(words)
    height, width = words.shape
    pixels: Any = words.data
    image = QImage(pixels, width, height, width * 4, _FORMAT)
    image.words = words  # type: ignore[attr-defined]
    return image


def image_of(rgba: Rgba) -> QImage:
    """A QImage over (h, w, 4) straight RGBA; it keeps the pixels alive."""
    rgba = np.ascontiguousarray(rgba)
    height, width = rgba.shape[:2]
    pixels: Any = rgba.data
    image = QImage(pixels, width, height, width * 4, QImage.Format.Format_RGBA8888)
    image.words = rgba  # type: ignore[attr-defined]
    return image


def pixmap_of(rgba: Rgba) -> QPixmap:
    """A QPixmap of (h, w, 4) straight RGBA."""
    return QPixmap.fromImage(image_of(rgba))


def composed(project: Project, room: Room, box: Box, side: int) -> QImage:
    """The cells of `box` at `side` px, all shown layers over the backdrop."""
    words = np.empty((max(1, box.shape[0] * side), max(1, box.shape[1] * side)), np.uint32)
    layers = [(i, layer) for i, layer in room.bottom_up() if layer.info.shown]
    layers = [(i, layer) for i, layer in layers if layer.info.opacity > 0]
    first = _lowest_seen(project, layers, box, side)
    if first is None:
        words[...] = QColor(room.info.backdrop).rgba()
    else:  # an opaque layer hides the backdrop and all layers below it
        atlas_of(project, side).into(words, shown_tiles(project, first[1], box))
        layers = layers[layers.index(first) + 1 :]
    image = wrapped(words)
    painter = QPainter(image)
    scratch = _scratch(words.shape)
    reach = 0
    for layer_id, layer in layers:
        painter.setOpacity(layer.info.opacity)
        if layer.info.kind == "tiles":
            tiles = tiles_in_box(layer, box, project, side, scratch)
            if tiles is not None:
                painter.drawImage(QPoint(0, 0), wrapped(tiles))
        elif side <= DOT_PX:
            scratch[...] = 0
            ys, xs, dots = dots_in(project, room, layer_id, box, side)
            scratch[ys, xs] = dots
            painter.drawImage(QPoint(0, 0), wrapped(scratch))
        else:
            reach = reach or overhang_cells(project, room)
            _draw_things(painter, project, room, layer_id, layer, box.grown(reach), box, side)
    painter.end()
    return image


@lru_cache(maxsize=2)
def _scratch(shape: tuple[int, int]) -> Words:
    """Memory for one layer on its way into a picture; only the GUI thread composes."""
    return np.empty(shape, np.uint32)


def _lowest_seen(
    project: Project, layers: list[tuple[str, Layer]], box: Box, side: int
) -> tuple[str, Layer] | None:
    """The uppermost tile layer that covers all of the box with opaque tiles."""
    opaque = atlas_of(project, side).opaque
    for found in reversed(layers):
        info = found[1].info
        if info.kind != "tiles" or info.opacity < 1 or any(info.offset):
            continue
        tile = shown_tiles(project, found[1], box)
        if tile.size and tile[0, 0] and tile[-1, -1] and opaque.take(tile).all():
            return found
    return None


def _draw_things(
    painter: QPainter,
    project: Project,
    room: Room,
    layer_id: str,
    layer: Layer,
    around: Box,
    box: Box,
    side: int,
) -> None:
    things = things_in(project, room, layer_id, around)
    for placed in placed_sprites(project, room, layer, things, side):
        at = QPoint(placed.left - box.lo[1] * side, placed.top - box.lo[0] * side)
        painter.drawImage(at, wrapped(placed.sprite.words))
