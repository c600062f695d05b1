"""The top bar: where we are, gestures and their options, survey, export."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from topion.brushes.gestures import Gesture
from topion.edit.picking import OPTIONS, Option
from topion.view import style
from topion.view.gestures import ALL_GESTURES
from topion.view.panels.elided import ElidedButton
from topion.view.session import Session

KEYS = {"drag": "D", "line": "L", "box": "B", "flood": "F", "curve": "C", "lasso": "S"}
_TIPS = {
    "drag": "cells the pointer passes",
    "line": "a straight line",
    "box": "a rectangle",
    "flood": "all cells alike",
    "curve": "a smooth way through points that are clicked; Enter ends it, the first closes it",
    "lasso": "pick things, pieces and cells; Shift picks more, the right button less",
}
LASSO_WORDS: dict[Option, str] = {
    "lasso": "drawn round", "box": "a box", "alike": "cells alike", "prefab": "its prefab",
    "class": "its class", "brush": "its brush", "broken": "rule breakers",
}  # fmt: skip
_PARTS = {1: "1 cell", 2: "½ cell", 3: "⅓ cell", 4: "¼ cell"}


class Mark(QWidget):
    """Topion's sign: a tile with its upper half laid."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(30, 30)
        self.setAccessibleName("Topion")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(15, 15)
        upper = QPolygonF([QPointF(-12, 0), QPointF(0, -12), QPointF(12, 0)])
        lower = QPolygonF([QPointF(-12, 0), QPointF(0, 12), QPointF(12, 0)])
        painter.setPen(QPen(style.ink("ink"), 1.6))
        painter.setBrush(style.ink("buoy"))
        painter.drawPolygon(upper)
        painter.setBrush(style.ink("card"))
        painter.drawPolygon(lower)


class KeyedButton(QPushButton):
    """One of a few ways to work, in a row of them, with its key.  place : "first", "last" or
    nothing."""

    def __init__(self, text: str, key: str, tip: str, place: str, wide: int) -> None:
        super().__init__()
        self._said, self._key = text, key
        self.setObjectName(f"segment{place}")
        self.setCheckable(True)
        self.setProperty("tight", True)
        self.setFixedSize(wide, 28)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"{text} gesture")
        self.setToolTip(tip)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        colour = "on_ink" if self.isChecked() or self.isDown() else "ink"
        painter.setPen(style.ink(colour))
        painter.setFont(style.font(13))
        wide, high = painter.fontMetrics().horizontalAdvance(self._said), self.height()
        left, middle = (self.width() - wide - 15) / 2, Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(left, 0, wide + 2, high), middle, self._said)
        painter.setFont(style.font(11))
        painter.setPen(style.ink(colour, 150))
        painter.drawText(QRectF(left + wide + 6, 0, 14, high), middle, self._key)


class Segment(KeyedButton):
    """A gesture in the row of gestures, with its key."""

    def __init__(self, kind: str, place: str) -> None:
        name, key = kind.capitalize(), KEYS[kind]
        tip = f"{name}: {_TIPS[kind]}. Tap {key} to switch, hold it for one stroke"
        super().__init__(name, key, tip, place, 60)
        self.kind = kind


class _Facts(QLabel):
    """What is known of the room; it gives way to all others, and says so by dots."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(style.ink("soft"))
        wide = self.width() - 8
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, wide)
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(self.rect(), flags, text if wide > 40 else "")


def paint_bar(bar: QWidget) -> None:
    """Paper with a hairline below."""
    painter = QPainter(bar)
    painter.fillRect(bar.rect(), style.ink("panel"))
    painter.setPen(style.ink("line"))
    painter.drawLine(0, bar.height() - 1, bar.width(), bar.height() - 1)


class TopBar(QWidget):
    """Buttons that belong to the window are public: `project`, `room`, `survey`, `export`…"""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(5)
        line.addWidget(Mark())
        self.project = self._plain("Project: new, open, save, bring in (F10)")
        self.room = self._plain("Room: switch, or make a new one (F9)")
        self.room.setFont(style.font(15, bold=True))
        self.facts = _Facts()
        line.addWidget(self.project)
        line.addWidget(QLabel("›"))
        line.addWidget(self.room)
        line.addWidget(self.facts, 4)
        row = QHBoxLayout()
        row.setSpacing(0)
        self.segments: dict[str, Segment] = {}
        for number, kind in enumerate(ALL_GESTURES):
            place = "first" if number == 0 else "last" if number == len(ALL_GESTURES) - 1 else ""
            segment = Segment(kind, place)
            segment.clicked.connect(lambda _, k=kind: self.session.gestures.use(k))
            self.segments[kind] = segment
            row.addWidget(segment)
        line.addLayout(row)
        self.option = QPushButton()
        self.option.clicked.connect(self._next_option)
        self.corners = QPushButton()
        self.corners.clicked.connect(lambda: self.session.gestures.toggle_corners())
        self.parts = QPushButton()
        self.parts.clicked.connect(lambda: self.session.hands.next_parts())
        for button, wide in ((self.option, 94), (self.corners, 60), (self.parts, 58)):
            button.setProperty("tight", True)
            button.setFixedWidth(wide)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            line.addWidget(button)
        line.addStretch(1)
        self._add_actions(line)
        self.use(session)

    def _add_actions(self, line: QHBoxLayout) -> None:
        """The buttons at the right."""
        self.care = QPushButton("Not kept safe")
        self.care.setObjectName("care")
        self.care.setAccessibleName("Strokes are not kept safe")
        self.care.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.care.hide()
        line.addWidget(self.care)
        self.plan = QPushButton("Plan")
        self.plan.setToolTip("The rooms of the world and the doors between them (F2)")
        self.survey = QPushButton("Survey")
        self.survey.setCheckable(True)
        self.survey.setToolTip("What the checks found (F7)")
        self.sheets = QPushButton("Sheets")
        self.sheets.setToolTip("Tile sheets: take slots in hand (F6)")
        self.walk = QPushButton("Walk")
        self.walk.setToolTip("Try the room with a small figure (W)")
        self.export = QPushButton("Export")
        self.export.setToolTip("Write PNG, CSV or a JSON bundle (Ctrl+E)")
        self.looks = QPushButton("Looks")
        self.looks.setToolTip("Themes, tint maps, light and palette (F5)")
        self.theme = QPushButton("◐")
        self.theme.setFixedWidth(34)
        self.theme.setStyleSheet("padding: 4px 0;")
        self.theme.setAccessibleName("Paper or dark")
        self.theme.setToolTip("Paper or dark (F8)")
        for button in (
            self.plan,
            self.sheets,
            self.looks,
            self.survey,
            self.walk,
            self.export,
            self.theme,
        ):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            line.addWidget(button)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.gestures.changed.connect(self.refresh)
        session.picking.changed.connect(self.refresh)
        session.hands.mode_changed.connect(self.refresh)
        session.room_changed.connect(self.refresh)
        session.changed.connect(lambda _: self.refresh())
        self.refresh()

    def _plain(self, tip: str) -> QPushButton:
        button = ElidedButton()
        button.setObjectName("plain")
        button.setToolTip(tip)
        button.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def sizeHint(self) -> QSize:
        return QSize(1280, 46)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)

    def refresh(self) -> None:
        """Show anew what the session says."""
        session = self.session
        handle = session.handle
        self.project.setText(handle.name + (" •" if handle.history.changed else ""))
        self.project.setAccessibleName(
            f"Project {handle.name}{', not saved' if handle.history.changed else ''}"
        )
        self.room.setText(f"{session.room_name or 'no room'} ▾")
        self.room.setAccessibleName(f"Room {session.room_name}")
        if session.has_room:
            info = session.room.info
            worn = session.room.worn_tint
            looks = (info.theme, worn.info.name if worn is not None else "")
            self.facts.setText(" · ".join(part for part in (info.facts(), *looks) if part))
        else:
            self.facts.setText("")
        gesture = session.gestures.now
        for kind, segment in self.segments.items():
            segment.setChecked(kind == session.gestures.kind)
        self._refresh_options(gesture)

    def _next_option(self) -> None:
        if self.session.gestures.picking:
            self.session.picking.next_option()
        else:
            self.session.gestures.next_option()

    def _refresh_options(self, gesture: Gesture) -> None:
        kind = self.session.gestures.kind
        self.option.setVisible(kind in ("box", "flood", "lasso"))
        self.corners.setVisible(kind == "flood")
        if kind == "lasso":
            way = self.session.picking.way()
            self.option.setText(LASSO_WORDS[way])
            self.option.setToolTip(f"Lasso picks {OPTIONS[way]} (tap V for the next)")
        elif gesture.kind == "box":
            self.option.setText("outline" if gesture.outline else "filled")
            self.option.setToolTip("Box: filled, or its outline only (V)")
        else:
            self.option.setText("all alike" if gesture.everywhere else "connected")
            self.option.setToolTip("Flood: connected cells, or all alike in the room (V)")
        self.corners.setText("8 ways" if gesture.corners else "4 ways")
        self.corners.setToolTip("Flood: 4 neighbours, or 8 over the corners too (Shift+F)")
        parts = self.session.hands.cell_parts
        self.parts.setText(_PARTS[parts])
        self.parts.setToolTip("Where things may stand: whole, half, third or quarter cells (.)")
