"""The two tables of a window, of which one is shown; that of voxel rooms is made when needed."""

from __future__ import annotations

from typing import Any, Protocol, runtime_checkable

from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtWidgets import QLabel, QStackedWidget, QWidget

from topion.render.eye import Eye, View
from topion.view.session import Session
from topion.view.table.table import Table
from topion.view.voxel.support import opengl_problem

_AHEAD_MS = 3000  # of a project that was just opened


class RoomView(Protocol):
    """What is asked of the table that is shown, whatever the room."""

    def use(self, session: Session) -> None:
        """Work on another session."""

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress; False if there is none."""

    def hold_space(self, held: bool) -> None:
        """While it is held, a drag moves the view."""

    def hold_anchor(self, held: bool) -> None:
        """While it is held, the anchor of the brush is pointed at."""

    def zoom(self, steps: int, at: QPointF | None = None) -> None:
        """Zoom by steps, at a point or the middle."""

    def fit(self) -> None:
        """Show all of the room."""

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """Bring a cell to the middle of the view."""

    def close_room(self) -> None:
        """Let go of what is held of the room."""


@runtime_checkable
class SpaceView(Protocol):
    """What only the table of voxel rooms can do."""

    eye: Eye

    def look_from(self, view: View) -> None:
        """From one of the fixed views."""

    def next_corner(self) -> None:
        """From the next corner."""

    def toggle_perspective(self) -> None:
        """Perspective, or parallel."""

    def toggle_seats(self) -> None:
        """Show where things are seated and how high they reach."""

    def set_plane_here(self) -> None:
        """Lay the work plane where the pointer is."""

    def fit_selection(self) -> None:
        """Show what is picked close by."""

    def next_detail(self) -> str:
        """Draw the picture in fewer pixels, or in all again."""


class NoTable(QLabel):
    """What stands for the table of voxel rooms where there is no OpenGL."""

    def __init__(self, problem: str) -> None:
        super().__init__(f"{problem}\n\nFlat rooms work as ever.")
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setWordWrap(True)
        self.setMargin(40)
        self.setAccessibleName("Table")

    def use(self, session: Session) -> None:
        """There is nothing to show of any session."""

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress; False if there is none."""
        return False

    def hold_space(self, held: bool) -> None:
        """There is no view to move."""

    def hold_anchor(self, held: bool) -> None:
        """There is no ghost."""

    def zoom(self, steps: int, at: QPointF | None = None) -> None:
        """There is no view to zoom."""

    def fit(self) -> None:
        """There is no view to fit."""

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """There is no view to move."""

    def close_room(self) -> None:
        """Nothing is held."""


class Tables(QStackedWidget):
    """Calls that only the table of voxel rooms knows come here too, and do nothing for others."""

    def __init__(self, session: Session, *, rulers: bool = True) -> None:
        super().__init__()
        self.session = session
        session.room_changed.connect(self._drop_all)
        self.flat = Table(session)
        self.flat.rulers = rulers
        self.voxel: Any = None
        self.addWidget(self.flat)
        self._ahead = QTimer(self)
        self._ahead.setSingleShot(True)
        self._ahead.setInterval(_AHEAD_MS)
        self._ahead.timeout.connect(self._look_for_opengl)

    @property
    def shown(self) -> Any:
        """The table that is shown: a RoomView and a QWidget."""
        return self.currentWidget()

    @property
    def _room_view(self) -> RoomView:
        view: RoomView = self.shown
        return view

    @property
    def space(self) -> SpaceView | None:
        """The table that is shown, if it is that of voxel rooms."""
        widget: QWidget | None = self.currentWidget()
        return widget if isinstance(widget, SpaceView) else None

    @property
    def has_opengl(self) -> bool:
        """Whether voxel rooms can be shown."""
        return not opengl_problem()

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.room_changed.connect(self._drop_all)
        self.flat.use(session)
        if self.voxel is not None:
            self.voxel.use(session)

    def look_ahead(self) -> None:
        """Load the driver of the graphics card after a while, before somebody waits for it, where
        there is something for it to draw."""
        self._ahead.start()

    def _look_for_opengl(self) -> None:
        if self.voxel is None and self.session.project.blocks:
            opengl_problem()

    def show_for(self, axes: int) -> None:
        """Show the table for rooms with so many axes."""
        if axes == 3 and self.voxel is None:
            self.voxel = self._made()
            self.addWidget(self.voxel)
        self.setCurrentWidget(self.voxel if axes == 3 else self.flat)

    def _made(self) -> QWidget:
        problem = opengl_problem()
        if problem:
            return NoTable(problem)
        from topion.view.voxel.table import VoxelTable  # moderngl may not be there

        return VoxelTable(self.session)

    def _drop_all(self) -> None:
        """Another room is shown: a stroke that was begun in the last one is none of it."""
        for table in (self.flat, self.voxel):
            if table is not None:
                table.drop_stroke()

    # --- any table ------------------------------------------------------------------------

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress; False if there is none."""
        return self._room_view.drop_stroke()

    def hold_space(self, held: bool) -> None:
        """While Space is held, a drag moves the view."""
        self._room_view.hold_space(held)

    def hold_anchor(self, held: bool) -> None:
        """While it is held, the anchor of the brush is pointed at."""
        self._room_view.hold_anchor(held)

    def zoom(self, steps: int) -> None:
        """Zoom by steps, at a point or the middle."""
        self._room_view.zoom(steps)

    def fit(self) -> None:
        """Show all of the room."""
        self._room_view.fit()

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """Bring a cell to the middle of the view."""
        self._room_view.centre_on(cell)

    def close_rooms(self) -> None:
        """Let go of what is held of rooms."""
        if self.voxel is not None:
            self.voxel.close_room()

    # --- the table of voxel rooms ---------------------------------------------------------

    def look_from(self, view: View) -> None:
        """From one of the fixed views."""
        if self.space is not None:
            self.space.look_from(view)

    def next_corner(self) -> None:
        """From the next corner."""
        if self.space is not None:
            self.space.next_corner()

    def toggle_perspective(self) -> None:
        """Perspective, or parallel."""
        if self.space is not None:
            self.space.toggle_perspective()

    def toggle_seats(self) -> None:
        """Show where each thing is seated, and how high it reaches."""
        if self.space is not None:
            self.space.toggle_seats()

    def set_plane_here(self) -> None:
        """Lay the work plane where the pointer is."""
        if self.space is not None:
            self.space.set_plane_here()

    def toggle_play(self) -> None:
        """What is animated plays, or stands still; and say so."""
        Table.plays = not Table.plays
        self.session.said.emit(f"Animations {'play' if Table.plays else 'stand still'}")

    def next_detail(self) -> None:
        """Draw voxel rooms in fewer pixels, for a slow card, or in all again; and say so."""
        if self.space is not None:
            self.session.said.emit(f"Voxel rooms are drawn in {self.space.next_detail()} detail")

    def fit_selection(self) -> None:
        """Show what is picked as large as it fits."""
        if self.space is not None:
            self.space.fit_selection()
