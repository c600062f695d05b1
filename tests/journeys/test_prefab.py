"""A prefab made of a picture, with rules, placed where it may stand and refused where it may not."""

from __future__ import annotations

from itertools import pairwise

import topion
from tests.journeys.drawn import lamp
from tests.journeys.newcomer import Newcomer


def test_a_prefab_stands_where_its_rules_let_it_and_says_why_not(newcomer: Newcomer):
    newcomer.begin("Yard", "from above")
    newcomer.new_brush("Thing")
    newcomer.answer_file(lamp(newcomer.home / "lamp.png"))
    newcomer.find("lamp, thing")
    newcomer.key("F3")
    newcomer.await_words("thing · 1 × 1 cells · 1 rule on · 0 placed")
    newcomer.click("not on …")
    newcomer.fill_blank("never stands on", 0, "Wall")
    newcomer.click("clear of …")
    newcomer.click("from the edge")
    newcomer.await_words("of 1440 places free")
    newcomer.click("Done")

    newcomer.stroke((10, 20))
    newcomer.stroke((10, 21))
    newcomer.await_words("lamp refused: too close to its like")
    newcomer.stroke((0, 20))
    newcomer.await_words("lamp refused: ")
    newcomer.key("L")
    newcomer.stroke((20, 5), (20, 30))
    lamps = [(t.y, t.x) for t in _lamps(newcomer)]
    assert (10, 20) in lamps and (10, 21) not in lamps and (0, 20) not in lamps
    row = sorted(x for y, x in lamps if y == 20)
    assert len(row) > 8 and min(b - a for a, b in pairwise(row)) >= 2

    newcomer.key("D")
    newcomer.hold("O")
    newcomer.stroke((10, 21))
    newcomer.let_go_of("O")
    assert [t.overridden for t in _lamps(newcomer) if (t.y, t.x) == (10, 21)] == [True]
    newcomer.key("F7")
    newcomer.await_words("2 findings")  # each of the two that stand too close


def _lamps(newcomer: Newcomer):
    things = topion.open(newcomer.save()).room("Room 1").things()
    return [thing for thing in things if thing.prefab == "lamp"]
