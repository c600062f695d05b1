"""The table of voxel rooms: an OpenGL view in which strokes are laid in three dimensions."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import moderngl
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QCursor, QMouseEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from topion.grid.boxes import Box
from topion.grid.meshing import mesh
from topion.grid.orient import NORMALS
from topion.grid.rays import Hit, Ray, crossing, first_hit, nearest_on_line
from topion.model.edit import Dirty
from topion.model.prefab import standing_cell
from topion.render.eye import Eye, View
from topion.render.faces import face_book
from topion.render.vertices import book_vertices, vertices
from topion.render.volume import Shaped, block_layer, cubes_only, looks_in, outline_points
from topion.view import look
from topion.view.session import Session
from topion.view.table.overlay import hand_colour, label
from topion.view.table.strokes import BUTTONS, Position, Strokes
from topion.view.voxel import overlay
from topion.view.voxel.chunks import Chunks, Meshed
from topion.view.voxel.ghost import Ghost
from topion.view.voxel.instances import instances
from topion.view.voxel.scene import ChunkKey, Cut, Mesh, Scene
from topion.view.voxel.support import QtFunctions, surface_format

_ORBIT_DEG_PER_PX = 0.4
_ZOOM_A_STEP = 1.18
_MANY_QUADS, _LATE_S = 12_000, 0.03  # a frame with so many that takes so long is late
_RAISING = "raising"  # the second move of a box: its base is drawn, its height is not


class _Over(QWidget):
    """Marks and words over the picture; lets every click through."""

    def __init__(self, table: VoxelTable) -> None:
        super().__init__(table)
        self._table = table
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.resize(table.size())

    def paintEvent(self, event: Any) -> None:
        self._table.draw_over(QPainter(self))


class VoxelTable(Strokes, QOpenGLWidget):
    """Draws the room and turns pointer ways into strokes; all goes through the session."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.eye = Eye()
        self.ghost = Ghost(session)
        self.chunks: Chunks | None = None
        self.scene: Scene | None = None
        self.problem = ""
        self._ghost_key: object = None
        self._ghost_meshes: dict[str, Any] = {}
        self._stage: str = ""
        self._base: Hit | None = None  # the face on which a line or a box was begun
        self._fitted = False
        self._stale_things = self._stale_cap = True
        self._cap: Mesh | None = None
        self._full: np.ndarray | None = None
        self._shaped: dict[ChunkKey, list[Shaped]] = {}
        self._stale_book = True
        self._stage_points = 0
        self._shows_seats = False
        self._ghost_stood = False
        self.start_strokes()
        self.setFormat(surface_format())
        self._over = _Over(self)
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
        session.changed.connect(self._on_changed)
        session.room_changed.connect(self.open_room)
        session.work_changed.connect(self._on_work)
        for signal in (session.hands_changed, session.gesture_changed, session.mode_changed,
                       session.selection_changed):  # fmt: skip
            signal.connect(self.stale_ghost)
        self.open_room()

    # --- room -----------------------------------------------------------------------------

    @property
    def ready(self) -> bool:
        return self.chunks is not None

    def open_room(self) -> None:
        self.drop_stroke()
        self.ghost.clear()
        self.close_room()
        self._fitted = False
        if self.session.has_room and self.session.room.info.axes == 3:
            self.chunks = Chunks(self.session.project, self.session.room)
            self.chunks.ready.connect(self._upload)
            self._fit_once()
        self.update()

    def close_room(self) -> None:
        """Forget the room and what the card holds of it."""
        if self.chunks is not None:
            self.chunks.close()
        self.chunks = None
        self._full = None
        self._shaped = {}
        self._stale_things = self._stale_cap = True
        if self.scene is not None:
            self.makeCurrent()
            self.scene.clear()
            self._drop_ghost_meshes()
            self.doneCurrent()

    def _on_changed(self, dirty: Any) -> None:
        if self.chunks is None or not self.session.has_room:
            return
        if self.chunks.room is not self.session.room:
            self.open_room()
            return
        for part in dirty:
            self._forget(part)
        self.ghost.clear()
        self.stale_ghost()

    def _forget(self, part: Dirty) -> None:
        assert self.chunks is not None
        if part.room == self.session.room_name:
            self._stale_things = True
            flat = part.box is not None and len(part.box.lo) == 2  # columns: things
            if not flat:
                self.chunks.forget(part.box)
                self._full, self._stale_cap = None, True
        elif part.shelf in ("blocks", "tilesets", "block_names"):
            self.chunks.forget(None)
            self._full, self._stale_cap = None, True
            self._stale_book = True
        elif part.shelf in ("prefabs", "brushes"):
            self._stale_things = True

    def _on_work(self) -> None:
        self._stale_cap = True
        self.stale_ghost()

    def stale_ghost(self) -> None:
        self._ghost_key = None
        self.update()

    def update(self, *area: Any) -> None:
        super().update(*area)
        self._over.update()

    # --- camera ---------------------------------------------------------------------------

    def _set_eye(self, eye: Eye) -> None:
        self.eye = eye
        self.stale_ghost()

    def resizeGL(self, width: int, height: int) -> None:
        self.eye = replace(self.eye, height=self.height(), width=self.width())
        self._over.resize(self.size())
        self._fit_once()

    def _fit_once(self) -> None:
        if self.ready and self.isVisible() and not self._fitted:
            self._fitted = True
            self.fit()

    def fit(self) -> None:
        """Show what the room holds, from where it is seen now."""
        room = self.session.room
        eye = replace(self.eye, height=self.height(), width=self.width())
        framed = eye.framing_points(outline_points(self.full_cells()))
        reach = eye.framing(room.box).reach * 1.5  # of all that may come
        self._set_eye(replace(framed, reach=reach))

    def fit_selection(self) -> None:
        """Show the selected thing close by; the room if nothing is selected."""
        chosen = self.session.selected
        layer = self.session.room.layers.get(chosen.layer) if chosen else None
        thing = layer.things.get(chosen.thing) if layer and chosen and chosen.thing else None
        if thing is None:
            self.fit()
        else:
            self.centre_on(standing_cell(thing, 3))
            self._set_eye(replace(self.eye, px=max(self.eye.px, 40.0)))

    def look_from(self, view: View) -> None:
        """From a corner, from above, or from a side."""
        self._set_eye(self.eye.looking(view))

    def turn_to(self, yaw: float, pitch: float) -> None:
        """From any other place; degrees as for Eye."""
        self._set_eye(replace(self.eye, yaw=yaw, pitch=pitch))

    def next_corner(self) -> None:
        """From the next of the four corners, clockwise."""
        yaw = (round((self.eye.yaw + 45) / 90) * 90 + 45) % 360
        self._set_eye(replace(self.eye.turned(yaw - self.eye.yaw, 0.0), pitch=30.0))

    def toggle_seats(self) -> None:
        """Show where each thing is seated, and how high it reaches."""
        self._shows_seats = not self._shows_seats
        self.update()

    def toggle_perspective(self) -> None:
        self._set_eye(replace(self.eye, perspective=not self.eye.perspective))

    def centre_on(self, cell: tuple[int, ...]) -> None:
        target = tuple(v + 0.5 for v in cell)
        self._set_eye(replace(self.eye, target=target if len(target) == 3 else self.eye.target))

    def zoom(self, steps: int) -> None:
        middle = (self.height() / 2, self.width() / 2)
        self._set_eye(self.eye.zoomed(_ZOOM_A_STEP**steps, *middle))

    def drag_view(self, by: QPointF, turning: bool) -> None:
        if turning:
            degrees = _ORBIT_DEG_PER_PX
            self._set_eye(self.eye.turned(-by.x() * degrees, by.y() * degrees))
        else:
            self._set_eye(self.eye.panned(by.y(), by.x()))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turned = event.angleDelta()
        step = 1 if (turned.y() or turned.x()) > 0 else -1
        modifiers = event.modifiers()
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            self.session.set_work(level=self.session.work.level + step)
        elif modifiers & Qt.KeyboardModifier.ShiftModifier:
            self._set_eye(self.eye.turned(15.0 * step, 0.0))
        else:
            at = event.position()
            self._set_eye(self.eye.zoomed(_ZOOM_A_STEP**step, at.y(), at.x()))
        event.accept()

    # --- where the pointer is -------------------------------------------------------------

    def full_cells(self) -> np.ndarray:
        """(d, h, w) bool: cells that stop a ray."""
        if self._full is None:
            layer = block_layer(self.session.room)
            size = self.session.room.info.size
            self._full = layer.planes["block"] > 0 if layer else np.zeros(size, bool)
        return self._full

    def ray_at(self, point: QPointF) -> Ray:
        return self.eye.ray(point.y(), point.x())

    def hit_at(self, point: QPointF) -> Hit | None:
        """The cell the pointer meets, of those that are not cut away."""
        full, work = self.full_cells(), self.session.work
        ray = self.ray_at(point)
        if work.above == "shown":
            return first_hit(full, ray)
        kept = slice(None, work.level + 1) if self._cuts_high() else slice(work.level, None)
        index = tuple(kept if axis == work.axis else slice(None) for axis in range(3))
        shift = np.zeros(3)
        shift[work.axis] = kept.start or 0
        origin = tuple((np.array(ray.origin) - shift).tolist())
        hit = first_hit(full[index], Ray(origin, ray.direction))
        if hit is None:
            return None
        cell = tuple((np.array(hit.cell) + shift.astype(int)).tolist())
        return Hit((cell[0], cell[1], cell[2]), hit.face, hit.distance)

    def _cuts_high(self) -> bool:
        """Whether what is cut away lies at the high side of the plane: that nearer to the eye."""
        work = self.session.work
        return work.axis == 0 or bool(self.eye.forward[work.axis] < 0)

    def position_at(self, point: QPointF) -> Position | None:
        if self._stage == _RAISING:
            return self._raised(point)
        hand = self.hand or "left"
        aim = self.session.aim(hand)
        if aim != "plane" and self._base is not None and self.hand is not None:
            return self._on_base(point, aim == "face")
        hit = self.hit_at(point) if aim != "plane" else None
        if hit is not None:
            cell = hit.before if aim == "face" else hit.cell
            return self._within(cell, self.ray_at(point).at(hit.distance))
        work = self.session.work
        axis, level = (work.axis, work.level) if aim == "plane" else (0, 0)
        return self._on_plane(point, axis, level)

    def _on_plane(self, point: QPointF, axis: int, level: int) -> Position | None:
        ray = self.ray_at(point)
        far = level + (1.0 if ray.direction[axis] > 0 else 0.0)
        met = crossing(ray, axis, far)
        if met is None:
            return None
        position = [v - 0.5 for v in met]
        position[axis] = float(level)
        reach = max(self.session.room.info.size)
        if not all(-reach <= v <= 2 * reach for v in position):
            return None  # near the horizon
        return tuple(position)

    @staticmethod
    def _within(cell: tuple[int, int, int], met: tuple[float, ...]) -> Position:
        """The place in the cell that lies nearest to where the ray met its face."""
        return tuple(
            min(max(v - 0.5, c - 0.499), c + 0.499) for v, c in zip(met, cell, strict=True)
        )

    def _on_base(self, point: QPointF, before: bool) -> Position | None:
        """On the plane of the face on which the stroke was begun."""
        assert self._base is not None
        axis = int(np.flatnonzero(np.array(self._base.before) - np.array(self._base.cell))[0])
        cell = self._base.before if before else self._base.cell
        return self._on_plane(point, axis, cell[axis])

    def _raised(self, point: QPointF) -> Position | None:
        """The corner of a box whose height follows the pointer."""
        last = self.points[-1] if self._stage_points == 0 else self.points[self._stage_points - 1]
        axis = self._box_axis()
        through = tuple(v + 0.5 for v in last)
        height = nearest_on_line(self.ray_at(point), through, axis)
        size = self.session.room.info.size[axis]
        level = min(max(int(np.floor(height)), -1), size)
        start = int(np.floor(self.points[0][axis] + 0.5))
        level = min(max(level, 0 if start >= 0 else level), size - 1)
        return tuple(float(level) if i == axis else v for i, v in enumerate(last))

    def _box_axis(self) -> int:
        if self.session.aim(self.hand or "left") == "plane" or self._base is None:
            return self.session.work.axis if self.session.work.aim == "plane" else 0
        step = np.array(self._base.before) - np.array(self._base.cell)
        return int(np.flatnonzero(step)[0])

    # --- strokes: see Strokes -------------------------------------------------------------

    def begin_stroke(self, point: QPointF) -> None:
        self._stage = ""
        straight = self.session.gesture.kind in ("line", "box")
        plane = self.session.aim(self.hand or "left") == "plane"
        self._base = self.hit_at(point) if straight and not plane else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._stage == _RAISING and event.button() in BUTTONS:
            self.mouseMoveEvent(event)
            self._stage = ""
            self._base = None
            self.end_stroke()
            return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._stage == _RAISING and self.dragging is None:
            at = self._raised(event.position())
            if at is not None:
                self.points = [*self.points[: self._stage_points], at]
            self.hover = event.position()
            self.session.point_at(None)
            self.update()
            return
        super().mouseMoveEvent(event)

    def stroke_goes_on(self) -> bool:
        """A box gets its height by a second move, unless its brush knows the height."""
        brush = self.session.in_hand(self.hand or "left")
        if self.session.gesture.kind != "box" or hasattr(brush, "soft"):
            self._base = None
            return False
        self._stage = _RAISING
        self._stage_points = len(self.points)
        self.update()
        return True

    def drop_stroke(self) -> bool:
        self._stage, self._base = "", None
        return super().drop_stroke()

    def picked_cell(self, point: QPointF) -> tuple[int, ...] | None:
        hit = self.hit_at(point)
        return None if hit is None else hit.before if self._thing_before(hit) else hit.cell

    def _thing_before(self, hit: Hit) -> bool:
        """Whether a thing stands on the face the pointer meets."""
        for _, layer in self.session.room.bottom_up("things"):
            if any(standing_cell(t, 3) == hit.before for t in layer.things.values()):
                return True
        return False

    def set_plane_here(self) -> None:
        """Lay the work plane where the pointer is: across the face it meets, before it."""
        hit = self.hit_at(self.hover) if self.hover is not None and self.ready else None
        if hit is None:
            self.session.said.emit("Nothing under the pointer to lay the plane on")
            return
        axis = int(np.flatnonzero(np.array(hit.before) - np.array(hit.cell))[0])
        self.session.set_work(axis=axis, level=hit.before[axis])

    # --- the card -------------------------------------------------------------------------

    def initializeGL(self) -> None:
        try:
            functions: Any = QtFunctions()
            context = moderngl.create_context(require=330, context=functions)
            self.scene = Scene(context)
        except Exception as problem:  # whatever a driver does, flat rooms must go on working
            self.problem = f"This display gives no OpenGL 3.3: {problem}"
            self.scene = None
        self._stale_book = True
        if self.chunks is not None:
            self.chunks.forget(None)

    def _upload(self, found: Meshed) -> None:
        """Put a chunk on the card; it may come from the thread, between frames."""
        if self.scene is None or self.chunks is None:
            return
        self.makeCurrent()
        near, far = (
            self.scene.mesh(data, found.box.lo, found.box) if data else None  # type: ignore[arg-type]
            for data in (found.vertices, found.far)
        )
        self.scene.put(found.key, near, far)
        self._shaped[found.key] = found.shaped
        if face_book(self.session.project).models:
            self._stale_things = True
        self.update()

    def paintGL(self) -> None:
        if self.scene is None or self.chunks is None:
            return
        context = self.scene.context
        self.eye = replace(self.eye, height=self.height(), width=self.width())
        ratio = self.devicePixelRatioF()
        frame = context.detect_framebuffer(self.defaultFramebufferObject())
        frame.use()
        context.viewport = (0, 0, round(self.width() * ratio), round(self.height() * ratio))
        context.clear(0, 0, 0, 1, depth=1.0)
        self._bring_up_to_date()
        start = time.perf_counter()
        self.scene.draw_sky(look.rgb("sky top"), look.rgb("sky foot"))
        self._draw_room(self.scene)
        if not self.scene.slow and self.scene.quads_drawn > _MANY_QUADS:
            context.finish()  # only where it may take long is it worth knowing
            self.scene.slow = time.perf_counter() - start > _LATE_S
        if self.scene.slow:
            self.chunks.want_far()
        context.disable(moderngl.DEPTH_TEST | moderngl.BLEND)

    def draw_over(self, painter: QPainter) -> None:
        """What lies over the picture: marks and words."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.scene is not None and self.chunks is not None:
            self._draw_marks(painter)
            return
        painter.fillRect(self.rect(), look.ink("table"))
        painter.setPen(look.ink("soft"))
        text = self.problem or "No voxel room is open"
        painter.drawText(self.rect().adjusted(40, 0, -40, 0),
                         Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)  # fmt: skip

    def _bring_up_to_date(self) -> None:
        assert self.scene is not None and self.chunks is not None
        if self._stale_book:
            self.scene.use_pictures(face_book(self.session.project))
            self._stale_book = False
        self.chunks.work()
        self._refresh_ghost()
        if self._stale_things:
            self._stale_things = False
            self._stand_things()
        if self._stale_cap:
            self._stale_cap = False
            self._make_cap()

    def _stand_things(self) -> None:
        assert self.scene is not None
        shaped = [part for parts in self._shaped.values() for part in parts]
        ghost = self.ghost
        refused = ghost.verdict if ghost.verdict and not ghost.verdict.allowed else None
        colour = look.rgb(hand_colour(self.hand or "left"))
        project, room = self.session.project, self.session.room
        self.scene.stand(instances(project, room, shaped, ghost, refused, colour))

    def _cut(self) -> Cut:
        work = self.session.work
        if work.above == "shown":
            return Cut()
        high = self._cuts_high()
        normal = [0.0, 0.0, 0.0]
        normal[2 - work.axis] = 1.0 if high else -1.0
        level = work.level + 1.0 if high else -float(work.level)
        x, y, z = normal
        return Cut((x, y, z), level + 1e-4, 1 if work.above == "hidden" else 2)

    def _make_cap(self) -> None:
        """The faces that the cut lays open."""
        assert self.scene is not None
        if self._cap is not None:
            self._cap.release()
            self._cap = None
        layer, work = block_layer(self.session.room), self.session.work
        if layer is None or work.above == "shown":
            return
        lo, hi = [0, 0, 0], list(self.session.room.info.size)
        lo[work.axis], hi[work.axis] = work.level, work.level + 1
        box = Box(tuple(lo), tuple(hi))
        book = face_book(self.session.project)
        looks = cubes_only(book, looks_in(layer, box.grown(1)))
        beyond = [slice(None)] * 3
        beyond[work.axis] = slice(2, 3) if self._cuts_high() else slice(0, 1)
        looks[tuple(beyond)] = 0
        quads = mesh(looks, book.faces)
        sides = {0: (0, 1), 1: (4, 2), 2: (3, 5)}[work.axis]
        keep = quads.faces == sides[0 if self._cuts_high() else 1]
        chosen = type(quads)(*(getattr(quads, n)[keep] for n in
                               ("faces", "cells", "sizes", "looks", "corners")))  # fmt: skip
        self._cap = self.scene.mesh(book_vertices(chosen, book), (lo[0], lo[1], lo[2]), box)

    # --- a frame --------------------------------------------------------------------------

    def _draw_room(self, scene: Scene) -> None:
        instead = self._ghost_meshes.get("chunks", {})
        extra = [self._cap] if self._cap is not None else []
        scene.draw_room(self.eye, self._cut(), instead, extra)
        work, size = self.session.work, self.session.room.info.size
        ink = look.rgb("ink")
        scene.draw_lines(self.eye, overlay.floor_lines(size), (*ink, 0.13), through=False)
        if not scene.chunks:  # an empty room shows how large it is
            edges = overlay.box_lines(Box((0, 0, 0), size))
            scene.draw_lines(self.eye, edges, (*ink, 0.22), through=False)
        if self._shows_plane():
            lines = overlay.plane_lines(work, size, self.eye)
            scene.draw_lines(self.eye, lines, (*look.rgb("buoy"), 0.30), through=False)
            scene.draw_lines(self.eye, lines, (*look.rgb("buoy"), 0.07), through=True)
        colour = look.rgb(hand_colour(self.hand or "left"))
        for name, tint in (("laid", (*colour, 0.22)), ("lifted", (*look.rgb("buoy"), 0.42))):
            mesh_ = self._ghost_meshes.get(name)
            if mesh_ is not None:
                scene.draw_wash(self.eye, mesh_, tint)
        if self.ghost.box is not None and self.ghost.box.size:
            edges = overlay.box_lines(self.ghost.box)
            scene.draw_lines(self.eye, edges, (*colour, 0.9), through=False)
            scene.draw_lines(self.eye, edges, (*colour, 0.22), through=True)
        mirrors = overlay.mirror_lines(work, size)
        scene.draw_lines(self.eye, mirrors, (*look.rgb("tidal"), 0.8), through=False)
        scene.draw_lines(self.eye, mirrors, (*look.rgb("tidal"), 0.25), through=True)

    def _shows_plane(self) -> bool:
        work = self.session.work
        return work.aim == "plane" or work.above != "shown"

    def _draw_marks(self, painter: QPainter) -> None:
        view = QRectF(self.rect())
        work = self.session.work
        if self._shows_plane():
            frame = overlay.plane_corners(work, self.session.room.info.size, self.eye)
            overlay.draw_polygon(painter, self.eye, frame, QPen(look.ink("buoy"), 2.2))
        if self._shows_seats:
            overlay.draw_seats(painter, self.eye, self.session)
        overlay.draw_selection(painter, self.eye, self.session)
        overlay.draw_compass(painter, self.eye, view)
        overlay.draw_hint(painter, view)
        gesture = self.session.gesture.kind
        hand = self.hand or "left"
        brush: Any = self.session.in_hand(hand)
        if self.hover is None or brush is None:
            return
        if self.ghost.too_large:
            label(painter, self.hover + QPointF(14, 14), "many cells: shown when laid")
        elif self.ghost.box is not None and (gesture == "box" or brush.kind == "crate"):
            overlay.draw_box_size(painter, self.eye, self.ghost.box, brush.name)
        if self._stage == _RAISING:
            label(painter, self.hover + QPointF(16, 10), "click sets the height · Esc drops it")
        if self.ghost.verdict is not None and self.hand is None:
            overlay.draw_verdict(painter, self.eye, self.session, self.ghost.verdict, view)
        points = self.points_now()
        if hasattr(brush, "soft") and points is not None:
            overlay.draw_radius(painter, self.eye, points, brush, self.full_cells())

    # --- ghost ----------------------------------------------------------------------------

    def points_now(self) -> np.ndarray | None:
        """(n, 3) the pointer's way so far, or where it hovers."""
        if self.points:
            return np.array(self.points)
        if self.hover is None or self.space or self.dragging is not None:
            return None
        at = self.position_at(self.hover)
        return None if at is None else np.array([at])

    def _refresh_ghost(self) -> None:
        assert self.scene is not None and self.chunks is not None
        points = self.points_now()
        if points is None:
            if self.ghost.edit is not None or self.ghost.verdict is not None:
                self.ghost.clear()
                self._show_ghost()
            self._ghost_key = None
            return
        key: object = (self.hand, np.floor(points + 0.5).tobytes(), self.session.gesture)
        if self.session.cell_parts > 1:
            key = (key, points.tobytes())
        if key != self._ghost_key:
            self._ghost_key = key
            self.ghost.show(self.hand or "left", points, self.session.gesture, self.chunks)
            self._show_ghost()

    def _show_ghost(self) -> None:
        assert self.scene is not None
        self._drop_ghost_meshes()
        ghost, scene = self.ghost, self.scene
        self._ghost_meshes["chunks"] = {
            found.key: scene.mesh(found.vertices, found.box.lo, found.box)  # type: ignore[arg-type]
            for found in ghost.chunks
        }
        plain = np.zeros((2, 3), np.uint8)
        for name, quads in (("laid", ghost.laid), ("lifted", ghost.lifted)):
            if quads is not None and ghost.box is not None:
                self._ghost_meshes[name] = scene.mesh(
                    vertices(quads, plain), ghost.corner, ghost.box
                )
        if ghost.things or ghost.gone or ghost.verdict is not None or self._ghost_stood:
            self._stale_things = True
        self._ghost_stood = bool(ghost.things or ghost.gone or ghost.verdict is not None)

    def _drop_ghost_meshes(self) -> None:
        for mesh_ in self._ghost_meshes.pop("chunks", {}).values():
            if mesh_ is not None:
                mesh_.release()
        for name in ("laid", "lifted"):
            mesh_ = self._ghost_meshes.pop(name, None)
            if mesh_ is not None:
                mesh_.release()

    # --- pictures -------------------------------------------------------------------------

    def cell_centre(self, *cell: float) -> QPointF:
        """Where the middle of a cell is seen."""
        y, x, _ = self.eye.seen(np.array([cell], float) + 0.5)[0].tolist()
        return QPointF(x, y)

    def face_centre(self, face: int, *cell: float) -> QPointF:
        """Where the middle of one of its sides is seen."""
        at = np.array(cell, float) + 0.5 + NORMALS[face] * 0.5
        y, x, _ = self.eye.seen(at[None])[0].tolist()
        return QPointF(x, y)

    def settled(self) -> bool:
        """Whether all of the room is on the card."""
        return self.chunks is not None and not self.chunks.busy

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._fit_once()
        QTimer.singleShot(0, self.update)
