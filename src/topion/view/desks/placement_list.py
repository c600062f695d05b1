"""The placement rules of a prefab, or of its class: switched, set, ordered, added."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from topion.model.project import Project
from topion.things.rules.kind import RuleKind
from topion.view import style
from topion.view.panels.sentence import RuleSentence
from topion.view.table.drawn_marks import draw_mark

_ROW, _DRAWING = 78, 56


class Toggle(QAbstractButton):
    """On or off."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setAccessibleName(name)
        self.setFixedSize(26, 16)

    def sizeHint(self) -> QSize:
        return self.size()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("ink"), 1) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("tidal" if self.isChecked() else "line"))
        painter.drawRoundedRect(QRectF(1, 1, 24, 14), 7, 7)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("card"))
        painter.drawEllipse(QPointF(18 if self.isChecked() else 8, 8), 5, 5)


class RuleRow(QWidget):
    """One rule.  Signals: pointed(number) while the pointer is over it, -1 when it leaves."""

    pointed = pyqtSignal(int)

    def __init__(self, owner: PlacementList, number: int, rule: RuleKind) -> None:
        super().__init__()
        self._owner, self.number, self.rule = owner, number, rule
        self._pulled: float | None = None
        self.told = ""
        self.setMinimumHeight(_ROW)
        self.setMouseTracking(True)
        self.switch = Toggle(f"Rule {number + 1} on")
        self.switch.setChecked(rule.on)
        self.switch.setToolTip("Whether it is asked")
        self.switch.clicked.connect(lambda on: owner.put(number, "on", on))
        self.sentence = RuleSentence(owner.project, lambda f, v: owner.put(number, f, v))
        self.sentence.show_rule(rule)
        self.hint = QLabel()
        style.tint(self.hint, "soft")
        words = QVBoxLayout()
        words.setSpacing(2)
        words.addWidget(self.sentence)
        words.addWidget(self.hint)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 30, 8)
        row.addWidget(self.switch)
        row.addSpacing(_DRAWING + 16)
        row.addLayout(words, 1)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(lambda at: self._menu(self.mapToGlobal(at)))
        self.setToolTip("Drag the grip to another place: the first rule that refuses speaks. "
                        "Right click removes it")  # fmt: skip

    def tell(self, text: str, ink: str = "soft") -> None:
        """What it refuses, below its sentence."""
        self.hint.setText(text)
        style.tint(self.hint, ink)

    def _menu(self, at: Any) -> None:
        menu = QMenu(self)
        menu.addAction("Move up", lambda: self._owner.move_rule(self.number, self.number - 1))
        menu.addAction("Move down", lambda: self._owner.move_rule(self.number, self.number + 1))
        menu.addAction("Remove", lambda: self._owner.remove(self.number))
        menu.popup(at)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self._owner.lit == self.number
        if lit:
            painter.fillRect(self.rect(), style.ink("card"))
            painter.fillRect(QRectF(0, 0, 5, self.height() - 1), style.ink("buoy"))
        if not self.rule.on:
            painter.setOpacity(0.45)
        left = self.switch.geometry().right() + 10
        frame = QRectF(left, (self.height() - _DRAWING) / 2, _DRAWING, _DRAWING)
        painter.fillRect(frame, style.ink("panel"))
        painter.setPen(style.ink("line"))
        painter.drawRect(frame)
        for mark in self.rule.drawing:
            draw_mark(painter, frame.adjusted(3, 3, -3, -3), mark)
        painter.setOpacity(1)
        painter.setPen(style.ink("soft"))
        painter.drawText(QRectF(self.width() - 26, 0, 20, self.height()),
                         Qt.AlignmentFlag.AlignCenter, "≡")  # fmt: skip
        painter.setPen(style.ink("line"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)

    def enterEvent(self, event: Any) -> None:
        self.pointed.emit(self.number)

    def leaveEvent(self, event: Any) -> None:
        self.pointed.emit(-1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.position().x() > self.width() - 30:
            self._pulled = event.position().y()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pulled is not None:
            steps = round((event.position().y() - self._pulled) / max(1, self.height()))
            self._pulled = None
            if steps:
                self._owner.move_rule(self.number, self.number + steps)


class PlacementList(QWidget):
    """Signals: pointed(number) when a rule is pointed at, -1 for none.

    put, move_rule, remove : called to change the rules.
    """

    pointed = pyqtSignal(int)

    def __init__(self, project: Callable[[], Project]) -> None:
        super().__init__()
        self.project = project
        self.put: Callable[[int, str, Any], object] = lambda *_: None
        self.move_rule: Callable[[int, int], object] = lambda *_: None
        self.remove: Callable[[int], object] = lambda _: None
        self.lit = -1
        self.rows: list[RuleRow] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addStretch(1)
        self.setAccessibleName("Placement rules")

    def show_rules(self, rules: tuple[object, ...]) -> None:
        """Show these; rows of rules that are as they were stay."""
        known = [rule for rule in rules if isinstance(rule, RuleKind)]
        if known == [row.rule for row in self.rows]:
            return
        for row in self.rows:
            row.hide()
            row.deleteLater()
        self.rows = [RuleRow(self, number, rule) for number, rule in enumerate(known)]
        for number, row in enumerate(self.rows):
            row.pointed.connect(self._point)
            self._column.insertWidget(number, row)

    def _point(self, number: int) -> None:
        self.lit = number
        for row in self.rows:
            row.update()
        self.pointed.emit(number)
