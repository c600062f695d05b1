"""The room as it is walked: without the things that live, which the walk draws itself.

It stands in a scratch project with a session of its own, so that the table shows it as any room.
A stroke laid on it while time stands still is laid in the real room, too.
"""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from topion.errors import TopionError
from topion.model.edit import Dirty
from topion.model.rooms import Rooms
from topion.render.overview import worn_as
from topion.scripting import ProjectHandle
from topion.view.desks.ground import NotKept
from topion.view.session import Session
from topion.walk.stage import Stage


class WalkRoom(QObject):
    """session : on the room; another one whenever `renewed` was sent."""

    renewed = pyqtSignal()

    def __init__(self, main: Session, stage: Stage, place: str = "") -> None:
        """place : on the plan, whose wear it is shown in."""
        super().__init__()
        self.main = main
        self.storing = False
        self.session = self._made(stage, place)

    def _made(self, stage: Stage, place: str) -> Session:
        project = self.main.project
        at = project.shelf("placements").get(place)
        theme, tint = (at.theme, at.tint) if at is not None else (None, None)
        room = worn_as(project, project.room(stage.room), theme, tint)
        for layer_id, layer in room.layers.items():
            gone = {actor.key[1]: layer.things[actor.key[1]] for actor in stage.actors
                    if actor.key[0] == layer_id and actor.key[1] in layer.things}  # fmt: skip
            if gone:
                layer.write_entries("things", gone, {})
        handle = ProjectHandle(self.main.project.scratch(Rooms([(stage.room, room)])))
        session = Session(handle, NotKept(handle))
        session.layer_id = self.main.layer_id
        session.aside, session.asks = self.main.aside, self.main.asks
        session.said.connect(self.main.said.emit)
        for hand, name in self.main.hands.names().items():
            if session.hands.can_take(name):
                session.hands.take(hand, name)
        handle.history.listeners.append(self._store)
        return session

    def renew(self, stage: Stage, place: str = "") -> None:
        """Show a room anew, or another one."""
        self.session.close()
        self.session = self._made(stage, place)
        self.renewed.emit()

    def _store(self, dirty: tuple[Dirty, ...]) -> None:
        """A stroke: into the real room."""
        history = self.session.handle.history
        if self.storing or not history.at:
            return
        self.storing = True
        try:
            self.main.apply(history.edits[history.at - 1])
        except TopionError as problem:
            self.main.said.emit(str(problem))
        finally:
            self.storing = False

    def close(self) -> None:
        """Let go of the session."""
        self.session.close()
