"""Pictures made a few at a time, so that what stands beside them is drawn meanwhile."""

import time

import pytest
from PyQt6.QtCore import QObject

from topion.view.turns import Turns


class Drawn(QObject):
    """Asks for three things whenever it is drawn, each of which takes a while."""

    def __init__(self) -> None:
        super().__init__()
        self.turns = Turns(self, self.draw)
        self.made: list[int] = []
        self.drawn = 0

    def draw(self) -> None:
        self.drawn += 1
        for number in range(3):
            if number not in self.made and self.turns.make(self.work) is not None:
                self.made.append(number)

    def work(self) -> bool:
        time.sleep(0.02)
        return True


@pytest.fixture
def drawn(qtbot):
    return Drawn()


def test_a_turn_has_time_for_some_and_the_rest_follow(drawn, qtbot):
    drawn.draw()
    assert drawn.made == [0]
    qtbot.waitUntil(lambda: len(drawn.made) == 3)
    assert drawn.drawn == 3


def test_what_may_wait_is_not_made_when_it_is_asked_for_first(drawn, qtbot):
    drawn.turns.later()
    drawn.draw()
    assert drawn.made == []
    qtbot.waitUntil(lambda: len(drawn.made) == 3)


def test_nothing_is_drawn_again_where_all_is_there(drawn, qtbot):
    drawn.made = [0, 1, 2]
    drawn.draw()
    qtbot.wait(60)
    assert drawn.drawn == 1
