"""Part of a room as a QImage: tiles copied straight into its memory, sprites by Qt."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QColor, QImage, QPainter, QPixmap

from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.render.pixels import Words
from topion.render.scene import plain_tiles, stacked, tiles_in_box
from topion.render.sprites import (
    DOT_PX,
    dots_in,
    drawn_in,
    overhang_cells,
    placed_sprites,
)
from topion.render.wear import stack_tiles, wear_of
from topion.things.sowings import sown_in

Has = Callable[[Project, Layer], bool]
_FORMAT = QImage.Format.Format_ARGB32_Premultiplied


def always(project: Project, layer: Layer) -> bool:
    """For callers that wait: whatever a field sows is drawn."""
    return True


def _draw(painter: QPainter, at: QPoint, words: Words) -> None:
    """Draw (h, w) words now.  No image over the memory of an array outlives this call: Qt shares
    pictures, and nothing of that would keep the array alive."""
    words = np.ascontiguousarray(words)
    height, width = words.shape
    pixels: Any = words.data
    painter.drawImage(at, QImage(pixels, width, height, width * 4, _FORMAT))


def memory_of(image: QImage) -> Words:
    """The (h, w) words of a QImage of its own, to be written; not to be kept longer than it."""
    pixels: Any = image.bits()
    pixels.setsize(image.sizeInBytes())
    return np.frombuffer(pixels, np.uint32).reshape(image.height(), image.width())


def picture_of_words(words: Words) -> QImage:
    """A QImage of (h, w) words, in memory of its own."""
    height, width = words.shape
    image = QImage(width, height, _FORMAT)
    memory_of(image)[...] = words
    return image


def image_of(rgba: Rgba) -> QImage:
    """A QImage of (h, w, 4) straight RGBA, in memory of its own."""
    height, width = rgba.shape[:2]
    image = QImage(width, height, QImage.Format.Format_RGBA8888)
    memory_of(image)[...] = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    return image


def pixmap_of(rgba: Rgba) -> QPixmap:
    """A QPixmap of (h, w, 4) straight RGBA."""
    return QPixmap.fromImage(image_of(rgba))


def sown_ahead(project: Project, room: Room, box: Box, side: int, has: Has) -> Iterator[str]:
    """Sow what `composed` draws of fields, a layer at a time: what it sows is kept, so that it may
    be left to the next frame.  Yields the ids of the layers."""
    for layer_id, layer in room.bottom_up("field"):
        if layer.info.shown and layer.info.opacity > 0 and has(project, layer):
            reach = 0 if side <= DOT_PX else overhang_cells(project, room)
            sown_in(project, room, layer_id, box.grown(reach))
            yield layer_id


def composed(project: Project, room: Room, box: Box, side: int, has: Has = always) -> QImage:
    """The cells of `box` at `side` px, all shown layers over the backdrop.

    has : whether what a field layer sows can be drawn at once; one that cannot is left out.
    """
    image = QImage(max(1, box.shape[1] * side), max(1, box.shape[0] * side), _FORMAT)
    words = memory_of(image)
    layers = [(i, layer) for i, layer in room.drawn() if layer.info.shown]
    layers = [(i, layer) for i, layer in layers if layer.info.opacity > 0]
    layers = [(i, la) for i, la in layers if la.info.kind != "field" or has(project, la)]
    low = plain_tiles(layers)
    backdrop = QColor(room.info.backdrop).rgba()
    if low and box.size:
        stack_tiles(project, wear_of(room), box, side, words, stacked(project, low, box), backdrop)
    else:
        words[...] = backdrop
    if len(low) < len(layers):
        _draw_upper(image, project, room, layers[len(low) :], box, side)
    return image


def _draw_upper(
    image: QImage,
    project: Project,
    room: Room,
    layers: list[tuple[str, Layer]],
    box: Box,
    side: int,
) -> None:
    """Draw things, and what cannot be copied tile by tile, over a picture."""
    painter = QPainter(image)
    scratch = np.empty((image.height(), image.width()), np.uint32)
    reach = 0
    for layer_id, layer in layers:
        painter.setOpacity(layer.info.opacity)
        if layer.info.kind == "tiles":
            tiles = tiles_in_box(layer, box, project, side, scratch, wear=wear_of(room))
            if tiles is not None:
                _draw(painter, QPoint(0, 0), tiles)
        elif side <= DOT_PX:
            scratch[...] = 0
            ys, xs, dots = dots_in(project, room, layer_id, box, side)
            scratch[ys, xs] = dots
            _draw(painter, QPoint(0, 0), scratch)
        else:
            reach = reach or overhang_cells(project, room)
            _draw_things(painter, project, room, layer_id, layer, box.grown(reach), box, side)
    painter.end()


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
    things = drawn_in(project, room, layer_id, around)
    for placed in placed_sprites(project, room, layer, things, side):
        at = QPoint(placed.left - box.lo[1] * side, placed.top - box.lo[0] * side)
        _draw(painter, at, placed.sprite.words)
