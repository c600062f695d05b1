"""What a walk draws over the room: live things, the way so far, the figure, threads, words."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF

from topion.model.prefab import Prefab, Thing
from topion.model.solid import VoxelModel
from topion.render.eye import Eye
from topion.render.volume import shape_of, thing_matrix
from topion.roles import Door, Pickup
from topion.roles.kind import Edges
from topion.view import style
from topion.view.table.camera import Camera
from topion.view.table.overlay import label
from topion.view.table.role_marks import draw_thread
from topion.view.walk.pictures import (
    draw_figure,
    draw_figure_as,
    draw_thing,
    figure_model,
    picture_of_thing,
    sent_mark,
    thing_moved,
)
from topion.view.walk.run import WalkRun
from topion.walk.stage import Actor, Stage
from topion.walk.state import Now, Sent, State

Placed = tuple[VoxelModel, NDArray[np.float64], NDArray[np.float64]]
_TRAIL = 600  # ticks of the way so far
_DOT_EVERY = 4
_OPEN = 0.4  # of a door that opened and has no picture of that


class StageView:
    """things : of the real room, by (layer id, number).  lit : the key of a thing that is pointed
    at in the list."""

    def __init__(self, run: WalkRun) -> None:
        self.run = run
        self.lit: tuple[str, int] | None = None
        self._reach: tuple[Stage | None, float] = (None, 0.0)

    # --- what all share -------------------------------------------------------------------

    def _thing(self, state: State, actor: Actor) -> Thing | None:
        layer = state.world.room(state.room).layers.get(actor.key[0])
        return layer.things.get(actor.key[1]) if layer is not None else None

    def _cells(self, state: State, now: Now) -> tuple[float, float, float]:
        cell = state.world.scale.cell
        return now.z / cell, now.y / cell, now.x / cell

    def stage(self) -> Stage:
        """Of the room it is in now."""
        state = self.run.now
        return state.world.stage(state.room)

    # --- flat rooms -----------------------------------------------------------------------

    def draw_flat(self, painter: QPainter, camera: Camera) -> None:
        """Over the table of a flat room."""
        state, stage = self.run.now, self.stage()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        for place in stage.near.near(self._seen(painter, camera, state, stage)):
            self._draw_actor(painter, camera, state, stage.actors[place], state.lives[place])
        for sent in state.sent:
            self._draw_sent(painter, camera, state, sent)
        self._draw_trail(painter, camera, state, stage)
        self._draw_threads(painter, camera, state, stage)
        box = self.figure_box(camera)
        moved = self.run.at > 0 and self.run.states[self.run.at - 1].x != state.x
        air = stage.view == "side" and not state.ground and not state.climbs
        prefab = self._looks_of_figure(state)
        if prefab is not None:
            draw_figure_as(painter, box, prefab, camera.zoom, state.looks, state.tick,
                           over=state.over, walks=moved and not air)  # fmt: skip
        else:
            draw_figure(painter, box, state.looks, state.tick, over=state.over, walks=moved,
                        air=air)  # fmt: skip
        self._draw_pointer(painter, box)

    @staticmethod
    def _looks_of_figure(state: State) -> Prefab | None:
        """The prefab that the figure is drawn as; None for a plain one."""
        return state.world.project.prefabs.get(state.world.figure.looks)

    def _seen(self, painter: QPainter, camera: Camera, state: State, stage: Stage) -> Edges:
        """In which box, in units, things stand that can be seen."""
        if self._reach[0] is not stage:
            self._reach = (stage, self._widest(state, stage))
        rect, far = painter.clipBoundingRect(), self._reach[1] / camera.cell_px + 1
        left, top = (rect.left() - camera.left) / camera.px, (rect.top() - camera.top) / camera.px
        wide, high = rect.width() / camera.px, rect.height() / camera.px
        units = state.world.scale.units
        return (
            units(left - far),
            units(top - far),
            units(left + wide + far),
            units(top + high + far),
        )

    def _widest(self, state: State, stage: Stage) -> float:
        """px that pictures of things of the room reach at most."""
        prefabs, widest = state.world.project.prefabs, 0.0
        for actor in stage.actors:
            thing, prefab = self._thing(state, actor), prefabs.get(actor.prefab)
            if thing is not None and prefab is not None:
                widest = max(widest, max(prefab.picture.size_px) * thing.scale)
        return widest

    def _point(self, state: State, x: float, y: float) -> tuple[float, float]:
        cell = state.world.scale.cell
        return y / cell, x / cell

    def figure_box(self, camera: Camera) -> QRectF:
        """Where the figure is seen; standing up also where the room is seen from above."""
        state, stage, scale = self.run.now, self.stage(), self.run.now.world.scale
        wide, high = state.world.sizes(stage.view)
        top, left = self._point(state, state.x, state.y)
        box = camera.rect_of(top, left, top + high / scale.cell, left + wide / scale.cell)
        if stage.view == "top":
            box.setTop(box.bottom() - scale.high / scale.cell * camera.px)
        return box

    def _draw_actor(
        self, painter: QPainter, camera: Camera, state: State, actor: Actor, now: Now
    ) -> None:
        thing = self._thing(state, actor)
        prefab = state.world.project.prefabs.get(actor.prefab)
        if thing is None or prefab is None:
            return
        _, y, x = self._cells(state, now)
        if now.gone:
            if isinstance(actor.role, Pickup) and now.since:
                self._draw_taken(
                    painter, camera.rect_of(thing.y, thing.x, thing.y + 1, thing.x + 1)
                )
            return
        picture = picture_of_thing(prefab, actor, now, state.tick)
        open_ = isinstance(actor.role, Door) and now.on and prefab.frame_set("open") is None
        painter.setOpacity(_OPEN if open_ and actor.when.all_of else 1.0)
        rect = draw_thing(painter, camera, prefab, thing, picture, (y, x), now.way < 0)
        painter.setOpacity(1.0)
        if actor.key == self.lit:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(style.ink("buoy"), 2))
            painter.drawRoundedRect(rect.adjusted(-3, -3, 3, 3), 4, 4)

    def _draw_sent(self, painter: QPainter, camera: Camera, state: State, sent: Sent) -> None:
        """What an emitter sent out: the picture of its prefab."""
        y, x = self._point(state, sent.x, sent.y)
        name = getattr(self.stage().actors[sent.by].role, "sends", "")
        prefab = state.world.project.prefabs.get(name)
        if prefab is None:
            sent_mark(painter, camera.rect_of(y, x, 0, 0).topLeft(), camera.px)
            return
        thing = Thing(name, y - 0.5, x - 0.5)
        draw_thing(painter, camera, prefab, thing, prefab.picture, (0.0, 0.0), False)

    def _draw_taken(self, painter: QPainter, rect: QRectF) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("card"), 1.6, Qt.PenStyle.DotLine))
        side = min(rect.width(), rect.height()) * 0.8
        ring = QRectF(0, 0, side, side)
        ring.moveCenter(rect.center())
        painter.drawEllipse(ring)
        painter.setPen(QPen(style.ink("card"), 1.8))
        middle = rect.center()
        tick = (QPointF(-0.2, 0), QPointF(-0.04, 0.17), QPointF(0.24, -0.18))
        painter.drawPolyline(QPolygonF([middle + point * side for point in tick]))

    def _draw_trail(self, painter: QPainter, camera: Camera, state: State, stage: Stage) -> None:
        """Dots where its feet were."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        first = max(0, self.run.at - _TRAIL)
        for at in range(self.run.at - 1, first, -_DOT_EVERY):
            before = self.run.states[at]
            if before.room != state.room:
                break
            _, y, x = before.place()
            point = camera.rect_of(
                y + (1 if stage.view == "side" else 0.9), x + 0.5, 0, 0
            ).topLeft()
            alpha = 40 + 190 * (at - first) // max(1, self.run.at - first)
            painter.setBrush(style.ink("card", alpha))
            painter.drawEllipse(point, 2.6, 2.6)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _draw_threads(self, painter: QPainter, camera: Camera, state: State, stage: Stage) -> None:
        """From each thing that waits to what it waits for, where either is pointed at."""
        for actor in stage.actors:
            for condition in actor.when.all_of:
                for number in getattr(condition, "things", tuple)():
                    other = stage.actor_numbered(number)
                    if other is not None and self.lit in (actor.key, other.key):
                        draw_thread(painter, self._middle(camera, state, actor),
                                          self._middle(camera, state, other))  # fmt: skip

    def _middle(self, camera: Camera, state: State, actor: Actor) -> QPointF:
        home = actor.home
        y, x = self._point(state, (home[0] + home[2]) / 2, (home[1] + home[3]) / 2)
        return camera.rect_of(y, x, 0, 0).topLeft()

    @staticmethod
    def _draw_pointer(painter: QPainter, box: QRectF) -> None:
        """A small mark over its head."""
        at = QPointF(box.center().x(), box.top() - 8)
        path = QPainterPath(at)
        for by in (QPointF(-5, -8), QPointF(5, -8)):
            path.lineTo(at + by)
        path.closeSubpath()
        painter.setPen(QPen(style.ink("card"), 1.4))
        painter.setBrush(style.ink("buoy"))
        painter.drawPath(path)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    # --- voxel rooms ----------------------------------------------------------------------

    def models(self) -> list[Placed]:
        """The figure and the live things of a voxel room as models in their places."""
        state, stage = self.run.now, self.stage()
        project = state.world.project
        found: list[Placed] = []
        for actor, now in zip(stage.actors, state.lives, strict=True):
            thing, prefab = self._thing(state, actor), project.prefabs.get(actor.prefab)
            if thing is None or prefab is None or now.gone:
                continue
            model = shape_of(project, prefab)
            moved = thing_moved(thing, self._cells(state, now))
            found.append((model, *thing_matrix(prefab, model, moved)))
        return [*found, self._figure_placed(state)]

    def _figure_placed(self, state: State) -> Placed:
        prefab = self._looks_of_figure(state)
        own = prefab.model if prefab is not None else None
        model = own if own is not None else figure_model(state.world.figure)
        scale = state.world.scale
        matrix: Any = np.diag([1.0, 1.0, float(state.looks)]) / model.per_cell
        wide = scale.wide / scale.cell
        middle = np.array([0.0, model.size[1] / 2, model.size[2] / 2])
        foot = np.array([state.z / scale.cell, state.y / scale.cell + wide / 2,
                         state.x / scale.cell + wide / 2])  # fmt: skip
        return model, matrix, foot - matrix @ middle

    def draw_deep(self, painter: QPainter, eye: Eye) -> None:
        """Words over a voxel room: where the figure is."""
        state = self.run.now
        z, y, x = state.place()
        high = state.world.figure.high
        at = np.array([[z + high + 0.3, y + 0.5, x + 0.5]])
        top, left, _ = eye.near(at)[0].tolist()
        self._draw_pointer(painter, QRectF(left - 1, top + 8, 2, 2))
        if state.news:
            label(painter, QPointF(left + 12, top - 12), state.news[-1])
