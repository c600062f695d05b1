"""Walls that strokes would lay into cells that things keep: from above, from the side, in voxels."""

from dataclasses import replace

import pytest

from tests.rooms import prefab, stand
from tests.things.test_placement_rules import cellar, yard  # noqa: F401  fixtures
from tests.voxel_rooms import isle
from topion.brushes.marks import Marks, Place
from topion.grid.boxes import Box
from topion.model.prefab import PrefabClass, Thing
from topion.things.kept_out import kept_out
from topion.things.rules import KeepsCells

REFUSED = KeepsCells(walls="refused")


def planned(room, brush, *cells, layer=""):
    project = room.project.data
    marks = Marks(Box(*cells).cells())
    place = Place(project, room.name, room.data.id_of(layer) if layer else "")
    return project.brushes[brush].plan(place, marks)


def told(room, *box, brush="Brick", layer=""):
    edit = planned(room, brush, *box, layer=layer)
    return [(k.prefab, k.first, k.cells, k.walls) for k in kept_out(room.project.data, edit)]


def its(room, rule=REFUSED, at=(4, 4), **more):
    room.project.add_prefab(prefab("It", rule, footprint=("##", "##")))
    stand(room, Thing("It", *at, **more))


def test_a_wall_from_above_is_kept_out_of_the_cells_of_a_body(yard):  # noqa: F811
    its(yard)  # stands in rows 3 and 4, columns 4 and 5
    assert told(yard, (3, 5), (4, 7)) == [("It", (3, 5), 1, "refused")]
    assert told(yard, (2, 2), (5, 8)) == [("It", (3, 4), 4, "refused")]
    assert told(yard, (5, 4), (6, 6)) == [], "the row below is free"
    assert told(yard, (3, 4), (5, 6), brush="Water") == [], "water is no wall"


def test_seen_from_the_side_what_fills_a_cell_is_a_wall(cellar):  # noqa: F811
    its(cellar, at=(9, 4))
    assert told(cellar, (8, 5), (9, 6), layer="Ground") == [("It", (8, 5), 1, "refused")]
    assert told(cellar, (7, 4), (8, 6), layer="Ground") == [], "above its head"


def test_in_voxels_a_block_is_kept_out():
    room = isle((8, 8, 8), 2)
    room.project.add_prefab(prefab("It", REFUSED, height=2))
    stand(room, Thing("It", 4, 4, z=2))
    assert told(room, (3, 4, 4), (4, 5, 5), brush="Stones") == [("It", (3, 4, 4), 1, "refused")]
    assert told(room, (4, 4, 4), (5, 5, 5), brush="Stones") == [], "above its head"


@pytest.mark.parametrize("rule", [KeepsCells(), replace(REFUSED, on=False)])
def test_where_walls_are_let_in_nothing_is_kept_out(yard, rule):  # noqa: F811
    its(yard, rule)
    assert told(yard, (3, 4), (5, 6)) == []


def test_what_was_walled_already_and_what_was_overridden_keeps_nothing(yard):  # noqa: F811
    its(yard, at=(4, 7))  # its eastern column is the wall
    assert told(yard, (3, 8), (5, 9)) == []
    its(yard, at=(7, 3), overridden=True)
    assert told(yard, (6, 3), (8, 5)) == []


def test_the_refused_come_before_those_that_ask_and_a_class_may_say_it(yard):  # noqa: F811
    project = yard.project
    project.add_prefab(prefab("Asks", KeepsCells(walls="asked")))
    project.add_prefab(prefab("Crate", class_name="goods"))
    project.data.put_item(("classes", "goods"), PrefabClass("goods", (REFUSED,)))
    stand(yard, Thing("Asks", 2, 2), Thing("Crate", 2, 3))
    assert told(yard, (2, 2), (3, 4)) == [("Crate", (2, 3), 1, "refused"),
                                          ("Asks", (2, 2), 1, "asked")]  # fmt: skip


def test_it_is_told_in_a_sentence(yard):  # noqa: F811
    its(yard)
    edit = planned(yard, "Brick", (3, 4), (5, 6))
    (found,) = kept_out(yard.project.data, edit)
    assert found.told() == "It keeps cell 4, 3 and 3 more of Yard"
