"""The pictures that a prefab has of its own for each quarter it is turned by."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QWidget

from topion.errors import TopionError
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.pictures.png import read_png_file
from topion.view import style
from topion.view.table.compose import pixmap_of

_SIDE, _GAP = 30, 6


class TurnedStrip(QWidget):
    """put(pictures) : is called with three, or none.  failed(sentence) : with what is refused."""

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[tuple[Picture, ...]], object] = lambda _: None
        self.failed: Callable[[str], object] = lambda _: None
        self.pictures = _Pictures()
        self.ask = QPushButton("own…")
        self.ask.setToolTip("Three PNGs as large as its picture: turned by one, two and three "
                            "quarters clockwise, in the order of their names")  # fmt: skip
        self.ask.clicked.connect(lambda _: self._ask())
        self.gone = QPushButton("×")
        self.gone.setObjectName("plain")
        self.gone.setToolTip("Without pictures of its own: its picture is turned")
        self.gone.clicked.connect(lambda _: self.put(()))
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addStretch(1)
        for part in (self.pictures, self.ask, self.gone):
            line.addWidget(part)

    def show_prefab(self, prefab: Prefab) -> None:
        """Show those of a prefab."""
        self.pictures.show_pictures(prefab.turned)
        self.gone.setVisible(bool(prefab.turned))

    def _ask(self) -> None:
        paths, _ = QFileDialog.getOpenFileNames(self, "Turned pictures", "", "PNG (*.png)")
        if not paths:
            return
        try:
            self.put(tuple(read_png_file(Path(path)) for path in sorted(paths)))
        except TopionError as problem:
            self.failed(str(problem))


class _Pictures(QWidget):
    """Side by side, each with a tick that tells its turn."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[Picture, ...] = ()
        self.setAccessibleName("Pictures for one, two and three quarters")
        self.hide()

    def show_pictures(self, pictures: tuple[Picture, ...]) -> None:
        """Show these; hidden without any."""
        self._shown = pictures
        self.setVisible(bool(pictures))
        self.setFixedSize(self.sizeHint())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(3 * (_SIDE + _GAP), _SIDE + 4)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        for number, picture in enumerate(self._shown):
            square = QRectF(1 + number * (_SIDE + _GAP), 1, _SIDE, _SIDE)
            painter.setPen(QPen(style.ink("line"), 1))
            painter.setBrush(style.ink("card"))
            painter.drawRect(square)
            high, wide = picture.size_px
            share = min((_SIDE - 4) / high, (_SIDE - 4) / wide)
            part = QRectF(0, 0, wide * share, high * share)
            part.moveCenter(square.center())
            pixmap = pixmap_of(picture.rgba)
            painter.drawPixmap(part, pixmap, QRectF(pixmap.rect()))
            painter.setPen(QPen(style.ink("buoy"), 2))
            ends = {
                0: (square.topRight(), square.bottomRight()),
                1: (square.bottomLeft(), square.bottomRight()),
                2: (square.topLeft(), square.bottomLeft()),
            }
            painter.drawLine(*ends[number])
