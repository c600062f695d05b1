"""Frames of a mesh on the graphics card, in a hidden window."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import moderngl
from PyQt6.QtGui import QOffscreenSurface, QOpenGLContext
from PyQt6.QtWidgets import QApplication

from topion.model.project import Project
from topion.model.room import Room
from topion.render.eye import Eye
from topion.render.volume import CHUNK, boxes_of
from topion.view.voxel.chunks import meshed
from topion.view.voxel.scene import Cut, Scene
from topion.view.voxel.support import QtFunctions, opengl_problem, surface_format

_SIZE = (800, 1280)


@dataclass(frozen=True)
class Frames:
    """Median seconds of a frame in full, of one while the view of a slow card turns, and of one
    that only clears; and the rectangles drawn in the first two."""

    full: float
    turning: float
    clear: float
    rectangles: tuple[int, int]


def frames(project: Project, room: Room) -> Frames | None:
    """None without OpenGL."""
    app = QApplication.instance() or QApplication([])
    if opengl_problem():
        return None
    context = QOpenGLContext()
    context.setFormat(surface_format())
    context.create()
    surface = QOffscreenSurface()
    surface.setFormat(context.format())
    surface.create()
    context.makeCurrent(surface)
    functions = QtFunctions()
    card = moderngl.create_context(require=330, context=functions)  # type: ignore[arg-type]
    scene = Scene(card)
    for box in boxes_of(room.box, CHUNK):
        found = meshed(project, room, box, far=True)
        near, *few = (scene.mesh(data, box.lo, box) for data in (found.vertices, *found.few))  # type: ignore[arg-type]
        scene.put(found.key, near, few)
    target = card.simple_framebuffer((_SIZE[1], _SIZE[0]))
    target.use()
    eye = replace(Eye(), height=_SIZE[0], width=_SIZE[1]).framing(room.box)

    def clear() -> None:
        target.clear(0.9, 0.9, 0.9, 1.0, depth=1.0)
        card.finish()

    def frame(turning: bool) -> float:
        scene.slow = scene.turning = turning
        return _seconds(draw)

    def draw() -> None:
        target.clear(0.9, 0.9, 0.9, 1.0, depth=1.0)
        scene.draw_room(eye, Cut(), {}, [])
        card.finish()

    drawn = []
    for turning in (False, True):
        frame(turning)
        drawn.append(scene.quads_drawn)
    found = [(frame(False), frame(True), _seconds(clear)) for _ in range(9)]
    context.doneCurrent()
    del app
    full, turning, cleared = (statistics.median(column) for column in zip(*found, strict=True))
    return Frames(full, turning, cleared, (drawn[0], drawn[1]))


def _seconds(work: Callable[[], None]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
