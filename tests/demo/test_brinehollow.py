"""The demo: its art is what its script draws, and its room is laid without a finding."""

import numpy as np
import pytest

from topion.demo.art import drawn_sheet, slot_places, tileset
from topion.demo.brinehollow import ROOM, brinehollow
from topion.demo.tiles import mud_inside, water_inside
from topion.survey.ledger import check_named


def test_the_sheet_kept_is_the_sheet_drawn():
    assert np.array_equal(tileset().sheet.rgba, drawn_sheet())


def test_each_ground_has_variants_and_water_moves():
    names = [name.rsplit(" ", 1) for name in slot_places()]
    for look in ("mud 255", "grass 255", "pan 255", "boardwalk 24", "brick 90", "cobbles"):
        assert len({letter for stem, letter in names if stem == look}) >= 3
    assert not np.array_equal(water_inside(0, 0, "water"), water_inside(0, 2, "water"))


def test_ground_is_calm():
    for tile in (mud_inside(0), mud_inside(1), water_inside(0, 0, "deep")):
        grey = tile[..., :3].mean(axis=2)
        assert grey.std() < 12


@pytest.mark.long
def test_sluice_yard_is_large_enough_and_only_the_loft_has_findings():
    project = brinehollow()
    room = project.room(ROOM)
    assert room.size[0] >= 64 and room.size[1] >= 96
    found = project.check()
    assert [(f.room, f.by) for f in found] == [
        ("Salt Loft", "door astray"), ("Salt Loft", "room not reached")]  # fmt: skip
    mended = check_named("door astray").fix(project.data, found[0])
    project.history.apply(mended)
    assert project.check() == []
    assert room.tally("Reed bed").placed > 200 and len(room.things()) > 40


def test_the_demo_is_the_same_each_time():
    assert np.array_equal(
        brinehollow().room(ROOM).render(0.5), brinehollow().room(ROOM).render(0.5)
    )
