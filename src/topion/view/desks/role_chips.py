"""What a prefab or a thing is in the walk: roles to choose from, and the sentence of the one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QVBoxLayout, QWidget

from topion.errors import TopionError
from topion.model.project import Project
from topion.model.role import Role
from topion.roles import ROLES
from topion.view import style
from topion.view.panels.sentence import RuleSentence
from topion.view.table.drawn_marks import draw_mark

_HIGH, _MARK = 25, 15
NONE = "none"


class RoleChip(QAbstractButton):
    """One role, with its mark."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        self.kind = kind
        self.setCheckable(True)
        self.setText(kind)
        self.setFixedHeight(_HIGH)
        self.setAccessibleName(f"Role: {kind}")
        role = ROLES.get(kind)
        self.setToolTip((role.__doc__ or "").split("\n")[0] if role else "It has no role")

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(style.font(12)).horizontalAdvance(self.kind) + 40, _HIGH)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect, on = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), self.isChecked()
        focus = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(style.ink("ink" if on or focus else "line"), 1))
        painter.setBrush(style.ink("ink" if on else "card"))
        painter.drawRoundedRect(rect, _HIGH / 2, _HIGH / 2)
        left = 9.0
        if self.kind in ROLES:
            frame = QRectF(left, (_HIGH - _MARK) / 2, _MARK, _MARK)
            for mark in ROLES[self.kind].drawing:
                draw_mark(painter, frame, replace(mark, ink="line") if on else mark, 1.5)
            left += _MARK + 5
        painter.setPen(style.ink("card" if on else "ink"))
        painter.setFont(style.font(12, bold=on))
        painter.drawText(QRectF(left, 0, self.width() - left, _HIGH),
                         Qt.AlignmentFlag.AlignVCenter, self.kind)  # fmt: skip


class RoleChips(QWidget):
    """put : called with another role, or None for none.  failed : with a sentence."""

    def __init__(self, project: Callable[[], Project], columns: int = 4,
                 none: str = NONE) -> None:  # fmt: skip
        """none : the word for no role of its own."""
        super().__init__()
        self.put: Callable[[Role | None], object] = lambda _: None
        self.failed: Callable[[str], object] = lambda _: None
        self.role: Role | None = None
        self.chips = {kind: RoleChip(kind) for kind in (none, *ROLES)}
        grid = QGridLayout()
        grid.setSpacing(5)
        for number, (kind, chip) in enumerate(self.chips.items()):
            chip.clicked.connect(lambda _, k=kind: self._choose(k))
            grid.addWidget(chip, number // columns, number % columns)
        self.sentence = RuleSentence(project, self._set)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(grid)
        column.addWidget(self.sentence)
        self._none = none

    def show_role(self, role: Role | None, *, mixed: bool = False) -> None:
        """Show a role; nothing in use where those of several differ."""
        self.role = role
        now = "" if mixed else role.kind if role is not None else self._none
        for kind, chip in self.chips.items():
            chip.setChecked(kind == now)
        self.sentence.setVisible(role is not None and not mixed)
        if role is not None:
            self.sentence.show_form(role)

    def _choose(self, kind: str) -> None:
        same = self.role is not None and self.role.kind == kind
        if not same:
            self.put(ROLES[kind]() if kind in ROLES else None)
        self.show_role(self.role)

    def _set(self, field: str, value: Any) -> None:
        try:
            role: Any = replace(self.role, **{field: value})  # type: ignore[type-var]
        except TopionError as problem:
            self.failed(str(problem))
            return
        self.put(role)
