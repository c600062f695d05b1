"""The symbols of the files as a list shows them: sign, where it stands, how often, its meaning."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from topion.grid.symbols import Count, shrunk
from topion.model.legend import CLEAR
from topion.model.typed import COLOUR
from topion.view import style
from topion.view.legend.work import LegendWork
from topion.view.table.compose import image_of

SYMBOL = Qt.ItemDataRole.UserRole
_HIGH = 52
_SIGN = QRectF(12, 10, 32, 32)
_MAP = QRectF(54, 9, 58, 34)
_MAP_SIDES = (34, 58)
_WORDS = 124.0


class SymbolRows(QAbstractListModel):
    """A row a symbol, the most frequent first."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self._work = work
        self.rows = list(work.counts)

    def renew(self) -> None:
        """The files were read anew."""
        self.beginResetModel()
        self.rows = list(self._work.counts)
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        symbol = self.rows[index.row()]
        if role == SYMBOL:
            return symbol
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{named(symbol)}: {self._work.meaning(symbol).text()}"
        return None


def named(symbol: str) -> str:
    """A symbol as it is said."""
    return {" ": "blank", CLEAR: "clear"}.get(symbol, symbol)


def told_of(count: Count) -> str:
    """How often it stands where."""
    cells = f"{count.cells:,} cell{'s' * (count.cells != 1)}"
    return cells if count.rooms < 2 else f"{cells} in {count.rooms:,} rooms"


def draw_symbol(painter: QPainter, rect: QRectF, symbol: str) -> None:
    """A symbol on a small card; a colour as it is."""
    colour = QColor(symbol) if COLOUR.holds(symbol) else style.ink("card")
    painter.setPen(QPen(style.ink("line"), 1))
    painter.setBrush(colour)
    painter.drawRoundedRect(rect, 4, 4)
    if symbol == CLEAR:
        painter.setPen(QPen(style.ink("soft"), 1.2))
        painter.drawLine(rect.topRight() + QPointF(-6, 6), rect.bottomLeft() + QPointF(6, -6))
    elif symbol == " ":
        painter.setPen(QPen(style.ink("soft"), 1.4))
        foot = rect.bottom() - 9
        painter.drawLine(QPointF(rect.left() + 8, foot), QPointF(rect.right() - 8, foot))
    elif not COLOUR.holds(symbol):
        wide = rect.width() - 4
        size = 17 if len(symbol) < 3 else 12 if len(symbol) < 5 else 10
        painter.setFont(style.font(size, bold=True))
        painter.setPen(style.ink("ink"))
        text = painter.fontMetrics().elidedText(symbol, Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)


class SymbolPainter(QStyledItemDelegate):
    """Draws the rows."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self._work = work
        self._maps: dict[tuple[str, bool], QImage] = {}

    def forget(self) -> None:
        """The files were read anew."""
        self._maps.clear()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, _HIGH)

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        symbol = index.data(SYMBOL)
        if painter is None or symbol is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.fillRect(option.rect, style.ink("panel2"))
            bar = QRectF(option.rect.left(), option.rect.top(), 3, option.rect.height())
            painter.fillRect(bar, style.ink("buoy"))
        painter.translate(option.rect.topLeft().toPointF())
        draw_symbol(painter, _SIGN, symbol)
        self._draw_map(painter, symbol)
        self._draw_words(painter, symbol, option.rect.width() - _WORDS - 10)
        painter.setPen(style.ink("line", 120))
        painter.drawLine(QPointF(12, _HIGH - 0.5), QPointF(option.rect.width() - 12, _HIGH - 0.5))
        painter.restore()

    def _draw_map(self, painter: QPainter, symbol: str) -> None:
        """Where it stands in the room that has most of it."""
        key = symbol, style.is_dark()
        image = self._maps.get(key)
        if image is None:
            image = self._maps[key] = self._map_of(symbol)
        size = QSize(image.width(), image.height())
        scale = min(_MAP.width() / size.width(), _MAP.height() / size.height())
        wide, high = size.width() * scale, size.height() * scale
        rect = QRectF(_MAP.center().x() - wide / 2, _MAP.center().y() - high / 2, wide, high)
        painter.fillRect(rect, style.ink("panel2"))
        painter.drawImage(rect, image)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)

    def _map_of(self, symbol: str) -> QImage:
        grid = self._work.batch.grids[self._work.counts[symbol].most[0]]
        shares = shrunk(grid.mask(symbol), _MAP_SIDES)
        ink = style.ink("ink")
        rgba = np.empty((*shares.shape, 4), np.uint8)
        rgba[...] = (ink.red(), ink.green(), ink.blue(), 0)
        rgba[..., 3] = np.where(shares > 0, 70 + 185 * shares, 0).astype(np.uint8)
        return image_of(rgba).copy()

    def _draw_words(self, painter: QPainter, symbol: str, wide: float) -> None:
        meaning = self._work.meaning(symbol)
        x, y = _WORDS, 9.0
        parts = [(meaning.material, "ink"), (meaning.prefab, "tidal"), (meaning.tint, "ochre")]
        known = [(text, ink) for text, ink in parts if text]
        painter.setFont(style.font(13, bold=bool(known)))
        for number, (text, ink) in enumerate(known or [("nothing", "soft")]):
            if number:
                painter.setPen(style.ink("soft"))
                painter.drawText(QPointF(x, y + 13), "+")
                x += painter.fontMetrics().horizontalAdvance("+ ")
            painter.setPen(style.ink(ink))
            left = int(_WORDS + wide - x)
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, left)
            painter.drawText(QPointF(x, y + 13), shown)
            x += painter.fontMetrics().horizontalAdvance(shown + " ")
        painter.setFont(style.font(12))
        painter.setPen(style.ink("soft"))
        count = self._work.counts[symbol]
        told = painter.fontMetrics().elidedText(told_of(count), Qt.TextElideMode.ElideRight,
                                                int(wide))  # fmt: skip
        painter.drawText(QPointF(_WORDS, y + 31), told)
