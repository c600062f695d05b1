"""What is drawn over the voxel view: the work plane's frame, the compass, marks and words."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from topion.brushes.kind import SoftEdged
from topion.grid.arrays import Rgba
from topion.grid.boxes import Box
from topion.model.prefab import Thing
from topion.render.eye import Eye
from topion.render.volume import shape_of
from topion.things.verdict import Verdict
from topion.view import style
from topion.view.planes import WorkPlane
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.table.overlay import callout, label

_COMPASS_PX = 34.0
_AXES = (("up", (1, 0, 0), "ink"), ("south", (0, 1, 0), "tidal"), ("east", (0, 0, 1), "buoy"))
_AXIS_KEYS = {"up": "T", "south": "Ctrl+T", "east": "Shift+T"}
_EDGES = ((0, 1), (0, 2), (0, 4), (1, 3), (1, 5), (2, 3), (2, 6), (3, 7), (4, 5), (4, 6), (5, 7),
          (6, 7))  # fmt: skip


def plane_corners(work: WorkPlane, size: tuple[int, ...], eye: Eye) -> NDArray[np.float64]:
    """(4, 3) the frame of the work plane, on the side of its cells that faces away."""
    level = plane_level(work, eye)
    axes = [axis for axis in range(3) if axis != work.axis]
    corners = np.zeros((4, 3))
    corners[:, work.axis] = level
    for row, (a, b) in enumerate(((0, 0), (0, 1), (1, 1), (1, 0))):
        corners[row, axes[0]] = a * size[axes[0]]
        corners[row, axes[1]] = b * size[axes[1]]
    return corners


def plane_level(work: WorkPlane, eye: Eye) -> float:
    """The side of the plane's cells on which strokes are drawn: the far one."""
    return work.level + (1.0 if eye.forward[work.axis] > 0 else 0.0)


def plane_lines(work: WorkPlane, size: tuple[int, ...], eye: Eye) -> NDArray[np.float64]:
    """(2n, 3) the lines of its cells."""
    return _grid_lines(work.axis, plane_level(work, eye), size)


def floor_lines(size: tuple[int, ...]) -> NDArray[np.float64]:
    """(2n, 3) the cells of the room's floor, so that an empty room is seen too."""
    return _grid_lines(0, 0.0, size)


def _grid_lines(across_axis: int, level: float, size: tuple[int, ...]) -> NDArray[np.float64]:
    a, b = (axis for axis in range(3) if axis != across_axis)
    lines = []
    for along, across in ((a, b), (b, a)):
        for at in range(1, size[across]):
            for end in (0, size[along]):
                point = np.zeros(3)
                point[across_axis], point[across], point[along] = level, at, end
                lines.append(point)
    return np.array(lines).reshape(-1, 3)


def mirror_lines(work: WorkPlane, size: tuple[int, ...]) -> NDArray[np.float64]:
    """(2n, 3) the outlines of the mirrors that strokes have."""
    lines = []
    for mirror in work.mirrors():
        axis = 3 + mirror.axis
        other = 3 - axis
        at = mirror.at + 0.5
        corners = []
        for z, v in ((0, 0), (0, 1), (1, 1), (1, 0)):
            point = np.zeros(3)
            point[0], point[other], point[axis] = z * size[0], v * size[other], at
            corners.append(point)
        for i in range(4):
            lines += [corners[i], corners[(i + 1) % 4]]
    return np.array(lines).reshape(-1, 3)


def box_lines(box: Box) -> NDArray[np.float64]:
    """(24, 3) the edges of a box of cells."""
    corners = np.array(
        [[(box.lo, box.hi)[corner >> (2 - axis) & 1][axis] for axis in range(3)]
         for corner in range(8)], float,
    )  # fmt: skip
    return corners[np.array(_EDGES).reshape(-1)]


def draw_polygon(painter: QPainter, eye: Eye, corners: NDArray[np.float64], pen: QPen) -> None:
    seen = eye.near(corners)
    if (seen[:, 2] <= 0.01).any() and eye.perspective:
        return
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(QPolygonF([QPointF(x, y) for y, x, _ in seen.tolist()]))


def draw_compass(painter: QPainter, eye: Eye, rect: QRectF) -> None:
    """East, south and up as the eye has them, in the upper right corner."""
    middle = QPointF(rect.right() - 58, rect.top() + 66)
    axes = _AXES
    painter.setFont(style.font(12, medium=True))
    metrics = painter.fontMetrics()
    for name, axis, colour in sorted(axes, key=lambda a: -float(np.array(a[1]) @ eye.forward)):
        x, y = float(np.array(axis) @ eye.right), -float(np.array(axis) @ eye.up)
        tip = middle + QPointF(x, y) * _COMPASS_PX
        painter.setPen(QPen(style.ink(colour), 2.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(middle, tip)
        if (x * x + y * y) < 0.02:
            painter.drawEllipse(middle, 4, 4)
            continue
        wide = metrics.horizontalAdvance(name)
        at = middle + QPointF(x, y) * (_COMPASS_PX + 11)
        painter.drawText(QPointF(at.x() - wide / 2, at.y() + 4), name)


def draw_axes(painter: QPainter, eye: Eye, box: Box) -> None:
    """The axes about which a stamp turns, through its middle, with their keys."""
    middle = (np.array(box.lo) + np.array(box.hi)) / 2
    painter.setFont(style.font(12, bold=True))
    for name, axis, colour in _AXES:
        reach = max(box.shape) / 2 + 1.6
        ends = np.stack([middle - np.array(axis) * reach, middle + np.array(axis) * reach])
        seen = eye.near(ends)
        if (seen[:, 2] <= 0.01).any() and eye.perspective:
            continue
        start, end = (QPointF(x, y) for y, x, _ in seen.tolist())
        for pen in (QPen(style.ink("card", 190), 4.0), QPen(style.ink(colour), 2.0)):
            painter.setPen(pen)
            painter.drawLine(start, end)
        text = f"{name} · {_AXIS_KEYS[name]}"
        wide = painter.fontMetrics().horizontalAdvance(text) + 10
        tag = QRectF(end.x() - wide / 2, end.y() - 22, wide, 17)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("card", 225))
        painter.drawRoundedRect(tag, 4, 4)
        painter.setPen(style.ink(colour))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_verdict(
    painter: QPainter, eye: Eye, session: Session, found: Verdict, view: QRectF
) -> None:
    """A refusal at the pointer: what is in the way, the nearest free place, and why."""
    if found.allowed:
        return
    at = np.array(found.at)
    here = _spot(eye, at)
    for reason in found.reasons:
        if reason.thing is not None:
            layer_id, number = reason.thing
            thing = session.room.layer(layer_id).things.get(number)
            if thing is not None:
                other = _spot(eye, np.array(thing.at))
                painter.setPen(QPen(style.ink("buoy"), 1.6))
                painter.drawLine(here.center(), other.center())
                painter.drawEllipse(other.center(), other.width() * 0.7, other.width() * 0.4)
    if found.nearest is not None:
        spot = _spot(eye, np.array(found.nearest))
        painter.setPen(QPen(style.ink("tidal"), 1.6))
        painter.setBrush(style.ink("tidal", 90))
        painter.drawEllipse(spot.center(), spot.width() * 0.45, spot.width() * 0.26)
        painter.setBrush(Qt.BrushStyle.NoBrush)
    callout(painter, session, found, here, view)


def _spot(eye: Eye, at: NDArray[np.float64]) -> QRectF:
    """The foot of a thing on the screen, about a cell wide."""
    point = at + np.array([0.0, 0.5, 0.5])
    y, x, depth = eye.near(point[None])[0].tolist()
    px = eye.focal / max(depth, 0.1) if eye.perspective else eye.px
    return QRectF(x - px / 2, y - px / 2, px, px)


def draw_large(painter: QPainter, eye: Eye, box: Box, picture: Rgba) -> None:
    """A large stamp: its edges, with its picture from above laid on its top."""
    corners = box_lines(box)
    lo, hi = box.lo, box.hi
    top = np.array([(hi[0], lo[1], lo[2]), (hi[0], lo[1], hi[2]), (hi[0], hi[1], hi[2]),
                    (hi[0], hi[1], lo[2])], float)  # fmt: skip
    seen = eye.near(np.concatenate([corners, top]))
    if (seen[:, 2] <= 0.01).any() and eye.perspective:
        return
    points = [QPointF(x, y) for y, x, _ in seen.tolist()]
    image = image_of(picture)
    wide, high = float(image.width()), float(image.height())
    square = QPolygonF([QPointF(0, 0), QPointF(wide, 0), QPointF(wide, high), QPointF(0, high)])
    way = QTransform()
    if QTransform.quadToQuad(square, QPolygonF(points[-4:]), way):
        painter.save()
        painter.setTransform(way, True)
        painter.setOpacity(0.75)
        painter.drawImage(QPointF(0, 0), image)
        painter.restore()
    for pen in (QPen(QColor(255, 255, 255, 200), 3.4), QPen(style.ink("buoy"), 1.6)):
        painter.setPen(pen)
        for n in range(0, len(corners), 2):
            painter.drawLine(points[n], points[n + 1])


def draw_box_size(painter: QPainter, eye: Eye, box: Box, name: str) -> None:
    """How large a box is, at its upper near corner."""
    depth, height, width = box.shape
    corner = np.array([[box.hi[0], (box.lo[1] + box.hi[1]) / 2, (box.lo[2] + box.hi[2]) / 2]])
    y, x, _ = eye.near(corner)[0].tolist()
    label(painter, QPointF(x + 18, y - 34), f"{name} {width} × {height} × {depth}")


def draw_radius(
    painter: QPainter,
    eye: Eye,
    points: NDArray[np.float64],
    brush: SoftEdged,
    full: NDArray[np.bool_],
) -> None:
    """The reach of a soft stroke as two rings that lie on the ground."""
    z, y, x = points[-1]
    radius, inner = brush.radius, max(0.0, brush.radius - brush.soft)
    angle = np.linspace(0, 2 * np.pi, 73)
    for reach, alpha in ((radius, 235), (inner, 120)):
        if reach <= 0:
            continue
        ys, xs = y + 0.5 + reach * np.sin(angle), x + 0.5 + reach * np.cos(angle)
        seen = eye.near(np.stack([_heights(full, ys, xs, z), ys, xs], axis=1))
        line = QPolygonF([QPointF(b, a) for a, b, _ in seen.tolist()])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(style.ink("ink", alpha // 2), 3))
        painter.drawPolyline(line)
        painter.setPen(QPen(QColor(255, 255, 255, alpha), 1.5, Qt.PenStyle.DashLine))
        painter.drawPolyline(line)


def _heights(
    full: NDArray[np.bool_], ys: NDArray[np.float64], xs: NDArray[np.float64], else_: float
) -> NDArray[np.float64]:
    """The top of the highest cell under points seen from above."""
    depth, height, width = full.shape
    y, x = np.floor(ys).astype(int), np.floor(xs).astype(int)
    inside = (y >= 0) & (x >= 0) & (y < height) & (x < width)
    out = np.full(len(ys), max(0.0, np.floor(else_ + 0.5)))
    columns = full[:, y[inside], x[inside]]
    out[inside] = np.where(columns.any(axis=0), depth - columns[::-1].argmax(axis=0), 0)
    return out


def draw_hint(painter: QPainter, view: QRectF) -> None:
    """How the view is moved, at its foot."""
    painter.setFont(style.font(11))
    text = "middle button turns the view · K next corner · Ctrl+wheel moves the work plane"
    metrics = painter.fontMetrics()
    text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(view.width()) - 34)
    wide = metrics.horizontalAdvance(text)
    tag = QRectF(8, view.bottom() - 25, wide + 16, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(style.ink("panel", 170))
    painter.drawRoundedRect(tag, 4, 4)
    painter.setPen(style.ink("soft"))
    painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, text)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_seats(painter: QPainter, eye: Eye, session: Session) -> None:
    """The bottom and the top of every placed thing: a ring where it is seated, a bar above."""
    for _, layer in session.room.bottom_up("things"):
        for thing in layer.things.values() if layer.info.shown else ():
            _draw_seat(painter, eye, session, thing, "tidal", "ochre")


def draw_picked_things(painter: QPainter, eye: Eye, session: Session) -> None:
    """What is picked between its bottom and its top."""
    for _, thing in session.picking.things():
        _draw_seat(painter, eye, session, thing, "buoy", "buoy")


def _draw_seat(
    painter: QPainter, eye: Eye, session: Session, thing: Thing, low: str, high: str
) -> None:
    prefab = session.project.prefabs.get(thing.prefab)
    if prefab is None:
        return
    model = shape_of(session.project, prefab)
    tall = model.extent.hi[0] / model.per_cell * thing.scale
    wide = max(model.extent.shape[1:]) / model.per_cell * thing.scale * 0.62
    rings = []
    angle = np.linspace(0, 2 * np.pi, 25)
    for z in (thing.z, thing.z + tall):
        ys, xs = thing.y + 0.5 + wide * np.sin(angle), thing.x + 0.5 + wide * np.cos(angle)
        seen = eye.near(np.stack([np.full(25, z), ys, xs], axis=1))
        rings.append(QPolygonF([QPointF(x, y) for y, x, _ in seen.tolist()]))
    middle = eye.near(np.array([[z, thing.y + 0.5, thing.x + 0.5]
                                for z in (thing.z, thing.z + tall)]))  # fmt: skip
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(style.ink("card", 150), 3.4))
    for ring in rings:
        painter.drawPolyline(ring)
    for ring, colour in zip(rings, (low, high), strict=True):
        painter.setPen(QPen(style.ink(colour), 1.7))
        painter.drawPolyline(ring)
    painter.setPen(QPen(style.ink(high, 150), 1.2, Qt.PenStyle.DotLine))
    painter.drawLine(*(QPointF(x, y) for y, x, _ in middle.tolist()))
