"""Fields in the window: sown things held and banned, refused spots, sizes, layers of the density."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from topion.brushes import FieldBrush, Sown
from topion.edit import sown as edits
from topion.edit.library import put_brush
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.pictures.png import picture_of
from topion.things.densities import FromMaterial, Noise
from topion.things.rules import On
from topion.things.sowing import sow
from topion.view.style import ink

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def sower(designer):
    """A field all over the room, in the left hand."""
    brush = FieldBrush("Growth", (Sown("Bush"),), spacing=1.5, seed=3, density=1.0, soft=0.0)
    designer.session.apply(put_brush(designer.session.project, brush))
    designer.room.lay("Growth", box=((0, 0), (23, 31)))
    designer.session.hands.take("left", "Growth")
    designer.window.table.setFocus()
    designer.settle(80)
    return designer


def layer_of(hand):
    return next(i for i, _ in hand.session.room.bottom_up("field"))


def sown(hand):
    return sow(hand.session.project, hand.session.room, layer_of(hand))


def near_middle(hand):
    """A sown thing well inside the view."""
    found = sown(hand)
    row = int(np.linalg.norm(found.positions - (12, 16), axis=1).argmin())
    return found.thing(row)


def brush(hand):
    return hand.session.project.brushes["Growth"]


def test_a_press_holds_what_is_sown_and_a_drag_moves_it(sower):
    thing = near_middle(sower)
    count = len(sown(sower))
    sower.key(Qt.Key.Key_S)
    sower.stroke(thing.cell, (thing.cell[0] + 2, thing.cell[1] + 1))
    layer = sower.session.room.layers[layer_of(sower)]
    (held,) = layer.table("held").values()
    assert (held.y, held.x) == pytest.approx((thing.y + 2, thing.x + 1), abs=0.51)
    assert [ban.held for ban in layer.table("bans").values()] == [*layer.table("held")]
    found = sown(sower)
    assert np.linalg.norm(found.positions - (thing.y, thing.x), axis=1).min() > 0.7
    assert abs(len(found) - count) <= 3


def test_del_bans_its_place_and_let_grow_brings_it_back(sower):
    thing = near_middle(sower)
    before = len(sown(sower))
    sower.key(Qt.Key.Key_S)
    sower.stroke(thing.cell, thing.cell)
    assert sower.session.picking.things()
    rows = sower.window.right.picked.sown
    sower.settle(60)
    assert rows.isVisible() and rows.told.text() == "1 held"
    sower.qtbot.mouseClick(rows.grow, LEFT)
    assert len(sown(sower)) == before
    sower.stroke(thing.cell, thing.cell)
    sower.key(Qt.Key.Key_Delete)
    assert len(sown(sower)) == before - 1
    for seed in (5, 6, 7):
        sower.session.hands.set_field(brush(sower), "seed", seed)
        at = sown(sower).positions
        assert np.linalg.norm(at - (thing.y, thing.x), axis=1).min() > 0.7


def test_a_held_thing_is_turned_and_nudged_like_any_other(sower):
    thing = near_middle(sower)
    sower.key(Qt.Key.Key_S)
    sower.stroke(thing.cell, thing.cell)
    sower.key(Qt.Key.Key_Right)
    (held,) = sower.session.room.layers[layer_of(sower)].table("held").values()
    assert held.x == pytest.approx(thing.x + 1, abs=1e-6)


def test_of_an_area_all_is_held_banned_or_made_plain(sower):
    sower.key(Qt.Key.Key_S)
    area = Area.of_box(Box((4, 4), (12, 14)))
    inside = edits.sown_inside(sower.session.project, sower.session.room, layer_of(sower), area)
    sower.session.picking.pick([], area)
    sower.settle(60)
    rows = sower.window.right.picked.sown
    assert rows.told.text() == f"{len(inside)} grow in the area"
    sower.qtbot.mouseClick(rows.ban, LEFT)
    assert not rows.inside()
    sower.session.undo()
    sower.settle(40)
    sower.qtbot.mouseClick(rows.plain, LEFT)
    assert len(sower.room.things()) == len(inside) and not rows.inside()
    sower.session.undo()
    sower.settle(40)
    sower.qtbot.mouseClick(rows.hold, LEFT)
    assert len(sower.session.picking.things()) == len(inside)


def test_refused_spots_are_shown_on_demand_in_the_colours_of_the_tally(sower):
    sower.room.lay("Water", box=((0, 0), (23, 15)))
    sower.session.hands.set_field(brush(sower), "rules", (On(("Mud",)),))
    sower.settle(120)
    found = sown(sower)
    names = [name for name, _ in found.tally.refused]
    row = int(np.linalg.norm(found.refused_at - (12, 13), axis=1).argmin())
    spot, reason = found.refused_at[row], int(found.refused_by[row])
    shows = sower.window.in_hand.shows
    before = seen(sower, spot)
    sower.qtbot.mouseClick(shows.words["refused"], LEFT)
    sower.settle(120)
    after = seen(sower, spot)
    wanted = ink(("buoy", "ochre", "ink", "soft")[reason % 4]).getRgb()[:3]
    assert before != after and any(sum(abs(a - b) for a, b in zip(px, wanted, strict=True)) < 60
                                   for px in after)  # fmt: skip
    assert "off the mud" in names and "off the mud" in sower.window.in_hand.tally.text()
    sower.qtbot.mouseClick(shows.words["nothing"], LEFT)
    sower.settle(120)
    assert seen(sower, spot) == before


def seen(hand, spot, reach=5):
    """The colours round a place of the table."""
    image = hand.table.grab().toImage()
    at = hand.table.cell_centre(*spot)
    return [image.pixelColor(int(at.x()) + dx, int(at.y()) + dy).getRgb()[:3]
            for dx in range(-reach, reach + 1) for dy in range(-reach, reach + 1)]  # fmt: skip


def test_a_size_is_painted_like_a_density(sower):
    rows = sower.window.in_hand.rows
    rows["paints"].changed("size")
    sower.settle(60)
    assert "scale" in sower.window.in_hand.rows and "density" not in sower.window.in_hand.rows
    sower.session.hands.set_field(brush(sower), "way", "set")
    sower.session.hands.set_field(brush(sower), "scale", 1.8)
    sower.stroke((12, 12), (12, 20))
    layer = sower.session.room.layers[layer_of(sower)]
    assert layer.plane("size")[12, 16] == round(1.8 * 128)
    assert sower.session.handle.history.edits[-1].label == "Growth size set"
    found = sown(sower)
    near = np.abs(found.positions - (12, 16)).max(axis=1) < 2
    assert found.scales[near] == pytest.approx(1.8, abs=0.02)
    sower.qtbot.mouseClick(sower.window.in_hand.shows.words["size"], LEFT)
    sower.settle(120)
    shown = seen(sower, (12, 16), 8)
    sower.qtbot.mouseClick(sower.window.in_hand.shows.words["nothing"], LEFT)
    sower.settle(120)
    assert seen(sower, (12, 16), 8) != shown


def test_layers_of_the_density_are_added_set_put_off_and_taken_away(sower):
    panel = sower.window.in_hand.density
    count = len(sown(sower))
    panel.put((*panel.parts, Noise(cells=6, threshold=0.5)))
    sower.settle(120)
    assert len(panel.rows) == 1 and len(sown(sower)) < count
    panel.put((*panel.parts, FromMaterial("Mud", near=2, far=4)))
    sower.settle(120)
    assert [s.rule.kind for _, s, _ in panel.rows] == ["noise", "from material"]
    panel.rows[0][1].put("cells", 20.0)
    sower.settle(60)
    assert brush(sower).parts[0].cells == 20
    sower.qtbot.mouseClick(panel.rows[0][2], LEFT)
    sower.settle(120)
    assert not brush(sower).parts[0].on and len(sown(sower)) == count
    assert panel.painted.shares is not None and panel.rows[1][0].shares.max() == 1
    panel.change(0, ())
    panel.change(0, ())
    sower.settle(60)
    assert brush(sower).parts == () and not panel.rows


def test_a_picture_becomes_a_layer_and_a_bad_one_is_said(sower, tmp_path):
    rgba = np.zeros((4, 8, 4), np.uint8)
    rgba[..., 3] = 255
    rgba[:, :4, :3] = 255
    file = tmp_path / "half.png"
    file.write_bytes(picture_of(rgba).png)
    panel = sower.window.in_hand.density
    panel.add_picture(file)
    sower.settle(80)
    assert (sown(sower).positions[:, 1] < 16).all()
    said = []
    sower.session.said.connect(said.append)
    panel.add_picture(tmp_path / "none.png")
    assert said and "none.png" in said[-1]


def test_each_prefab_of_a_field_has_details_of_its_own(sower):
    mix = sower.window.in_hand.rows["sown"]
    mix.add("Reed")
    sower.settle(60)
    assert [part.prefab for part in brush(sower).sown] == ["Bush", "Reed"]
    mix.fold(1, mix.details[1])
    edit = mix.details[1].fields["size to"]
    edit.setText("1.5")
    edit.setModified(True)
    edit.editingFinished.emit()
    edit = mix.details[1].fields["turn to"]
    edit.setText("90")
    edit.setModified(True)
    edit.editingFinished.emit()
    assert brush(sower).sown[1].size == (1.0, 1.5) and brush(sower).sown[1].turn == (0.0, 90.0)
    mix.rows[0][1].setText("4")
    mix.rows[0][1].setModified(True)
    mix.rows[0][1].editingFinished.emit()
    assert brush(sower).sown[0].weight == 4
    mix.change(1, ())
    assert len(brush(sower).sown) == 1


def test_all_of_a_field_is_made_plain_from_in_hand(sower):
    count = len(sown(sower))
    shows = sower.window.in_hand.shows
    sower.qtbot.mouseClick(shows.plain, LEFT)
    sower.settle()
    assert len(sower.room.things()) == count and not len(sown(sower))
    sower.qtbot.mouseClick(shows.lift, LEFT)
    assert len(sown(sower)) == count
