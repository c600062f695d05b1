"""All things of the picked prefab: here, in the room, in the world."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PyQt6.QtWidgets import QMenu, QWidget

from topion.edit.picking import all_alike, can_be_picked
from topion.edit.pieces import Pick
from topion.grid.told import several
from topion.things.ground import counts_of
from topion.view.panels.fields import choice_button, labelled, narrow_column
from topion.view.session import Session


class AlikeRows(QWidget):
    """Shown while things of one prefab are picked."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.here = choice_button("here", "Pick all of that prefab that are in view")
        self.room = choice_button("room", "Pick all of that prefab in this room")
        self.world = choice_button("world ▾", "How many there are in each room; a click "
                                   "goes there and picks them")  # fmt: skip
        self.here.clicked.connect(lambda _: self.pick_here())
        self.room.clicked.connect(lambda _: self.pick_in_room())
        self.world.clicked.connect(lambda _: self.ask_world())
        whole = narrow_column()
        self.setLayout(whole)
        whole.addWidget(labelled("All of these", self.here, self.room, self.world))

    def prefab(self) -> str:
        """The prefab of all that is picked; nothing where there are several, or none."""
        names = {thing.prefab for _, thing in self.session.picking.things()}
        return names.pop() if len(names) == 1 else ""

    def refresh(self) -> None:
        """Show whether there is one."""
        self.setVisible(bool(self.prefab()))

    def _alike(self) -> tuple[Pick, ...]:
        things = self.session.picking.things()
        if not self.prefab() or not things:
            return ()
        session = self.session
        return all_alike(session.project, session.room, "prefab", things[0][0])

    def pick_in_room(self) -> None:
        """All of the room."""
        found = self._alike()
        if found:
            self.session.picking.pick(found)

    def pick_here(self) -> None:
        """All in view."""
        found, sees, room = self._alike(), self.session.sees, self.session.room
        if not found or sees is None:
            return
        found = tuple(p for p in found if p.number in room.layers[p.layer].things)
        at = np.array([room.layers[p.layer].things[p.number].at for p in found])
        seen = sees(at[:, -room.info.axes :])
        self.session.picking.pick(p for p, ok in zip(found, seen.tolist(), strict=True) if ok)

    # --- in the world ---------------------------------------------------------------------

    def ask_world(self) -> None:
        """Count them in all rooms, then offer these."""
        session, name = self.session, self.prefab()
        if not name:
            return
        frozen = session.project.frozen()

        def count(step: Callable[[str], None]) -> list[tuple[str, int]]:
            found = []
            for room in frozen.rooms:
                step(room)
                found.append((room, counts_of(frozen, room)[name]))
            return found

        counted = session.aside(f"Counting {name}", count) if session.aside else count(_unheard)
        if counted is not None:
            menu = self.menu(name, counted)
            menu.popup(self.world.mapToGlobal(self.world.rect().bottomLeft()))

    def menu(self, name: str, counted: list[tuple[str, int]]) -> QMenu:
        """The rooms that have some, with how many."""
        menu = QMenu(self)
        total = sum(count for _, count in counted)
        rooms = [(room, count) for room, count in counted if count]
        head = menu.addAction(f"{total} {name} in {several(len(rooms), 'room')}")
        if head is not None:
            head.setEnabled(False)
        for room, count in rooms:
            menu.addAction(f"{room}\t{count}", partial(self.go, room, name))
        return menu

    def go(self, room: str, name: str) -> None:
        """Show a room and pick all of them there."""
        session = self.session
        if room != session.room_name:
            session.open_room(room)
        if session.room_name != room:
            return
        session.gestures.use("lasso")
        session.picking.pick(
            Pick(layer_id, number)
            for layer_id, layer in session.room.bottom_up("things") if can_be_picked(layer)
            for number, thing in layer.things.items() if thing.prefab == name
        )  # fmt: skip


def _unheard(_: str) -> None:
    """A step that nobody is told of."""
