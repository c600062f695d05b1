"""Outlines and handles of pieces over the table, and what a pull says at the pointer."""

from __future__ import annotations

from abc import ABC, abstractmethod

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF

from topion.brushes.shape import Handle, ShapeKind
from topion.edit.pieces import Pick, shape_of
from topion.grid.boxes import Box
from topion.model.piece import Piece
from topion.view import style
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.overlay import label

_GRIP_PX = 10.0  # how near a press must be
_MOST_OUTLINES = 400
_SMALL_PX = 14.0  # pieces seen smaller than that have no handles on their sides


class PieceMarks(ABC):
    """Draws what belongs to pieces; each kind of table says where a place is seen."""

    def __init__(self, session: Session, pulls: Pulls) -> None:
        self.session, self.pulls = session, pulls

    # --- where ----------------------------------------------------------------------------

    @abstractmethod
    def point(self, at: tuple[float, ...]) -> QPointF:
        """Where a place in cells is seen; the middle of a cell is whole."""

    @abstractmethod
    def rect(self, box: Box) -> QRectF:
        """The rectangle of the screen in which a box of cells is seen."""

    @abstractmethod
    def trace_box(self, painter: QPainter, box: Box, inset: float) -> None:
        """The edges of a box of cells, so many px further in."""

    def handle_at(self, point: QPointF) -> tuple[Pick, Handle] | None:
        """The nearest handle within reach of a point of the screen."""
        found: list[tuple[float, Pick, Handle]] = []
        for pick, piece in self.session.pieces.there():
            for handle in self.handles(piece):
                away = self.point(handle.at) - point
                distance = float(np.hypot(away.x(), away.y())) + (2.0 if handle.inserts else 0.0)
                if distance <= _GRIP_PX:
                    found.append((distance, pick, handle))
        return min(found, key=lambda one: one[0])[1:] if found else None

    def handles(self, piece: Piece) -> tuple[Handle, ...]:
        """Those that can be told apart at this zoom."""
        brush = shape_of(self.session.project, piece)
        if brush is None:
            return ()
        found = brush.handles(piece)
        rect = self.rect(piece.box)
        if min(rect.width(), rect.height()) < _SMALL_PX and len(found) > 4:
            return tuple(h for h in found if h.point >= 0 or all(h.sides))
        return found

    def bounds(self) -> QRectF:
        """Round all that is picked, as it is seen; empty without any."""
        rects = [self.rect(piece.box) for _, piece in self.session.pieces.there()]
        whole = QRectF()
        for rect in rects:
            whole = whole.united(rect)
        return whole

    # --- drawing --------------------------------------------------------------------------

    def draw(self, painter: QPainter, view: Box, hover: QPointF | None) -> None:
        """Outlines in the view, then what is picked, then what a pull says."""
        pieces = self.session.pieces
        if not self.session.gestures.picking or pieces.hidden:
            return
        self._draw_others(painter, view)
        for pick, piece in pieces.there():
            self._draw_picked(painter, self._as_pulled(pick, piece))
        if hover is not None:
            self._draw_words(painter, hover)

    def _as_pulled(self, pick: Pick, piece: Piece) -> Piece:
        edit = self.pulls.edit
        pull = self.pulls.now
        if not edit or pull is None or pull.copies:
            return piece
        for record in edit.records:
            for change in record.entries():
                if (change.layer, change.number) == tuple(pick) and change.after is not None:
                    found: Piece = change.after
                    return found
        return piece

    def _draw_others(self, painter: QPainter, view: Box) -> None:
        pieces, room = self.session.pieces, self.session.room
        if pieces.outlines == "picked":
            return
        known = {pick for pick, _ in pieces.there()}
        painter.setBrush(Qt.BrushStyle.NoBrush)
        count = 0
        for layer_id, layer in room.cell_layers():
            mine = layer_id == self._worked_layer()
            if not layer.info.shown or (pieces.outlines == "this layer" and not mine):
                continue
            for number, piece in layer.pieces_in(view):
                if Pick(layer_id, number) in known or count > _MOST_OUTLINES:
                    continue
                count += 1
                self._draw_outline(painter, piece, 150 if mine else 80)

    def _worked_layer(self) -> str:
        room, layer_id = self.session.room, self.session.layer_id
        if layer_id in room.layers and room.layers[layer_id].info.traits.laid_over:
            return layer_id
        layers = room.cell_layers()
        return layers[-1][0] if layers else ""

    def _draw_outline(self, painter: QPainter, piece: Piece, alpha: int) -> None:
        for pen in (
            QPen(QColor(20, 24, 28, alpha // 2), 2.6),
            QPen(QColor(250, 248, 240, alpha), 1.1),
        ):
            painter.setPen(pen)
            self._trace(painter, piece, inset=1.0)

    def _trace(self, painter: QPainter, piece: Piece, inset: float = 0.0) -> None:
        """The line that stands for a piece: its way, its slope, or its box."""
        brush = shape_of(self.session.project, piece)
        if brush is not None and brush.joins:
            painter.drawPolyline(QPolygonF([self.point(p) for p in _way(piece)]))
            return
        if brush is not None and brush.ticks(piece):
            painter.drawPolygon(QPolygonF(self._triangle(brush, piece)))
            return
        self.trace_box(painter, piece.box, inset)

    def _triangle(self, brush: ShapeKind, piece: Piece) -> list[QPointF]:
        """Both ends of a slope, and the corner that is filled."""
        low, high = self._slope(brush, piece)
        upright = piece.turn % 2 == 1
        corner = QPointF(low.x(), high.y()) if upright else QPointF(high.x(), low.y())
        return [low, high, corner]

    def _slope(self, brush: ShapeKind, piece: Piece) -> tuple[QPointF, QPointF]:
        low, high = (h.at for h in brush.handles(piece)[:2])
        return self.point(low), self.point(high)

    def _draw_picked(self, painter: QPainter, piece: Piece) -> None:
        brush = shape_of(self.session.project, piece)
        buoy, paper = style.ink("buoy"), QColor(255, 255, 255, 235)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(paper, 4.2), QPen(buoy, 2.0)):
            painter.setPen(pen)
            self._trace(painter, piece)
        if brush is None:
            return
        self._draw_ticks(painter, brush, piece)
        found = self.pulls.before_and_after()
        if found is not None and found[1] == piece and self.pulls.now and self.pulls.now.handle:
            self._draw_as_it_was(painter, found[0])
        for handle in self.handles(piece):
            self._draw_handle(painter, piece, handle)

    def _draw_as_it_was(self, painter: QPainter, piece: Piece) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(20, 24, 28, 120), 2.4))
        self._trace(painter, piece)
        painter.setPen(QPen(QColor(255, 255, 255, 230), 1.6, Qt.PenStyle.DashLine))
        self._trace(painter, piece)

    def _draw_ticks(self, painter: QPainter, brush: ShapeKind, piece: Piece) -> None:
        """Across the slope, with the sizes that can be made; the one it has is bold."""
        ticks = brush.ticks(piece)
        if not ticks:
            return
        low, high = self._slope(brush, piece)
        way = low - high
        length = float(np.hypot(way.x(), way.y())) or 1.0
        across = QPointF(-way.y() / length * 6, way.x() / length * 6)
        now = brush.size_words(piece)
        far = self.point(ticks[-1][0])
        for pen in (
            QPen(QColor(255, 255, 255, 200), 2.4),
            QPen(style.ink("buoy"), 1.2, Qt.PenStyle.DashLine),
        ):
            painter.setPen(pen)
            painter.drawLine(low, far)
        apart = length / max(1, len(ticks) - 1)
        every = max(1, int(np.ceil(58 / max(apart, 1))))
        for number, (at, words) in enumerate(ticks, 1):
            place = self.point(at)
            for pen in (QPen(QColor(255, 255, 255, 220), 4.0), QPen(style.ink("buoy"), 2.0)):
                painter.setPen(pen)
                painter.drawLine(place - across, place + across)
            if words == now or (len(ticks) - number) % every == 0:
                self._tag(painter, place + QPointF(10, -24), words, strong=words == now)

    def _tag(self, painter: QPainter, at: QPointF, words: str, *, strong: bool) -> None:
        painter.setFont(style.font(12, bold=strong))
        wide = QFontMetrics(painter.font()).horizontalAdvance(words) + 12
        rect = QRectF(at.x(), at.y(), wide, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("card", 235))
        painter.drawRoundedRect(rect, 5, 5)
        painter.setPen(QPen(style.ink("buoy" if strong else "ink")))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_handle(self, painter: QPainter, piece: Piece, handle: Handle) -> None:
        """A square at a corner, a bar along a side, a ring at a point, a small one between."""
        at = self.point(handle.at)
        pull = self.pulls.now
        held = pull is not None and pull.handle is not None and _same(pull.handle, handle)
        painter.setPen(QPen(style.ink("buoy"), 1.6))
        painter.setBrush(style.ink("buoy") if held else QColor(255, 255, 255))
        if handle.point >= 0:
            radius = 3.2 if handle.inserts else 5.0
            painter.drawEllipse(at, radius, radius)
        elif all(handle.sides):
            painter.drawRect(QRectF(at.x() - 4.5, at.y() - 4.5, 9, 9))
        else:
            high = 9.0 if handle.sides[-1] == 0 else 18.0
            wide = 27.0 - high
            bar = QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high)
            painter.drawRoundedRect(bar.adjusted(1, 1, -1, -1), 3, 3)

    def _draw_words(self, painter: QPainter, hover: QPointF) -> None:
        """At the pointer: what the pull makes, what it was, and how to let it be."""
        now, was = self.pulls.words()
        if not now or self.pulls.verdict() is not None:
            return
        pull, refused = self.pulls.now, self.pulls.is_refused
        moved = pull is None or pull.handle is None
        first = f"to {now}" if moved and was else now
        bold, plain = style.font(13, bold=True), style.font(13)
        lead = QFontMetrics(bold).horizontalAdvance(first)
        second = f"was {was}" if was else ""
        last = "hold O: all the same · Esc: as it was" if refused else "Esc: as it was"
        width = max(lead + 8 + QFontMetrics(plain).horizontalAdvance(second),
                    QFontMetrics(plain).horizontalAdvance(last)) + 26  # fmt: skip
        rect = QRectF(hover.x() + 18, hover.y() + 16, width, 42)
        if rect.right() > painter.clipBoundingRect().right() > 0:
            rect.moveRight(hover.x() - 12)
        painter.setPen(QPen(style.ink("line")))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(rect, 4, 4)
        painter.fillRect(
            QRectF(rect.left(), rect.top() + 1, 4, rect.height() - 2), style.ink("buoy")
        )
        painter.setPen(style.ink("ink"))
        painter.setFont(bold)
        painter.drawText(QPointF(rect.left() + 12, rect.top() + 17), first)
        painter.setPen(style.ink("soft"))
        painter.setFont(plain)
        painter.drawText(QPointF(rect.left() + 20 + lead, rect.top() + 17), second)
        painter.drawText(QPointF(rect.left() + 12, rect.top() + 35), last)


class FlatMarks(PieceMarks):
    """Over a flat room."""

    def __init__(self, session: Session, camera: Camera, pulls: Pulls) -> None:
        super().__init__(session, pulls)
        self.camera = camera

    def point(self, at: tuple[float, ...]) -> QPointF:
        px = self.camera.px
        return QPointF(self.camera.left + (at[1] + 0.5) * px, self.camera.top + (at[0] + 0.5) * px)

    def rect(self, box: Box) -> QRectF:
        return self.camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])

    def trace_box(self, painter: QPainter, box: Box, inset: float) -> None:
        painter.drawRect(self.rect(box).adjusted(inset, inset, -inset, -inset))


def draw_notes(painter: QPainter, at: QPointF, notes: tuple[str, ...]) -> None:
    """What the ghost says of a stroke, such as what it lays beneath."""
    if notes:
        label(painter, at, notes[0])


def _same(a: Handle, b: Handle) -> bool:
    return (a.sides, a.point, a.inserts) == (b.sides, b.point, b.inserts)


def _way(piece: Piece) -> list[tuple[float, ...]]:
    """The corners of a path with those it makes between two points that do not lie in line."""
    found: list[tuple[float, ...]] = [piece.points[0]]
    for before, after in zip(piece.points, piece.points[1:], strict=False):
        (y0, x0), (y1, x1) = before[-2:], after[-2:]
        if y0 != y1 and x0 != x1:
            corner = (y1, x0) if abs(y1 - y0) > abs(x1 - x0) else (y0, x1)
            found.append((*before[:-2], *corner))
        found.append(after)
    return found
