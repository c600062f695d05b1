"""The properties of a prefab: name, kind, and what a thing has when it is placed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, get_args

from PyQt6.QtWidgets import QGridLayout, QLabel, QLineEdit, QMenu, QPushButton, QWidget

from topion.errors import TopionError
from topion.model.property import Property, PropertyKind
from topion.parsing import words_of
from topion.view import style

_LAST = "+ property"


class PropertyTable(QWidget):
    """put : called with a place and the property there, or None where one goes.  failed : with a
    sentence where a value cannot be."""

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[int, Property | None], object] = lambda *_: None
        self.failed: Callable[[str], object] = lambda _: None
        self.properties: tuple[Property, ...] = ()
        self.rows: list[dict[str, Any]] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(3)
        self.add = QPushButton(_LAST)
        self.add.setObjectName("plain")
        self.add.setToolTip("One more property of its things")
        self.add.clicked.connect(lambda _: self._add())
        self.show_properties(())

    def show_properties(self, properties: tuple[Property, ...]) -> None:
        """Show these; rows stay where they are as they were."""
        if properties == self.properties and self.rows:
            return
        self.properties = properties
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None and widget is not self.add:
                widget.hide()
                widget.deleteLater()
        for column, words in enumerate(("name", "kind", "when placed") if properties else ()):
            label = QLabel(words)
            style.tint(label, "soft")
            self._grid.addWidget(label, 0, column)
        self.rows = [self._row(n, prop) for n, prop in enumerate(properties)]
        self._grid.addWidget(self.add, len(properties) + 1, 0)
        self._grid.setColumnStretch(1, 1)

    def _row(self, number: int, prop: Property) -> dict[str, Any]:
        name, value = QLineEdit(prop.name), QLineEdit(prop.value)
        kind = QPushButton(f"{_kind_words(prop)} ▾")
        kind.setObjectName("plain")
        kind.setAccessibleName(f"Kind of {prop.name}")
        kind.clicked.connect(lambda _: self._ask_kind(number, kind))
        name.setAccessibleName(f"Name of property {number + 1}")
        value.setAccessibleName(f"{prop.name} when placed")
        name.editingFinished.connect(lambda: self._set(number, name=name.text().strip()))
        value.editingFinished.connect(lambda: self._value(number, value))
        gone = QPushButton("×")
        gone.setObjectName("plain")
        gone.setToolTip(f"Take {prop.name} away")
        gone.clicked.connect(lambda _: self.put(number, None))
        for edit in (name, value):
            edit.setFixedWidth(96)
        for column, part in enumerate((name, kind, value, gone)):
            self._grid.addWidget(part, number + 1, column)
        return {"name": name, "kind": kind, "value": value, "gone": gone}

    def _add(self) -> None:
        taken = {prop.name for prop in self.properties}
        name = next(n for n in ("note", *(f"note {i}" for i in range(2, 99))) if n not in taken)
        self.put(len(self.properties), Property(name))

    def _set(self, number: int, **changes: Any) -> None:
        old = self.properties[number]
        try:
            new = replace(old, **changes)
        except TopionError as problem:
            self.failed(str(problem))
            return
        if new != old:
            self.put(number, new)

    def _value(self, number: int, edit: QLineEdit) -> None:
        old = self.properties[number]
        try:
            text = old.checked(edit.text())
        except TopionError as problem:
            edit.setText(old.value)
            self.failed(str(problem))
            return
        if text != old.value:
            self._set(number, default=text)

    def _ask_kind(self, number: int, button: QPushButton) -> None:
        menu = QMenu(self)
        for kind in get_args(PropertyKind):
            action = menu.addAction(kind, lambda k=kind: self.set_kind(number, k))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(kind == self.properties[number].kind)
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))

    def set_kind(self, number: int, kind: PropertyKind) -> None:
        """Make it of another kind; the value when placed begins anew, words become choices."""
        old = self.properties[number]
        choices = (words_of(old.default) or ("one", "two")) if kind == "choice" else ()
        self.put(number, Property(old.name, kind, choices=choices))


def _kind_words(prop: Property) -> str:
    if prop.kind == "choice":
        return "/".join(prop.choices)[:18]
    if prop.kind == "number" and prop.highest < 1e9:
        return f"{prop.lowest:g} … {prop.highest:g}"
    return prop.kind
