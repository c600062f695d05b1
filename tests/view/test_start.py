"""Starting: something to see at once, then the window; and the demo plays without a display."""

import os
import subprocess
import sys

import pytest

from topion import scripting
from topion.view.app import Start, application


def test_the_window_comes_after_the_curtain(qtbot):
    application()
    start = Start(None)
    qtbot.addWidget(start.shell)
    assert start.shell.isVisible() and start.window is None
    qtbot.waitUntil(lambda: start.window is not None, timeout=20_000)
    qtbot.addWidget(start.window)
    assert start.window.isVisible() and start.window.session.has_room
    start.loader.wait()


def test_a_folder_that_is_no_project_is_said_in_the_window(qtbot, tmp_path):
    start = Start(tmp_path)
    qtbot.addWidget(start.shell)
    qtbot.waitUntil(lambda: start.window is not None, timeout=20_000)
    qtbot.addWidget(start.window)
    assert "holds no project.json" in start.window.said.text()
    start.loader.wait()


def test_a_damaged_first_room_is_said_and_the_next_one_shown(qtbot, tmp_path):
    handle = scripting.new(tmp_path / "Two", "Two")
    handle.add_room("Bad")
    handle.add_room("Good")
    handle.save()
    (tmp_path / "Two/rooms/Bad/room.json").write_text("[")
    start = Start(tmp_path / "Two")
    qtbot.addWidget(start.shell)
    qtbot.waitUntil(lambda: start.window is not None, timeout=20_000)
    qtbot.addWidget(start.window)
    assert start.window.session.room_name == "Good"
    assert "rooms/Bad/room.json" in start.window.said.text()
    start.loader.wait()


@pytest.mark.long
def test_the_demo_plays_and_writes_pictures_and_exports(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "topion", "demo", "--out", str(tmp_path)],
        env=environment,
        capture_output=True,
        text=True,
        timeout=600,
    )
    assert done.returncode == 0, done.stderr
    assert str(tmp_path) in done.stdout
    assert len(list(tmp_path.glob("*.png"))) >= 7
    assert (tmp_path / "Brinehollow.topion" / "project.json").exists()
    assert list((tmp_path / "csv").glob("*.csv")) and list((tmp_path / "json").glob("*.json"))
