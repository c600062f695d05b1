"""The foot of Home: three things to know, and the demo."""

from __future__ import annotations

from importlib import resources

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from topion.view import style
from topion.view.home.drawings import draw_hint
from topion.view.panels.inked import Inked, inked

_HINTS = (
    (
        "hands", "Two hands",
        f"Each mouse button holds a brush. The {inked('<b>left</b>', 'buoy')} lays one, "
        f"the {inked('<b>right</b>', 'tidal')} the other. There is no other mode.",
    ),
    (
        "ghost", "The ghost",
        "What you see under the pointer is what the press lays, to the last corner tile.",
    ),
    (
        "lift", "Lift",
        "Hold <b>E</b> and the same stroke takes away what lies there. Let go, and you lay again.",
    ),
)  # fmt: skip
_DEMO = "A tidal saltworks: rooms of all kinds, forty brushes, every rule at work."


class _Drawing(QWidget):
    def __init__(self, which: str) -> None:
        super().__init__()
        self._which = which
        self.setFixedSize(112, 112)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        draw_hint(painter, QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), self._which)


class _DemoPicture(QWidget):
    """A picture of Brinehollow."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(168, 112)
        data = resources.files("topion.view.home").joinpath("brinehollow.png").read_bytes()
        self._image = QImage.fromData(data, "PNG")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        rect = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.drawImage(rect, self._image)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.drawRect(rect)


class Foot(QWidget):
    """Signals: demo_asked()."""

    demo_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(156)
        line = QHBoxLayout(self)
        line.setContentsMargins(24, 0, 24, 0)
        line.setSpacing(14)
        for which, title, text in _HINTS:
            line.addWidget(_Drawing(which))
            line.addWidget(_told(title, text), 1)
        self.demo = QPushButton("Open the demo")
        self.demo.setToolTip(f"{_DEMO} You get a copy of your own")
        self.demo.clicked.connect(lambda _: self.demo_asked.emit())
        line.addSpacing(8)
        line.addWidget(_DemoPicture())
        told = _told("Brinehollow, the demo", f"{_DEMO} You get a copy.", self.demo)
        line.addWidget(told, 1)

    def sizeHint(self) -> QSize:
        return QSize(1280, 156)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)


def _told(title: str, text: str, button: QPushButton | None = None) -> QWidget:
    made = QWidget()
    column = QVBoxLayout(made)
    column.setContentsMargins(0, 20, 0, 10)
    column.setSpacing(4)
    head, words = QLabel(title), Inked(text)
    head.setFont(style.font(14, bold=True))
    words.setWordWrap(True)
    words.setFont(style.font(13))
    words.setAlignment(Qt.AlignmentFlag.AlignTop)
    column.addWidget(head)
    column.addWidget(words)
    if button is not None:
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
    column.addStretch(1)
    return made
