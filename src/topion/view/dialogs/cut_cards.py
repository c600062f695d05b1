"""The likeliest cuts of a sheet as small pictures to choose from."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QWidget

from topion.model.picture import Picture
from topion.model.tileset import Cut
from topion.view import style
from topion.view.table.compose import image_of

_SIZE = QSize(104, 96)
_PICTURE_PX = 70  # high
_TILES_SEEN = 3  # across a card, about


def cut_in_words(cut: Cut) -> str:
    """`16 × 16`, with the gaps if there are any, or how many drawings."""
    if cut.rects:
        return f"{len(cut.rects)} drawings"
    text = f"{cut.tile[1]} × {cut.tile[0]}"
    return f"{text}, gap {cut.spacing}" if cut.spacing else text


class CutCards(QWidget):
    """One card a cut.  Signals: chosen(Cut)."""

    chosen = pyqtSignal(object)

    def __init__(self, sheet: Picture, cuts: list[Cut]) -> None:
        super().__init__()
        self.cards = [CutCard(image_of(sheet.rgba), cut) for cut in cuts]
        self._group = QButtonGroup(self)
        self._group.setExclusive(False)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for card in self.cards:
            self._group.addButton(card)
            card.clicked.connect(lambda _, cut=card.cut: self.chosen.emit(cut))
            row.addWidget(card)
        row.addStretch(1)

    def mark(self, cut: Cut | None) -> None:
        """Show which card is the cut as it is set now, if any is."""
        for card in self.cards:
            card.setChecked(card.cut == cut)


class CutCard(QAbstractButton):
    """A piece of the sheet with the lines of a cut over it, and its size in words."""

    def __init__(self, image: QImage, cut: Cut) -> None:
        super().__init__()
        self.cut = cut
        self._image = image
        self.setCheckable(True)
        self.setFixedSize(_SIZE)
        self.setText(cut_in_words(cut))
        size = f"{cut.tile[1]} × {cut.tile[0]} px, margin {cut.margin}, spacing {cut.spacing}"
        words = "Cut round each drawing" if cut.rects else f"Tiles of {size}"
        self.setToolTip(words)
        self.setAccessibleName(words)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        on = self.isChecked()
        edge = style.ink("buoy" if on else "tidal" if self.hasFocus() else "line")
        painter.setPen(QPen(edge, 2 if on else 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(frame, 6, 6)
        self._paint_piece(painter, QRect(6, 6, _SIZE.width() - 12, _PICTURE_PX - 8))
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(12, bold=on))
        line = QRectF(0, _PICTURE_PX, self.width(), self.height() - _PICTURE_PX - 4)
        painter.drawText(line, Qt.AlignmentFlag.AlignCenter, self.text())

    def _paint_piece(self, painter: QPainter, target: QRect) -> None:
        first, zoom = self._seen(target)
        part = QRectF(first[1], first[0], target.width() / zoom, target.height() / zoom)
        painter.save()
        painter.setClipRect(target)
        painter.fillRect(target, style.ink("table"))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, zoom < 1)
        painter.drawImage(QRectF(target), self._image, part)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(style.ink("buoy", 220), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        rows, columns = self.cut.grid_of((self._image.height(), self._image.width()))
        for row in range(rows):
            for column in range(columns):
                y, x = self.cut.corner_px((row, column))
                height, width = self.cut.size_of((row, column))
                if part.intersects(QRectF(x, y, width, height)):
                    painter.drawRect(QRectF(target.x() + (x - first[1]) * zoom,
                                            target.y() + (y - first[0]) * zoom,
                                            width * zoom, height * zoom))  # fmt: skip
        painter.restore()

    def _seen(self, target: QRect) -> tuple[tuple[int, int], float]:
        """The first pixel (y, x) that is seen, and how large pixels are."""
        tiles = 2 * _TILES_SEEN if self.cut.rects else _TILES_SEEN
        wanted = max(self.cut.tile[1] + self.cut.spacing, 8) * tiles
        zoom = target.width() / min(wanted, max(self._image.width(), 1))
        zoom = max(zoom, target.height() / max(1, self._image.height())) if zoom < 1 else zoom
        return (0, 0), zoom
