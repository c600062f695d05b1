"""Prefabs with pictures of their own for each quarter they are turned by."""

import numpy as np
import pytest

from tests.rooms import SIDE, prefab, small_project, stand
from topion.edit.prefabs import redrawn
from topion.errors import BadValue
from topion.model.prefab import Thing
from topion.pictures.png import picture_of
from topion.render.scene import render_room

_REDS = (40, 90, 140, 190)


def flat(red, side=SIDE):
    rgba = np.full((side, side, 4), 255, np.uint8)
    rgba[..., :3] = (red, 10, 20)
    return picture_of(rgba)


def seen(turn, mirrored=False):
    """The red that a thing shows in its cell, and where it is seen, in cells."""
    project = small_project()
    pictures = [flat(red) for red in _REDS]
    made = prefab("Vane", turns="any", mirrors=True, turned=tuple(pictures[1:]))
    project.add_prefab(redrawn(made, pictures[0], made.anchor_px))
    room = project.add_room("Yard", (9, 9), SIDE)
    stand(room, Thing("Vane", 4, 4, turn=turn, mirrored=mirrored))
    rgba = render_room(project.data, room.data)
    mine = np.isin(rgba[..., 0], _REDS) & (rgba[..., 1] == 10)
    at = np.argwhere(mine)
    return {int(v) for v in rgba[..., 0][mine]}, tuple((at.min(axis=0) / SIDE).tolist())


@pytest.mark.parametrize(("turn", "red"), [(0, 40), (90, 90), (180, 140), (270, 190), (360, 40)])
def test_each_quarter_shows_its_picture_upright_in_its_cell(turn, red):
    assert seen(turn) == ({red}, (4, 4))


@pytest.mark.parametrize(("turn", "red"), [(0, 40), (90, 190), (180, 140), (270, 90)])
def test_mirrored_it_shows_the_picture_that_looks_the_other_way(turn, red):
    assert seen(turn, mirrored=True) == ({red}, (4, 4))


def test_between_quarters_its_picture_is_turned():
    assert seen(45)[0] == {40}


def test_there_are_three_as_large_as_its_picture():
    with pytest.raises(BadValue, match="three of"):
        prefab("Vane", turned=(flat(1),))
    with pytest.raises(BadValue, match="three of"):
        prefab("Vane", turned=(flat(1), flat(2), flat(3, SIDE + 1)))


def test_another_picture_of_its_size_keeps_them():
    made = prefab("Vane", turned=(flat(1), flat(2), flat(3)))
    assert redrawn(made, flat(9), (1, 1)).turned == made.turned
    assert redrawn(made, flat(9, SIDE + 2), (1, 1)).turned == ()


def test_they_read_back_as_they_were_written(tmp_path):
    from topion import scripting

    project = small_project()
    made = prefab("Vane", turned=(flat(1), flat(2), flat(3)))
    project.add_prefab(made)
    project.save(tmp_path / "It.topion")
    assert scripting.open(tmp_path / "It.topion").data.prefab("Vane") == made
