"""Extensions in the window: their commands, and word of one that fails."""

import sys
from importlib.metadata import EntryPoint

import pytest
from PyQt6.QtCore import Qt

from tests.extending.test_guarded import shaky  # noqa: F401  (a fixture)
from tests.rooms import small_room
from topion.edit.library import put_brush
from topion.extending import EXTENSIONS, GROUP
from topion.extending.loading import take_in
from topion.view.window import Window


@pytest.fixture
def with_shaky(shaky, designer):  # noqa: F811
    """The window, begun while the extension was installed."""
    return designer, sys.modules["shaky_parts"]


def test_its_command_is_found_by_its_words(with_shaky):
    hand, _ = with_shaky
    hand.window.table.setFocus()
    hand.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    finder = hand.window.overlays.finder
    hand.qtbot.keyClicks(finder.field, "says where")
    hand.settle(60)
    hand.qtbot.keyClick(finder.field, Qt.Key.Key_Return)
    hand.settle(60)
    assert hand.window.said.text() == "Yard of Small"


def test_a_brush_that_raises_is_told_and_nothing_is_lost(with_shaky):
    hand, parts = with_shaky
    hand.session.apply(put_brush(hand.session.project, parts.Shaky("Odd")))
    hand.stroke((2, 2), (2, 4))
    hand.session.hands.take("left", "Odd")
    hand.settle(60)
    parts.FAILS.add("plan")
    hand.stroke((5, 5), (5, 7))
    hand.qtbot.waitUntil(lambda: "shaky is switched off" in hand.window.said.text(), timeout=3000)
    assert EXTENSIONS["shaky"].off and hand.material((2, 3)) == "Water"
    hand.session.hands.take("left", "Water")
    hand.stroke((6, 5), (6, 7))
    assert hand.material((6, 6)) == "Water"


def test_one_that_failed_at_start_is_told(shaky, qtbot, tmp_path):  # noqa: F811
    (tmp_path / "late_parts.py").write_text(
        "def extend(door):\n    raise OSError('no tide today')\n"
    )
    take_in([EntryPoint("late", "late_parts:extend", GROUP)])
    window = Window(small_room().project)
    qtbot.addWidget(window, before_close_func=lambda w: w.session.handle.history.mark_saved())
    window.show()
    qtbot.waitUntil(lambda: "no tide today" in window.said.text(), timeout=3000)
    assert "Extension late is switched off" in window.said.text()
