"""Frames of the voxel view: what the card is given, and what is drawn over it."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import moderngl
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtOpenGLWidgets import QOpenGLWidget

from topion.brushes.kind import SoftEdged
from topion.grid.boxes import Box
from topion.grid.meshing import mesh
from topion.model.light import PLAIN
from topion.model.prefab import Thing
from topion.render.eye import Eye
from topion.render.lighting import lit, rgb_of
from topion.render.vertices import book_vertices, vertices
from topion.render.volume import Shaped, block_layer
from topion.render.wear import wear_of
from topion.render.worn_blocks import dressed, worn_book
from topion.view import settings, style
from topion.view.knobs import Knobs
from topion.view.table.field_marks import draw_refused, field_layers
from topion.view.table.free_places import FreePlaces
from topion.view.table.measure_marks import draw_measure
from topion.view.table.overlay import hand_colour, label
from topion.view.table.region_marks import draw_deep_regions
from topion.view.table.role_marks import draw_roles, draw_threads
from topion.view.voxel import overlay
from topion.view.voxel.chunks import Chunks, Meshed
from topion.view.voxel.conflict_marks import draw_deep_conflicts
from topion.view.voxel.ghost import Ghost
from topion.view.voxel.instances import Lit, instances
from topion.view.voxel.picked_marks import SpacePicked
from topion.view.voxel.pointing import RAISING, Pointing
from topion.view.voxel.scene import ChunkKey, Cut, Mesh, Scene
from topion.view.voxel.support import QtFunctions
from topion.weaving.settle import tiles_in

DETAILS = {"full": 1, "half": 2, "quarter": 4}  # pixels of the window to one of the picture
_MANY_QUADS, _LATE_S = 12_000, 0.03  # a frame with so many that takes so long is late

if TYPE_CHECKING:  # a mix-in of the widget

    class _Widget(Pointing, QOpenGLWidget): ...
else:
    _Widget = object


class Frames(_Widget):
    """Mixed into the table of voxel rooms.  detail : a word of DETAILS; marks and words over the
    picture stay as sharp as the window."""

    ghost: Ghost
    free: FreePlaces
    chunks: Chunks | None
    scene: Scene | None
    picked_marks: SpacePicked
    knobs: Knobs
    _bar_soon: QTimer
    _rests: QTimer

    def start_frames(self) -> None:
        """Nothing is on the card."""
        self.problem = ""
        self.detail = settings.detail()
        self._ghost_key: object = None
        self._ghost_meshes: dict[str, Any] = {}
        self._stale_things = self._stale_cap = self._stale_hull = True
        self._hull: Mesh | None = None  # of the cells that are picked
        self._cap: Mesh | None = None
        self._shaped: dict[ChunkKey, list[Shaped]] = {}
        self._stale_book = self._begins = True
        self._shows_seats = False
        self._ghost_stood = False
        self._drawn_eye: Eye | None = None

    # --- the card -------------------------------------------------------------------------

    def initializeGL(self) -> None:
        try:
            functions: Any = QtFunctions()
            context = moderngl.create_context(require=330, context=functions)
            self.scene = Scene(context)
        except Exception as problem:  # whatever a driver does, flat rooms must go on working
            self.problem = f"This display gives no OpenGL 3.3: {problem}"
            self.scene = None
        self._stale_book = self._begins = True
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
        size = (round(self.width() * ratio), round(self.height() * ratio))
        self.scene.begin_frame(frame, size, DETAILS[self.detail])
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
        self.scene.end_frame(frame, size)
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
            session = self.session
            draw_deep_conflicts(painter, session.room, self.eye, session.spoken_of)
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
        if self._begins:  # the sky and the first chunks, and all else in the next frame
            self._begins = False
            self.update()
            return
        self._refresh_ghost()
        if self._stale_book or self._book_size() != self.scene.pictures_held:
            self._stale_book = False
            self._use_pictures()
        if self._stale_things:
            self._stale_things = not self._stand_things()
            if self._stale_things:
                self.update()
        if self._stale_cap:
            self._stale_cap = False
            self._make_cap()
        if self._stale_hull:
            self._stale_hull = False
            self._make_hull()

    def _use_pictures(self) -> None:
        assert self.scene is not None
        self.scene.use_pictures(worn_book(self.session.project, wear_of(self.session.room)))

    def _stand_things(self) -> bool:
        assert self.scene is not None
        ghost = self.ghost
        shown = {**self._shaped, **{found.key: found.shaped for found in ghost.chunks}}
        shaped = [part for parts in shown.values() for part in parts]
        refused = ghost.verdict if ghost.verdict and not ghost.verdict.allowed else None
        colour = style.rgb(hand_colour(self.hand or "left"))
        project, room, has = self.session.project, self.session.room, self.session.ahead.has
        lit = Lit(frozenset(self.session.picking.entries), self.session.picking.lit_prefabs())
        more = self.session.more_models() if self.session.more_models is not None else ()
        standing = instances(project, room, shaped, ghost, refused, colour, has, lit, more)
        return self.scene.stand(standing)

    def stand_again(self) -> None:
        """Something of what the session adds stands elsewhere: draw it at the next frame."""
        self._stale_things = True

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

    def _middle_of(self, thing: Thing) -> QPointF:
        """Where the middle of the cell of a thing is seen."""
        return self._px_of((thing.z, thing.y, thing.x), 0.8)

    def _px_of(self, at: tuple[float, ...], high: float = 0.5) -> QPointF:
        """Where the middle of a cell is seen, so far above its floor."""
        place = np.array([(at[0] + high, at[1] + 0.5, at[2] + 0.5)])
        y, x, _ = self.eye.near(place)[0].tolist()
        return QPointF(x, y)

    def _draw_marks(self, painter: QPainter) -> None:
        view = QRectF(self.rect())
        work = self.session.planes.here
        if self._shows_plane():
            frame = overlay.plane_corners(work, self.session.room.info.size, self.eye)
            overlay.draw_polygon(painter, self.eye, frame, QPen(style.ink("buoy"), 2.2))
        if self._shows_seats:
            overlay.draw_seats(painter, self.eye, self.session)
        if self.session.hands.asking:
            self.free.ask(Box.of_shape(self.session.room.info.size[-2:]))
            self.free.draw_deep(painter, self.eye)
        else:
            self.free.forget()
        overlay.draw_picked_things(painter, self.eye, self.session)
        if self.session.over is None:
            draw_roles(painter, self.session, None, self._middle_of, self.eye.px)
        draw_threads(painter, self.session, self._middle_of)
        draw_deep_regions(painter, self.session, self.eye.near, self.ghost)
        self.picked_marks.draw(painter, self.hover)
        if self.session.over is None:
            self.knobs.draw(painter)
        self.piece_marks.draw(painter, self.session.room.box, self.hover)
        self.curve_marks.draw(painter, self.ghost.edit)
        if self.session.over is not None:
            self.session.over(painter, self.eye)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.session.field_shows == "refused":
            for layer_id, layer in field_layers(self.session):
                draw_refused(painter, self.session, layer_id, layer, self.seen_at,
                             self.session.room.plan_box)  # fmt: skip
        self.edges.draw(painter, self.hover)
        ends = self.measure_ends()
        if ends is not None:
            first, last = ((at, self._px_of(at)) for at in ends)
            draw_measure(painter, first, last)
        overlay.draw_compass(painter, self.eye, view)
        overlay.draw_hint(painter, view)
        if self.pulls.moves_layer and self.hover is not None:
            label(painter, self.hover + QPointF(14, 14), self.pulls.words()[0])
        refused = self.pulls.verdict()
        if refused is not None:
            overlay.draw_verdict(painter, self.eye, self.session, refused, view)
        self._draw_stroke_marks(painter, view)

    def _draw_stroke_marks(self, painter: QPainter, view: QRectF) -> None:
        """What is told of the stroke that a press would lay, or that is in progress."""
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
        if kept := self.session.kept_words(self.ghost.edit):
            label(painter, self.hover + QPointF(14, 58), kept)
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
        if self.session.gestures.picking or self.session.hands.shifting or self.pulls.moves_layer:
            return None
        at = self.position_at(self.hover)
        return None if at is None else np.array([at])

    def _refresh_ghost(self) -> None:
        assert self.scene is not None and self.chunks is not None
        points = self.points_now()
        shown = self.pulls.edit if self.pulls.edit is not None else self.session.preview
        if shown is not None:
            if shown != self._ghost_key:
                self._ghost_key = shown
                self.ghost.show_edit(shown, self.chunks)
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
