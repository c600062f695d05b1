"""The table of voxel rooms: an OpenGL view in which strokes are laid in three dimensions."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QCursor, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from topion.grid.orient import NORMALS
from topion.model.edit import Dirty
from topion.render.eye import Eye
from topion.render.sprites import set_time
from topion.view import settings
from topion.view.knobs import Knobs
from topion.view.lasso import Lasso
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.curve_marks import CurveMarks
from topion.view.table.free_places import FreePlaces
from topion.view.table.piece_bar import PieceBar
from topion.view.table.table import TICK_MS, Table
from topion.view.voxel.chunks import Chunks
from topion.view.voxel.edges import SpaceEdges
from topion.view.voxel.frames import DETAILS, Frames
from topion.view.voxel.ghost import Ghost
from topion.view.voxel.picked_marks import SpacePicked
from topion.view.voxel.piece_marks import SpaceMarks
from topion.view.voxel.pointing import Pointing
from topion.view.voxel.scene import Scene
from topion.view.voxel.support import surface_format
from topion.view.voxel.views import Views
from topion.weaving.looms import MadeOf, made_of

_REST_MS = 160


class _Over(QWidget):
    """Marks and words over the picture; lets every click through."""

    def __init__(self, table: VoxelTable) -> None:
        super().__init__(table)
        self._table = table
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.resize(table.size())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self._table.draw_over(QPainter(self))


class VoxelTable(Views, Frames, Pointing, QOpenGLWidget):
    """Draws the room and turns pointer ways into strokes; all goes through the session."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.eye = Eye()
        self.ghost = Ghost(session)
        self.chunks: Chunks | None = None
        self.scene: Scene | None = None
        self.start_frames()
        self._fitted = False
        self._room_box: tuple[int, ...] = ()
        self._origin: tuple[int, ...] = (0, 0, 0)
        self._made: MadeOf | None = None  # what the shown blocks were woven by
        self._rests = QTimer(self)  # runs out when the view has stood still for a moment
        self._rests.setSingleShot(True)
        self._rests.setInterval(_REST_MS)
        self._rests.timeout.connect(self.update)
        self.start_strokes()
        self._clock = QTimer(self)
        self._clock.timeout.connect(self._tick)
        self._clock.start(TICK_MS)
        self.setFormat(surface_format())
        self._over = _Over(self)
        self.bar = PieceBar(self, session)
        self._bar_soon = QTimer(self)
        self._bar_soon.setSingleShot(True)
        self._bar_soon.setInterval(0)
        self._bar_soon.timeout.connect(self._place_bar)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Table")
        self.setAccessibleDescription("The voxel room; paint with the left and the right button")
        self.setCursor(QCursor(Qt.CursorShape.CrossCursor))
        self.setMinimumSize(QSize(240, 160))
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self.ghost = Ghost(session)
        self.free = FreePlaces(session)
        self.free.found.connect(self.update)
        self.pulls, self.lasso = Pulls(session), Lasso(session)
        self.piece_marks = SpaceMarks(session, lambda: self.eye, self.pulls)
        self.picked_marks = SpacePicked(session, self.lasso, self.piece_marks)
        self.curve_marks = CurveMarks(session, self.pulls, self.seen_at)
        self.knobs = Knobs(session, self.pulls, self.picked_marks.frame)
        self.edges = SpaceEdges(session, lambda: self.eye, self._meets_thing)
        session.picking.changed.connect(self._on_picked)
        self.bar.use(session)
        session.changed.connect(self._on_changed)
        session.room_changed.connect(self.open_room)
        session.planes.changed.connect(self._on_work)
        for signal in (session.hands.changed, session.gestures.changed, session.hands.mode_changed,
                       session.picked.changed, session.pieces.changed,
                       session.curves.changed,
                       session.previewed):  # fmt: skip
            signal.connect(self.stale_ghost)
        session.ahead.made.connect(self._on_made)
        self.open_room()

    def _tick(self) -> None:
        """Things that are animated move on."""
        if self.chunks is None or not self.isVisible() or not Table.plays:
            return
        if set_time(self.session.project, time.monotonic() * 1000):
            self._stale_things = True
            self.update()

    def _on_made(self) -> None:
        """What fields sow can be stood that could not."""
        self._stale_things = True
        self.update()

    # --- room -----------------------------------------------------------------------------

    @property
    def ready(self) -> bool:
        """Whether a room is open."""
        return self.chunks is not None

    @property
    def axes(self) -> int:
        """Of the rooms that are painted here."""
        return 3

    def open_room(self) -> None:
        """Show the room of the session from the start."""
        self.drop_stroke()
        self.ghost.forget()
        self.close_room()
        self._fitted = False
        if self.session.has_room and self.session.room.info.axes == 3:
            self.chunks = Chunks(self.session.project, self.session.room)
            self._made = made_of(self.session.project, "blocks")
            self.chunks.ready.connect(self._upload)
            self._note_size()
            self._fit_once()
            self._begins = True
        self.update()

    def _follow_size(self) -> None:
        """The room is of another size: its chunks are made anew, and the eye stays where it is."""
        before, now = self._origin, self.session.room.info.origin or (0, 0, 0)
        eye = self.eye
        self.close_room()
        self._note_size()
        self.chunks = Chunks(self.session.project, self.session.room)
        self.chunks.ready.connect(self._upload)
        target = tuple(v + a - b for v, a, b in zip(eye.target, before, now, strict=True))
        self.eye = replace(eye, target=target)

    def _note_size(self) -> None:
        self._room_box = self.session.room.info.size
        self._origin = self.session.room.info.origin or (0, 0, 0)

    def close_room(self) -> None:
        """Forget the room and what the card holds of it."""
        if self.chunks is not None:
            self.chunks.close()
        self.chunks = None
        self.full = None
        self._shaped = {}
        self._stale_things = self._stale_cap = self._stale_hull = True
        if self.scene is not None:
            self.makeCurrent()
            self.scene.clear()
            self._drop_ghost_meshes()
            self.doneCurrent()

    def _on_changed(self, dirty: tuple[Dirty, ...]) -> None:
        if self.chunks is None or not self.session.has_room:
            return
        if self.chunks.room is not self.session.room:
            self.open_room()
            return
        if self._room_box != self.session.room.info.size:
            self._follow_size()
        made = made_of(self.session.project, "blocks")
        if self._made is not None and not made.weaves_like(self._made):
            self._forget_cells()
        self._made = made
        for part in dirty:
            self._forget(part)
        self.ghost.forget()
        self.stale_ghost()

    def _forget_cells(self) -> None:
        """Any cell may show another block."""
        assert self.chunks is not None
        self.chunks.forget(None)
        self.full, self._stale_cap = None, True

    def _forget(self, part: Dirty) -> None:
        assert self.chunks is not None
        if part.room == self.session.room_name:
            self._stale_things = self._stale_hull = True
            flat = part.box is not None and len(part.box.lo) == 2  # columns: things
            if not flat:
                self.chunks.forget(part.box)
                self.full, self._stale_cap = None, True
        elif part.shelf in ("blocks", "tilesets", "block_names", "themes", "palette"):
            self._forget_cells()
            self._stale_book = True
        elif part.shelf in ("prefabs", "brushes"):
            self._stale_things = True

    def _on_picked(self) -> None:
        """Other instances light up, and another area is washed over."""
        self._stale_things = self._stale_hull = True
        self.stale_ghost()

    def _on_work(self) -> None:
        self._stale_cap = True
        self.stale_ghost()

    def stale_ghost(self) -> None:
        """Plan and draw the ghost anew at the next frame."""
        self._ghost_key = None
        self._bar_soon.start()
        self.update()

    def _place_bar(self) -> None:
        """The bar stands beside what is picked, while nothing is dragged."""
        shown = self.session.gestures.picking and self.session.over is None
        if self.is_at_work and shown and self.pulls.now is None:
            bounds = self.piece_marks.bounds() | self.picked_marks.bounds()
            self.bar.place(bounds, QRectF(self.rect()))
            self.bar.raise_()
        else:
            self.bar.hide()

    def update(self, *area: QRect) -> None:  # type: ignore[override]
        """Paint the view and the marks over it anew."""
        super().update(*area)
        self._over.update()

    # --- camera: see Views ----------------------------------------------------------------

    def picture_size(self) -> tuple[int, int]:
        """(height, width) of the view in px."""
        return self.height(), self.width()

    def resizeGL(self, width: int, height: int) -> None:
        self.eye = replace(self.eye, height=self.height(), width=self.width())
        self._over.resize(self.size())
        self._fit_once()

    def begin_at(self, eye: Eye) -> None:
        """Look from there at first, not at the whole room."""
        self._fitted = True
        self.eye = replace(eye, height=self.height(), width=self.width())
        self.update()

    def _fit_once(self) -> None:
        if self.ready and self.isVisible() and not self._fitted:
            self._fitted = True
            self.fit()

    def next_detail(self) -> str:
        """Draw the picture in fewer pixels, or in all again; remembered.  The new word."""
        words = list(DETAILS)
        self.detail = words[(words.index(self.detail) + 1) % len(words)]
        settings.remember_detail(self.detail)
        self.update()
        return self.detail

    def toggle_seats(self) -> None:
        """Show where each thing is seated, and how high it reaches."""
        self._shows_seats = not self._shows_seats
        self.update()

    # --- pictures -------------------------------------------------------------------------

    def cell_centre(self, *cell: float) -> QPointF:
        """Where the middle of a cell is seen."""
        y, x, _ = self.eye.near(np.array([cell], float) + 0.5)[0].tolist()
        return QPointF(x, y)

    def face_centre(self, face: int, *cell: float) -> QPointF:
        """Where the middle of one of its sides is seen."""
        at = np.array(cell, float) + 0.5 + NORMALS[face] * 0.5
        y, x, _ = self.eye.near(at[None])[0].tolist()
        return QPointF(x, y)

    def settled(self) -> bool:
        """Whether all of the room is on the card."""
        return self.chunks is not None and not self.chunks.busy

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit_once()
        QTimer.singleShot(0, self.update)
