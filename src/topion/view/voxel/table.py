"""The table of voxel rooms: an OpenGL view in which strokes are laid in three dimensions."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import moderngl
import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QCursor, QPainter, QPaintEvent, QPen, QShowEvent
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from topion.brushes.kind import SoftEdged
from topion.grid.boxes import Box
from topion.grid.meshing import mesh
from topion.grid.orient import NORMALS
from topion.model.edit import Dirty
from topion.model.light import PLAIN
from topion.render.eye import Eye
from topion.render.lighting import lit, rgb_of
from topion.render.vertices import book_vertices, vertices
from topion.render.volume import Shaped, block_layer
from topion.render.wear import wear_of
from topion.render.worn_blocks import dressed, worn_book
from topion.view import style
from topion.view.lasso import Lasso
from topion.view.pulls import Pulls
from topion.view.session import Session
from topion.view.table.overlay import hand_colour, label
from topion.view.table.piece_bar import PieceBar
from topion.view.voxel import overlay
from topion.view.voxel.chunks import Chunks, Meshed
from topion.view.voxel.edges import SpaceEdges
from topion.view.voxel.ghost import Ghost
from topion.view.voxel.instances import Lit, instances
from topion.view.voxel.picked_marks import SpacePicked
from topion.view.voxel.piece_marks import SpaceMarks
from topion.view.voxel.pointing import RAISING, Pointing
from topion.view.voxel.scene import ChunkKey, Cut, Mesh, Scene
from topion.view.voxel.support import QtFunctions, surface_format
from topion.view.voxel.views import Views
from topion.weaving.looms import MadeOf, made_of
from topion.weaving.settle import tiles_in

_REST_MS = 160
_MANY_QUADS, _LATE_S = 12_000, 0.03  # a frame with so many that takes so long is late


class _Over(QWidget):
    """Marks and words over the picture; lets every click through."""

    def __init__(self, table: VoxelTable) -> None:
        super().__init__(table)
        self._table = table
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.resize(table.size())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self._table.draw_over(QPainter(self))


class VoxelTable(Views, Pointing, QOpenGLWidget):
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
        self._fitted = False
        self._stale_things = self._stale_cap = self._stale_hull = True
        self._hull: Mesh | None = None  # of the cells that are picked
        self._cap: Mesh | None = None
        self._shaped: dict[ChunkKey, list[Shaped]] = {}
        self._stale_book = True
        self._shows_seats = False
        self._room_box: tuple[int, ...] = ()
        self._origin: tuple[int, ...] = (0, 0, 0)
        self._ghost_stood = False
        self._made: MadeOf | None = None  # what the shown blocks were woven by
        self._drawn_eye: Eye | None = None
        self._rests = QTimer(self)  # runs out when the view has stood still for a moment
        self._rests.setSingleShot(True)
        self._rests.setInterval(_REST_MS)
        self._rests.timeout.connect(self.update)
        self.start_strokes()
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
        self.pulls, self.lasso = Pulls(session), Lasso(session)
        self.piece_marks = SpaceMarks(session, lambda: self.eye, self.pulls)
        self.picked_marks = SpacePicked(session, self.lasso, self.piece_marks)
        self.edges = SpaceEdges(session, lambda: self.eye)
        session.picking.changed.connect(self._on_picked)
        self.bar.use(session)
        session.changed.connect(self._on_changed)
        session.room_changed.connect(self.open_room)
        session.planes.changed.connect(self._on_work)
        for signal in (session.hands.changed, session.gestures.changed, session.hands.mode_changed,
                       session.picked.changed, session.pieces.changed):  # fmt: skip
            signal.connect(self.stale_ghost)
        session.ahead.made.connect(self._on_made)
        self.open_room()

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
        if self.is_at_work and self.session.gestures.picking and self.pulls.now is None:
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

    def _fit_once(self) -> None:
        if self.ready and self.isVisible() and not self._fitted:
            self._fitted = True
            self.fit()

    def toggle_seats(self) -> None:
        """Show where each thing is seated, and how high it reaches."""
        self._shows_seats = not self._shows_seats
        self.update()

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
        near, *few = (
            self.scene.mesh(data, found.box.lo, found.box)  # type: ignore[arg-type]
            for data in (found.vertices, *found.few)
        )
        self.scene.put(found.key, near, few)
        if found.shaped or self._shaped.get(found.key):
            self._stale_things = True
        self._stale_book |= self._book_size() != self.scene.pictures_held
        self._shaped[found.key] = found.shaped
        self.update()

    def _book_size(self) -> int:
        """How many pictures faces show; it grows as tints are met."""
        return len(worn_book(self.session.project, wear_of(self.session.room)).pictures)

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
        self.scene.turning = self._drawn_eye not in (None, self.eye)
        if self._drawn_eye != self.eye:
            self._bar_soon.start()
        self._drawn_eye = self.eye
        if self.scene.turning and self.scene.slow:
            self._rests.start()
        self._draw_sky(self.scene)
        self._draw_room(self.scene)
        if not self.scene.slow and self.scene.quads_drawn > _MANY_QUADS:
            context.finish()  # only where it may take long is it worth knowing
            self.scene.slow = time.perf_counter() - start > _LATE_S
        if self.scene.slow:
            self.chunks.want_far()
        context.disable(moderngl.DEPTH_TEST | moderngl.BLEND)

    def _draw_sky(self, scene: Scene) -> None:
        """The sky of the room's light; for the plain one, that of the window."""
        info = self.session.room.info
        scene.light, scene.size = lit(info.light), info.size
        if info.light == PLAIN:
            scene.draw_sky(style.rgb("sky top"), style.rgb("sky foot"))
        else:
            above, below = (tuple(rgb_of(c)) for c in (info.light.above, info.light.below))
            scene.draw_sky(above, below)

    def draw_over(self, painter: QPainter) -> None:
        """What lies over the picture: marks and words."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.scene is not None and self.chunks is not None:
            self._draw_marks(painter)
            return
        painter.fillRect(self.rect(), style.ink("table"))
        painter.setPen(style.ink("soft"))
        text = self.problem or "No voxel room is open"
        painter.drawText(self.rect().adjusted(40, 0, -40, 0),
                         Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)  # fmt: skip

    def _bring_up_to_date(self) -> None:
        assert self.scene is not None and self.chunks is not None
        if self._stale_book:
            self._stale_book = False
            self._use_pictures()
        self.chunks.work()
        self._refresh_ghost()
        if self._stale_book or self._book_size() != self.scene.pictures_held:
            self._stale_book = False
            self._use_pictures()
        if self._stale_things:
            self._stale_things = False
            self._stand_things()
        if self._stale_cap:
            self._stale_cap = False
            self._make_cap()
        if self._stale_hull:
            self._stale_hull = False
            self._make_hull()

    def _use_pictures(self) -> None:
        assert self.scene is not None
        self.scene.use_pictures(worn_book(self.session.project, wear_of(self.session.room)))

    def _stand_things(self) -> None:
        assert self.scene is not None
        ghost = self.ghost
        shown = {**self._shaped, **{found.key: found.shaped for found in ghost.chunks}}
        shaped = [part for parts in shown.values() for part in parts]
        refused = ghost.verdict if ghost.verdict and not ghost.verdict.allowed else None
        colour = style.rgb(hand_colour(self.hand or "left"))
        project, room, has = self.session.project, self.session.room, self.session.ahead.has
        lit = Lit(frozenset(self.session.picking.entries), self.session.picking.lit_prefabs())
        self.scene.stand(instances(project, room, shaped, ghost, refused, colour, has, lit))

    def _make_hull(self) -> None:
        """The wash over the cells that are picked."""
        assert self.scene is not None
        if self._hull is not None:
            self._hull.release()
            self._hull = None
        found = self.picked_marks.hull() if self.session.has_room else None
        if found is not None:
            area, quads = found
            z, y, x = area.box.lo
            plain = np.zeros((2, 3), np.uint8)
            self._hull = self.scene.mesh(vertices(quads, plain), (z, y, x), area.box)

    def _cut(self) -> Cut:
        work = self.session.planes.here
        if work.above == "shown":
            return Cut()
        high = self.cuts_high()
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
        layer, work = block_layer(self.session.room), self.session.planes.here
        if layer is None or work.above == "shown":
            return
        lo, hi = [0, 0, 0], list(self.session.room.info.size)
        lo[work.axis], hi[work.axis] = work.level, work.level + 1
        box = Box(tuple(lo), tuple(hi))
        project, wear = self.session.project, wear_of(self.session.room)
        around = box.grown(1)
        book, looks = dressed(project, wear, around, tiles_in(project, layer, around))
        beyond = [slice(None)] * 3
        beyond[work.axis] = slice(2, 3) if self.cuts_high() else slice(0, 1)
        looks[tuple(beyond)] = 0
        quads = mesh(looks, book.faces, repeats=book.repeats(layer.from_origin(box.lo)))
        sides = {0: (0, 1), 1: (4, 2), 2: (3, 5)}[work.axis]
        keep = quads.faces == sides[0 if self.cuts_high() else 1]
        chosen = type(quads)(*(getattr(quads, n)[keep] for n in
                               ("faces", "cells", "sizes", "looks", "corners")))  # fmt: skip
        self._cap = self.scene.mesh(book_vertices(chosen, book), (lo[0], lo[1], lo[2]), box)

    # --- a frame --------------------------------------------------------------------------

    def _draw_room(self, scene: Scene) -> None:
        instead = self._ghost_meshes.get("chunks", {})
        extra = [self._cap] if self._cap is not None else []
        scene.draw_room(self.eye, self._cut(), instead, extra)
        work, size = self.session.planes.here, self.session.room.info.size
        ink = style.rgb("ink")
        scene.draw_lines(self.eye, overlay.floor_lines(size), (*ink, 0.13), through=False)
        if not scene.chunks:  # an empty room shows how large it is
            edges = overlay.box_lines(Box((0, 0, 0), size))
            scene.draw_lines(self.eye, edges, (*ink, 0.22), through=False)
        if self._shows_plane():
            lines = overlay.plane_lines(work, size, self.eye)
            scene.draw_lines(self.eye, lines, (*style.rgb("buoy"), 0.30), through=False)
            scene.draw_lines(self.eye, lines, (*style.rgb("buoy"), 0.07), through=True)
        colour = style.rgb(hand_colour(self.hand or "left"))
        for name, tint in (("laid", (*colour, 0.22)), ("lifted", (*style.rgb("buoy"), 0.42))):
            mesh_ = self._ghost_meshes.get(name)
            if mesh_ is not None:
                scene.draw_wash(self.eye, mesh_, tint)
        if self.ghost.box is not None and self.ghost.box.size:
            edges = overlay.box_lines(self.ghost.box)
            scene.draw_lines(self.eye, edges, (*colour, 0.9), through=False)
            scene.draw_lines(self.eye, edges, (*colour, 0.22), through=True)
        if self._hull is not None:
            scene.draw_wash(self.eye, self._hull, (*style.rgb("buoy"), 0.24))
        if self.ghost.grown is not None:
            edges = overlay.box_lines(self.ghost.grown)
            scene.draw_lines(self.eye, edges, (*style.rgb("tidal"), 0.95), through=True)
        mirrors = overlay.mirror_lines(work, size)
        scene.draw_lines(self.eye, mirrors, (*style.rgb("tidal"), 0.8), through=False)
        scene.draw_lines(self.eye, mirrors, (*style.rgb("tidal"), 0.25), through=True)

    def _shows_plane(self) -> bool:
        work = self.session.planes.here
        return work.aim == "plane" or work.above != "shown"

    def _draw_marks(self, painter: QPainter) -> None:
        view = QRectF(self.rect())
        work = self.session.planes.here
        if self._shows_plane():
            frame = overlay.plane_corners(work, self.session.room.info.size, self.eye)
            overlay.draw_polygon(painter, self.eye, frame, QPen(style.ink("buoy"), 2.2))
        if self._shows_seats:
            overlay.draw_seats(painter, self.eye, self.session)
        overlay.draw_picked_things(painter, self.eye, self.session)
        self.picked_marks.draw(painter, self.hover)
        self.piece_marks.draw(painter, self.session.room.box, self.hover)
        self.edges.draw(painter, self.hover)
        overlay.draw_compass(painter, self.eye, view)
        overlay.draw_hint(painter, view)
        refused = self.pulls.verdict()
        if refused is not None:
            overlay.draw_verdict(painter, self.eye, self.session, refused, view)
        gesture = self.session.gestures.now.kind
        hand = self.hand or "left"
        brush = self.session.hands.in_hand(hand)
        if self.hover is None or brush is None:
            return
        if self.ghost.large is not None:
            overlay.draw_large(painter, self.eye, *self.ghost.large)
        if self.ghost.too_large:
            label(painter, self.hover + QPointF(14, 14), "many cells: shown when laid")
        elif self.ghost.box is not None and (gesture == "box" or brush.boxed):
            overlay.draw_box_size(painter, self.eye, self.ghost.box, brush.name)
        if self.ghost.grown is not None:
            depth, height, width = self.ghost.grown.shape
            words = f"room grows to {width} × {height} × {depth}"
            label(painter, self.hover + QPointF(16, 34), words)
        if self.stage == RAISING:
            label(painter, self.hover + QPointF(16, 10), "click sets the height · Esc drops it")
        if self.ghost.verdict is not None and self.hand is None:
            overlay.draw_verdict(painter, self.eye, self.session, self.ghost.verdict, view)
        points = self.points_now()
        stamp = None if points is None else self.ghost.stamp_box(hand, points)
        if stamp is not None and self.hand is None:
            overlay.draw_axes(painter, self.eye, stamp)
        if isinstance(brush, SoftEdged) and points is not None:
            overlay.draw_radius(painter, self.eye, points, brush, self.full_cells())

    # --- ghost ----------------------------------------------------------------------------

    def points_now(self) -> np.ndarray | None:
        """(n, 3) the pointer's way so far, or where it hovers."""
        if self.points:
            return np.array(self.points)
        if self.anchored_at is not None:
            return np.array([self.anchored_at])
        if self.hover is None or self.space or self.dragging is not None:
            return None
        if self.session.gestures.picking:
            return None
        at = self.position_at(self.hover)
        return None if at is None else np.array([at])

    def _refresh_ghost(self) -> None:
        assert self.scene is not None and self.chunks is not None
        points = self.points_now()
        if self.pulls.edit is not None:
            if self.pulls.edit != self._ghost_key:
                self._ghost_key = self.pulls.edit
                self.ghost.show_edit(self.pulls.edit, self.chunks)
                self._show_ghost()
            return
        if points is None:
            if self.ghost.edit is not None or self.ghost.verdict is not None:
                self.ghost.clear()
                self._show_ghost()
            self._ghost_key = None
            return
        key: object = (self.hand, np.floor(points + 0.5).tobytes(), self.session.gestures.now)
        if self.session.hands.cell_parts > 1:
            key = (key, points.tobytes())
        if key != self._ghost_key:
            self._ghost_key = key
            self.ghost.show(self.hand or "left", points, self.session.gestures.now, self.chunks)
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
        stands = bool(ghost.things or ghost.gone or ghost.verdict is not None) or any(
            found.shaped or self._shaped.get(found.key) for found in ghost.chunks
        )
        if stands or self._ghost_stood:
            self._stale_things = True
        self._ghost_stood = stands

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
