"""Whether this display can show voxel rooms, and with which format."""

from __future__ import annotations

import importlib.util

from PyQt6.QtGui import QOffscreenSurface, QOpenGLContext, QSurfaceFormat

WANTED = (3, 3)


def surface_format() -> QSurfaceFormat:
    wanted = QSurfaceFormat()
    wanted.setVersion(*WANTED)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(24)
    wanted.setSamples(0)
    return wanted


def opengl_problem() -> str:
    """What is missing for voxel rooms, in a sentence; nothing if all is there."""
    if importlib.util.find_spec("moderngl") is None:
        return "Voxel rooms need the Python package moderngl, which is not installed."
    context = QOpenGLContext()
    context.setFormat(surface_format())
    if not context.create():
        return "Voxel rooms need OpenGL 3.3, and this display offers no OpenGL at all."
    surface = QOffscreenSurface()
    surface.setFormat(context.format())
    surface.create()
    if not context.makeCurrent(surface):
        return "Voxel rooms need OpenGL 3.3, and its context cannot be used on this display."
    found = context.format().version()
    context.doneCurrent()
    if found < WANTED:
        return f"Voxel rooms need OpenGL 3.3, and this display offers {found[0]}.{found[1]}."
    return ""
