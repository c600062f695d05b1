"""A small room of colours that is painted; each stroke is an Edit of what it shows."""

from __future__ import annotations

from abc import abstractmethod
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from topion.errors import TopionError
from topion.model.edit import Dirty, Edit
from topion.model.project import Project
from topion.scripting import ProjectHandle
from topion.view.desks.ground import NotKept
from topion.view.session import Session


class ColourRoom(QObject):
    """Signals: renewed() when another room is shown; painted() when it looks otherwise.

    session : on the room; it is another one whenever `renewed` was sent.  colours : by name, each
    with a brush of that name.
    """

    renewed = pyqtSignal()
    painted = pyqtSignal()

    def __init__(self, main: Session) -> None:
        super().__init__()
        self.main = main
        self.colours: list[str] = []
        self._known: Any = None
        self._storing = False

    def begin(self) -> None:
        """Show what is there; called once all else is set."""
        self.session = self._made()
        self.main.changed.connect(self._on_main)

    # --- what each kind of room tells -----------------------------------------------------

    @property
    @abstractmethod
    def item(self) -> Any:
        """What is painted; None once it was taken away."""

    @abstractmethod
    def _state(self) -> Any:
        """What of the item the room shows."""

    @abstractmethod
    def _project(self) -> Project:
        """A project with the room, and a brush for each of `colours`, which it sets."""

    @abstractmethod
    def _edit(self, scratch: Project) -> Edit:
        """The item as it was painted."""

    @abstractmethod
    def _begun(self) -> tuple[str, str, str]:
        """The layer that is painted, and the brushes for the left and the right hand."""

    # --- the room -------------------------------------------------------------------------

    def _made(self) -> Session:
        """A session on a room with what the item has now."""
        handle = ProjectHandle(self._project())
        self._known = self._state()
        session = Session(handle, NotKept(handle), gestures=self.main.gestures)
        layer, left, right = self._begun()
        session.layer_id = layer
        session.aside = self.main.aside
        session.asks = self.main.asks
        session.said.connect(self.main.said.emit)
        session.hands.take("right", right)
        session.hands.take("left", left)
        handle.history.listeners.append(self._store)
        return session

    def renew(self) -> None:
        """Show the item anew; hands, work plane and mirrors stay as they are."""
        old = self.session
        names = dict(old.hands.names())
        plane, size = vars(old.planes.here), old.room.info.size
        old.close()
        self.session = self._made()
        if self.session.room.info.size != size:  # the mirrors stand in the middle again
            plane = {name: value for name, value in plane.items() if name != "mirror_at"}
        self.session.planes.set(**plane)
        for hand in ("right", "left"):
            if self.session.hands.can_take(names[hand]):
                self.session.hands.take(hand, names[hand])
        self.renewed.emit()

    def add_colour(self, name: str) -> None:
        """Have one more colour, in the left hand."""
        if name not in self.colours:
            self.colours.append(name)
            self.renew()
        self.session.hands.take("left", name)

    def _store(self, dirty: tuple[Dirty, ...]) -> None:
        """A stroke: onto the item."""
        if self._storing:
            return
        self._storing = True
        try:
            self.main.apply(self._edit(self.session.project))
        except TopionError as problem:
            self.main.said.emit(str(problem))
        finally:
            self._storing = False
        if self.item is not None:
            self._known = self._state()
        self.painted.emit()

    def _on_main(self, dirty: tuple[Dirty, ...]) -> None:
        """Something else changed the item, as undo does."""
        if not self._storing and self.item is not None and self._state() != self._known:
            self.renew()
            self.painted.emit()

    def close(self) -> None:
        """Let go of the session."""
        self.main.changed.disconnect(self._on_main)
        self.session.close()
