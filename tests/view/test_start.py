"""What is seen first waits for nothing heavy."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

_FIRST = """
import os, sys
from topion.view.app import Curtain
def first(self, event):
    heavy = ("numpy", "scipy", "PIL", "pathlib", "topion.brushes", "topion.view.window")
    print([name for name in heavy if name in sys.modules], flush=True)
    os._exit(0)
Curtain.paintEvent = first
from topion.view import app
app.run(None)
"""
_COMMAND = """
import sys
from topion.view import app
app.run = lambda source: print([name for name in ("numpy", "PIL") if name in sys.modules])
from topion.cli import main
main(["open"])
"""
_BUSY = """
import os, time
from PyQt6.QtCore import QObject, QTimer, Qt, pyqtSignal
from topion.view.app import application
from topion.view.tasks import Worker, give_way
app, steps = application(), []
give_way()
worker = Worker(lambda step: [steps.append(step("")) for _ in range(10**9)], "Counting")
def busy():
    idle = len(steps)
    time.sleep(0.01)  # in which a step that was under way ends
    before = len(steps)
    time.sleep(0.08)  # as a long click would take, without what it would do
    print(idle > 1000, len(steps) - before, flush=True)
    os._exit(0)
class Clicked(QObject):
    it = pyqtSignal()
clicked = Clicked()
clicked.it.connect(busy, Qt.ConnectionType.QueuedConnection)
worker.begin()
QTimer.singleShot(300, clicked.it.emit)
app.exec()
"""


def _printed(code: str, home: Path) -> str:
    places = {f"XDG_{name}_HOME": str(home / name) for name in ("STATE", "CONFIG", "CACHE")}
    environment = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen"}
    run = [sys.executable, "-c", code]
    return subprocess.run(run, env=environment, capture_output=True, text=True).stdout.strip()


def test_something_is_seen_before_anything_heavy_is_loaded(tmp_path: Path) -> None:
    assert _printed(_FIRST, tmp_path) == "[]"


def test_the_command_that_opens_a_window_loads_nothing_heavy_before_it(tmp_path: Path) -> None:
    assert _printed(_COMMAND, tmp_path) == "[]"


def test_threads_stand_still_while_the_window_does_something(tmp_path: Path) -> None:
    assert _printed(_BUSY, tmp_path) == "True 0"
