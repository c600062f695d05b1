"""A fence along a closed curve, with a gate that is slid along it, and filled anew."""

from __future__ import annotations

import topion
from tests.journeys.newcomer import Newcomer


def test_a_fence_with_a_gate_follows_a_closed_curve(newcomer: Newcomer):
    newcomer.begin("Fold", "from above")
    newcomer.click("Things")
    newcomer.click("Pickup, thing")
    newcomer.new_brush("Curve")
    for cell in ((6, 12), (6, 32), (22, 32), (22, 12), (6, 12)):
        newcomer.stroke(cell)

    newcomer.key("S")
    newcomer.stroke((14, 34))
    newcomer.await_words("4 points · closed")
    newcomer.write("2", into="Pitch, typed", enter=True)
    fence = [thing for thing in _things(newcomer) if thing.prefab == "Pickup"]
    assert len(fence) == 38 and all(thing.along.filled for thing in fence)

    newcomer.key("Esc", "D")
    newcomer.click("Door, thing")
    newcomer.stroke((10, 22))
    newcomer.key("S")
    newcomer.stroke((10, 22))
    newcomer.click("What they move along with")
    newcomer.click("Pickup line")
    newcomer.write("0", into="Cells to the right of its way", enter=True)
    (gate,) = (thing for thing in _things(newcomer) if thing.prefab == "Door")
    newcomer.key(*["Shift+Right"] * 8)
    (slid,) = (thing for thing in _things(newcomer) if thing.prefab == "Door")
    assert slid.along.share > gate.along.share and slid.along.aside == 0
    left = [thing for thing in _things(newcomer) if thing.prefab == "Pickup"]
    assert 35 <= len(left) < 38  # it makes room for the gate

    newcomer.stroke((14, 34))
    newcomer.click("Filled by: count")
    newcomer.write("20", into="Count, typed", enter=True)
    again = [thing for thing in _things(newcomer) if thing.prefab == "Pickup"]
    assert 18 <= len(again) <= 20
    newcomer.key("Ctrl+Z", "Ctrl+Z")
    assert [thing for thing in _things(newcomer) if thing.prefab == "Pickup"] == left


def _things(newcomer: Newcomer):
    return topion.open(newcomer.save()).room("Room 1").things()
