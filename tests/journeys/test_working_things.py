"""Things that work, laid like tiles and tried in the walk at once."""

from __future__ import annotations

import topion
from tests.journeys.newcomer import Newcomer


def test_working_things_are_laid_in_rows_and_tried_at_once(newcomer: Newcomer):
    newcomer.begin("Trials")
    newcomer.click("Things", among="Bays")
    newcomer.click("Pickup, thing")
    newcomer.stroke((26, 8), (26, 11))
    newcomer.click("Hazard, thing")
    newcomer.stroke((26, 20), (26, 22))
    newcomer.key("W")
    newcomer.await_words("Walking")
    newcomer.hold("Right")
    newcomer.await_words("4 of 4")
    newcomer.await_words("back at the start")
    newcomer.let_go_of("Right")
    newcomer.key("Esc")

    newcomer.hold("E")  # the hazard was too wide
    newcomer.stroke((26, 21), (26, 22))
    newcomer.let_go_of("E")
    newcomer.key("W")
    newcomer.await_words("Walking")
    newcomer.hold("Right")
    newcomer.await_words("4 of 4")
    newcomer.await_words("brought back by Hazard")
    newcomer.hold("Space")
    newcomer.await_words("reached")
    newcomer.let_go_of("Space")
    newcomer.let_go_of("Right")
    newcomer.key("Esc")
    room = topion.open(newcomer.save()).room("Room 1")
    laid = [thing.prefab for thing in room.things()]
    assert (laid.count("Pickup"), laid.count("Hazard")) == (4, 1)
