"""Rooms tried from within the window: the desk of a walk, entered and left."""

from __future__ import annotations

from typing import Any, Protocol

from topion.errors import TopionError
from topion.view.desks.desks import Desks
from topion.view.tables import Tables
from topion.view.walk.walk_desk import WalkDesk


class Walked(Protocol):
    """The window, as far as this needs it."""

    session: Any
    desks: Desks
    tables: Tables

    def say(self, text: str) -> None: ...
    def centre_on(self, cell: tuple[int, ...]) -> None: ...


class Trying:
    """Opens the desk of a walk, and comes back from it to where the figure stands."""

    def __init__(self, window: Walked) -> None:
        self._window = window

    def walk(self, *, here: bool = False) -> None:
        """Try the room: from where it starts, or from the cell under the pointer."""
        session = self._window.session
        if session.has_room:
            self.walk_in(session.room_name, session.cursor if here else None)

    def walk_in(self, room: str, cell: tuple[int, ...] | None = None) -> None:
        """Try a room: from where it starts, or from a cell."""
        session = self._window.session
        if not session.reads_room(room):
            return
        try:
            desk = WalkDesk(session, room, cell)
        except TopionError as problem:
            self._window.say(str(problem))
            return
        self._window.desks.show_desk(desk)
        desk.look_as(self._window.tables)
        for signal in (desk.bar.left, desk.bar.done):
            signal.disconnect()
            signal.connect(self.leave)
        desk.tables.shown.setFocus()
        desk.run.play()

    def leave(self) -> bool:
        """Back to painting, at the cell of the figure; False if nothing is walked."""
        window, desk = self._window, self._window.desks.desk
        if not isinstance(desk, WalkDesk):
            return False
        room, cell = desk.run.now.room, desk.cell
        window.desks.close_desk()
        if room != window.session.room_name and room in window.session.project.rooms:
            window.session.open_room(room)
        window.centre_on(cell)
        return True
