"""Rows of the panel Picked for things and for an area of cells."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QLabel, QLineEdit, QPushButton, QWidget

from topion.arrange.arranging import Arrangement, arrange, arranged
from topion.arrange.units import numbers_of
from topion.brushes.kind import brush_or_none
from topion.edit.arranging import aligned, distributed, replaced, spread
from topion.edit.picked import things_changed
from topion.edit.prefabs import set_values
from topion.edit.spawn import Spawned, spawn
from topion.errors import TopionError
from topion.grid.orient import TIPS
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.model.room import Room
from topion.things.spacing import spacing_of
from topion.view import style
from topion.view.panels.bars import Bars
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import bold, choice_button, labelled, narrow_column, number_field
from topion.view.panels.logic_rows import LogicRows
from topion.view.panels.stance_rows import StanceRows
from topion.view.picking import OVER
from topion.view.session import Session
from topion.view.table.picked_marks import size_words

_MIXED = "–"
# label: words: what it says, what it does, and with what
_ARRANGE: dict[str, dict[str, tuple[str, Callable[..., Edit], tuple[str, ...]]]] = {
    "Align": {
        "west": ("All as far west as the first", aligned, ("x", "low")),
        "middle": ("All on one line from north to south", aligned, ("x", "middle")),
        "east": ("All as far east as the last", aligned, ("x", "high")),
    },
    "": {
        "north": ("All as far north as the first", aligned, ("y", "low")),
        "level": ("All on one line from west to east", aligned, ("y", "middle")),
        "south": ("All as far south as the last", aligned, ("y", "high")),
    },
    "Evenly": {
        "west–east": ("Evenly between the westernmost and the easternmost", distributed, ("x",)),
        "north–south": ("Evenly from north to south", distributed, ("y",)),
    },
}


class ThingRows(QWidget):
    """Place, turn, scale and mirror of the things that are picked; a typed value is given to all,
    a place moves all as the first one moves."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        whole = narrow_column()
        self.setLayout(whole)
        self.places = [number_field(f"At {axis}", 46) for axis in "xyz"]
        self.turn = number_field("Turn, degrees clockwise", 52)
        self.scale = number_field("Scale, 1 is its own size", 52)
        self.mirror = choice_button("no", "Mirrored: west and east change places (M)")
        self.tip = QLabel()
        whole.addWidget(labelled("At", *self.places))
        whole.addWidget(labelled("Turn", self.tip, self.turn, QLabel("°")))
        self.stance = StanceRows(self._change)
        whole.addWidget(labelled("Scale", self.scale, QLabel("×")))
        whole.addWidget(labelled("Mirrored", self.mirror))
        whole.addWidget(self.stance)
        self.logic = LogicRows(session)
        self.values: dict[str, QLineEdit] = {}
        self._properties = narrow_column()
        whole.addLayout(self._properties)
        self.arrange: dict[str, QPushButton] = {}
        self._many: list[QWidget] = []  # rows for more than one thing
        for label, parts in _ARRANGE.items():
            buttons = []
            for words, (tip, change, more) in parts.items():
                button = choice_button(words, tip)
                button.clicked.connect(lambda _, c=change, m=more: self._arrange(c, *m))
                self.arrange[f"{label} {words}"] = button
                buttons.append(button)
            self._many.append(labelled(label, *buttons))
            whole.addWidget(self._many[-1])
        self.spread = choice_button("until rules hold", "Move what breaks a rule to the nearest "
                                    "place where it breaks none")  # fmt: skip
        self.spread.clicked.connect(lambda _: self._spread())
        self.replace = choice_button("", "Things of what is in the left hand at the same places")
        self.replace.clicked.connect(lambda _: self._replace())
        self.spacing = QLabel()
        self.bars = Bars("How many stand how far from their nearest")
        self._many.append(labelled("Spacing", self.spacing))
        self._many.append(labelled("", self.bars))
        for row in self._many[-2:]:
            whole.addWidget(row)
        whole.addWidget(labelled("Spread", self.spread))
        whole.addWidget(labelled("Replace by", self.replace))
        whole.addWidget(self.logic)
        for n, edit in enumerate(self.places):
            edit.editingFinished.connect(lambda n=n: self._type_place(n))
        self.turn.editingFinished.connect(lambda: self._type(self.turn, "turn", 360.0))
        self.scale.editingFinished.connect(lambda: self._type(self.scale, "scale"))
        self.mirror.clicked.connect(lambda: self.session.picking.mirror())

    def refresh(self) -> None:
        """Show them anew."""
        things = [thing for _, thing in self.session.picking.things()]
        self.setVisible(bool(things))
        if not things:
            return
        first, axes = things[0], self.session.room.info.axes
        for n, (edit, value) in enumerate(zip(self.places, reversed(first.at), strict=True)):
            edit.setVisible(n < axes)
            _show(edit, f"{value:g}")
        for edit, name in ((self.turn, "turn"), (self.scale, "scale")):
            values = {getattr(thing, name) for thing in things}
            _show(edit, f"{values.pop():g}" if len(values) == 1 else _MIXED)
        tips = {thing.tip for thing in things}
        self.tip.setText(TIPS[tips.pop()] if len(tips) == 1 else "")
        sides = {thing.mirrored for thing in things}
        self.mirror.setText("mixed" if len(sides) > 1 else "yes" if sides.pop() else "no")
        self.stance.show_things(self.session, things)
        self.logic.show_things(self.session, things)
        for row in self._many:
            row.setVisible(len(things) > 1)
        self._show_values(things)
        found = spacing_of(np.array([thing.at[-axes:] for thing in things]))
        if found is not None:
            self.spacing.setText(found.told())
            self.bars.show_shares((share, "tidal" if share else "line") for share in found.shares)
        self.replace.setText(self._other() or "nothing in hand")
        self.replace.setEnabled(bool(self._other()))

    def _other(self) -> str:
        """What the left hand places."""
        project = self.session.project
        brush = brush_or_none(project, self.session.hands["left"])
        return next((n for n in brush.places() if n in project.prefabs), "") if brush else ""

    def _arrange(self, change: Callable[..., Edit], *more: str) -> None:
        things = dict(self.session.picking.things())
        if len(things) > 1:
            self.session.try_(change, self.session.room_name, things, *more)

    def _spread(self) -> None:
        session, things = self.session, dict(self.session.picking.things())
        edit, left = spread(session.project, session.room_name, things)
        session.apply(edit)
        if left:
            session.said.emit(f"{left} of {len(things)} found no free place near and stay")

    def _replace(self) -> None:
        things = dict(self.session.picking.things())
        self.session.try_(replaced, self.session.room_name, things, self._other())

    def _show_values(self, things: list[Thing]) -> None:
        """The properties that all of them have; a value that differs among them is said so."""
        prefabs = self.session.project.prefabs
        of_each = [{p.name for p in prefabs[t.prefab].properties} for t in things
                   if t.prefab in prefabs]  # fmt: skip
        first = prefabs.get(things[0].prefab)
        names = [p.name for p in first.properties] if first is not None else []
        shared = [name for name in names if all(name in own for own in of_each)]
        if shared != list(self.values):
            self._lay_values(shared)
        for name, edit in self.values.items():
            values = {prefabs[thing.prefab].value_of(thing, name) for thing in things}
            _show(edit, values.pop() if len(values) == 1 else _MIXED)

    def _lay_values(self, names: list[str]) -> None:
        emptied(self._properties)
        self.values = {}
        for name in names:
            edit = QLineEdit()
            edit.setAccessibleName(name)
            edit.setFixedWidth(110)
            edit.editingFinished.connect(lambda n=name, e=edit: self._type_value(n, e))
            self.values[name] = edit
            self._properties.addWidget(labelled(name, edit))

    def _type_value(self, name: str, edit: QLineEdit) -> None:
        session = self.session
        first = next((thing.prefab for _, thing in session.picking.things()), "")
        numbers = numbers_of(session.project.prefabs.get(first))
        if name in numbers and self._express(name, edit):
            return
        if edit.isModified():
            edit.setModified(False)
            things = dict(session.picking.things())
            session.try_(set_values, session.room_name, things, name, edit.text())
            self.refresh()

    def _express(self, name: str, edit: QLineEdit) -> bool:
        """Work out what was typed as an expression, for each of the things; False for a number."""
        text, session = edit.text(), self.session
        if not edit.isModified() or not text.strip() or _number(text) is not None:
            return False
        edit.setModified(False)
        things = dict(session.picking.things())
        found = arranged(session.project, session.room_name, things, Arrangement({name: text}))
        if found.wrong:
            session.said.emit(f"{name}: {found.wrong[name]}")
        else:
            session.apply(arrange(session.project, session.room_name, found))
            if found.refused:
                session.said.emit(f"{len(found.refused)} stayed: a rule refuses where they "
                                  "would stand")  # fmt: skip
        self.refresh()
        return True

    def _type_place(self, n: int) -> None:
        things, edit = self.session.picking.things(), self.places[n]
        if things and self._express("xyz"[n], edit):
            return
        value = _typed(edit)
        axes = self.session.room.info.axes if self.session.has_room else 2
        if things and value is not None and n < axes:
            at = things[0][1].at[-axes:]
            by = [0.0] * axes
            by[axes - 1 - n] = value - at[axes - 1 - n]
            if any(by):
                self.session.picking.move(tuple(by), asks=False)
        self.refresh()

    def _type(self, edit: QLineEdit, name: str, modulo: float = 0.0) -> None:
        if self._express(name, edit):
            return
        value = _typed(edit)
        if value is not None:
            self._change(lambda thing: replace(thing, **_of(name, value, modulo)), name)
        self.refresh()

    def _change(self, change: Callable[[Thing], Thing], what: str) -> None:
        session = self.session
        try:
            after = {pick: change(thing) for pick, thing in session.picking.things()}
        except TopionError as problem:
            session.said.emit(str(problem))
            return
        session.try_(things_changed, session.room_name, after, f"Set {what} of")


def _of(name: str, value: float, modulo: float) -> dict[str, Any]:
    return {name: value % modulo if modulo else value}


class AreaRows(QWidget):
    """The area of cells: its size, which layers it means, and whether strokes stay in it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        whole = narrow_column()
        self.setLayout(whole)
        self.size_said = QLabel()
        self.size_said.setFont(style.font(13, bold=True))
        whole.addWidget(labelled("Area", self.size_said))
        self.over = {
            over: choice_button(over.removesuffix(" layer").removesuffix(" layers"),
                                f"An area means the cells of the {over}")
            for over in OVER
        }  # fmt: skip
        whole.addWidget(labelled("Of layers", *self.over.values()))
        self.inside = choice_button("no", "Keep strokes inside the area (Shift+S)")
        whole.addWidget(labelled("Strokes inside", self.inside))
        self.count, self.clear = QLineEdit("12"), QLineEdit("1")
        for edit, words in ((self.count, "How many things"), (self.clear, "Cells between them")):
            edit.setAccessibleName(words)
            edit.setToolTip(words)
            edit.setFixedWidth(36)
        self.spawn = QPushButton("lay ›")
        self.spawn.setObjectName("plain")
        self.spawn.setAccessibleName("Scatter")
        self.spawn.setToolTip("So many of what the shown hand places, where their rules allow it; "
                              "again adds more")  # fmt: skip
        self.spawn.clicked.connect(lambda _: self._spawn())
        self.spawned = QLabel()
        self.spawned.setWordWrap(True)
        self._spawn_row = labelled("Scatter", self.count, QLabel("at"), self.clear, self.spawn)
        whole.addWidget(self._spawn_row)
        whole.addWidget(self.spawned)
        for over, button in self.over.items():
            button.clicked.connect(lambda _, o=over: self.session.picking.set_over(o))
        self.inside.clicked.connect(
            lambda: self.session.picking.keep_inside(not self.session.picking.keeps_inside)
        )

    def refresh(self) -> None:
        """Show it anew."""
        picking = self.session.picking
        self.size_said.setText(size_words(picking.area) if picking.area else "none")
        for over, button in self.over.items():
            bold(button, over == picking.over)
        self.inside.setText("yes" if picking.keeps_inside else "no")
        bold(self.inside, picking.keeps_inside)
        mix = self._mix()
        self._spawn_row.setVisible(bool(mix) and picking.area is not None)
        self.spawned.setVisible(self._spawn_row.isVisibleTo(self) and bool(self.spawned.text()))
        told = f"Scatter {', '.join(mix)} where their rules allow it; again adds more"
        self.spawn.setToolTip(told)

    def _mix(self) -> dict[str, float]:
        """What the shown hand places, by weight."""
        session = self.session
        brush = brush_or_none(session.project, session.hands[session.hands.shown])
        known = session.project.prefabs
        return {n: w for n, w in brush.places().items() if n in known} if brush is not None else {}

    def _spawn(self) -> None:
        session, area, mix = self.session, self.session.picking.area, self._mix()
        if area is None or not mix or not session.has_room:
            return
        try:
            count, clearance = int(self.count.text()), float(self.clear.text().replace(",", "."))
        except ValueError:
            session.said.emit("How many, and how many cells between them, are numbers")
            return
        layer = things_layer(session.room)
        if layer is None:
            session.said.emit("This room has no layer of things")
            return
        project, room = session.project.frozen(), session.room_name

        def work(step: Callable[[str], None]) -> tuple[Edit, Spawned]:
            return spawn(project, room, layer, mix, count, area, clearance=clearance,
                         step=lambda: step("spawning"))  # fmt: skip

        made = (
            session.aside("Scattering", work) if session.aside is not None else work(lambda _: None)
        )
        if isinstance(made, tuple):
            edit, told = made
            session.apply(edit)
            self.spawned.setText(told.told())
            self.refresh()


def things_layer(room: Room) -> str | None:
    """The layer that things are put in: the uppermost of those that can be changed."""
    for layer_id, layer in reversed(room.bottom_up("things")):
        if layer.info.shown and not layer.info.locked:
            return layer_id
    return None


def _show(edit: QLineEdit, text: str) -> None:
    if not edit.hasFocus() or not edit.isModified():
        edit.setText(text)


def _typed(edit: QLineEdit) -> float | None:
    """The number that was typed; none for what is no number or was not touched."""
    if not edit.isModified():
        return None
    edit.setModified(False)
    value = _number(edit.text())
    return value if value is not None and abs(value) < 1e9 else None


def _number(text: str) -> float | None:
    """The number that a text is; None for one that is none."""
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return None
