"""The light of a voxel room: rows of numbers and colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from topion.brushes.kind import Setting
from topion.edit.rooms import set_room
from topion.model.light import PLAIN
from topion.model.typed import COLOUR
from topion.view.panels.fields import labelled
from topion.view.panels.rows import SettingRow
from topion.view.session import Session

_NUMBERS = (
    Setting("bearing", "Sun from", "number", 0, 360, 1, "°", hint="Clockwise from north"),
    Setting("height", "Sun height", "number", 0, 90, 1, "°", hint="Above the level ground"),
    Setting("direct", "Sunlight", "number", 0, 1.2, 0.01, hint="How much light the sun gives"),
    Setting("ambient", "Shade", "number", 0, 1.2, 0.01, hint="Light that comes from all round"),
    Setting("haze", "Haze", "number", 0, 1, 0.01, hint="How much of what lies far is lost"),
    Setting("corners", "Corners", "number", 0, 1.5, 0.01, hint="How dark corners are"),
)
_COLOURS = (
    ("sun", "Of the sun", "Its warmth"),
    ("shade", "Of the shade", "The colour of light from all round"),
    ("above", "Sky above", "At the top of the picture"),
    ("below", "Sky below", "At its foot, and of the haze"),
)


_WARMTH = Setting("warmth", "Warmth", "number", -1, 1, 0.05,
                  hint="The colour of the sun, from cool blue to warm red")  # fmt: skip
_COOL, _WARM = (0x8F, 0xB4, 0xFF), (0xFF, 0x8A, 0x3C)


def warm_colour(warmth: float) -> str:
    """The colour of a sun that is so warm, -1 to 1; white between."""
    end, share = (_WARM, warmth) if warmth >= 0 else (_COOL, -warmth)
    return "#{:02x}{:02x}{:02x}".format(*(round(255 + (v - 255) * min(1.0, share)) for v in end))


def warmth_of(colour: str) -> float:
    """How warm a colour is about; the opposite of `warm_colour` for those that it gives."""
    red, _, blue = bytes.fromhex(colour[1:])
    found = (255 - blue) / (255 - _WARM[2]) if red >= blue else -(255 - red) / (255 - _COOL[0])
    return round(max(-1.0, min(1.0, found)), 2)


class LightRows(QWidget):
    """Every change is an Edit of the room; pulls of one slider become one."""

    def __init__(self, session: Callable[[], Session]) -> None:
        super().__init__()
        self._session = session
        self.rows = {setting.name: self._row(setting) for setting in _NUMBERS}
        self.warmth = SettingRow(_WARMTH, 0.0, 0.0, (),
                                 lambda v: self._set("sun", warm_colour(float(v))),
                                 lambda: self._session().handle.history.seal())  # fmt: skip
        self.colours: dict[str, QLineEdit] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(22)
        left = QVBoxLayout()
        left.setSpacing(0)
        for row in (*self.rows.values(), self.warmth):
            left.addWidget(row)
        right = QVBoxLayout()
        right.setSpacing(2)
        for field, label, tip in _COLOURS:
            right.addWidget(labelled(label, self._field(field, tip)))
        right.addStretch(1)
        grid.addLayout(left, 0, 0)
        grid.addLayout(right, 0, 1)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 2)

    def _row(self, setting: Setting) -> SettingRow:
        value = getattr(PLAIN, setting.name)
        return SettingRow(setting, value, value, (), lambda v: self._set(setting.name, float(v)),
                          lambda: self._session().handle.history.seal())  # fmt: skip

    def _field(self, field: str, tip: str) -> QLineEdit:
        edit = QLineEdit()
        edit.setFixedWidth(80)
        edit.setAcceptDrops(False)
        edit.setToolTip(f"{tip}, as #rrggbb")
        edit.setAccessibleName(tip)
        edit.editingFinished.connect(lambda: self._type(field))
        self.colours[field] = edit
        return edit

    def _type(self, field: str) -> None:
        text = self.colours[field].text().strip().lower()
        text = text if text.startswith("#") else f"#{text}"
        if COLOUR.holds(text):
            self._set(field, text)
        self.refresh()

    def _set(self, field: str, value: Any) -> None:
        session = self._session()
        if session.has_room and getattr(session.room.info.light, field) != value:
            light = session.room.info.light

            def planned(*args: Any) -> Any:
                return set_room(*args, light=replace(light, **{field: value}))

            session.try_(planned, session.room_name, key=("light", session.room_name, field))

    def refresh(self) -> None:
        """Show the light of the room as it is."""
        session = self._session()
        if not session.has_room:
            return
        light = session.room.info.light
        for field, row in self.rows.items():
            row.show_value(getattr(light, field))
        self.warmth.show_value(warmth_of(light.sun))
        for field, edit in self.colours.items():
            colour = getattr(light, field)
            if not edit.hasFocus():
                edit.setText(colour)
            ink = "#ffffff" if QColor(colour).lightness() < 140 else "#22303a"
            edit.setStyleSheet(f"background: {colour}; color: {ink};")
