"""The pattern of a things brush: its places as a small grid, and the one that is chosen below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QLabel, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from topion.brushes.kind import Setting
from topion.brushes.pattern import MOST_SIDE, Pattern, Spot
from topion.brushes.things import ThingsBrush
from topion.errors import TopionError
from topion.model.project import Project
from topion.view import style
from topion.view.panels.fields import labelled, narrow_column, number_field
from topion.view.table.compose import pixmap_of

_LARGEST_CELL = 34
_WIDE = 240


class PatternEditor(QWidget):
    """changed(pattern) is called with each new one, `done` after it."""

    def __init__(
        self,
        setting: Setting,
        project: Project,
        brush: ThingsBrush,
        changed: Callable[[Pattern], None],
        done: Callable[[], None],
    ) -> None:
        super().__init__()
        self.setting, self.changed, self.done = setting, changed, done
        self.project, self.brush, self.value = project, brush, brush.pattern
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 4, 0, 0)
        whole.setSpacing(2)
        self.columns, self.rows = number_field("Columns"), number_field("Rows")
        self.apart_x, self.apart_y = number_field("Apart, east"), number_field("Apart, south")
        whole.addWidget(labelled("Pattern", self.columns, QLabel("×"), self.rows))
        whole.addWidget(labelled("Apart", self.apart_x, QLabel("×"), self.apart_y, QLabel("c")))
        self.grid = _Grid(self)
        whole.addWidget(self.grid)
        self.prefab = QPushButton()
        self.prefab.setObjectName("plain")
        self.prefab.setToolTip("What stands at the chosen place")
        self.offset_x, self.offset_y = number_field("Offset, east"), number_field("Offset, south")
        self.turn, self.scale = number_field("Turn, degrees more"), number_field("Scale, times")
        self._place = QWidget()
        place = narrow_column()
        self._place.setLayout(place)
        place.addWidget(labelled("Place", self.prefab))
        place.addWidget(labelled("Offset", self.offset_x, QLabel(","), self.offset_y, QLabel("c")))
        place.addWidget(labelled("Turn, scale", self.turn, QLabel("°"), self.scale, QLabel("×")))
        whole.addWidget(self._place)
        self.prefab.clicked.connect(self._show_prefabs)
        for edit in (self.columns, self.rows, self.apart_x, self.apart_y):
            edit.editingFinished.connect(self._type_size)
        for edit in (self.offset_x, self.offset_y, self.turn, self.scale):
            edit.editingFinished.connect(self._type_place)
        self.show_value(self.value)

    @property
    def chosen(self) -> Spot:
        """The place that is shown below."""
        row, column = self.grid.chosen
        return self.value.at(min(row, self.value.rows - 1), min(column, self.value.columns - 1))

    def show_value(self, value: Pattern) -> None:
        """Show a pattern that was set elsewhere."""
        self.value = value
        sizes = (self.columns, self.rows, self.apart_x, self.apart_y)
        numbers = (value.columns, value.rows, value.apart_x, value.apart_y)
        for edit, number in zip(sizes, numbers, strict=True):
            _show(edit, number)
        self._place.setVisible(value.rows * value.columns > 1)
        self.grid.setVisible(value.rows * value.columns > 1)
        spot = self.chosen
        for edit, number in ((self.offset_x, spot.x), (self.offset_y, spot.y),
                             (self.turn, spot.turn), (self.scale, spot.scale)):  # fmt: skip
            _show(edit, number)
        name = "nothing" if spot.left_out else spot.prefab or self.brush.prefab
        self.prefab.setText(f"{name} ▾")
        self.grid.fit()

    def put(self, pattern: Pattern) -> None:
        """Set another one."""
        self.value = pattern
        self.changed(pattern)
        self.done()
        self.show_value(pattern)

    def _type_size(self) -> None:
        numbers = [_typed(e) for e in (self.rows, self.columns, self.apart_y, self.apart_x)]
        if None not in numbers:
            rows, columns, apart_y, apart_x = (float(n or 0) for n in numbers)
            try:
                found = self.value.sized(*(min(MOST_SIDE, max(1, int(n))) for n in (rows, columns)))
                found = replace(found, apart_y=apart_y, apart_x=apart_x)
            except TopionError:
                found = self.value
            if found != self.value:
                self.put(found)
        self.show_value(self.value)

    def _type_place(self) -> None:
        fields = {"x": self.offset_x, "y": self.offset_y, "turn": self.turn, "scale": self.scale}
        numbers = {name: _typed(edit) for name, edit in fields.items()}
        known: dict[str, Any] = {
            name: number for name, number in numbers.items() if number is not None
        }
        try:
            spot = replace(self.chosen, **known)
        except TopionError:
            spot = self.chosen
        if spot != self.chosen:
            self.put(self.value.with_spot(spot))
        self.show_value(self.value)

    def _show_prefabs(self) -> None:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Nothing", lambda: self.stand(None))
        for name in self.project.prefabs:
            menu.addAction(name, lambda n=name: self.stand(n))
        menu.popup(self.prefab.mapToGlobal(self.prefab.rect().bottomLeft()))

    def stand(self, prefab: str | None) -> None:
        """Another prefab at the chosen place, or nothing."""
        own = "" if prefab == self.brush.prefab else prefab or ""
        spot = replace(self.chosen, prefab=own, left_out=prefab is None)
        self.put(self.value.with_spot(spot))


class _Grid(QWidget):
    """The places: a left press chooses one, a right press makes it the pivot."""

    def __init__(self, editor: PatternEditor) -> None:
        super().__init__()
        self.editor = editor
        self.chosen = (0, 0)
        self.setAccessibleName("Places of the pattern")
        self.setToolTip("Click chooses a place, right click makes it the one under the pointer")

    @property
    def _side(self) -> float:
        return min(_LARGEST_CELL, _WIDE / max(1, self.editor.value.columns))

    def fit(self) -> None:
        """As high as its rows."""
        self.setFixedHeight(round(self._side * self.editor.value.rows) + 3)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_WIDE, self.height())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        pattern = self.editor.value
        row, column = (int(v // self._side) for v in (event.position().y(), event.position().x()))
        if not (0 <= row < pattern.rows and 0 <= column < pattern.columns):
            return
        if event.button() == Qt.MouseButton.RightButton:
            self.editor.put(replace(pattern, pivot=(row, column)))
        else:
            self.chosen = (row, column)
            self.editor.show_value(pattern)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pattern, side = self.editor.value, self._side
        for row in range(pattern.rows):
            for column in range(pattern.columns):
                rect = QRectF(column * side + 1, row * side + 1, side - 2, side - 2)
                self._paint_place(painter, rect, pattern.at(row, column))
                if (row, column) == pattern.pivot:
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(style.ink("tidal"))
                    painter.drawEllipse(rect.topLeft() + _PIVOT, 3.2, 3.2)

    def _paint_place(self, painter: QPainter, rect: QRectF, spot: Spot) -> None:
        chosen = (spot.row, spot.column) == self.chosen
        painter.setPen(QPen(style.ink("buoy" if chosen else "line"), 1.8 if chosen else 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(rect, 3, 3)
        prefab = self.editor.project.prefabs.get(spot.prefab or self.editor.brush.prefab)
        if prefab is None or spot.left_out:
            return
        picture = pixmap_of(prefab.picture.rgba)
        inner = rect.adjusted(3, 3, -3, -3)
        size = picture.size().scaled(inner.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        target = QRectF(0, 0, size.width(), size.height())
        target.moveCenter(inner.center())
        painter.drawPixmap(target, picture, QRectF(picture.rect()))


_PIVOT = QRectF(5, 5, 0, 0).topLeft()


def _show(edit: QLineEdit, value: float) -> None:
    if not edit.hasFocus() or not edit.isModified():
        edit.setText(f"{value:g}")


def _typed(edit: QLineEdit) -> float | None:
    edit.setModified(False)
    try:
        return float(edit.text().replace(",", "."))
    except ValueError:
        return None
