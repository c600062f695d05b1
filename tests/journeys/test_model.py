"""A voxel model drawn with mirrors and frames, placed, turned, and edited again."""

from __future__ import annotations

import numpy as np

import topion
from tests.journeys.drawn import lamp
from tests.journeys.newcomer import Newcomer


def test_a_voxel_model_is_drawn_with_mirrors_and_frames_placed_turned_and_edited(
    newcomer: Newcomer,
):
    newcomer.begin("Isle", "voxel")
    newcomer.new_brush("Thing")
    newcomer.answer_file(lamp(newcomer.home / "lamp.png"))
    newcomer.find("lamp, thing")
    newcomer.key("F3")
    newcomer.click("quarters")  # turns
    newcomer.click("Edit voxels")
    newcomer.await_words("32 × 16 × 16 voxels")
    newcomer.until(lambda: newcomer.table.settled())
    newcomer.key("I")
    newcomer.stroke((3, 10, 8, 8))  # on the east side of the post
    newcomer.click("+ frame")
    newcomer.until(lambda: newcomer.table.settled())
    newcomer.stroke((3, 10, 8, 9))
    newcomer.click("Done")
    newcomer.stroke((0, 1, 20, 10))
    newcomer.key("Return", "T")  # keeps the first as it is
    newcomer.stroke((0, 1, 20, 16))

    project = topion.open(newcomer.save())
    prefab = project.data.prefabs["lamp"]
    still, first, second = prefab.model, *prefab.model_frames[0].models
    assert still.cells[10, 8, 6:10].all() and not still.cells[10, 8, 5]
    assert np.array_equal(first.cells, still.cells)
    assert second.cells[10, 8, 5:11].all()
    turned = [thing.turn for thing in project.room("Room 1").things() if thing.prefab == "lamp"]
    assert turned == [0.0, 90.0]

    newcomer.key("F3")
    newcomer.click("Edit voxels")
    newcomer.until(lambda: newcomer.table.settled())
    newcomer.hold("E")
    newcomer.stroke((3, 10, 8, 9))
    newcomer.let_go_of("E")
    again = topion.open(newcomer.save()).data.prefabs["lamp"].model
    assert again.cells[10, 8, 8] and not again.cells[10, 8, 9]
