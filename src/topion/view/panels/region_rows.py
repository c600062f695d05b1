"""The regions of the room, under the brush that draws them: what they are for, and properties."""

from __future__ import annotations

from functools import partial
from typing import Any

import numpy as np
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QWidget,
)

from topion.brushes.region import RegionBrush
from topion.edit.library import put_brush
from topion.edit.names import rename_region
from topion.edit.rooms import clear_layer, remove_layer, set_layer
from topion.grid.told import several
from topion.model.layer import Layer
from topion.view import style
from topion.view.panels.fields import choice_button, heading, labelled, narrow_column
from topion.view.session import Session

PURPOSES = ("view", "zone", "trigger")


class RegionRows(QWidget):
    """A row for each region, with a menu; the properties of the one that is drawn."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: object = None
        self._session: Session | None = None
        self.names: dict[str, QPushButton] = {}
        self.told: dict[str, QLabel] = {}  # what is said of each
        self.values: list[tuple[QLineEdit, QLineEdit, QPushButton]] = []
        self.add = choice_button("+ property", "One more property of this region")
        self.add.clicked.connect(lambda _: self._add())
        self._column = narrow_column()
        self.setLayout(self._column)

    def show_regions(self, session: Session, name: str) -> None:
        """Show those of the room, and the properties of that of a name."""
        regions = session.room.regions() if session.has_room else []
        told = [(layer_id, layer.info, _count(layer)) for layer_id, layer in regions]
        if (session, name, told) == self._shown:
            return
        self._session, self._shown = session, (session, name, told)
        self._clear()
        if not told:
            return
        head = heading("Regions of this room")
        head.setContentsMargins(0, 8, 0, 0)
        self._column.addWidget(head)
        for layer_id, layer in regions:
            own = layer.info.name == name
            self._column.addWidget(self._row(session, layer_id, layer, drawn=own))
            for number, pair in enumerate(layer.info.values if own else ()):
                self._column.addWidget(self._property(number, *pair))
            if own:
                self._column.addWidget(labelled("", self.add))
                self.add.show()

    def _clear(self) -> None:
        while (item := self._column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                if widget.isAncestorOf(self.add):
                    self.add.setParent(self)
                    self.add.hide()
                widget.hide()
                widget.deleteLater()
        self.names, self.told, self.values = {}, {}, []

    def _row(self, session: Session, layer_id: str, layer: Layer, *, drawn: bool) -> QWidget:
        info = layer.info
        name = choice_button(f"{info.name} ▾", f"What can be done to the region {info.name}")
        name.setFont(style.font(bold=drawn))
        style.tint(name, "ink" if info.shown else "soft")
        name.clicked.connect(lambda _: self.menu_of(layer_id).popup(
            name.mapToGlobal(name.rect().bottomLeft())))  # fmt: skip
        self.names[info.name] = name
        words = [info.purpose or "zone", several(_count(layer), "cell")]
        words += ["hidden"] * (not info.shown) + ["locked"] * info.locked
        told = self.told[info.name] = heading(" · ".join(words))
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(name)
        line.addStretch(1)
        line.addWidget(told)
        return row

    def menu_of(self, layer_id: str) -> QMenu:
        """What can be done to a region."""
        session = self._session
        menu = QMenu(self)
        if session is None:
            return menu
        info = session.room.layer(layer_id).info
        put = partial(self._set, layer_id)
        menu.addAction("Draw it", lambda: self._draw(layer_id))
        menu.addAction("Rename…", lambda: self._ask_name(info.name))
        for purpose in PURPOSES:
            action = menu.addAction(f"It is a {purpose}", lambda p=purpose: put(purpose=p))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(purpose == info.purpose)
        menu.addSeparator()
        menu.addAction("Hide" if info.shown else "Show", lambda: put(shown=not info.shown))
        menu.addAction("Unlock" if info.locked else "Lock", lambda: put(locked=not info.locked))
        menu.addSeparator()
        room = session.room_name
        menu.addAction("Clear", lambda: session.try_(clear_layer, room, layer_id))
        menu.addAction("Remove", lambda: session.try_(remove_layer, room, layer_id))
        return menu

    def _property(self, number: int, name: str, value: str) -> QWidget:
        parts = QLineEdit(name), QLineEdit(value)
        gone = choice_button("×", f"Take {name} away")
        for edit, words in zip(parts, (f"Name of property {number + 1}", name), strict=True):
            edit.setAccessibleName(words)
            edit.editingFinished.connect(lambda: self._put(number, *(p.text() for p in parts)))
        gone.clicked.connect(lambda _: self._put(number, "", ""))
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(10, 0, 0, 0)
        for part in (*parts, gone):
            line.addWidget(part)
        self.values.append((*parts, gone))
        return row

    # --- set ------------------------------------------------------------------------------

    def _set(self, layer_id: str, **changes: Any) -> None:
        if self._session is not None:
            self._session.try_(set_layer, self._session.room_name, layer_id, **changes)

    def _own(self) -> tuple[str, Layer] | None:
        """The region whose properties are shown."""
        if self._session is None:
            return None
        name = self._session.hands[self._session.hands.shown]
        found = self._session.room.regions()
        return next((pair for pair in found if pair[1].info.name == name), None)

    def _add(self) -> None:
        own = self._own()
        if own is not None:
            known = own[1].info.values
            taken = {name for name, _ in known}
            name = next(n for n in ("note", *(f"note {i}" for i in range(2, 99))) if n not in taken)
            self._set(own[0], values=(*known, (name, "")))

    def _put(self, number: int, name: str, value: str) -> None:
        """Another property at a place; without a name, none."""
        own = self._own()
        if own is None:
            return
        known = own[1].info.values
        new = ((name.strip(), value.strip()),) if name.strip() else ()
        after = (*known[:number], *new, *known[number + 1 :])
        if after != known:
            self._set(own[0], values=after)

    def _ask_name(self, old: str) -> None:
        name, ok = QInputDialog.getText(self, "Rename region", "Name", text=old)
        if ok:
            self.rename(old, name.strip())

    def rename(self, old: str, new: str) -> None:
        """Give a region another name, wherever it is spoken of."""
        session = self._session
        if session is not None:
            hands = [hand for hand, brush in session.hands.names().items() if brush == old]
            if session.try_(rename_region, old, new):
                for hand in hands:
                    session.hands.take(hand, new)

    def _draw(self, layer_id: str) -> None:
        """Take the brush that draws a region, or a new one."""
        session = self._session
        if session is None:
            return
        info = session.room.layer(layer_id).info
        if info.name not in session.project.brushes:
            made = RegionBrush(info.name, info.purpose or "zone")
            if not session.try_(put_brush, made):
                return
        session.hands.take(session.hands.shown, info.name)


def _count(layer: Layer) -> int:
    return int(np.count_nonzero(layer.plane("inside")))
