"""What is drawn over the room: grid, rulers, marks of the stroke, verdict, selection."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen

from topion.brushes.gestures import cell_of
from topion.grid.boxes import Box
from topion.model.room import Room
from topion.things.verdict import Verdict
from topion.view import style
from topion.view.hands import Hand
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of

RULER_LEFT, RULER_TOP = 30, 22
_RIGHT_MIDDLE = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
_TICKS = (1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024, 2048)


def hand_colour(hand: Hand) -> str:
    """The name of the colour of a hand."""
    return "buoy" if hand == "left" else "tidal"


def tick_every(camera: Camera, least_px: float) -> int:
    """How many cells apart marks must be to lie at least so many px apart."""
    return next((t for t in _TICKS if t * camera.px >= least_px), _TICKS[-1])


def draw_grid(painter: QPainter, camera: Camera, room: Room, view: QRectF) -> None:
    """Cell lines that fade out when cells get small, and stronger ones every eight cells."""
    for every, full_px, strength in ((1, 26.0, 34), (8, 160.0, 26)):
        px = camera.px * every
        share = min(1.0, max(0.0, (px - full_px / 3) / (full_px * 2 / 3)))
        if share <= 0:
            continue
        pen = QPen(QColor(24, 30, 34, round(strength * share)))
        painter.setPen(pen)
        _lines(painter, camera, room, view, every)


def _lines(painter: QPainter, camera: Camera, room: Room, view: QRectF, every: int) -> None:
    height, width = room.info.size
    edge = camera.rect_of(0, 0, height, width).intersected(view)
    step = camera.px * every
    first = max(0, int((edge.left() - camera.left) // step))
    last = min(width // every, int((edge.right() - camera.left) // step) + 1)
    for i in range(first, last + 1):
        x = round(camera.left + i * step)
        painter.drawLine(QPointF(x, edge.top()), QPointF(x, edge.bottom()))
    first = max(0, int((edge.top() - camera.top) // step))
    last = min(height // every, int((edge.bottom() - camera.top) // step) + 1)
    for i in range(first, last + 1):
        y = round(camera.top + i * step)
        painter.drawLine(QPointF(edge.left(), y), QPointF(edge.right(), y))


def draw_room_edge(painter: QPainter, camera: Camera, room: Room) -> None:
    """The edge of the room, with a soft shadow."""
    height, width = room.info.size
    rect = camera.rect_of(0, 0, height, width)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for grow, alpha in ((3, 12), (2, 20), (1, 34)):
        painter.setPen(QPen(QColor(20, 24, 28, alpha)))
        painter.drawRect(rect.adjusted(-grow, -grow, grow - 1, grow - 1))
    painter.setPen(QPen(style.ink("ink", 200)))
    painter.drawRect(rect.adjusted(-0.5, -0.5, -0.5, -0.5))


def draw_new_edge(
    painter: QPainter, camera: Camera, box: Box, words: str = "room grows to"
) -> None:
    """The edge that the room would have, with its size."""
    (y0, x0), (y1, x1) = box.lo, box.hi
    rect = camera.rect_of(y0, x0, y1, x1)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(QColor(255, 255, 255, 190), 3.4),
                QPen(style.ink("tidal"), 1.8, Qt.PenStyle.DashLine)):  # fmt: skip
        painter.setPen(pen)
        painter.drawRect(rect)
    at = QPointF(max(rect.left() + 6, RULER_LEFT + 6), max(rect.top() + 6, RULER_TOP + 6))
    label(painter, at, f"{words} {x1 - x0} × {y1 - y0}")


def draw_mirrors(painter: QPainter, camera: Camera, session: Session) -> None:
    """The lines at which strokes are mirrored."""
    height, width = session.room.info.size
    painter.setPen(QPen(style.ink("tidal"), 1.6, Qt.PenStyle.DashLine))
    for mirror in session.planes.here.mirrors():
        at = mirror.at + 0.5
        upright = mirror.axis == -1
        rect = camera.rect_of(0, at, height, at) if upright else camera.rect_of(at, 0, at, width)
        painter.drawLine(rect.topLeft(), rect.bottomRight())


def draw_rulers(painter: QPainter, camera: Camera, session: Session, size: QRect) -> None:
    """Cells along the top and the left, with the cursor's column and row marked."""
    panel = style.ink("panel2")
    painter.fillRect(0, 0, size.width(), RULER_TOP, panel)
    painter.fillRect(0, 0, RULER_LEFT, size.height(), panel)
    painter.setPen(QPen(style.ink("line")))
    painter.drawLine(RULER_LEFT, RULER_TOP - 1, size.width(), RULER_TOP - 1)
    painter.drawLine(RULER_LEFT - 1, RULER_TOP, RULER_LEFT - 1, size.height())
    painter.setFont(style.font(11))
    height, width = session.room.info.size
    painter.setPen(QPen(style.ink("soft")))
    every = tick_every(camera, 56)
    for x in range(0, width + 1, every):
        at = camera.left + x * camera.px
        if RULER_LEFT <= at < size.width():
            painter.drawLine(QPointF(at, RULER_TOP - 5), QPointF(at, RULER_TOP - 2))
            painter.drawText(QPointF(at + 3, 14), str(x))
    for y in range(0, height + 1, every):
        at = camera.top + y * camera.px
        if RULER_TOP <= at < size.height() - 10:
            painter.drawLine(QPointF(RULER_LEFT - 5, at), QPointF(RULER_LEFT - 2, at))
            painter.drawText(
                QRectF(0, at + 1, RULER_LEFT - 6, 14), Qt.AlignmentFlag.AlignRight, str(y)
            )
    if session.cursor is not None:
        _draw_cursor(painter, camera, (height, width), session.cursor)
    painter.fillRect(0, 0, RULER_LEFT - 1, RULER_TOP - 1, panel)


def _draw_cursor(
    painter: QPainter, camera: Camera, size: tuple[int, ...], cell: tuple[int, ...]
) -> None:
    """Column and row of the pointer on the rulers, with their numbers."""
    (height, width), (y, x) = size, cell
    mark, metrics = style.ink("buoy"), painter.fontMetrics()
    painter.setPen(QPen(style.ink("on_ink")))
    if 0 <= x < width:
        least = metrics.horizontalAdvance(str(x)) + 6.0
        wide = max(least, camera.px)
        left = max(RULER_LEFT, camera.left + (x + 0.5) * camera.px - wide / 2)
        place = QRectF(left, 0, wide, RULER_TOP - 1)
        painter.fillRect(place, mark)
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, str(x))
    if 0 <= y < height:
        high = max(metrics.height() - 1.0, camera.px)
        top = max(RULER_TOP, camera.top + (y + 0.5) * camera.px - high / 2)
        place = QRectF(0, top, RULER_LEFT - 1, high)
        painter.fillRect(place, mark)
        painter.drawText(place.adjusted(0, 0, -5, 0), _RIGHT_MIDDLE, str(y))


def draw_marks(
    painter: QPainter, camera: Camera, session: Session, hand: Hand, points: np.ndarray, kind: str
) -> None:
    """The stroke's own outline in the colour of its hand."""
    brush = session.hands.in_hand(hand)
    if brush is None or not len(points):
        return
    colour = style.ink(hand_colour(hand))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    cells = cell_of(points)
    (y0, x0), (y1, x1) = cells[0].tolist(), cells[-1].tolist()
    if kind == "box":
        rect = camera.rect_of(min(y0, y1), min(x0, x1), max(y0, y1) + 1, max(x0, x1) + 1)
        _outline(painter, rect, colour)
        if len(points) > 1:
            label(
                painter, rect.topLeft() - QPointF(0, 20), f"{abs(x1 - x0) + 1} × {abs(y1 - y0) + 1}"
            )
        return
    outline = brush.outline(drawn=kind in ("drag", "line"))
    if outline.form == "ring":
        radius, inner = outline.radius * camera.px, outline.inner * camera.px
        y, x = points[-1]
        middle = QPointF(camera.left + (x + 0.5) * camera.px, camera.top + (y + 0.5) * camera.px)
        for reach, alpha in ((radius, 235), (inner, 110)):
            painter.setPen(QPen(QColor(30, 36, 40, alpha // 3), 3))
            painter.drawEllipse(middle, reach, reach)
            painter.setPen(QPen(QColor(255, 255, 255, alpha), 1.4, Qt.PenStyle.DashLine))
            painter.drawEllipse(middle, reach, reach)
        return
    if kind == "line" and len(points) > 1:
        painter.setPen(QPen(colour, 1.5, Qt.PenStyle.DashLine))
        painter.drawLine(_middle(camera, y0, x0), _middle(camera, y1, x1))
    top, left = y1 + outline.lo[0], x1 + outline.lo[1]
    rect = camera.rect_of(top, left, top + outline.size[0], left + outline.size[1])
    _outline(painter, rect, colour)
    if outline.form == "lifted":
        painter.setPen(QPen(colour, 1.5))
        painter.drawLine(rect.topLeft(), rect.bottomRight())


def _middle(camera: Camera, y: float, x: float) -> QPointF:
    return QPointF(camera.left + (x + 0.5) * camera.px, camera.top + (y + 0.5) * camera.px)


def _outline(painter: QPainter, rect: QRectF, colour: QColor) -> None:
    painter.setPen(QPen(QColor(255, 255, 255, 120), 3))
    painter.drawRect(rect)
    painter.setPen(QPen(colour, 1.6))
    painter.drawRect(rect)


def label(painter: QPainter, at: QPointF, text: str) -> None:
    """A small paper tag."""
    painter.setFont(style.font(12, medium=True))
    wide = QFontMetrics(painter.font()).horizontalAdvance(text) + 12
    rect = QRectF(at.x(), at.y(), wide, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(style.ink("card", 235))
    painter.drawRoundedRect(rect, 4, 4)
    painter.setPen(QPen(style.ink("ink")))
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_verdict(
    painter: QPainter, camera: Camera, session: Session, found: Verdict, view: QRectF
) -> None:
    """A refusal at the pointer: the thing in the way, the nearest free cell, and the reasons."""
    y, x = found.at[-2:]
    here = camera.rect_of(y, x, y + 1, x + 1)
    if found.allowed:
        _outline(painter, here, style.ink("tidal"))
        return
    buoy, tidal = style.ink("buoy"), style.ink("tidal")
    _pale_thing(painter, camera, session, found)
    _outline(painter, here, buoy)
    for reason in found.reasons:
        if reason.thing is None:
            continue
        layer_id, number = reason.thing
        thing = session.room.layer(layer_id).things.get(number)
        if thing is None:
            continue
        other = _middle(camera, thing.y, thing.x)
        painter.setPen(QPen(buoy, 1.6))
        painter.drawLine(here.center(), other)
        painter.drawEllipse(other, camera.px * 0.62, camera.px * 0.62)
        if reason.reach:
            reach = reason.reach * camera.px
            painter.setPen(QPen(style.ink("buoy", 170), 1.2, Qt.PenStyle.DotLine))
            painter.drawEllipse(other, reach, reach)
    if found.nearest is not None:
        ny, nx = found.nearest[-2:]
        spot = camera.rect_of(ny, nx, ny + 1, nx + 1)
        painter.setPen(QPen(tidal, 1.6))
        painter.setBrush(style.ink("tidal", 90))
        painter.drawRect(spot.adjusted(2, 2, -2, -2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
    callout(painter, session, found, here, view)


def _pale_thing(painter: QPainter, camera: Camera, session: Session, found: Verdict) -> None:
    """The refused thing where it was asked for, half there."""
    prefab = session.project.prefabs.get(found.prefab)
    if prefab is None:
        return
    height, width = prefab.picture.size_px
    y, x = found.at[-2:]
    seat = camera.rect_of(y, x, y + 1, x + 1)
    zoom = camera.zoom
    top = seat.bottom() - prefab.foot_px[0] * zoom
    left = seat.center().x() - prefab.foot_px[1] * zoom
    painter.setOpacity(0.5)
    target = QRectF(left, top, width * zoom, height * zoom)
    painter.drawImage(target, image_of(prefab.picture.rgba))
    painter.setOpacity(1.0)


def callout(
    painter: QPainter, session: Session, found: Verdict, here: QRectF, view: QRectF
) -> None:
    """The reasons of a refusal on a paper tag beside the place `here`."""
    told = [reason.told() for reason in found.reasons[:3]]
    last = (
        "overridden: it will be laid all the same"
        if session.hands.overriding
        else (f"{found.way()} · hold O to lay it all the same")
    )
    bold, plain = style.font(13, bold=True), style.font(13)
    name = f"{found.prefab} · "
    wide = max(
        QFontMetrics(bold).horizontalAdvance(name) + QFontMetrics(plain).horizontalAdvance(told[0]),
        *(QFontMetrics(plain).horizontalAdvance(line) for line in (*told, last)),
    )
    high = 18 * (len(told) + 1) + 12
    rect = QRectF(here.right() + 12, here.bottom() + 12, wide + 24, high)
    if rect.right() > view.right() - 8:
        rect.moveRight(max(view.left() + rect.width() + 8, here.left() - 12))
    if rect.bottom() > view.bottom() - 8:
        rect.moveBottom(here.top() - 12)
    painter.setPen(QPen(style.ink("ink", 190)))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(rect, 4, 4)
    painter.fillRect(QRectF(rect.left(), rect.top() + 1, 4, rect.height() - 2), style.ink("buoy"))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y = rect.left() + 14, rect.top() + 19
    painter.setPen(QPen(style.ink("ink")))
    painter.setFont(bold)
    painter.drawText(QPointF(x, y), name)
    painter.setFont(plain)
    painter.drawText(QPointF(x + QFontMetrics(bold).horizontalAdvance(name), y), told[0])
    for line in told[1:]:
        y += 18
        painter.drawText(QPointF(x, y), line)
    painter.setPen(QPen(style.ink("soft")))
    painter.drawText(QPointF(x, y + 18), last)
