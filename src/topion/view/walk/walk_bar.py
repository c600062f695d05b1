"""The top line while a room is walked."""

from __future__ import annotations

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from topion.view import style
from topion.view.panels.top_bar import Mark, paint_bar
from topion.view.walk.run import WalkRun

_VIEWS = {"side": "side view", "top": "top view", "voxel": "voxel"}


class WalkBar(QWidget):
    """Signals: left(), done() to go back to painting; begun(here) to begin anew, where the figure
    is or where the room starts."""

    left = pyqtSignal()
    done = pyqtSignal()
    begun = pyqtSignal(bool)

    def __init__(self, run: WalkRun, project: str) -> None:
        super().__init__()
        self.run = run
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(6)
        line.addWidget(Mark())
        self.project = QPushButton(project)
        self.project.setObjectName("plain")
        self.project.setToolTip("Back to painting (Esc)")
        self.project.clicked.connect(lambda _: self.left.emit())
        self.room, self.told = QLabel(), QLabel()
        style.tint(self.told, "soft")
        self.room.setFont(style.font(15, bold=True))
        for part in (self.project, QLabel("›"), self.room, self.told):
            line.addWidget(part)
        line.addSpacing(24)
        self.light, self.words = QLabel("●"), QLabel()
        line.addWidget(self.light)
        line.addWidget(self.words)
        line.addStretch(1)
        self.start = self._button("From the start", "Begin anew where the room starts (Shift+Home)")
        self.start.clicked.connect(lambda _: self.begun.emit(False))
        self.here = self._button("From here", "Begin anew where the figure is now")
        self.here.clicked.connect(lambda _: self.begun.emit(True))
        self.reach = self._button("Reach map", "Where the figure can get, over the room (M)")
        self.reach.setCheckable(True)
        self.back = self._button("Back to painting", "At the cell of the figure (Esc)")
        self.back.setObjectName("strong")
        self.back.clicked.connect(lambda _: self.done.emit())
        for button in (self.start, self.here, self.reach, self.back):
            line.addWidget(button)
        run.stepped.connect(self.refresh)
        run.changed.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _button(text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button

    def sizeHint(self) -> QSize:
        return QSize(1280, 46)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)

    def refresh(self) -> None:
        """Show how far it is."""
        run, state = self.run, self.run.now
        self.room.setText(state.room)
        view = _VIEWS[state.world.stage(state.room).view]
        self.told.setText(f"walk · {view}")
        if state.ended == "world":
            word = f"World done · {len(state.taken)} taken · brought back {state.backs} times"
        elif run.replays:
            word = "Playing" if run.plays else "Recording, stands still"
        else:
            word = "Walking" if run.plays else "Stands still"
        self.words.setText(f"<b>{word}</b>  {int(run.seconds) // 60}:{run.seconds % 60:04.1f}"
                           + ("  room done" if state.ended == "room" else ""))  # fmt: skip
        ink = "buoy" if run.plays else "soft"
        style.tint(self.light, ink)
