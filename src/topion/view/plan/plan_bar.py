"""The top line of the plan: where we are, the gestures of the sheet, and the way back."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from topion.grid.told import several
from topion.view import style
from topion.view.panels.top_bar import KeyedButton, Mark, paint_bar
from topion.view.plan.sheet_view import GESTURE_KEYS, PlanGesture, SheetView
from topion.view.plan.work import PlanWork

_TIPS: dict[PlanGesture, str] = {
    "move": "drag rooms; drag from a door to link it",
    "link": "drag from door to door",
    "lasso": "draw round rooms, or round things of a room",
}


class PlanBar(QWidget):
    """Signals: left(), done() for the way back; surveyed(), exported() for those buttons."""

    left = pyqtSignal()
    done = pyqtSignal()
    surveyed = pyqtSignal()
    exported = pyqtSignal()

    def __init__(self, work: PlanWork, view: SheetView) -> None:
        super().__init__()
        self.work, self._view = work, view
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(6)
        line.addWidget(Mark())
        self.project = QPushButton()
        self.project.setObjectName("plain")
        self.project.setToolTip("Back to the room (Esc)")
        self.project.clicked.connect(lambda _: self.left.emit())
        self.name, self.told = QLabel("Plan"), QLabel()
        style.tint(self.told, "soft")
        self.name.setFont(style.font(16, bold=True))
        for part in (self.project, QLabel("›"), self.name, self.told):
            line.addWidget(part)
        line.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(0)
        self.gestures: dict[PlanGesture, QPushButton] = {}
        ends: dict[PlanGesture, str] = {"move": "first", "link": "", "lasso": "last"}
        for gesture, place in ends.items():
            name, key = gesture.capitalize(), GESTURE_KEYS[gesture]
            part = KeyedButton(name, key, f"{name}: {_TIPS[gesture]} ({key})", place, 74)
            part.clicked.connect(lambda _, g=gesture: view.use(g))
            self.gestures[gesture] = part
            row.addWidget(part)
        line.addLayout(row)
        self.snap = self._button("", "Rooms come to lie on edges of others and on half cells; hold "
                                 "Alt for one that does not")  # fmt: skip
        self.snap.setFixedWidth(98)
        self.snap.clicked.connect(lambda _: self._turn_snap())
        line.addWidget(self.snap)
        line.addStretch(1)
        self.survey = self._button("Survey", "What the checks found (F7)")
        self.survey.clicked.connect(lambda _: self.surveyed.emit())
        self.walk = self._button("Walk the world", "From where the world starts (W)")
        self.walk.clicked.connect(lambda _: work.walk(work.begins))
        self.export = self._button("Export", "The plan as SVG or PNG (Ctrl+E)")
        self.export.clicked.connect(lambda _: self.exported.emit())
        self.back = self._button("Back to the room", "To painting (Esc)")
        self.back.setObjectName("strong")
        self.back.clicked.connect(lambda _: self.done.emit())
        for button in (self.survey, self.walk, self.export, self.back):
            line.addWidget(button)
        view.gesture_changed.connect(self.refresh)
        work.changed.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _button(text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _turn_snap(self) -> None:
        self.work.snaps = not self.work.snaps
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(1280, 46)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)

    def refresh(self) -> None:
        """Show the counts and the gesture in use."""
        work, handle = self.work, self.work.session.handle
        self.project.setText(handle.name + (" •" if handle.history.changed else ""))
        rooms, places, missed = len(handle.data.rooms), len(work.spots), len(work.missed)
        parts = [f"{several(rooms, 'room')}, {places} on the sheet"]
        parts += [f"{missed} not reached"] if missed else []
        self.told.setText(" · ".join(parts))
        for gesture, button in self.gestures.items():
            button.setChecked(gesture == self._view.gesture)
        self.snap.setText("snap ½ cell" if work.snaps else "no snap")
        count = work.surveying.count
        self.survey.setText(f"Survey {count}" if count else "Survey")
        style.tint(self.survey, "buoy" if count else "ink")
        self.walk.setEnabled(bool(work.begins))
