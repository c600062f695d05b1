"""The project and the room a window works on, and the one way in which it changes them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, Protocol

from PyQt6.QtCore import QObject, QPointF, pyqtSignal
from PyQt6.QtGui import QPainter

from topion.edit.library import put_brush
from topion.errors import TopionError
from topion.grid.arrays import CellMask, Positions
from topion.model.brush import Brush
from topion.model.conflict import Conflict
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Room
from topion.scripting import ProjectHandle

Aside = Callable[..., Any]  # (title, task, with_worker), see `tasks.run_task`


class Grip(Protocol):
    """What a panel shows over the table and lets be pulled there."""

    @property
    def pulls(self) -> bool:
        """Whether it is pulled now."""

    def at(self, point: QPointF) -> Literal["", "move", "scale"]:
        """What a press at a point of the screen would do."""

    def middle(self) -> tuple[float, ...]:
        """(z, y, x) about which it is scaled, in cells."""

    def press(self, how: Literal["move", "scale"], at: tuple[float, ...]) -> None:
        """Begin to pull at a place of the room."""

    def drag(self, at: tuple[float, ...]) -> None:
        """The pointer is there."""

    def release(self) -> None:
        """It stays."""

    def drop(self) -> bool:
        """As it was; False if it is not pulled."""


class Context(QObject):
    """Signals: changed(tuple of Dirty), room_changed(), said(text) for messages, moved() when the
    pointer came over another cell, asked(name of a command) where a part of the table wants one,
    desk_asked(name of a brush), prefab_asked(name of a prefab) and
    prefabs_asked(names) where its desk is wanted, previewed() when another Edit is shown as the
    ghost."""

    changed = pyqtSignal(object)
    room_changed = pyqtSignal()
    said = pyqtSignal(str)
    moved = pyqtSignal()
    asked = pyqtSignal(str)
    desk_asked = pyqtSignal(str)
    prefab_asked = pyqtSignal(str)
    prefabs_asked = pyqtSignal(tuple)
    previewed = pyqtSignal()
    did = pyqtSignal(str)  # something that a hint tells of

    def __init__(self, handle: ProjectHandle) -> None:
        super().__init__()
        self.handle = handle
        rooms = handle.data.rooms  # the first one that was read, which then is sound
        self.room_name = next((n for n in rooms if rooms.peek(n)), next(iter(rooms), ""))
        self.layer_id = ""
        self.cursor: tuple[int, ...] | None = None
        self.warm_put: Callable[[Brush], bool] = lambda _: False  # see Warmth.put
        # draws more over a room, with the camera or the eye of its table
        self.preview: Edit | None = None  # shown as the ghost while nothing else is planned
        self.spoken_of: Conflict | None = None  # the conflict that is asked about
        self.over: Callable[[QPainter, Any], None] | None = None
        self.grip: Grip | None = None
        # which of (n, axes) places in cells are in view, as the table of the room has it
        self.sees: Callable[[Positions], CellMask] | None = None
        self.field_shows: Literal["nothing", "refused", "density", "size"] = "nothing"
        # more models that stand in a voxel room: model, matrix and place, see `thing_matrix`
        self.more_models: Callable[[], list[tuple[Any, Any, Any]]] | None = None
        self.lets: Callable[[Edit, Project], bool] = lambda *_: True  # see Session
        self.asks: Callable[[str], bool] = lambda _: False  # a question to the designer
        self.aside: Aside | None = None  # runs long work on a thread, with progress and Stop

    @property
    def project(self) -> Project:
        """The project that is open."""
        return self.handle.data

    @property
    def room(self) -> Room:
        """Raises UnknownName without one."""
        return self.project.room(self.room_name)

    @property
    def has_room(self) -> bool:
        """Whether a room is shown."""
        return self.room_name in self.project.rooms

    def point_at(self, cell: tuple[int, ...] | None) -> None:
        """The pointer is over that cell, or over none."""
        if cell != self.cursor:
            self.cursor = cell
            self.moved.emit()

    def apply(
        self, edit: Edit | None, merge_key: object = None, *, kept: Edit | None = None
    ) -> bool:
        """Put an Edit on; says why if it was refused whole.  kept : the same, sealed already."""
        if edit is None or not self.lets(edit, self.project):
            return False
        try:
            done = self.handle.history.apply(edit, merge_key, kept=kept)
        except TopionError as problem:  # only looking
            self.said.emit(str(problem))
            return False
        if not done and edit.refused:
            self.said.emit(f"{edit.label}: {edit.refused[0]}")
        elif done and edit.notes:
            self.said.emit(f"{edit.label}: {'; '.join(edit.notes)}")
        return done

    def try_(
        self, plan: Callable[..., Edit], *args: object, key: object = None, **named: object
    ) -> bool:
        """Plan with one of the library's functions and apply; a refusal is said, not raised.

        key : of Edits that become one, such as the steps of a nudge."""
        try:
            return self.apply(plan(self.project, *args, **named), key)
        except TopionError as problem:
            self.said.emit(str(problem))
            return False

    def put(self, brush: Brush, merge_key: object = None) -> bool:
        """Change a brush of the library, and the stroke that it laid if that is still warm; a
        refusal is said."""
        if self.warm_put(brush):
            return True
        try:
            return self.apply(put_brush(self.project, brush), merge_key)
        except TopionError as problem:
            self.said.emit(str(problem))
            return False
