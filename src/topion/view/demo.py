"""`topion demo`: the window with Brinehollow, or, without a display, a played session."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from topion.errors import TopionError


def open_or_play(out: Path | None, play: bool) -> int:
    """Open the demo where there is a display; else play it under a virtual one."""
    has_display = bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    if os.environ.get("TOPION_PLAYING"):
        from topion.view.play import play_demo

        return play_demo(out or _fresh_folder())
    if has_display and not play:
        from topion.view.app import run

        return run("demo")
    return _under_xvfb(out or _fresh_folder())


def _fresh_folder() -> Path:
    return Path(tempfile.mkdtemp(prefix="topion-demo-"))


def _under_xvfb(out: Path) -> int:
    """Run ourselves again with a display of our own."""
    out.mkdir(parents=True, exist_ok=True)
    command = [sys.executable, "-m", "topion", "demo", "--out", str(out)]
    environment = {**os.environ, "TOPION_PLAYING": "1"}
    environment.pop("WAYLAND_DISPLAY", None)
    wrapper = shutil.which("xvfb-run")
    if wrapper:
        screen = ["-a", "-s", "-screen 0 1280x800x24"]
        environment["QT_QPA_PLATFORM"] = "xcb"
        code = subprocess.run([wrapper, *screen, *command], env=environment).returncode
    else:
        environment["QT_QPA_PLATFORM"] = "offscreen"
        code = subprocess.run(command, env=environment).returncode
    if code:
        raise TopionError(f"the demo could not be played (exit {code}); see the lines above")
    return 0
