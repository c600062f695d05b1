"""Frames of a mesh on the graphics card, in a hidden window."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import replace

import moderngl
import numpy as np
from PyQt6.QtGui import QOffscreenSurface, QOpenGLContext
from PyQt6.QtWidgets import QApplication

from topion.grid.boxes import Box
from topion.grid.meshing import mesh
from topion.render.eye import Eye
from topion.render.vertices import vertices
from topion.render.volume import CHUNK, boxes_of
from topion.view.voxel.scene import Cut, Scene
from topion.view.voxel.support import QtFunctions, opengl_problem, surface_format

_SIZE = (800, 1280)


def frames(full: np.ndarray, looks: np.ndarray) -> tuple[float, float, int] | None:
    """Median seconds of a frame and of one that only clears, and rectangles drawn in a frame;
    None without OpenGL."""
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
    rgb = np.linspace(60, 200, 3 * len(looks)).reshape(-1, 3).astype(np.uint8)
    side = full.shape[0] - 2
    for box in boxes_of(Box.of_shape((side,) * 3), CHUNK):
        part = full[tuple(slice(a, b + 2) for a, b in zip(box.lo, box.hi, strict=True))]
        quads = mesh(np.ascontiguousarray(part), looks)
        scene.put(box.lo, scene.mesh(vertices(quads, rgb), box.lo, box))  # type: ignore[arg-type]
    target = card.simple_framebuffer((_SIZE[1], _SIZE[0]))
    target.use()
    eye = replace(Eye(), height=_SIZE[0], width=_SIZE[1]).framing(Box.of_shape((side,) * 3))

    def clear() -> None:
        target.clear(0.9, 0.9, 0.9, 1.0, depth=1.0)
        card.finish()

    def frame() -> None:
        target.clear(0.9, 0.9, 0.9, 1.0, depth=1.0)
        scene.draw_room(eye, Cut(), {}, [])
        card.finish()

    frame()
    found = [(_seconds(frame), _seconds(clear)) for _ in range(9)]
    drawn = scene.quads_drawn
    context.doneCurrent()
    del app
    ours, anchor = (statistics.median(column) for column in zip(*found, strict=True))
    return ours, anchor, drawn


def _seconds(work: Callable[[], None]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
