"""The named points of a voxel model: placed by a click on the model, or typed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from topion.view import style
from topion.view.panels.fields import number_field

Points = dict[str, tuple[int, int, int]]


class PointList(QWidget):
    """put : called with all points once one was set, renamed or taken away.  place : called with
    the name of a point that the next click on the model shall set."""

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[Points], object] = lambda _: None
        self.place: Callable[[str], object] = lambda _: None
        self.points: Points = {}
        self.rows: dict[str, dict[str, QWidget]] = {}
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.add = QPushButton("+ point")
        self.add.setObjectName("plain")
        self.add.setToolTip("A named point, such as a flame or a seat: click the voxel it is at")
        self.add.clicked.connect(lambda _: self.place(self.free_name()))
        self._column.addWidget(self.add)

    def free_name(self) -> str:
        """A name that no point has."""
        names = ("point", *(f"point {n}" for n in range(2, 999)))
        return next(name for name in names if name not in self.points)

    def show_points(self, points: Points) -> None:
        """Show these."""
        if points == self.points and self.rows.keys() == points.keys():
            return
        self.points = dict(points)
        while self._column.count() > 1:
            item = self._column.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.rows = {}
        for number, (name, at) in enumerate(self.points.items()):
            self._column.insertWidget(number, self._row(name, at))

    def _row(self, name: str, at: tuple[int, int, int]) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        field = QLineEdit(name)
        field.setAccessibleName(f"Name of {name}")
        field.setFixedWidth(96)
        field.editingFinished.connect(lambda: self._rename(name, field.text().strip()))
        line.addWidget(field)
        line.addStretch(1)
        parts: dict[str, QWidget] = {"name": field}
        for axis, place in (("x", 2), ("y", 1), ("z", 0)):
            edit = number_field(f"{name}: voxel along {axis}", 34)
            edit.setText(str(at[place]))
            edit.editingFinished.connect(partial(self._type, name, place, edit))
            parts[axis] = edit
            line.addWidget(edit)
        for text, tip, does in (
            ("set", f"Click the voxel where {name} is", self.place),
            ("×", f"Take {name} away", self._take_away),
        ):
            button = QPushButton(text)
            button.setObjectName("plain")
            button.setToolTip(tip)
            button.clicked.connect(lambda _, d=does: d(name))
            parts[text] = button
            line.addWidget(button)
        self.rows[name] = parts
        return row

    def _rename(self, name: str, new: str) -> None:
        if new and new != name and new not in self.points:
            self.put({new if known == name else known: at for known, at in self.points.items()})

    def _type(self, name: str, place: int, edit: QLineEdit) -> None:
        try:
            value = int(edit.text())
        except ValueError:
            edit.setText(str(self.points[name][place]))
            return
        at = list(self.points[name])
        if value != at[place]:
            at[place] = value
            self.put({**self.points, name: (at[0], at[1], at[2])})

    def _take_away(self, name: str) -> None:
        self.put({known: at for known, at in self.points.items() if known != name})


def hint(text: str) -> QLabel:
    """Soft words that may take several lines."""
    label = QLabel(text)
    label.setWordWrap(True)
    style.tint(label, "soft")
    return label
