"""Anchors 8 and 11: chunks, panned frames, the first paint."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from bench.ratio import Ratio, compared
from bench.weaving import islands
from topion.demo.brinehollow import library
from topion.grid.boxes import Box
from topion.scripting import RoomHandle
from topion.view.app import application
from topion.view.table.camera import Camera
from topion.view.table.chunks import Chunks
from topion.view.table.compose import composed
from topion.weaving.settle import shown_tiles

_BARE = """
import time
t = time.perf_counter()
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow, QWidget
class Bare(QWidget):
    def paintEvent(self, event):
        QTimer.singleShot(0, lambda: (print(time.perf_counter() - t), app.quit()))
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.setCentralWidget(Bare())
window.show()
app.exec()
"""
_OURS = """
import os, sys, time
t = time.perf_counter()
from topion.view.app import Start, application
def seen(self):
    print(time.perf_counter() - t, flush=True)
    os._exit(0)
app = application()
start = Start(None)
start.shell.centralWidget().painted.connect(lambda: seen(start))
app.exec()
"""


_GAPS = """
import os, time
from PyQt6.QtCore import QTimer
from topion.view.app import Start, application
app = application()
start = Start({source!r}, alone=True)
seen, gaps = [time.perf_counter()], []
def tick():
    now = time.perf_counter()
    gaps.append(now - seen[0])
    seen[0] = now
def begin():
    seen[0] = time.perf_counter()
    clock.start(1)
clock = QTimer()
clock.timeout.connect(tick)
start.shell.centralWidget().painted.connect(begin)
def end():
    print(max(gaps), flush=True)
    os._exit(0)
QTimer.singleShot({after_ms}, end)
app.exec()
"""


def large_room() -> RoomHandle:
    """4096² cells in four layers of the demo's tiles."""
    project = library()
    layers = (("Water", "tiles"), ("Ground", "tiles"), ("Cover", "tiles"), ("Pans", "tiles"))
    room = project.add_room("Room", (4096, 4096), 16, layers)  # type: ignore[arg-type]
    cells, data = islands(4096, 6), project.data
    names = ("Water", "Mud", "Salt grass", "Brine pan")
    for i, (_, layer) in enumerate(room.data.bottom_up("tiles")):
        material = np.where(cells > i, data.material_id(names[i]), 0).astype(np.uint16)
        layer.put_planes({"material": material})
        shown_tiles(data, layer)
    return room


def ratios() -> Iterator[Ratio]:
    application()
    room = large_room()
    data = room.project.data
    source = QImage(1280, 800, QImage.Format.Format_ARGB32_Premultiplied)
    source.fill(0x80336699)
    target = QImage(1280, 800, QImage.Format.Format_RGB32)

    def blit() -> None:
        painter = QPainter(target)
        painter.drawImage(0, 0, source)
        painter.end()

    for side in (16, 4):
        cells = 512 // side
        box = Box((2048, 2048), (2048 + cells, 2048 + cells))
        yield compared(
            f"8   a 512 px chunk, four layers, {side} px cells / drawImage",
            lambda b=box, s=side: composed(data, room.data, b, s),
            blit,
            1.1,
            rounds=15,
        )
    chunks = Chunks(data, room.data)
    view = QRectF(0, 0, 1280, 800)
    for zoom, name in ((5, "1"), (2, "1/8"), (0, "1/32")):
        camera = Camera(step=zoom)
        camera.left, camera.top = -2048 * camera.px, -2048 * camera.px
        while not _frame(chunks, camera, view, target):
            pass
        yield compared(
            f"8b  a panned frame, chunks kept, zoom {name} / drawImage",
            lambda c=camera: _frame(chunks, c, view, target),
            blit,
            1.35,
            rounds=31,
        )
    yield _first_paint()
    yield _longest_gap("11  longest gap between events after it, ms", None, 3500, 30.0)
    yield _longest_gap("11  the same while the demo opens", "demo", 20_000, 100.0)


def _frame(chunks: Chunks, camera: Camera, view: QRectF, target: QImage) -> bool:
    painter = QPainter(target)
    done = chunks.paint(painter, camera, view)
    painter.end()
    return done


def _first_paint() -> Ratio:
    times: dict[str, list[float]] = {_BARE: [], _OURS: []}
    for _ in range(7):
        for code, found in times.items():
            found.append(_printed(code))
    ours, bare = (float(np.median(times[code])) for code in (_OURS, _BARE))
    return Ratio("11  first paint / a bare window's", ours / bare, 1.3, ours, bare)


def _longest_gap(name: str, source: str | None, after_ms: int, target: float) -> Ratio:
    code = _GAPS.format(source=source, after_ms=after_ms)
    return Ratio(name, min(_printed(code) * 1e3 for _ in range(5)), target)


def _printed(code: str) -> float:
    """What a process of its own prints that nothing was left for by an earlier one."""
    with tempfile.TemporaryDirectory() as home:
        places = {f"XDG_{name}_HOME": home for name in ("STATE", "CONFIG", "CACHE", "DATA")}
        environment = {**os.environ, **places}
        run = [sys.executable, "-c", code]
        out = subprocess.run(run, capture_output=True, text=True, env=environment, check=True)
    return float(out.stdout.split()[0])
