"""A real window on a small project, and a hand that works it with real events."""

from __future__ import annotations

import pytest
from PyQt6.QtWidgets import QApplication

from tests.rooms import small_room
from tests.view.designer import Designer
from tests.view.modeller import Modeller
from tests.voxel_rooms import isle
from topion.view import style
from topion.view.window import Window


@pytest.fixture(autouse=True)
def state_of_its_own(tmp_path, monkeypatch) -> None:
    """Journals of tests stay in the test's folder."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))


@pytest.fixture
def designer(qtbot) -> Designer:
    style.use_dark(False)
    app = QApplication.instance()
    style.load_fonts()
    style.dress(app)
    window = Window(small_room((24, 32)).project)
    window.session.handle.history.mark_saved()
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    window.table.camera.step = 8  # 4 px tiles, 4 × larger
    window.table.centre_on((12, 16))
    made = Designer(window, qtbot)
    made.session.hands.take("right", "Stones")
    made.session.hands.take("left", "Water")
    made.settle()
    return made


@pytest.fixture
def modeller(qtbot) -> Modeller:
    style.use_dark(False)
    style.load_fonts()
    style.dress(QApplication.instance())
    room = isle((10, 12, 14))
    room.project.add_room("Flat", (6, 6))
    window = Window(room.project)
    window.session.handle.history.mark_saved()
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitExposed(window)
    made = Modeller(window, qtbot)
    made.table = window.table
    made.session.hands.take("right", "Water")
    made.session.hands.take("left", "Stones")
    qtbot.waitUntil(lambda: made.table.scene is not None, timeout=5000)
    qtbot.waitUntil(made.table.settled, timeout=5000)
    return made
