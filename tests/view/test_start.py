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


def _printed(code: str, home: Path) -> str:
    places = {f"XDG_{name}_HOME": str(home / name) for name in ("STATE", "CONFIG", "CACHE")}
    environment = {**os.environ, **places, "QT_QPA_PLATFORM": "offscreen"}
    run = [sys.executable, "-c", code]
    return subprocess.run(run, env=environment, capture_output=True, text=True).stdout.strip()


def test_something_is_seen_before_anything_heavy_is_loaded(tmp_path: Path) -> None:
    assert _printed(_FIRST, tmp_path) == "[]"


def test_the_command_that_opens_a_window_loads_nothing_heavy_before_it(tmp_path: Path) -> None:
    assert _printed(_COMMAND, tmp_path) == "[]"
