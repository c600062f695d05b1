"""A hundred things sown with clearance, refusals read, density and size painted."""

from __future__ import annotations

import numpy as np
from scipy.spatial.distance import pdist

import topion
from tests.journeys.newcomer import Newcomer


def test_a_hundred_things_are_sown_clear_of_each_other_and_of_walls(newcomer: Newcomer):
    newcomer.begin("Meadow", "from above")
    newcomer.click("Things")
    newcomer.click("Pickup, thing")
    newcomer.new_brush("Field")
    newcomer.key("B")
    newcomer.stroke((3, 5), (26, 42))
    newcomer.write("100", into="At most, typed", enter=True)
    newcomer.write("3", into="Spacing, typed", enter=True)
    newcomer.await_words(" of 100 placed")
    assert not newcomer.sees("100 of 100 placed")  # so far apart there is no room for them
    newcomer.write("2", into="Spacing, typed", enter=True)
    newcomer.await_words("100 of 100 placed")

    newcomer.click("Wall, weave")
    newcomer.stroke((8, 16), (20, 20))
    newcomer.click("Pickup field, field")
    newcomer.click("One more rule of what it sows")
    newcomer.click("not on")
    newcomer.fill_blank("never stands on", 0, "Wall")
    newcomer.await_words("8 on wall/water")
    room = topion.open(newcomer.save()).room("Room 1")
    points = np.array([(thing.y, thing.x) for thing in room.sown("Pickup field")])
    assert len(points) == 100 and pdist(points).min() >= 2.0
    assert not any(room.material(*cell) == "Wall" for cell in np.round(points).astype(int).tolist())

    newcomer.click("Paints: size")
    newcomer.write("2", into="Size to, typed", enter=True)
    newcomer.key("D")
    newcomer.stroke((20, 30), (22, 38))
    newcomer.click("Paints: density")
    newcomer.click("Stroke: thin")
    newcomer.stroke((6, 28), (6, 40))
    sown = topion.open(newcomer.save()).room("Room 1").sown("Pickup field")
    assert len(sown) < 100 and max(thing.scale for thing in sown) == 2.0
    assert not [t for t in sown if abs(t.y - 6) < 2 and 28 < t.x < 40]
