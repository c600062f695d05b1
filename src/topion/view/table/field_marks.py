"""Over the table: what a field refuses and why, its bans and held things, its density and sizes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from topion.brushes.field import FieldBrush
from topion.brushes.kind import brush_or_none
from topion.grid.arrays import Positions
from topion.grid.boxes import Box
from topion.model.layer import Layer, sizes_of
from topion.model.room import Room
from topion.things.density import density_at
from topion.things.sowings import sown_in
from topion.view import style
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of
from topion.view.table.ghost import PlannedGhost

Shows = Literal["nothing", "refused", "density", "size"]
SHOWS: tuple[Shows, ...] = ("nothing", "refused", "density", "size")
INKS = ("buoy", "ochre", "ink", "soft")  # of reasons, in their order; and their shapes
SIGNS = "×○□–"
Seen = Callable[[Positions], list[QPointF]]
_MOST = 6_000  # spots that are marked
_WASH = 120  # how solid, at most


def field_layers(session: Session) -> list[tuple[str, Layer]]:
    """The layers of the field whose brush is shown in hand."""
    if not session.has_room:
        return []
    name = session.hands[session.hands.shown]
    brush = brush_or_none(session.project, name)
    if not isinstance(brush, FieldBrush):
        return []
    return [(i, la) for i, la in session.room.bottom_up("field") if la.info.brush == name]


def draw_field(
    painter: QPainter, session: Session, ghost: PlannedGhost, camera: Camera, view: Box
) -> None:
    """Over a flat room, as it is asked for: densities and sizes as the ghost has them."""
    layers = field_layers(session)
    if layers and session.field_shows in ("density", "size"):
        room = ghost.room_then()
        for layer_id, _ in layers:
            if layer_id in room.layers:
                _draw_wash(painter, session, room, layer_id, camera, view)
    if session.field_shows == "refused" and layers:

        def seen(at: Positions) -> list[QPointF]:
            px = camera.px
            return [QPointF(camera.left + (x + 0.5) * px, camera.top + (y + 0.5) * px)
                    for y, x in at[:, -2:].tolist()]  # fmt: skip

        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for layer_id, layer in layers:
            draw_refused(painter, session, layer_id, layer, seen, view)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)


def draw_refused(
    painter: QPainter, session: Session, layer_id: str, layer: Layer, seen: Seen, view: Box
) -> None:
    """A mark for each spot that is refused, in the colour and shape of the reason; bans as crossed
    rings, held things as pins."""
    sowing = sown_in(session.project, session.room, layer_id, view)
    near = Box(view.lo[-2:], view.hi[-2:])
    plan = sowing.refused_at[:, -2:]
    rows = np.flatnonzero(((plan >= near.lo) & (plan < near.hi)).all(axis=1))[:_MOST]
    places = seen(sowing.refused_at[rows]) if len(rows) else []
    for place, reason in zip(places, sowing.refused_by[rows].tolist(), strict=True):
        draw_reason(painter, place, reason)
    for number, ban in list(layer.table("bans").items())[:_MOST]:
        del number
        if not ban.held:
            _draw_ban(painter, seen(np.array([ban.at]))[0])
    held = list(layer.table("held").values())[:_MOST]
    if held:
        for place in seen(np.array([t.at[-session.room.info.axes :] for t in held])):
            _draw_pin(painter, place)


def draw_reason(painter: QPainter, at: QPointF, reason: int) -> None:
    """The mark of a reason by its number: told apart by colour and by shape."""
    ink = style.ink(INKS[reason % len(INKS)])
    shape, size = reason % 4, 3.2
    for pen in (QPen(QColor(255, 255, 255, 210), 3.2), QPen(ink, 1.7)):
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if shape == 0:
            painter.drawLine(at + QPointF(-size, -size), at + QPointF(size, size))
            painter.drawLine(at + QPointF(-size, size), at + QPointF(size, -size))
        elif shape == 1:
            painter.drawEllipse(at, size, size)
        elif shape == 2:
            painter.drawRect(QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size))
        else:
            painter.drawLine(at + QPointF(-size, 0), at + QPointF(size, 0))


def _draw_ban(painter: QPainter, at: QPointF) -> None:
    for pen in (QPen(QColor(255, 255, 255, 220), 3.4), QPen(style.ink("ink"), 1.6)):
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, 5.5, 5.5)
        painter.drawLine(at + QPointF(-3.8, 3.8), at + QPointF(3.8, -3.8))


def _draw_pin(painter: QPainter, at: QPointF) -> None:
    painter.setPen(QPen(QColor(255, 255, 255), 1.4))
    painter.setBrush(style.ink("buoy"))
    painter.drawEllipse(at + QPointF(0, -9), 4.2, 4.2)
    painter.setPen(QPen(style.ink("buoy"), 1.8))
    painter.drawLine(at + QPointF(0, -5), at)


def _draw_wash(
    painter: QPainter, session: Session, room: Room, layer_id: str, camera: Camera, view: Box
) -> None:
    """The density in one colour; sizes in one where they are larger, in another where smaller."""
    box = view.clipped(room.plan_box)
    if not box.size:
        return
    if session.field_shows == "density":
        cells = box.cells()
        share = density_at(session.project, room, layer_id, cells).reshape(box.shape)
        more = share > 0
    else:
        off = sizes_of(room.layers[layer_id].plane("size")[box.slices]) - 1.0
        share, more = np.abs(off).clip(0, 1), off > 0
    rgba = np.zeros((*box.shape, 4), np.uint8)
    for name, where in (("ochre" if session.field_shows == "size" else "tidal", more),
                        ("tidal", ~more)):  # fmt: skip
        ink = style.ink(name)
        rgba[where, :3] = (ink.red(), ink.green(), ink.blue())
    rgba[..., 3] = np.round(share * _WASH * (1.6 if session.field_shows == "size" else 1)).clip(
        0, 200
    )
    target = camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
    painter.drawImage(target, image_of(rgba))
