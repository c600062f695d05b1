"""Rows of the panel Picked: what things do while the room is walked, and when."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QMenu, QWidget

from topion.edit.logic import DoorEnd, link_doors, set_counts, set_role, set_when
from topion.edit.pieces import Pick
from topion.errors import TopionError
from topion.grid.told import cell_told
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.model.walked import counts_of, role_of, when_of
from topion.roles import ROLES, Door
from topion.view.panels.fields import choice_button, heading, labelled, narrow_column
from topion.view.panels.sentence import Choices, RuleSentence
from topion.view.panels.when_rows import WhenRows
from topion.view.session import Session
from topion.walk.links import doors_of

_WORDS = {None: "as its prefab", True: "yes", False: "no"}


class LogicRows(QWidget):
    """The role of picked things, whether they count, and their conditions."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.role = choice_button("", "What it is while the room is walked")
        self.role.clicked.connect(lambda _: self._ask_role())
        self.sentence = RuleSentence(lambda: self.session.project, self.set_role_field)
        self.sentence.more_choices = self._door_choices
        self.counts = choice_button("", "Whether it counts for clearing its room")
        self.counts.clicked.connect(lambda _: self._next_counts())
        self.when = WhenRows(lambda: self.session.project, of_room=True)
        self.when.put = self._put_when
        self.when.revert = lambda: self._put_when(None)
        self.when.failed = lambda told: self.session.said.emit(told)
        self.when.choices = self._choices
        whole = narrow_column()
        self.setLayout(whole)
        head = heading("When it is walked")
        head.setContentsMargins(0, 6, 0, 0)
        whole.addWidget(head)
        whole.addWidget(labelled("Role", self.role))
        whole.addWidget(self.sentence)
        whole.addWidget(labelled("Counts", self.counts))
        whole.addWidget(self.when)

    # --- shown ----------------------------------------------------------------------------

    def things(self) -> dict[Pick, Thing]:
        """Those that are picked."""
        return dict(self.session.picking.things())

    def show_things(self, session: Session, things: list[Thing]) -> None:
        """Show what these do; of several that differ, the first."""
        self.session = session
        project, first = session.project, things[0]
        roles = {role_of(project, thing) for thing in things}
        role = role_of(project, first)
        words = "several" if len(roles) > 1 else role.kind if role is not None else "none"
        own = " (its own)" if first.role is not None else ""
        self.role.setText(f"{words}{own} ▾")
        self.sentence.setVisible(role is not None and len(roles) == 1)
        if role is not None:
            self.sentence.show_form(role, "ink" if first.role is not None else "soft")
        counts = {thing.counts for thing in things}
        told = _WORDS[counts.pop()] if len(counts) == 1 else "several"
        if told == _WORDS[None]:
            told = f"{'yes' if counts_of(project, first) else 'no'}, {told}"
        self.counts.setText(told)
        self.when.show_when(when_of(project, first), own=first.when is not None)

    # --- set ------------------------------------------------------------------------------

    def _ask_role(self) -> None:
        menu = QMenu(self)
        menu.addAction("as its prefab", lambda: self.put_role(None))
        menu.addSeparator()
        for kind, make in ROLES.items():
            menu.addAction(kind, partial(self.put_role, make()))
        menu.popup(self.role.mapToGlobal(self.role.rect().bottomLeft()))

    def put_role(self, role: Any) -> None:
        """Give the picked things a role of their own; None for that of their prefab."""
        self.session.try_(set_role, self.session.room_name, self.things(), role)

    def set_role_field(self, field: str, value: Any) -> None:
        """Set a field of the role of what is picked."""
        first = next(iter(self.things().values()))
        role: Any = role_of(self.session.project, first)
        try:
            self.put_role(replace(role, **{field: value}))
        except TopionError as problem:
            self.session.said.emit(str(problem))

    def _next_counts(self) -> None:
        things = self.things()
        known = (None, True, False)
        now = next(iter(things.values())).counts
        after = known[(known.index(now) + 1) % 3]
        self.session.try_(set_counts, self.session.room_name, things, after)

    def _put_when(self, when: When | None) -> None:
        self.session.try_(set_when, self.session.room_name, self.things(), when)

    # --- doors ----------------------------------------------------------------------------

    def _door_choices(self, field: str) -> Choices | None:
        """To which door of its room a door can lead, and whether that leads back."""
        session, role = (
            self.session,
            role_of(self.session.project, next(iter(self.things().values()))),
        )
        if field != "door" or not isinstance(role, Door) or role.room not in session.project.rooms:
            return None
        here = (session.room_name, next(iter(self.things())))
        found: Choices = [("where that room starts", partial(self.set_role_field, "door", 0))]
        for door in doors_of(session.project, role.room).doors:
            there = (door.room, Pick(door.layer, door.number))
            words = f"{door.prefab} at {cell_told(door.cell)}"
            for more, back in (("", False), (", and back", True)) if there != here else ():
                found.append((words + more, partial(self._lead, here, there, back)))
        return found

    def _lead(self, here: DoorEnd, there: DoorEnd, back: bool) -> None:
        self.session.try_(link_doors, here, there, back=back)

    # --- pointing -------------------------------------------------------------------------

    def _choices(self, number: int, field: str) -> Choices | None:
        """What a blank that speaks of a thing can be: a switch of the room, or one that is pointed
        at; None for other blanks."""
        if field != "thing":
            return None
        found: Choices = [("point at it on the table…", partial(self.point_at, number))]
        room = self.session.room
        for _, layer in room.bottom_up("things"):
            for at, thing in layer.things.items():
                role = role_of(self.session.project, thing)
                if role is not None and role.kind == "switch":
                    does = partial(self.when.set_field, number, "thing", at)
                    found.append((f"{thing.prefab} {at}", does))
        return found

    def point_at(self, number: int) -> None:
        """The next thing that is pressed on the table is the one the condition speaks of."""

        def point(pick: Pick) -> None:
            self.when.set_field(number, "thing", pick.number)

        self.session.picking.pointing = point
        self.session.gestures.use("lasso")
        self.session.said.emit("Press on the switch that it waits for")
