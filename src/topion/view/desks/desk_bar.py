"""The top line of a desk: where we are, the way back, undo, and the gestures."""

from __future__ import annotations

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from topion.brushes.gestures import GESTURES
from topion.view import style
from topion.view.gestures import ALL_GESTURES, AnyGesture
from topion.view.panels.top_bar import Mark, Segment, paint_bar
from topion.view.session import Session


class DeskBar(QWidget):
    """Signals: left() for the way back, done(), tried() for the room."""

    left = pyqtSignal()
    done = pyqtSignal()
    tried = pyqtSignal()

    def __init__(
        self, session: Session, *, gestures: bool = True, tried: bool = True, lasso: bool = False
    ) -> None:
        """gestures : whether the desk has a ground to draw on; lasso : and things or pieces can be
        picked there.  tried : whether what is made there can be taken to the room."""
        super().__init__()
        self.setFixedHeight(46)
        self.session = session
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(6)
        line.addWidget(Mark())
        self.project = QPushButton()
        self.project.setObjectName("plain")
        self.project.setToolTip("Back to the room (Esc)")
        self.project.clicked.connect(lambda _: self.left.emit())
        self.shelf = QLabel()
        self.name = QLabel()
        self.name.setFont(style.font(16, bold=True))
        self.told = QLabel()
        for part in (self.project, QLabel("›"), self.shelf, QLabel("›"), self.name, self.told):
            line.addWidget(part)
        line.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(0)
        self.segments: dict[str, Segment] = {}
        kinds: tuple[AnyGesture, ...] = ALL_GESTURES if lasso else GESTURES if gestures else ()
        for number, kind in enumerate(kinds):
            place = "first" if not number else "last" if number == len(kinds) - 1 else ""
            segment = Segment(kind, place)
            segment.clicked.connect(lambda _, k=kind: self.session.gestures.use(k))
            self.segments[kind] = segment
            row.addWidget(segment)
        line.addLayout(row)
        line.addStretch(1)
        for text, tip, signal in (
            ("Undo", "Take the last stroke or change back (Ctrl+Z)", None),
            *(
                (("Try in room", "Back to the room, with this brush in the left hand", self.tried),)
                if tried
                else ()
            ),
            ("Done", "Back to the room (Esc)", self.done),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.setObjectName("strong" if text == "Done" else "")
            button.clicked.connect(
                lambda _, s=signal: self.session.undo() if s is None else s.emit()
            )
            line.addWidget(button)
        session.gestures.changed.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(1280, 46)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)

    def show_item(self, shelf: str, name: str, told: str) -> None:
        """Where we are: a shelf, an item of it, and a few words on that."""
        self.shelf.setText(shelf)
        self.name.setText(name)
        self.told.setText(told)
        style.tint(self.told, "soft")
        self.refresh()

    def refresh(self) -> None:
        """Show the project and the gesture in use."""
        self.project.setText(self.session.handle.name)
        for kind, segment in self.segments.items():
            segment.setChecked(kind == self.session.gestures.kind)
