"""Prefabs with weights: what fills a curve, or what a field sows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.kind import Setting
from topion.errors import TopionError
from topion.model.curve import CurvePart
from topion.things.field import Sown
from topion.view import style
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, labelled, number_field
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

_ROW = 30


class MixRows(QWidget):
    """One row a prefab: its picture and name, which open the list of prefabs, its weight, and ×.

    put : called with other parts.  make : a part of a prefab that is added.
    """

    def __init__(self, setting: Setting, session: Session, put: Callable[[Any], object],
                 make: Callable[[str], Any] = CurvePart) -> None:  # fmt: skip
        super().__init__()
        self.setting, self.session = setting, session
        self._put, self._make = put, make
        self.parts: tuple[Any, ...] | None = None
        self.rows: list[tuple[_Named, QLineEdit, QPushButton]] = []
        self.details: list[SownDetails] = []
        self._open: set[int] = set()  # of those whose details are shown
        self.more = choice_button("+ prefab ▾", f"{setting.label}: one more prefab")
        self.more.clicked.connect(lambda _: self._menu(self.add).popup(
            self.more.mapToGlobal(self.more.rect().bottomLeft())))  # fmt: skip
        self._list = QVBoxLayout()
        self._list.setSpacing(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 4)
        whole.setSpacing(1)
        whole.addWidget(labelled(setting.label, self.more))
        whole.addLayout(self._list)
        self.setToolTip(setting.hint)

    def show_value(self, parts: tuple[Any, ...]) -> None:
        """Show these; rows stay where they are as they were."""
        if parts == self.parts:
            return
        same = self.parts is not None and [p.prefab for p in parts] == [
            p.prefab for p in self.parts
        ]
        self.parts = parts
        if not same:
            self._lay(parts)
        for part, (_, weight, _) in zip(parts, self.rows, strict=True):
            if not (weight.hasFocus() and weight.isModified()):
                weight.setText(f"{part.weight:g}")
        for part, details in zip(parts, self.details, strict=False):
            details.show_part(part)

    def _lay(self, parts: tuple[Any, ...]) -> None:
        emptied(self._list)
        self.rows, self.details = [], []
        for number, part in enumerate(parts):
            name = _Named(self.session, part.prefab)
            name.clicked.connect(partial(self._ask, number, name))
            weight = number_field(f"Weight of {part.prefab}", 40)
            weight.editingFinished.connect(partial(self._type, number))
            gone = choice_button("×", f"Without {part.prefab}")
            gone.clicked.connect(lambda _, n=number: self.change(n, ()))
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            line.setSpacing(4)
            line.addWidget(name, 1)
            line.addWidget(weight)
            if isinstance(part, Sown):
                more = choice_button("⋯", f"Spacing, size, turn and strays of {part.prefab}")
                details = SownDetails(part, partial(self._set, number))
                details.setVisible(number in self._open)
                more.clicked.connect(partial(self.fold, number, details))
                line.addWidget(more)
                self.details.append(details)
            line.addWidget(gone)
            self._list.addWidget(row)
            if isinstance(part, Sown):
                self._list.addWidget(self.details[-1])
            self.rows.append((name, weight, gone))

    def fold(self, number: int, details: QWidget, _: bool = False) -> None:
        """Show or hide the details of one."""
        self._open ^= {number}
        details.setVisible(number in self._open)

    def _ask(self, number: int, beside: QWidget, _: bool = False) -> None:
        menu = self._menu(partial(self._set, number, "prefab"))
        menu.popup(beside.mapToGlobal(beside.rect().bottomLeft()))

    def _menu(self, then: Callable[[str], object]) -> QMenu:
        menu = QMenu(self)
        for name in self.session.project.prefabs:
            menu.addAction(name, partial(then, name))
        return menu

    def add(self, prefab: str) -> None:
        """One more, as often as the others."""
        try:
            self._put((*(self.parts or ()), self._make(prefab)))
        except TopionError as problem:
            self.session.said.emit(str(problem))

    def _set(self, number: int, field: str, value: Any) -> None:
        parts = self.parts or ()
        try:
            self.change(number, (replace(parts[number], **{field: value}),))
        except TopionError as problem:
            self.session.said.emit(str(problem))

    def _type(self, number: int) -> None:
        edit, parts = self.rows[number][1], self.parts or ()
        if not edit.isModified():
            return
        edit.setModified(False)
        try:
            self._set(number, "weight", float(edit.text().replace(",", ".")))
        except ValueError:
            edit.setText(f"{parts[number].weight:g}")

    def change(self, number: int, new: tuple[Any, ...]) -> None:
        """Other parts in place of one."""
        parts = self.parts or ()
        self._put((*parts[:number], *new, *parts[number + 1 :]))


class SownDetails(QWidget):
    """Spacing, size, turn and strays of one prefab of a field.  put : a field and its value."""

    def __init__(self, part: Sown, put: Callable[[str, Any], object]) -> None:
        super().__init__()
        self._part, self._put = part, put
        self.fields: dict[str, QLineEdit] = {}
        for name, tip in (
            ("spacing", "Cells to its nearest, times the spacing of the field"),
            ("size from", "Least size, times that of the field"),
            ("size to", "Largest size, times that of the field"),
            ("turn from", "Degrees clockwise; empty for what the field says"),
            ("turn to", "Degrees clockwise; empty for what the field says"),
            ("strays", "Up to so many cells from its place; it may come nearer to others"),
        ):
            edit = number_field(f"{part.prefab}: {tip}", 40)
            edit.editingFinished.connect(partial(self._type, name))
            self.fields[name] = edit
        whole = QVBoxLayout(self)
        whole.setContentsMargins(34, 0, 0, 4)
        whole.setSpacing(1)
        f = self.fields
        whole.addWidget(labelled("spacing, strays", f["spacing"], QLabel("×"), f["strays"],
                                 QLabel("c")))  # fmt: skip
        whole.addWidget(labelled("size", f["size from"], QLabel("to"), f["size to"], QLabel("×")))
        whole.addWidget(labelled("turn", f["turn from"], QLabel("to"), f["turn to"], QLabel("°")))
        self.show_part(part)

    def show_part(self, part: Sown) -> None:
        """Show its values."""
        self._part = part
        turn = part.turn or ("", "")
        values = {"spacing": part.spacing, "size from": part.size[0], "size to": part.size[1],
                  "turn from": turn[0], "turn to": turn[1], "strays": part.strays}  # fmt: skip
        for name, value in values.items():
            edit = self.fields[name]
            if not (edit.hasFocus() and edit.isModified()):
                edit.setText("" if value == "" else f"{value:g}")

    def _type(self, name: str) -> None:
        edit = self.fields[name]
        if not edit.isModified():
            return
        edit.setModified(False)
        text = edit.text().replace(",", ".").strip()
        try:
            value = float(text) if text else None
        except ValueError:
            self.show_part(self._part)
            return
        field, _, end = name.partition(" ")
        if not end:
            self._put(field, 1.0 if value is None and field == "spacing" else value or 0.0)
        elif field == "turn" and value is None:
            self._put("turn", None)
        else:
            known = getattr(self._part, field) or (0.0, 0.0)
            given = 1.0 if value is None else value
            low, high = (given, known[1]) if end == "from" else (known[0], given)
            self._put(field, (min(low, high) if end == "to" else low,
                              max(low, high) if end == "from" else high))  # fmt: skip


class _Named(QPushButton):
    """A prefab by picture and name."""

    def __init__(self, session: Session, prefab: str) -> None:
        super().__init__()
        self._name = prefab
        known = session.project.prefabs.get(prefab)
        self._picture = None if known is None else pixmap_of(known.picture.rgba)
        self.setFixedHeight(_ROW)
        self.setToolTip(f"{prefab}: another prefab in its place")
        self.setAccessibleName(self.toolTip())

    def sizeHint(self) -> QSize:
        return QSize(120, _ROW)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.underMouse():
            painter.fillRect(self.rect(), style.ink("card"))
        frame = QRectF(2, 2, 26, 26)
        painter.fillRect(frame, style.ink("panel2"))
        if self._picture is not None:
            wide, high = self._picture.width(), self._picture.height()
            scale = min(24 / wide, 24 / high)
            size = (wide * scale, high * scale)
            target = QRectF(frame.center().x() - size[0] / 2, frame.center().y() - size[1] / 2,
                            *size)  # fmt: skip
            painter.drawPixmap(target, self._picture, QRectF(self._picture.rect()))
        painter.setPen(style.ink("line"))
        painter.drawRect(frame)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(13))
        words = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideRight,
                                                 self.width() - 38)  # fmt: skip
        painter.drawText(QRectF(34, 0, self.width() - 36, _ROW), Qt.AlignmentFlag.AlignVCenter,
                         words)  # fmt: skip
