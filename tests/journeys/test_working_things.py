"""Things that work, laid like tiles and tried in the walk at once."""

from __future__ import annotations

import topion
from tests.journeys.newcomer import Newcomer


def test_working_things_are_laid_in_rows_and_tried_at_once(newcomer: Newcomer):
    newcomer.begin("Trials")
    newcomer.click("Things")
    newcomer.click("Pickup, thing")
    newcomer.stroke((26, 8), (26, 11))
    newcomer.click("Hazard, thing")
    newcomer.stroke((26, 20), (26, 22))
    newcomer.key("W")
    newcomer.await_words("Walking")
    newcomer.click("2×")
    newcomer.hold("Right")
    newcomer.await_words("Pickup ×4: 4 of 4")
    newcomer.await_words("brought back by Hazard")
    newcomer.let_go_of("Right")
    newcomer.key("Esc")

    newcomer.hold("E")  # the hazard is in the way
    newcomer.stroke((26, 20), (26, 22))
    newcomer.let_go_of("E")
    newcomer.key("W")
    newcomer.await_words("Walking")
    newcomer.hold("Right")
    newcomer.await_words("Goal: reached")
    newcomer.let_go_of("Right")
    newcomer.key("Esc")
    laid = [thing.prefab for thing in topion.open(newcomer.save()).room("Room 1").things()]
    assert (laid.count("Pickup"), laid.count("Hazard")) == (4, 0)
