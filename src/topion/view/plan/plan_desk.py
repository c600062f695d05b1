"""The plan in the place of the table: rooms, sheet, what is picked, with the strokes below."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QMenu, QWidget

from topion.edit.places import duplicate_and_place, order_rooms
from topion.edit.rooms import remove_room
from topion.plan.sheet import Point, free_place, rects_of
from topion.view.desks.parts import lay_page
from topion.view.plan.left_side import LeftSide
from topion.view.plan.plan_bar import PlanBar
from topion.view.plan.right_side import RightSide
from topion.view.plan.sheet_view import SheetView
from topion.view.plan.work import PlanWork
from topion.view.session import Session
from topion.view.surveying import Surveying


class PlanDesk(QWidget):
    """Signals: new_asked() for a new room; export_asked() for the plan as a picture."""

    new_asked = pyqtSignal()
    export_asked = pyqtSignal()
    tables = None
    ground = None
    key_area = "plan"

    def __init__(self, session: Session, surveying: Surveying) -> None:
        super().__init__()
        self.session = session
        self.work = PlanWork(session, surveying)
        self.view = SheetView(self.work)
        self.bar = PlanBar(self.work, self.view)
        self.left, self.right = LeftSide(self.work), RightSide(self.work)
        self.left.menu_asked.connect(lambda room, at: self.room_menu(room).popup(at))
        self.left.new_asked.connect(self.new_asked.emit)
        self.bar.exported.connect(self.export_asked.emit)
        self.view.menu_asked.connect(self._ask_menu)
        lay_page(self, self.bar, (self.left, 0), (self.view, 1), (self.right, 0))

    # --- rooms ----------------------------------------------------------------------------

    def room_menu(self, room: str, at: Point | None = None) -> QMenu:
        """What can be done with a room."""
        menu, work, session = QMenu(self), self.work, self.session
        names = list(session.project.rooms)
        place = names.index(room)
        menu.addAction("Enter", lambda: work.enter(room))
        menu.addAction("Walk from its start", lambda: work.walk(room))
        menu.addSeparator()
        placed = any(spot.room == room for spot in work.spots.values())
        menu.addAction("Place again" if placed else "Place on the sheet",
                       lambda: work.place(room, at))  # fmt: skip
        menu.addAction("Duplicate", lambda: self.duplicate(room))
        menu.addAction("Rename…", lambda: self.rename(room))
        up = menu.addAction("Earlier in the list",
                            lambda: session.try_(order_rooms, room, place - 1))  # fmt: skip
        down = menu.addAction("Later in the list",
                              lambda: session.try_(order_rooms, room, place + 1))  # fmt: skip
        for action, may in ((up, place > 0), (down, place < len(names) - 1)):
            if action is not None:
                action.setEnabled(may)
        menu.addSeparator()
        menu.addAction("Remove the room", lambda: self.remove(room))
        return menu

    def duplicate(self, room: str) -> None:
        """A copy of a room; placed beside the others if that is placed."""
        spot = next((s for s in self.work.spots.values() if s.room == room), None)
        at = None
        if spot is not None:
            size = spot.rect.bottom - spot.rect.top, spot.rect.right - spot.rect.left
            near = spot.rect.top, spot.rect.right
            at = free_place(rects_of(self.work.spots.values()), size, near)
        if self.session.reads_room(room):
            self.session.try_(duplicate_and_place, room, at)

    def rename(self, room: str) -> None:
        """Let the name of a room be typed, at the right."""
        spot = next((s for s in self.work.spots.values() if s.room == room), None)
        if spot is None:
            self.work.place(room)
            spot = next(s for s in self.work.spots.values() if s.room == room)
        self.work.pick([spot.name])
        self.right.place.name.setFocus()
        self.right.place.name.selectAll()

    def remove(self, room: str) -> None:
        """Take a room away with its places; undo brings them back."""
        if self.session.reads_room(room) and self.session.try_(remove_room, room):
            self.session.said.emit(f"Removed {room}; Ctrl+Z brings it back")

    def _ask_menu(self, at: QPoint) -> None:
        work = self.work
        if work.port is not None:
            menu = QMenu(self)
            port = work.ports[work.port]
            menu.addAction("Go there", lambda: work.enter(port.spot.room, port.door.cell))
            menu.addAction("Walk from here", lambda: work.walk(port.spot.room, port.door.cell))
            menu.addAction("Unlink", lambda: work.unlink(port.key))
            menu.popup(at)
        elif len(work.places) == 1:
            self._menu_of_place(work.spots[next(iter(work.places))].room).popup(at)
        elif not work.places:
            menu = QMenu(self)
            menu.addAction("New room…", self.new_asked.emit)
            menu.addAction("Show all", self.view.fit)
            menu.popup(at)

    def _menu_of_place(self, room: str) -> QMenu:
        menu = self.room_menu(room)
        first = menu.actions()[3]
        off = menu.addAction("Off the plan", self.work.take_off)
        if off is not None:
            menu.removeAction(off)
            menu.insertAction(first, off)
        return menu

    # --- keys -----------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        spot = self.work.spots.get(next(iter(self.work.places), ""))
        if control and event.key() == Qt.Key.Key_D and spot is not None:
            self.work.place(spot.room)
        elif control and event.key() == Qt.Key.Key_E:
            self.export_asked.emit()
        elif event.key() == Qt.Key.Key_W and not control and self.work.begins:
            self.work.walk(self.work.begins)
        elif not self.view.hasFocus() and event.text() and event.text().isprintable():
            self.view.keyPressEvent(event)
        else:
            super().keyPressEvent(event)

    def close_desk(self) -> None:
        """Let go of what only the plan needs."""
        self.work.stop()
