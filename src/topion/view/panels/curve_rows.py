"""Rows of the panel Picked for curves, and for things that belong to one."""

from __future__ import annotations

from dataclasses import fields, replace
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QLabel, QLineEdit, QVBoxLayout, QWidget

from topion.arrange.along_curves import put_along_by
from topion.brushes.curve import CurveBrush
from topion.brushes.kind import Setting, Value
from topion.edit import curves as edits
from topion.errors import TopionError
from topion.model.curve import Curve, Fill
from topion.things.along import curve_under
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import bold, choice_button, heading, labelled, number_field
from topion.view.panels.mix_rows import MixRows
from topion.view.panels.rows import SettingRow
from topion.view.session import Session

_FILLED = {own.name for own in fields(Fill)}


class CurveRows(QWidget):
    """Form, points and what stands along the curve that was picked first."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(2)
        self.form = {
            "open": choice_button("open", "It has two ends"),
            "closed": choice_button("closed", "The last point leads to the first again"),
        }
        self.lies = {
            "on the ground": choice_button(
                "ground", "It follows the heights of what carries there"
            ),
            "in space": choice_button("space", "It runs through its points, whatever lies below"),
        }
        self.bends = {bend: choice_button(bend, tip) for bend, tip in (
            ("smooth", "They bend as their neighbours ask"),
            ("corner", "They are corners; a part for corners stands there"),
            ("free", "They have two handles to pull; with Shift each by itself"))}  # fmt: skip
        self._of_points = QLabel()
        self.places = [number_field(f"Picked point, {axis}", 50) for axis in "xyz"]
        self.make = {word: choice_button(word, tip) for word, tip in (
            ("split", "Two curves that meet in the picked point; a closed one is opened there"),
            ("join", "One curve of the two that are picked, where their ends are nearest"),
            ("reverse", "It goes the other way; what stands along it stays"))}  # fmt: skip
        self.beside = number_field("Cells to the right of its way; less than 0 to the left", 44)
        self.beside.setText("2")
        self.offset = choice_button("lay beside", "A new curve in parallel, so many cells beside")
        self.along = choice_button("", "Lay the brush of the left hand along it")
        self.detach = choice_button("detach all", "What stands along it becomes plain things")
        self._lies_row = labelled("Lies", *self.lies.values())
        self._place_row = labelled("Point at", *self.places)
        for row in (labelled("Form", *self.form.values()), self._lies_row,
                    labelled("Points", self._of_points, *self.bends.values()), self._place_row,
                    labelled("Make", *self.make.values()),
                    labelled("Offset", self.beside, QLabel("c"), self.offset),
                    labelled("Lay along", self.along)):  # fmt: skip
            whole.addWidget(row)
        head = heading("What stands along it")
        head.setContentsMargins(0, 8, 0, 0)
        whole.addWidget(head)
        self._body = QVBoxLayout()
        self._body.setSpacing(0)
        whole.addLayout(self._body)
        whole.addWidget(labelled("", self.detach))
        self.rows: dict[str, SettingRow | MixRows] = {}
        self._connect()

    def _connect(self) -> None:
        curves = lambda: self.session.curves  # noqa: E731
        for word, button in self.form.items():
            button.clicked.connect(
                lambda _, on=word == "closed": curves().do(edits.closed, on=on))  # fmt: skip
        for word, button in self.lies.items():
            button.clicked.connect(lambda _, on=word == "on the ground": self._lay_down(on))
        for bend, button in self.bends.items():
            button.clicked.connect(
                lambda _, b=bend: curves().do(edits.bent, curves().chosen(), b))  # fmt: skip
        for n, edit in enumerate(self.places):
            edit.editingFinished.connect(partial(self._type_place, n))
        self.make["split"].clicked.connect(lambda _: self._split())
        self.make["join"].clicked.connect(lambda _: curves().join())
        self.make["reverse"].clicked.connect(lambda _: curves().do(edits.turned_round))
        self.offset.clicked.connect(lambda _: self._offset())
        self.along.clicked.connect(lambda _: self.session.lay_along())
        self.detach.clicked.connect(lambda _: curves().do(edits.all_detached))

    def _type_place(self, n: int) -> None:
        """Another place of the picked point, along one axis."""
        first, chosen, edit = (
            self.session.curves.first(),
            self.session.curves.chosen(),
            self.places[n],
        )
        if first is None or not chosen or not edit.isModified():
            return
        edit.setModified(False)
        at = first[1].points[chosen[0]].at
        try:
            by = float(edit.text().replace(",", ".")) - at[-1 - n]
        except ValueError:
            self.refresh()
            return
        way = tuple(by if axis == len(at) - 1 - n else 0.0 for axis in range(len(at)))
        self.session.curves.move_points(way)

    def _lay_down(self, on: bool) -> None:
        self.session.curves.do(edits.on_ground, on=on)

    def _split(self) -> None:
        chosen = self.session.curves.chosen()
        if not chosen:
            self.session.said.emit("Split curve: press on one of its points first")
            return
        self.session.curves.do(edits.split, chosen[0])

    def _offset(self) -> None:
        try:
            cells = float(self.beside.text().replace(",", "."))
        except ValueError:
            self.session.said.emit("Offset curve: how many cells beside it?")
            return
        self.session.curves.do(edits.offset, cells)

    # --- shown ----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show it anew."""
        first = self.session.curves.first()
        self.setVisible(first is not None)
        if first is None:
            return
        curve = first[1]
        for word, button in self.form.items():
            bold(button, (word == "closed") == curve.closed)
        self._lies_row.setVisible(curve.axes == 3)
        for word, button in self.lies.items():
            bold(button, (word == "on the ground") == curve.on_ground)
        chosen = self.session.curves.chosen()
        numbers = chosen or range(len(curve.points))
        bends = {curve.points[number].bend for number in numbers}
        for bend, button in self.bends.items():
            bold(button, bends == {bend})
        self._of_points.setText(", ".join(str(n + 1) for n in chosen[:4]) if chosen else "all")
        self._place_row.setVisible(bool(chosen))
        for n, edit in enumerate(self.places):
            edit.setVisible(n < curve.axes)
            if chosen and n < curve.axes:
                _show(edit, curve.points[chosen[0]].at[-1 - n])
        self.make["split"].setEnabled(bool(chosen))
        self.make["join"].setEnabled(len(self.session.curves.there()) == 2)
        name = self.session.hands["left"]
        self.along.setText(name or "nothing in hand")
        self.along.setEnabled(bool(name))
        self._show_fill(curve)

    def _show_fill(self, curve: Curve) -> None:
        brush = _brush_of(curve.fill)
        settings = [s for s in brush.settings() if s.name in _FILLED]
        if [s.name for s in settings] != list(self.rows):
            emptied(self._body)
            self.rows = {s.name: self._row(brush, s) for s in settings}
        for name, row in self.rows.items():
            row.show_value(getattr(brush, name))
        self.detach.setEnabled(curve.fill is not None)

    def _row(self, brush: CurveBrush, setting: Setting) -> SettingRow | MixRows:
        row: SettingRow | MixRows
        put = partial(self.put, setting.name)
        if setting.form == "mix":
            row = MixRows(setting, self.session, put)
        else:
            choices = setting.choices
            if callable(choices):
                choices = choices(self.session.project)
            first = getattr(CurveBrush("curve"), setting.name)
            row = SettingRow(setting, getattr(brush, setting.name), first, choices, put,
                             self.session.handle.history.seal)  # fmt: skip
        self._body.addWidget(row)
        return row

    def put(self, name: str, value: Value) -> None:
        """Set a field of the fill of the curve that is picked."""
        first = self.session.curves.first()
        if first is None:
            return
        pick, curve = first
        values: dict[str, Any] = {name: value}
        try:
            fill = replace(curve.fill or Fill(), **values)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        empty = not (fill.parts or fill.start or fill.end or fill.corner)
        keeps = None if empty and name == "parts" else fill
        self.session.curves.do(edits.with_fill, keeps, key=("fill", pick, name))


def _brush_of(fill: Fill | None) -> CurveBrush:
    fill = fill or Fill()
    return CurveBrush("curve", **{name: getattr(fill, name) for name in _FILLED})


class RiderRows(QWidget):
    """Where on their curve the things stand that are picked: typed, or slid by keys."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(2)
        head = heading("On its curve · Shift ← → slides")
        head.setContentsMargins(0, 6, 0, 0)
        whole.addWidget(head)
        self.length = number_field("Cells along the curve from its beginning", 56)
        self.share = number_field("Share of the curve's length, in per cent", 52)
        self.aside = number_field("Cells to the right of its way", 46)
        self.up = number_field("Cells above the ground or the curve", 46)
        self.turn = number_field("Degrees clockwise beside the curve", 46)
        self.turns = choice_button("", "Whether it turns with the curve")
        self.free = choice_button("detach", "Stands by itself, where it stands")
        whole.addWidget(labelled("At", self.length, QLabel("c ="), self.share, QLabel("%")))
        whole.addWidget(labelled("Aside, up", self.aside, self.up, QLabel("c")))
        whole.addWidget(labelled("Turned", self.turn, QLabel("°"), self.turns))
        whole.addWidget(labelled("Belongs", self.free))
        for edit, name, factor in ((self.length, "length", 1.0), (self.share, "share", 0.01),
                                   (self.aside, "aside", 1.0), (self.up, "up", 1.0),
                                   (self.turn, "turn", 1.0)):  # fmt: skip
            edit.editingFinished.connect(partial(self._type, edit, name, factor))
        self.turns.clicked.connect(lambda _: self._toggle())
        self.free.clicked.connect(lambda _: self.session.curves.detach())

    def refresh(self) -> None:
        """Show them anew."""
        riders = self.session.curves.riders()
        self.setVisible(bool(riders))
        if not riders:
            return
        thing = riders[0][1]
        curve, along = curve_under(self.session.room, thing), thing.along
        if curve is None or along is None:
            self.setVisible(False)
            return
        _show(self.length, along.share * curve.length)
        _show(self.share, along.share * 100)
        for edit, value in ((self.aside, along.aside), (self.up, along.up),
                            (self.turn, along.turn)):  # fmt: skip
            _show(edit, value)
        self.turns.setText("with the curve" if along.turns else "by itself")
        self.up.setVisible(curve.axes == 3)

    def _type(self, edit: QLineEdit, name: str, factor: float) -> None:
        if not edit.isModified():
            return
        edit.setModified(False)
        text = edit.text().rstrip("%°")
        try:
            self.session.curves.put_along(**{name: float(text.replace(",", ".")) * factor})
        except ValueError:
            self._express(name, text if factor == 1.0 else f"({text})*{factor:g}")
        self.refresh()

    def _express(self, name: Any, text: str) -> None:
        """For several of them, an expression; one that is not understood is said."""
        picks = [pick for pick, _ in self.session.curves.riders()]
        self.session.try_(put_along_by, self.session.room_name, picks, name, text)

    def _toggle(self) -> None:
        riders = self.session.curves.riders()
        along = riders[0][1].along if riders else None
        if along is not None:
            self.session.curves.put_along(turns=not along.turns)


def _show(edit: QLineEdit, value: float) -> None:
    if not (edit.hasFocus() and edit.isModified()):
        edit.setText(f"{round(value, 2):g}")
