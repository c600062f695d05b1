"""Rows, grids and circles, and a cloud in space, by expressions."""

from __future__ import annotations

import numpy as np

import topion
from tests.journeys.newcomer import Newcomer


def test_things_are_arranged_in_figures_and_in_space_by_expressions(newcomer: Newcomer):
    newcomer.begin("Lamps", "from above")
    newcomer.click("Things")
    newcomer.click("Pickup, thing")
    newcomer.key("B")
    newcomer.stroke((8, 10), (9, 15))
    newcomer.key("S")
    newcomer.stroke((6, 8), (6, 18), (11, 18), (11, 8))
    newcomer.key("Ctrl+R")
    newcomer.find("12 Pickup")

    newcomer.click("Arrange as a circle")
    _apply(newcomer)
    around = _places(newcomer, "Room 1") - (8.5, 12.5)
    assert np.ptp(np.hypot(*around.T)) < 1e-6

    newcomer.click("Arrange as a grid")
    newcomer.write("10 + 2*(i % 4)", into="Expression for x")
    newcomer.write("14 + 2*floor(i / 4)", into="Expression for y")
    _apply(newcomer)
    grid = _places(newcomer, "Room 1")
    assert sorted(map(tuple, grid)) == [(y, x) for y in (14, 16, 18) for x in (10, 12, 14, 16)]

    newcomer.write("linspace(5, 38", into="Expression for x")
    newcomer.await_words("a bracket is open")
    newcomer.write("linspace(5, 38)", into="Expression for x")
    newcomer.write("22", into="Expression for y")
    _apply(newcomer)
    row = _places(newcomer, "Room 1")
    assert np.allclose(sorted(row[:, 1]), np.linspace(5, 38, 12)) and (row[:, 0] == 22).all()

    newcomer.click("Drop")
    newcomer.key("F9")
    newcomer.click("New room")
    newcomer.choose("flat, of tiles", "voxel")
    newcomer.click("Make the room")
    newcomer.await_words("voxel · ")
    newcomer.click("Floor blocks, weave")
    newcomer.key("B")
    newcomer.stroke((0, 10, 20), (0, 30, 40))
    newcomer.stroke((0, 30, 40))  # the click that sets the height
    newcomer.key("D")
    newcomer.click("Pickup, thing")
    newcomer.stroke((0, 0, 20, 30))
    newcomer.key("S")
    newcomer.stroke((1, 20, 30))
    newcomer.key("Ctrl+R")
    newcomer.click("make")
    newcomer.write("30", into="How many there shall be in all")
    newcomer.click("Arrange as a cloud")
    newcomer.write("uniform(1, 9)", into="Expression for z")
    newcomer.click("go all the same")
    _apply(newcomer)
    cloud = topion.open(newcomer.save()).room("Room 2").things()
    assert len(cloud) == 30 and len({thing.at for thing in cloud}) == 30
    assert all(1 <= thing.z <= 9 for thing in cloud)


def _apply(newcomer: Newcomer) -> None:
    newcomer.until(lambda: newcomer.find("Apply as one Edit").isEnabled())
    newcomer.click("Apply as one Edit")


def _places(newcomer: Newcomer, room: str) -> np.ndarray:
    things = topion.open(newcomer.save()).room(room).things()
    return np.array([(thing.y, thing.x) for thing in things if thing.prefab == "Pickup"])
