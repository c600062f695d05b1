"""Rows of the panel Picked: how things lean in space, and what they are attached to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import islice
from typing import Any

from PyQt6.QtWidgets import QLabel, QMenu, QWidget

from topion.edit.arranging import attach_things
from topion.edit.attaching import To, curves_near, what_is_under, words_of
from topion.model.prefab import Thing
from topion.view.panels.fields import choice_button, labelled, narrow_column, number_field
from topion.view.session import Session

_MIXED = "–"
_MOST_PIECES = _MOST_CURVES = 6


class StanceRows(QWidget):
    """change : called with what becomes of each thing, and a word for it."""

    def __init__(self, change: Callable[[Callable[[Thing], Thing], str], object]) -> None:
        super().__init__()
        self._change = change
        self._session: Session | None = None
        self.lean = number_field("Lean: degrees it is tipped south, before it is turned", 44)
        self.roll = number_field("Roll: degrees it is tipped east, before it leans", 44)
        self.attached = choice_button("", "What they move along with: a layer, a piece or a curve")
        self.attached.clicked.connect(lambda _: self._ask())
        whole = narrow_column()
        self.setLayout(whole)
        self._space = labelled("Lean, roll", self.lean, QLabel("°"), self.roll, QLabel("°"))
        whole.addWidget(self._space)
        whole.addWidget(labelled("Moves with", self.attached))
        for edit, name in ((self.lean, "lean"), (self.roll, "roll")):
            edit.editingFinished.connect(partial(self._type, name))

    def show_things(self, session: Session, things: list[Thing]) -> None:
        """Show how these stand."""
        self._session = session
        prefabs = session.project.prefabs
        free = all(t.prefab in prefabs and prefabs[t.prefab].turns == "any"
                   and prefabs[t.prefab].tips for t in things)  # fmt: skip
        self._space.setVisible(session.room.info.axes == 3 and free)
        for edit, name in ((self.lean, "lean"), (self.roll, "roll")):
            values = {getattr(thing, name) for thing in things}
            if not (edit.hasFocus() and edit.isModified()):
                edit.setText(f"{values.pop():g}" if len(values) == 1 else _MIXED)
        to = {thing.attached for thing in things}
        words = words_of(session.room, to.pop()) if len(to) == 1 else "several"
        self.attached.setText(f"{words} ▾")

    def _type(self, name: str) -> None:
        edit = getattr(self, name)
        if not edit.isModified():
            return
        edit.setModified(False)
        try:
            value = float(edit.text().replace(",", ".").rstrip("°"))
        except ValueError:
            return
        angles: dict[str, Any] = {name: (value + 180) % 360 - 180}
        self._change(lambda thing: replace(thing, **angles), name)

    def choices(self) -> list[tuple[To | None, str]]:
        """(what, its words) of all they can be attached to: pieces under the first of them, the
        curves next to it, and the layers of the room."""
        session = self._session
        things = session.picking.things() if session is not None else []
        if session is None or not things:
            return []
        room, first = session.room, things[0][1]
        found: list[tuple[To | None, str]] = [(None, "nothing")]
        for to, _ in list(what_is_under(room, first))[:_MOST_PIECES]:
            found.append((to, words_of(room, to)))
        near = islice(curves_near(room, first), _MOST_CURVES)
        found += [(to, words_of(room, to)) for to in near]
        own = {pick.layer for pick, _ in things}
        found += [((i, 0), words_of(room, (i, 0))) for i, _ in room.bottom_up() if i not in own]
        return found

    def _ask(self) -> None:
        menu = QMenu(self)
        for to, words in self.choices():
            menu.addAction(words, partial(self.attach, to))
        menu.popup(self.attached.mapToGlobal(self.attached.rect().bottomLeft()))

    def attach(self, to: To | None) -> None:
        """Let them move along with that."""
        if self._session is not None:
            things = dict(self._session.picking.things())
            self._session.try_(attach_things, self._session.room_name, things, to)
