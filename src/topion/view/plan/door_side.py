"""What is known of the picked door, and set: where it leads, when it opens, what it ends."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QVBoxLayout, QWidget

from topion.edit.logic import set_ends_world, set_when, unlink_doors
from topion.grid.told import cell_told
from topion.model.condition import When
from topion.model.prefab import Thing
from topion.model.walked import role_of
from topion.plan.threads import Port, Thread
from topion.view import style
from topion.view.desks.parts import Switches
from topion.view.panels.fields import choice_button, labelled
from topion.view.panels.sentence import Choices
from topion.view.panels.when_rows import WhenRows
from topion.view.plan.both_sides import BothSides
from topion.view.plan.condition_card import ConditionCard
from topion.view.plan.work import PlanWork, end_of


class DoorSide(QWidget):
    """Shows one door; see `show_port`."""

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.work = work
        self.port: Port | None = None
        self.title, self.told = QLabel(), QLabel()
        style.tint(self.told, "soft")
        self.title.setFont(style.font(15, bold=True))
        self.there = choice_button("go there ›", "Open its room at this door (Enter)")
        style.tint(self.there, "tidal")
        self.there.clicked.connect(lambda _: self._go())
        self.both = BothSides(work)
        self.leads = choice_button("", "To which door it leads")
        self.leads.clicked.connect(lambda _: self._ask_where())
        self.back = Switches({"yes": True, "no, one way": False})
        self.back.chosen = self._set_back
        self.until = Switches({"shut, seen": "opens", "hidden": "appears"})
        self.until.chosen = self._set_effect
        self.ends = Switches({"no": False, "yes": True})
        self.ends.chosen = self._set_ends
        self.card = ConditionCard(work)
        self.when = WhenRows(lambda: work.session.project, of_room=True)
        self.when.put = self._put_when
        self.when.revert = lambda: self._put_when(None)
        self.when.failed = lambda told: work.session.said.emit(told)
        self.when.choices = self._choices
        self.walk = QPushButton("Walk from here")
        self.walk.setObjectName("strong")
        self.walk.setToolTip("Try the room from this door")
        self.walk.clicked.connect(lambda _: self._walk())
        self.anew = QPushButton("Unlink")
        self.anew.setToolTip("It leads nowhere; drag from it to another door to link it anew (Del)")
        self.anew.clicked.connect(lambda _: self._unlink())
        self._lay_out()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.there)
        column.addLayout(head)
        for widget in (self.told, self.both, labelled("Leads to", self.leads),
                       labelled("And back", self.back), self.when, self.card,
                       labelled("Until then", self.until),
                       labelled("Ends the world", self.ends)):  # fmt: skip
            column.addWidget(widget)
        buttons = QHBoxLayout()
        for button in (self.walk, self.anew):
            buttons.addWidget(button, 1)
        column.addLayout(buttons)

    # --- shown ----------------------------------------------------------------------------

    def show_port(self, port: Port) -> None:
        """Show a door."""
        self.port = port
        door, thread = port.door, self.work.thread_of(port.key)
        self.title.setText(door.prefab)
        cell = cell_told(door.cell)
        self.told.setText(f"door · {port.spot.title}, at {cell}")
        self.both.show_ends(port, thread)
        self.leads.setText(f"{self._leads(thread)} ▾")
        self.back.show_value(thread.both if thread is not None else None)
        self.back.setEnabled(thread is not None and thread.there is not None)
        self.when.show_when(door.when, own=self._has_own())
        self.card.show_when(door.when, port)
        self.until.show_value(door.when.effect if door.when.all_of else None)
        self.until.setEnabled(bool(door.when.all_of))
        self.ends.show_value(door.ends_world)
        self.anew.setEnabled(thread is not None)

    def _leads(self, thread: Thread | None) -> str:
        door = self.port.door if self.port is not None else None
        if door is not None and door.ends_world:
            return "the end of the world"
        if thread is None or self.port is None:
            return f"{door.to}, not placed" if door is not None and door.to else "nowhere yet"
        here = thread.there if thread.there and thread.there.key == self.port.key else None
        other = thread.here if here is not None else thread.there
        spot = thread.here.spot if here is not None else thread.end
        return f"{spot.title} › {other.door.prefab if other is not None else 'its start'}"

    def _thing(self) -> Thing | None:
        """The door itself, of a room that was read."""
        if self.port is None:
            return None
        room = self.work.session.project.rooms.peek(self.port.door.room)
        layer = room.layers.get(self.port.door.layer) if room is not None else None
        return layer.things.get(self.port.door.number) if layer is not None else None

    def _has_own(self) -> bool:
        thing = self._thing()
        return thing is not None and thing.when is not None

    # --- set ------------------------------------------------------------------------------

    def _ready(self) -> bool:
        """Read the room, as its door is to be changed."""
        return self.port is not None and self.work.session.reads_room(self.port.door.room)

    def _put_when(self, when: When | None) -> None:
        if not self._ready() or self.port is None:
            return
        room, pick = end_of(self.port)
        thing = self.work.session.project.room(room).layers[pick.layer].things[pick.number]
        self.work.session.try_(set_when, room, {pick: thing}, when)

    def _set_effect(self, effect: str) -> None:
        if self.port is not None:
            self._put_when(When(effect, self.port.door.when.all_of))  # type: ignore[arg-type]

    def _unlink(self) -> None:
        if self.port is not None:
            self.work.unlink(self.port.key)

    def _set_ends(self, ends: bool) -> None:
        if self._ready() and self.port is not None:
            self.work.session.try_(set_ends_world, end_of(self.port), ends)

    def _set_back(self, back: bool) -> None:
        thread = self.work.thread_of(self.port.key) if self.port is not None else None
        if thread is None or thread.there is None or thread.both == back:
            return
        if back:
            self.work.link(thread.here, thread.there, back=True)
        else:
            other = thread.there if self.port and thread.here.key == self.port.key else thread.here
            self.work.session.try_(unlink_doors, [end_of(other)])

    def _ask_where(self) -> None:
        self.where_menu().popup(self.leads.mapToGlobal(self.leads.rect().bottomLeft()))

    def where_menu(self) -> QMenu:
        """The doors of all placed rooms, room by room, and where they start."""
        menu, work, here = QMenu(self), self.work, self.port
        if here is None:
            return menu
        for spot in work.spots.values():
            part = menu.addMenu(spot.title)
            known = work.outlines.known.get(spot.room)
            if part is None or known is None:
                continue
            if known.starts:
                part.addAction("where it starts", partial(work.link, here, spot, back=False))
            for port in work.ports.values():
                if port.spot is spot and port.key != here.key:
                    cell = cell_told(port.door.cell)
                    back = port.door.to in ("", here.door.room)
                    told = f"{port.door.prefab} at {cell}{', and back' if back else ''}"
                    part.addAction(told, partial(work.link, here, port, back=back))
        menu.addSeparator()
        menu.addAction("Nowhere", lambda: work.unlink(here.key))
        return menu

    def _choices(self, number: int, field: str) -> Choices | None:
        """The switches of the room, for a condition that waits for one."""
        if field != "thing" or not self._ready() or self.port is None:
            return None
        room, found = self.work.session.project.room(self.port.door.room), Choices()
        for _, layer in room.bottom_up("things"):
            for at, thing in layer.things.items():
                if _is_switch(self.work, thing):
                    does = partial(self.when.set_field, number, "thing", at)
                    found.append((f"{thing.prefab} {at}", does))
        return found

    # --- going there ----------------------------------------------------------------------

    def _go(self) -> None:
        if self.port is not None:
            self.work.enter(self.port.door.room, self.port.door.cell)

    def _walk(self) -> None:
        if self.port is not None:
            self.work.walk(self.port.door.room, self.port.door.cell)


def _is_switch(work: PlanWork, thing: Thing) -> bool:
    role = role_of(work.session.project, thing)
    return role is not None and role.kind == "switch"
