"""Whether this display can show voxel rooms, and with which format."""

from __future__ import annotations

import ctypes
import importlib.util
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QGuiApplication, QOffscreenSurface, QOpenGLContext, QSurfaceFormat

WANTED = (3, 3)
# Of the header of OpenGL, for what moderngl does not offer
_TEXTURE_2D_ARRAY, _MAX_LEVEL = 0x8C1A, 0x813D
_RGBA, _RGBA8, _UNSIGNED_BYTE = 0x1908, 0x8058, 0x1401
_WITHOUT_OPENGL = ("offscreen", "minimal", "linuxfb", "vnc")  # Qt shows no OpenGL widgets there


def surface_format() -> QSurfaceFormat:
    """The OpenGL that the voxel table asks for."""
    wanted = QSurfaceFormat()
    wanted.setVersion(*WANTED)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(24)
    wanted.setSamples(0)
    return wanted


class QtFunctions:
    """Gives moderngl the functions of the context Qt made, whatever kind of display it is on."""

    def load_opengl_function(self, name: str) -> int:
        context = QOpenGLContext.currentContext()
        found = context.getProcAddress(name.encode()) if context is not None else None
        return int(found) if found is not None else 0

    def __enter__(self) -> QtFunctions:
        return self

    def __exit__(self, *_: object) -> None:
        """Qt makes contexts current and lets them go."""

    def release(self) -> None:
        """The context is Qt's own."""


def upload_smaller(texture: Any, levels: list[NDArray[np.uint8]]) -> None:
    """Put the smaller pictures of an array texture on the card.  levels : (n, h, w, 4) each half as
    high and wide as the one before.  Needs a current context.  (OpenGL can make them itself, which
    takes a quarter of a second in software.)"""
    _gl("glBindTexture", "ui", _TEXTURE_2D_ARRAY, texture.glo)
    for level, pixels in enumerate(levels, 1):
        count, height, width, _ = pixels.shape
        _gl("glTexImage3D", "uiiiiiiuup", _TEXTURE_2D_ARRAY, level, _RGBA8, width, height, count,
            0, _RGBA, _UNSIGNED_BYTE, np.ascontiguousarray(pixels).ctypes.data)  # fmt: skip
    _gl("glTexParameteri", "uui", _TEXTURE_2D_ARRAY, _MAX_LEVEL, len(levels))


def _gl(name: str, kinds: str, *values: int) -> None:
    """Call a function of the current context.  kinds : u unsigned, i int, p pointer, each value."""
    types = {"u": ctypes.c_uint, "i": ctypes.c_int, "p": ctypes.c_void_p}
    made = ctypes.CFUNCTYPE(None, *(types[kind] for kind in kinds))
    made(QtFunctions().load_opengl_function(name))(*values)


@lru_cache(maxsize=1)
def opengl_problem() -> str:
    """What is missing for voxel rooms, in a sentence; nothing if all is there.  The first time is
    slow: it loads the driver, which is kept from then on."""
    if importlib.util.find_spec("moderngl") is None:
        return "Voxel rooms need the Python package moderngl, which is not installed."
    if QGuiApplication.platformName() in _WITHOUT_OPENGL:
        name = QGuiApplication.platformName()
        return f"Voxel rooms need OpenGL 3.3, which the display platform “{name}” does not offer."
    context = QOpenGLContext(QGuiApplication.instance())
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
