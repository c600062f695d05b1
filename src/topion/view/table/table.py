"""The table: the canvas where a room is painted."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QCursor,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QWidget

from topion.brushes.gestures import cell_of
from topion.brushes.shape import Handle, ShapeKind
from topion.edit.pieces import Pick
from topion.grid.boxes import Box
from topion.model.edit import Dirty, Edit
from topion.model.prefab import Thing
from topion.things.field import Field, Sows, field_named
from topion.view import settings, style
from topion.view.knobs import Knobs
from topion.view.lasso import Lasso
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table import overlay
from topion.view.table.camera import STEPS, Camera
from topion.view.table.chunks import Chunks
from topion.view.table.compose import image_of
from topion.view.table.conflict_marks import draw_conflicts
from topion.view.table.curve_marks import CurveMarks
from topion.view.table.edges import CURSORS, Edges
from topion.view.table.field_marks import draw_field
from topion.view.table.free_places import FreePlaces
from topion.view.table.ghost import Ghost
from topion.view.table.measure_marks import draw_measure
from topion.view.table.picked_marks import PickedMarks
from topion.view.table.piece_bar import PieceBar
from topion.view.table.piece_marks import FlatMarks, draw_notes
from topion.view.table.region_marks import draw_regions
from topion.view.table.role_marks import draw_roles, draw_threads
from topion.view.table.strokes import Position, Strokes
from topion.weaving.looms import MadeOf, made_of

TICK_MS = 140
_MARGIN_PX = 24
_SCROLL_PX = 60


class Table(Strokes, QWidget):
    """Paints the room, turns pointer ways into strokes.  Sends nothing: all goes through the
    session.  rulers : whether they are drawn."""

    rulers = True
    plays = True  # what is animated

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.camera = Camera()
        self.edges = Edges(session, self.camera)
        self.ghost = Ghost(session)
        self.chunks: Chunks | None = None
        self.start_strokes()
        self._ghost_key: object = None
        self.bar = PieceBar(self, session)
        self._bar_soon = QTimer(self)
        self._bar_soon.setSingleShot(True)
        self._bar_soon.setInterval(0)
        self._bar_soon.timeout.connect(self._place_bar)
        self._made: MadeOf | None = None  # what the shown tiles were woven by
        self._fields: dict[str, Field] = {}
        self._origin: tuple[int, ...] = (0, 0)
        self._fitted = False
        self.setObjectName("table")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Table")
        self.setAccessibleDescription("The room; paint with the left and the right button")
        self.setCursor(QCursor(Qt.CursorShape.CrossCursor))
        self.setMinimumSize(QSize(240, 160))
        self._clock = QTimer(self)
        self._clock.timeout.connect(self._tick)
        self._clock.start(TICK_MS)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        self.ghost = Ghost(session)
        self.free = FreePlaces(session)
        self.free.found.connect(self.update)
        self.pulls, self.lasso = Pulls(session), Lasso(session)
        self.bar.use(session)
        self.piece_marks = FlatMarks(session, self.camera, self.pulls)
        self.curve_marks = CurveMarks(session, self.pulls, self.seen_at)
        self.edges = Edges(session, self.camera)
        self.picked_marks = PickedMarks(session, self.camera, self.lasso, self.pulls)
        self.knobs = Knobs(session, self.pulls, self.picked_marks.frame)
        session.changed.connect(self._on_changed)
        session.room_changed.connect(self.open_room)
        for signal in (session.hands.changed, session.gestures.changed, session.hands.mode_changed,
                       session.picked.changed, session.planes.changed,
                       session.pieces.changed, session.curves.changed,
                       session.previewed):  # fmt: skip
            signal.connect(self.stale_ghost)
        session.ahead.made.connect(self._on_made)
        self.open_room()

    def _on_made(self) -> None:
        """What fields sow can be drawn that could not."""
        if self.chunks is not None:
            self.chunks.renew()
        self.stale_ghost()

    # --- room and camera ------------------------------------------------------------------

    def open_room(self) -> None:
        """Show the room of the session from the start."""
        self.drop_stroke()
        self.ghost.forget()
        self._fitted = False
        self.chunks = None
        if self.session.has_room:
            room = self.session.room
            self.chunks = Chunks(self.session.project, room, self.session.ahead.has)
            self._made = made_of(self.session.project)
            self._remember_fields()
            self.camera.cell_px = room.info.cell_px
            self._origin = room.info.origin or (0, 0)
            self._fit_once()
        self.update()

    def _fit_once(self) -> None:
        if self.session.has_room and self.isVisible() and not self._fitted:
            self._fitted = True
            self.fit()

    def fit(self) -> None:
        """Show the room as large as it fits, but not smaller than its cells can be painted."""
        if not self.is_at_work:
            return
        size = self.session.room.info.size
        self.camera.show_room(size, self.view_rect(), _MARGIN_PX if self.rulers else 0)
        self.stale_ghost()

    def zoom(self, steps: int, at: QPointF | None = None) -> None:
        """Zoom by steps, at a point or the middle."""
        self.camera.zoom_at(at or self.view_rect().center(), steps)
        self._hold_camera()
        self.stale_ghost()

    def _hold_camera(self) -> None:
        """The room stays within reach, however far it is pushed."""
        if self.is_at_work:
            self.camera.hold(self.session.room.info.size, self.view_rect())

    def centre_on(self, cell: tuple[int, int]) -> None:
        """Bring a cell to the middle of the view."""
        middle = self.view_rect().center()
        self.camera.left = round(middle.x() - (cell[1] + 0.5) * self.camera.px)
        self.camera.top = round(middle.y() - (cell[0] + 0.5) * self.camera.px)
        self.stale_ghost()

    def look_at(self, cell: tuple[int, int], zoom: float) -> None:
        """Bring a cell to the middle at one of the zoom steps."""
        self.camera.step = STEPS.index(zoom)
        self.centre_on(cell)

    def view_rect(self) -> QRectF:
        """The part of the widget in which the room is seen."""
        if not self.rulers:
            return QRectF(self.rect())
        return QRectF(self.rect()).adjusted(overlay.RULER_LEFT, overlay.RULER_TOP, 0, 0)

    def cell_centre(self, y: float, x: float) -> QPointF:
        """Where on the widget the middle of a cell is seen."""
        camera = self.camera
        return QPointF(camera.left + (x + 0.5) * camera.px, camera.top + (y + 0.5) * camera.px)

    def seen_at(self, at: np.ndarray) -> list[QPointF]:
        """Where (n, 2) places in cells are seen."""
        return [self.cell_centre(y, x) for y, x in at.tolist()]

    def _view_box(self, *, beyond: bool = False) -> Box:
        """The cells in view.  beyond : also those that are not in the room."""
        view = self.view_rect()
        lo = cell_of(np.array([self.camera.to_cells(view.topLeft())]))[0]
        hi = cell_of(np.array([self.camera.to_cells(view.bottomRight())]))[0] + 1
        box = Box((int(lo[0]), int(lo[1])), (int(hi[0]), int(hi[1])))
        return box if beyond else box.clipped(self.session.room.box)

    # --- what changed ---------------------------------------------------------------------

    def _on_changed(self, dirty: tuple[Dirty, ...]) -> None:
        if self.chunks is None:
            return
        if self._weaves_otherwise():
            self.chunks.forget(None)
        for part in dirty:
            if self._shows_everywhere(part):
                self.chunks.forget(None)
            elif part.room == self.session.room_name:
                self.chunks.forget(part.box)
        if not self.session.has_room or self.chunks.room is not self.session.room:
            self.open_room()
        else:
            self._follow_origin()
        self._remember_fields()
        self.ghost.forget()
        self.stale_ghost()

    def _follow_origin(self) -> None:
        """What was seen stays where it is when the room grows before its first cell."""
        if self.session.room.info.axes != self.axes:
            return  # another table shows it
        origin = self.session.room.info.origin or (0, 0)
        if origin != self._origin:
            (y, x), (y0, x0) = origin, self._origin
            self.camera.left -= round((x0 - x) * self.camera.px)
            self.camera.top -= round((y0 - y) * self.camera.px)
            self._origin = (y, x)

    def _remember_fields(self) -> None:
        """Fields as they were drawn: only another field is sown anew, not another stroke."""
        brushes = self.session.project.brushes.values()
        self._fields = {b.name: b.field for b in brushes if isinstance(b, Sows)}

    def _weaves_otherwise(self) -> bool:
        """Whether rules changed, so that any cell may show something else."""
        made, before = made_of(self.session.project), self._made
        self._made = made
        return before is not None and not made.weaves_like(before)

    def _shows_everywhere(self, part: Dirty) -> bool:
        """Whether a change may be seen in any chunk; a brush's own cells come as boxes."""
        if part.room:
            return part.room == self.session.room_name and part.box is None
        if part.shelf == "brushes":
            return field_named(self.session.project, part.name) != self._fields.get(part.name)
        return part.shelf in ("tilesets", "prefabs", "themes", "palette")

    def stale_ghost(self) -> None:
        """Plan and draw the ghost anew at the next frame."""
        self._ghost_key = None
        self._bar_soon.start()
        self.update()

    def _place_bar(self) -> None:
        """The bar stands beside what is picked, while nothing is dragged."""
        shown = self.session.gestures.picking and self.session.over is None
        if self.is_at_work and shown and self.pulls.now is None:
            self.bar.place(self.piece_marks.bounds() | self.picked_marks.bounds(), self.view_rect())
        else:
            self.bar.hide()

    def _tick(self) -> None:
        if self.chunks is not None and self.isVisible() and self.plays:
            moved = self.chunks.show_time(time.monotonic() * 1000, self.camera)
            if moved:
                self.update()

    # --- painting -------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        view = self.view_rect()
        painter.fillRect(self.rect(), style.ink("table"))
        if self.chunks is None:
            painter.setPen(style.ink("soft"))
            painter.drawText(
                view, Qt.AlignmentFlag.AlignCenter, "No room yet: make one from the room menu above"
            )
            return
        painter.setClipRect(view)
        self._refresh_ghost()
        self._paint_room(painter, view)
        self._paint_lines(painter, view)
        self._paint_picked(painter, view)
        painter.setClipping(False)
        if self.rulers:
            overlay.draw_rulers(painter, self.camera, self.session, self.rect())

    def _paint_room(self, painter: QPainter, view: QRectF) -> None:
        """The room, what the hand would lay, and what is shown of fields and regions."""
        if self.chunks is not None and not self.chunks.paint(painter, self.camera, view):
            QTimer.singleShot(0, self.update)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.picked_marks.draw_lights(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        self._paint_ghost(painter)
        draw_regions(painter, self.session, self.camera, self.ghost)
        if self.session.field_shows != "nothing":
            draw_field(painter, self.session, self.ghost, self.camera, self._view_box())
        self._paint_free(painter)

    def _paint_lines(self, painter: QPainter, view: QRectF) -> None:
        """The grid, the edges of the room, and mirrors."""
        overlay.draw_grid(painter, self.camera, self.session.room, view)
        overlay.draw_room_edge(painter, self.camera, self.session.room)
        self.edges.draw(painter)
        if self.ghost.grown is not None:
            overlay.draw_new_edge(painter, self.camera, self.ghost.grown)
        overlay.draw_mirrors(painter, self.camera, self.session)

    def _paint_picked(self, painter: QPainter, view: QRectF) -> None:
        """Marks of what stands there and is picked, and what is said at the pointer."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.session.over is None:
            draw_roles(painter, self.session, self._view_box(), self._middle_of, self.camera.px)
        draw_threads(painter, self.session, self._middle_of)
        draw_conflicts(painter, self.session.room, self.camera, view, self.session.spoken_of)
        self.picked_marks.draw(painter)
        if self.session.over is None:
            self.knobs.draw(painter)
        self.piece_marks.draw(painter, self._view_box(), self.hover)
        self.curve_marks.draw(painter, self.ghost.edit)
        if self.session.over is not None:
            self.session.over(painter, self.camera)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_marks(painter, view)
        ends = self.measure_ends()
        if ends is not None:
            first, last = ((at, self.cell_centre(*at)) for at in ends)
            draw_measure(painter, first, last)
        if self.ghost.edit is not None and self.hover is not None:
            draw_notes(painter, self.hover + QPointF(14, 14), self._notes(self.ghost.edit))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _middle_of(self, thing: Thing) -> QPointF:
        """Where the middle of the cell of a thing is seen."""
        return self.camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1).center()

    def _paint_free(self, painter: QPainter) -> None:
        """Where the thing in hand may stand, while that key is held."""
        if self.session.hands.asking and self.session.has_room:
            self.free.ask(self._view_box())
            self.free.draw_flat(painter, self.camera)
        else:
            self.free.forget()

    def _paint_ghost(self, painter: QPainter) -> None:
        if self.ghost.large is not None:
            box, picture = self.ghost.large
            target = self.camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
            painter.setOpacity(0.7)
            painter.drawImage(target, image_of(picture))
            painter.setOpacity(1.0)
        if self.ghost.image is not None and self.ghost.box is not None:
            box = self.ghost.box
            target = self.camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
            painter.drawImage(target, self.ghost.image, QRectF(self.ghost.image.rect()))

    def _paint_marks(self, painter: QPainter, view: QRectF) -> None:
        refused = self.pulls.verdict()
        if refused is not None:
            overlay.draw_verdict(painter, self.camera, self.session, refused, view)
        points = self._way()
        if points is None or self.space or self.dragging is not None:
            return
        hand = self.hand or "left"
        found = self.ghost.verdict
        if self.ghost.too_large:
            at = self.cell_centre(*points[-1]) + QPointF(14, 14)
            overlay.label(painter, at, "many cells: shown when laid")
        if found is None:
            kind = self.session.gestures.now.kind
            overlay.draw_marks(painter, self.camera, self.session, hand, points, kind)
        else:
            overlay.draw_verdict(painter, self.camera, self.session, found, view)

    def _way(self) -> np.ndarray | None:
        """The pointer's way so far, or where it hovers; (n, 2) positions in cells."""
        if self.points:
            return np.array(self.points)
        if self.anchored_at is not None:
            return np.array([self.anchored_at])
        if self.hover is None or not self.view_rect().contains(self.hover):
            return None
        if self.session.gestures.picking or self.edges.sides is not None:
            return None
        if self.session.hands.shifting or self.pulls.moves_layer:
            return None
        if self.edges.at(self.hover) is not None:
            return None
        return np.array([self.camera.to_cells(self.hover)])

    def _refresh_ghost(self) -> None:
        points = self._way()
        shown = self.pulls.edit if self.pulls.edit is not None else self.session.preview
        if shown is not None and self.chunks is not None:
            self._show_pull(shown, self.chunks.side_for(self.camera))
            return
        if points is None or self.space or self.dragging is not None or self.chunks is None:
            self.ghost.clear()
            self._ghost_key = None
            return
        view, side = self._view_box(beyond=True), self.chunks.side_for(self.camera)
        key = (self.hand, cell_of(points).tobytes(), view, side, self.session.gestures.now)
        if self.session.hands.cell_parts > 1:
            key = (*key, points.tobytes())  # type: ignore[assignment]
        if key != self._ghost_key:
            self._ghost_key = key
            self.ghost.show(self.hand or "left", points, self.session.gestures.now, view, side)

    def _notes(self, edit: Edit) -> tuple[str, ...]:
        """What the ghost says; of a shape that is drawn, how large it comes out."""
        shape = isinstance(self.session.hands.in_hand(self.hand or "left"), ShapeKind)
        drawn = shape and self.hand is not None and self.session.gestures.now.kind != "box"
        if self.pulls.moves_layer:
            return (self.pulls.words()[0],)
        if kept := self.session.kept_words(edit):
            return (kept,)
        if self.beats is not None:
            return (*edit.notes, self.beats.words())
        return edit.notes or ((edit.label,) if drawn else ())

    def _show_pull(self, edit: Edit, side: int) -> None:
        """What the pull of a piece would change."""
        view = self._view_box(beyond=True)
        if (edit, view, side) != self._ghost_key:
            self._ghost_key = (edit, view, side)
            self.ghost.show_edit(edit, view, side)

    # --- pointer: see Strokes -------------------------------------------------------------

    def handle_at(self, point: QPointF) -> tuple[Pick, Handle] | None:
        return self.curve_marks.handle_at(point) or self.piece_marks.handle_at(point)

    @property
    def ready(self) -> bool:
        """Whether a room is open."""
        return self.chunks is not None

    @property
    def axes(self) -> int:
        """Of the rooms that are painted here."""
        return 2

    def position_at(self, point: QPointF) -> Position | None:
        """Where in the room, in cells, a point of the screen lies; None off it."""
        return self.camera.to_cells(point)

    def drag_view(self, by: QPointF, turning: bool) -> None:
        """Move the camera by px, or turn it."""
        self.camera.left += round(by.x())
        self.camera.top += round(by.y())
        self._hold_camera()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """An edge of the room is gripped just outside it; all else is a stroke."""
        left = event is not None and event.button() == Qt.MouseButton.LeftButton
        idle = self.hand is None and not self.space and not self.clicks and self.is_at_work
        if event is not None and left and idle and self.edges.press(event.position()):
            return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.edges.sides is not None:
            self.hover = event.position()
            self.edges.drag(event.position())
            self.update()
            return
        super().mouseMoveEvent(event)
        if event is not None and self.hand is None and not self.space and self.dragging is None:
            sides = self.edges.at(event.position()) if self.is_at_work else None
            cross = Qt.CursorShape.CrossCursor
            self.setCursor(QCursor(cross if sides is None else CURSORS[sides]))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.edges.sides is not None:
            if event.button() == Qt.MouseButton.LeftButton:
                self.edges.drag(event.position())
                self.edges.release()
                self.stale_ghost()
            return
        super().mouseReleaseEvent(event)

    def drop_stroke(self) -> bool:
        """Forget the stroke in progress, or the edge that is pulled; False if there is none."""
        pulled = self.edges.drop()
        self.update()
        return super().drop_stroke() or pulled

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turned = event.angleDelta()
        steps = turned.y() or turned.x()
        modifiers, way = event.modifiers(), 1 if steps > 0 else -1
        control = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            self.camera.left += _SCROLL_PX * way
        elif control != settings.wheel_scrolls():
            self.camera.top += _SCROLL_PX * way
        elif steps:
            self.camera.zoom_at(event.position(), way)
        self._hold_camera()
        self.stale_ghost()
        event.accept()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_once()
        self.stale_ghost()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit_once()
