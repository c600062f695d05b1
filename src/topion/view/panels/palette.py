"""The palette of the project: its colours as swatches, and the one that is chosen below."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from topion.brushes.kind import Setting
from topion.edit.wear import set_palette
from topion.errors import TopionError
from topion.formats.palettes import read_gpl
from topion.model.palette import MOST_TINTS, Palette, Tint, changed, lighter, moved, with_tint
from topion.model.typed import COLOUR
from topion.view import style
from topion.view.hands import Hand
from topion.view.panels.fields import choice_button, labelled
from topion.view.panels.rows import SettingRow
from topion.view.session import Session

_SIDE, _PITCH = 24, 28
_FIRST_HUE, _NEXT_HUE = 32, 137  # so that each new colour is unlike those before
_PARTS = ("hue", "saturation", "lightness")
_TO = {"hue": 359, "saturation": 255, "lightness": 255}
FromPalette = Callable[[Hand, int], object]


class Swatches(QWidget):
    """A click takes a colour in the left hand, the other button in the right; drag to reorder."""

    def __init__(self, picked: FromPalette, dropped: Callable[[int, int], object]) -> None:
        super().__init__()
        self._picked, self._dropped = picked, dropped
        self.palette_: Palette = ()
        self.chosen = 0  # number of a colour
        self._pressed: int | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Palette")

    def show_palette(self, palette: Palette, chosen: int) -> None:
        """Show these colours, one of them chosen."""
        self.palette_, self.chosen = palette, chosen
        names = ", ".join(tint.name for tint in palette) or "no colours"
        self.setAccessibleDescription(names)
        rows = max(1, -(-len(palette) // self._columns()))
        self.setFixedHeight(rows * _PITCH + 2)
        self.update()

    def resizeEvent(self, event: object) -> None:
        self.show_palette(self.palette_, self.chosen)

    def _columns(self) -> int:
        return max(1, self.width() // _PITCH)

    def swatch_rect(self, place: int) -> QRectF:
        """Where the colour at a place is seen."""
        row, column = divmod(place, self._columns())
        return QRectF(column * _PITCH + 2, row * _PITCH + 2, _SIDE, _SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place, tint in enumerate(self.palette_):
            rect = self.swatch_rect(place)
            paint_swatch(painter, rect, tint)
            if tint.number == self.chosen:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(style.ink("ink"), 2))
                painter.drawRoundedRect(rect.adjusted(-2, -2, 2, 2), 4, 4)

    def _place_at(self, point: QPointF) -> int | None:
        for place in range(len(self.palette_)):
            if self.swatch_rect(place).adjusted(-2, -2, 2, 2).contains(point):
                return place
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        place = self._place_at(event.position()) if event else None
        if event is None or place is None:
            return
        self._pressed = place
        hand: Hand = "right" if event.button() == Qt.MouseButton.RightButton else "left"
        self._picked(hand, self.palette_[place].number)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        start, self._pressed = self._pressed, None
        place = self._place_at(event.position()) if event else None
        if start is not None and place is not None and place != start:
            self._dropped(self.palette_[start].number, place)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        place = self._place_at(event.position()) if event else None
        if place is not None:
            name = self.palette_[place].name
            self.setToolTip(f"{name}: left hand, or right button for the right; drag to reorder")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.palette_:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        key = Qt.Key(event.key())
        if key not in steps:
            event.ignore()
            return
        numbers = [tint.number for tint in self.palette_]
        at = numbers.index(self.chosen) if self.chosen in numbers else 0
        to = max(0, min(len(numbers) - 1, at + steps[key]))
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._dropped(numbers[at], to)
        else:
            self._picked("left", numbers[to])


def paint_swatch(painter: QPainter, rect: QRectF, tint: Tint) -> None:
    """A colour, its bright form in the lower right corner."""
    painter.setPen(QPen(style.ink("ink", 70), 1))
    painter.setBrush(QColor(tint.colour))
    painter.drawRoundedRect(rect, 3, 3)
    corner = QPolygonF([QPointF(rect.right() - 1, rect.center().y()),
                        QPointF(rect.right() - 1, rect.bottom() - 1),
                        QPointF(rect.center().x(), rect.bottom() - 1)])  # fmt: skip
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(tint.bright))
    painter.drawPolygon(corner)


class PaletteEditor(QWidget):
    """Swatches; name, colour and bright form of the chosen one; a new one; import."""

    def __init__(self, session: Callable[[], Session], take: FromPalette,
                 ask_file: Callable[[], Path | None]) -> None:  # fmt: skip
        """take : a colour by its number in a hand.  ask_file : for a palette file."""
        super().__init__()
        self._session, self._take, self._ask_file = session, take, ask_file
        self._number = 0
        self._edits_bright = False
        self.swatches = Swatches(self._pick, self._move)
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the colour")
        self.name.setFixedWidth(118)
        self.name.setAcceptDrops(False)
        self.code = QLineEdit()
        self.code.setAccessibleName("Colour, as #rrggbb")
        self.code.setFixedWidth(72)
        self.code.setAcceptDrops(False)
        self.form = choice_button("plain form", "Which form is changed; click for the other")
        self.add = choice_button("+ colour", "A new colour at the end of the palette")
        self.remove = choice_button("remove", "Take this colour out of the palette")
        self.bring = choice_button("import GPL…", "Bring in the colours of a palette file")
        self.rows = {part: self._row(part) for part in _PARTS}
        self._lay_out()
        for button, does in ((self.add, self._add), (self.remove, self._remove),
                             (self.bring, self._bring), (self.form, self._other_form)):  # fmt: skip
            button.clicked.connect(does)
        self.name.editingFinished.connect(self._rename)
        self.code.editingFinished.connect(self._type_code)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(self.swatches)
        words = QHBoxLayout()
        for button in (self.add, self.bring):
            words.addWidget(button)
        words.addStretch(1)
        words.addWidget(self.remove)
        column.addLayout(words)
        self._chosen = QWidget()
        rows = QVBoxLayout(self._chosen)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(2)
        rows.addWidget(labelled("Name", self.name))
        rows.addWidget(labelled("Colour", self.form, self.code))
        for row in self.rows.values():
            rows.addWidget(row)
        column.addWidget(self._chosen)
        self.empty = QLabel("No colours yet: add one, or import a palette file.")
        style.tint(self.empty, "soft")
        self.empty.setWordWrap(True)
        column.addWidget(self.empty)

    def _row(self, part: str) -> SettingRow:
        setting = Setting(part, part.capitalize(), "number", 0, _TO[part], 1)
        return SettingRow(setting, 0, 0, (), lambda value: self._slide(part, value),
                          lambda: self._session().handle.history.seal())  # fmt: skip

    def refresh(self) -> None:
        """Show the palette of the project as it is."""
        palette = self._palette()
        numbers = [tint.number for tint in palette]
        if self._number not in numbers:
            self._number = numbers[0] if numbers else 0
        self.swatches.show_palette(palette, self._number)
        self.empty.setVisible(not palette)
        self.remove.setVisible(bool(palette))
        self._chosen.setVisible(bool(palette))
        tint = self._tint()
        if tint is None:
            return
        if not self.name.hasFocus():
            self.name.setText(tint.name)
        colour = self._colour(tint)
        if not self.code.hasFocus():
            self.code.setText(colour)
        self.form.setText("bright form" if self._edits_bright else "plain form")
        hue, saturation, light, _ = QColor(colour).getHsl()
        known = self.rows["hue"].value
        for part, value in zip(_PARTS, (known if (hue or -1) < 0 else hue, saturation, light),
                               strict=True):  # fmt: skip
            self.rows[part].show_value(value)

    def _palette(self) -> Palette:
        return self._session().project.palette

    def _tint(self) -> Tint | None:
        return next((t for t in self._palette() if t.number == self._number), None)

    def _colour(self, tint: Tint) -> str:
        return tint.bright if self._edits_bright else tint.colour

    def _put(self, palette: Palette, label: str, key: object = None) -> bool:
        return self._session().try_(set_palette, palette, label, key=key)

    def _pick(self, hand: Hand, number: int) -> None:
        self._number = number
        self._take(hand, number)
        self.refresh()

    def _move(self, number: int, place: int) -> None:
        self._put(moved(self._palette(), number, place), "Order of the palette")

    def _slide(self, part: str, value: int) -> None:
        tint = self._tint()
        if tint is None:
            return
        hue, saturation, light = (int(self.rows[p].value) for p in _PARTS)
        given = {"hue": hue, "saturation": saturation, "lightness": light, part: int(value)}
        bounded = (max(0, min(_TO[p], given[p])) for p in _PARTS)
        self._set_colour(tint, QColor.fromHsl(*bounded).name(), ("palette", tint.number))
        self.rows[part].show_value(value)

    def _set_colour(self, tint: Tint, colour: str, key: object = None) -> None:
        """The bright form follows a plain one that it was made from."""
        if self._edits_bright:
            values = {"bright": colour}
        else:
            follows = tint.bright == lighter(tint.colour)
            values = {"colour": colour, **({"bright": lighter(colour)} if follows else {})}
        self._put(changed(self._palette(), tint.number, **values), f"Colour {tint.name}", key)

    def _type_code(self) -> None:
        tint, text = self._tint(), self.code.text().strip()
        text = text if text.startswith("#") else f"#{text}"
        if tint is not None and COLOUR.holds(text) and text != self._colour(tint):
            self._set_colour(tint, text.lower())
        self.refresh()

    def _rename(self) -> None:
        tint, name = self._tint(), self.name.text().strip()
        if tint is not None and name and name != tint.name:
            try:
                self._put(changed(self._palette(), tint.number, name=name), f"Name {name}")
            except TopionError as problem:
                self._session().said.emit(str(problem))
        self.refresh()

    def _other_form(self) -> None:
        self._edits_bright = not self._edits_bright
        self.refresh()

    def _add(self) -> None:
        try:
            count = len(self._palette())
            colour = QColor.fromHsl((_FIRST_HUE + _NEXT_HUE * count) % 360, 74, 118).name()
            palette = with_tint(self._palette(), f"Colour {count + 1}", colour)
        except TopionError:
            self._session().said.emit(f"A palette has at most {MOST_TINTS} colours")
            return
        self._number = palette[-1].number
        self._put(palette, f"New colour {palette[-1].name}")

    def _remove(self) -> None:
        tint = self._tint()
        if tint is not None:
            rest = tuple(t for t in self._palette() if t.number != tint.number)
            self._put(rest, f"Remove colour {tint.name}")

    def _bring(self) -> None:
        path = self._ask_file()
        if path is None:
            return
        try:
            self._put(read_gpl(path, self._palette()), f"Colours of {path.stem}")
        except TopionError as problem:
            self._session().said.emit(str(problem))
