"""The reach of a figure as quiet marks over its room, and what it does not get to."""

from __future__ import annotations

from typing import cast

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen, QPolygonF

from topion.render.eye import Eye
from topion.view import style
from topion.view.table.camera import Camera
from topion.walk.gaps import gap_to, told
from topion.walk.reach import Counted, Reach
from topion.walk.terrain import CLIMB, Terrain

_SMALLEST = 6.0  # px a cell below which only a tint is drawn
_BOX, _GAP = 250.0, 26.0  # px of what is told of a place, and beside it


def draw_reach(painter: QPainter, camera: Camera, reach: Reach) -> None:
    """Over a flat room: where it stands, what it passes, and from where it finds no way back."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    rows, columns = _seen(painter, camera, reach)
    view = reach.begun.world.stage(reach.begun.room).view
    stands, passes = reach.stands[rows, columns], reach.passes[rows, columns]
    lost = reach.no_back[rows, columns]
    corner = np.array([rows.start, columns.start])
    if view == "top" or camera.px < _SMALLEST:
        _draw_dots(painter, camera, np.argwhere(stands & ~lost) + corner, "tidal")
        _draw_dots(painter, camera, np.argwhere(stands & lost) + corner, "ochre")
    else:
        _draw_dots(painter, camera, np.argwhere(passes & ~stands) + corner, "tidal")
        _draw_ground(painter, camera, reach, np.argwhere(stands & ~lost) + corner, "tidal")
        _draw_ground(painter, camera, reach, np.argwhere(stands & lost) + corner, "ochre")
    for place in reach.missed:
        _draw_missed(painter, camera, reach, place)


def _seen(painter: QPainter, camera: Camera, reach: Reach) -> tuple[slice, slice]:
    """The cells that are in the picture."""
    rect = painter.clipBoundingRect()
    if rect.isEmpty():
        rect = QRectF(painter.viewport())
    (rows, columns), spans = reach.stands.shape, []
    for low, far, size in (
        (rect.top() - camera.top, rect.height(), rows),
        (rect.left() - camera.left, rect.width(), columns),
    ):
        first = max(0, int(low // camera.px))
        spans.append(slice(first, max(first, min(size, int((low + far) // camera.px) + 1))))
    return spans[0], spans[1]


def _draw_dots(painter: QPainter, camera: Camera, cells: np.ndarray, ink: str) -> None:
    size = max(1.6, min(3.2, camera.px / 8))
    pen = QPen(_bright(ink, 215), size)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    corner = camera.rect_of(0, 0, 0, 0).topLeft()
    half = camera.px / 2
    painter.drawPoints(QPolygonF([QPointF(corner.x() + x * camera.px + half,
                                          corner.y() + y * camera.px + half)
                                  for y, x in cells.tolist()]))  # fmt: skip


def _draw_ground(painter: QPainter, camera: Camera, reach: Reach, cells: np.ndarray, ink: str
                 ) -> None:  # fmt: skip
    """A dash below the feet in each cell, along slopes, upright on ladders."""
    terrain = cast(Terrain, reach.begun.world.stage(reach.begun.room).terrain)
    px, corner = camera.px, camera.rect_of(0, 0, 0, 0).topLeft()
    inset, lines = px * 0.1, list[QLineF]()
    foot = 1 if reach.begun.over else -1
    for y, x in dict.fromkeys((_on_slope(terrain, *cell), cell[1]) for cell in cells.tolist()):
        left, top = corner.x() + x * px, corner.y() + y * px
        profile = terrain.floors.get(y * terrain.columns + x)
        if profile:
            low, high = (px * (1 - end / terrain.cell) - 2 for end in (profile[0], profile[-1]))
            lines.append(QLineF(left + inset, top + low, left + px - inset, top + high))
            continue
        if terrain.flag(y, x) & CLIMB and not terrain.flag(y + 1, x) & 3:
            middle = left + px / 2
            lines.append(QLineF(middle, top + inset, middle, top + px - inset))
            continue
        ground = top + 2 if foot > 0 else top + px - 2
        lines.append(QLineF(left + inset, ground, left + px - inset, ground))
    pen = QPen(_bright(ink, 235), max(2.0, min(3.5, px / 9)))
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    for line in lines:
        painter.drawLine(line)


def _on_slope(terrain: Terrain, y: int, x: int) -> int:
    """The row of the slope that it stands on, its own or the one below; else its own."""
    below = terrain.floors.get((y + 1) * terrain.columns + x) is not None
    return y + 1 if below and terrain.floors.get(y * terrain.columns + x) is None else y


def _draw_missed(painter: QPainter, camera: Camera, reach: Reach, place: Counted) -> None:
    """A ring round it, from where the figure comes nearest, and what that lacks."""
    y, x = place.cell
    middle = camera.rect_of(y, x, y + 1, x + 1).center()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for ink, wide in (("card", 5.0), ("buoy", 2.2)):
        painter.setPen(QPen(style.ink(ink), wide))
        painter.drawEllipse(middle, camera.px * 0.72 + 3, camera.px * 0.72 + 3)
    gap = gap_to(reach, place)
    if gap is not None and gap.up > 0:
        row, column = gap.start
        ground = camera.rect_of(row, column, row + 1, column + 1)
        _draw_height(painter, QPointF(middle.x() - camera.px * 1.4, ground.bottom()),
                     QPointF(middle.x() - camera.px * 1.4, middle.y() + camera.px / 2),
                     reach.begun.world.figure.jump_height * camera.px)  # fmt: skip
    seen = painter.clipBoundingRect()
    if seen.isEmpty() or seen.contains(middle):
        _tell(painter, middle, camera.px, f"{place.prefab} · no way found", told(reach, place))


def _draw_height(painter: QPainter, foot: QPointF, head: QPointF, jump: float) -> None:
    """From where it stands up to the place, with the height of a jump on it."""
    painter.setPen(QPen(style.ink("card"), 5))
    painter.drawLine(foot, head)
    painter.setPen(QPen(style.ink("buoy"), 1.6))
    painter.drawLine(foot, head)
    for y in (foot.y(), head.y()):
        painter.drawLine(QPointF(foot.x() - 5, y), QPointF(foot.x() + 5, y))
    painter.setPen(QPen(style.ink("tidal"), 2.4))
    top = foot.y() - jump
    if top > head.y():
        painter.drawLine(QPointF(foot.x() - 7, top), QPointF(foot.x() + 7, top))


def _tell(painter: QPainter, at: QPointF, px: float, title: str, words: str) -> None:
    """A card beside a place, to the side where there is room."""
    bold, plain = style.font(13, bold=True), style.font(12)
    painter.setFont(bold)
    wide: float = painter.fontMetrics().horizontalAdvance(title)
    painter.setFont(plain)
    wide = min(_BOX * 1.3, max(wide, painter.fontMetrics().horizontalAdvance(words))) + 22
    left = at.x() - px - _GAP - wide
    if left < painter.clipBoundingRect().left() + 8:
        left = at.x() + px + _GAP
    box = QRectF(left, at.y() - 22, wide, 42)
    near = box.right() if left < at.x() else box.left()
    painter.setPen(QPen(style.ink("buoy"), 1.6))
    painter.drawLine(
        QPointF(near, box.center().y()),
        QPointF(at.x() + (-1 if left < at.x() else 1) * (px * 0.72 + 4), at.y()),
    )
    painter.setPen(QPen(style.ink("ink"), 1))
    painter.setBrush(style.ink("card"))
    painter.drawRoundedRect(box, 3, 3)
    painter.fillRect(QRectF(box.left(), box.top() + 1, 4, box.height() - 2), style.ink("buoy"))
    _line(painter, bold, "ink", QRectF(box.left() + 12, box.top() + 4, wide, 18), title)
    _line(painter, plain, "soft", QRectF(box.left() + 12, box.top() + 21, wide, 17), words)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _line(painter: QPainter, font: QFont, ink: str, rect: QRectF, words: str) -> None:
    painter.setFont(font)
    painter.setPen(style.ink(ink))
    painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, words)


def draw_reach_deep(painter: QPainter, eye: Eye, reach: Reach) -> None:
    """Over a voxel room: a dot where it stands, a ring where it does not get to."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for cells, ink in ((np.argwhere(reach.stands & ~reach.no_back), "tidal"),
                       (np.argwhere(reach.stands & reach.no_back), "ochre")):  # fmt: skip
        pen = QPen(_bright(ink, 170), max(1.6, min(3.4, eye.px / 6)))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        if len(cells):
            seen = eye.near(cells + np.array([0.08, 0.5, 0.5]))
            painter.drawPoints(QPolygonF([QPointF(x, y) for y, x, _ in seen.tolist()]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for place in reach.missed:
        y, x, _ = eye.near(np.array([place.cell]) + 0.5)[0].tolist()
        painter.setPen(QPen(style.ink("buoy"), 2.2))
        painter.drawEllipse(QPointF(x, y), eye.px * 0.6 + 3, eye.px * 0.6 + 3)
        _tell(painter, QPointF(x, y), eye.px, f"{place.prefab} · no way found", told(reach, place))


def _bright(ink: str, alpha: int):  # type: ignore[no-untyped-def]
    """Of marks that lie on pictures, which are mostly dark."""
    return style.ink(ink, alpha).lighter(165 if ink == "tidal" else 130)
