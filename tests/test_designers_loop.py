"""A designer's whole loop on sheets and rooms that nobody here made: take, lay, look, adjust,
save, open again, export."""

import json

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import topion
from topion.brushes import FieldBrush, Mosaic, Sown, Stamp, ThingsBrush, Weave
from topion.brushes.weave_slots import weave_of
from topion.formats.bundle import bundle_bytes, read_bundle, schema
from topion.formats.exports import export_files
from topion.grid.boxes import Box
from topion.model.compare import differences
from topion.model.prefab import Prefab
from topion.model.tileset import Cut, TileRef
from topion.pictures.png import picture_of, png_bytes, read_png
from topion.things.rules import AtMost, ClearOf, KeepsCells, NotOn, On
from topion.weaving.rules import Rule, RuleBook, Variant


def random_sheet(rng, tile, margin, spacing, rows, columns):
    """A sheet of random tiles, some clear in part, some empty."""
    height = 2 * margin + rows * (tile + spacing) - spacing
    width = 2 * margin + columns * (tile + spacing) - spacing
    rgba = np.zeros((height, width, 4), np.uint8)
    for y in range(rows):
        for x in range(columns):
            top, left = margin + y * (tile + spacing), margin + x * (tile + spacing)
            part = rgba[top : top + tile, left : left + tile]
            part[..., :3] = rng.integers(0, 256, 3) // 2 + rng.integers(0, 100, (tile, tile, 1))
            part[..., 3] = 255 if rng.random() < 0.8 else rng.integers(0, 2, (tile, tile)) * 255
    rgba[margin : margin + tile, margin : margin + tile, 3] = 255
    return rgba


@pytest.mark.parametrize(
    ("tile", "margin", "spacing"), [(8, 0, 0), (16, 1, 2), (24, 3, 1), (32, 0, 4)]
)
def test_the_loop_on_any_sheet(tmp_path, tile, margin, spacing):
    rng = np.random.default_rng(tile)
    path = tmp_path / "strange sheet.png"
    path.write_bytes(png_bytes(random_sheet(rng, tile, margin, spacing, 6, 7)))
    project = topion.new(tmp_path / "Loop.topion", "Loop")
    tileset = project.add_sheet(path, "Strange", Cut((tile, tile), margin, spacing))
    filled = [TileRef("Strange", name) for name in tileset.filled_slots()]
    project.add_brush(weave_of(tileset, Box((0, 0), (3, 3)), set()))
    project.add_brush(Mosaic("Mix", tuple(Variant(ref) for ref in filled[:5]), turns=True))
    project.add_brush(Stamp("Block", ((filled[0], filled[1]), (filled[2], None))))
    room = project.add_room("Hall", (30, 41), tile)
    room.lay("Strange weave", box=((0, 0), (29, 40)))
    room.lay("Mix", line=((2, 3), (25, 38)))
    room.lay("Block", line=((20, 2), (20, 30)))
    room.lift("Strange weave", flood=(0, 0))
    assert room.material(20, 2) == "Block" and room.render(1).shape == (30 * tile, 41 * tile, 4)
    project.save()
    again = topion.open(tmp_path / "Loop.topion")
    assert differences(again.data, project.data) == []
    assert np.array_equal(again.room("Hall").render(0.5), room.render(0.5))
    target = tmp_path / "loop.json"
    target.write_bytes(bundle_bytes(project.data))
    jsonschema.validate(json.loads(target.read_bytes()), schema())
    assert differences(read_bundle(target), project.data) == []


rules = st.lists(
    st.one_of(
        st.builds(On, st.just(("Ground",))),
        st.builds(NotOn, st.just(("Wet",))),
        st.builds(ClearOf, st.floats(0.5, 6), st.sampled_from(["", "anything", "Other", "kin"])),
        st.just(KeepsCells()),
        st.builds(AtMost, st.integers(1, 6)),
    ),
    max_size=3,
).map(tuple)
places = st.lists(st.tuples(st.integers(-1, 16), st.integers(-1, 16)), min_size=1, max_size=25)


def yard(one_rules, other_rules):
    project = topion.new(None, "Yard")
    rng = np.random.default_rng(5)
    from topion.model.tileset import TileSet

    sheet = picture_of(random_sheet(rng, 8, 0, 0, 3, 3))
    project.add_tileset(TileSet("s", sheet, Cut((8, 8))))
    for name, slot in (("Ground", "0,0"), ("Wet", "1,1")):
        ref = TileRef("s", slot)
        always = Rule("all", (("any",) * 3,) * 3, (Variant(ref),))
        project.add_brush(Weave(name, RuleBook((always,))))
    picture = picture_of(np.full((8, 8, 4), 200, np.uint8))
    project.add_prefab(Prefab("One", picture, (8, 4), class_name="kin", rules=one_rules))
    project.add_prefab(Prefab("Other", picture, (8, 4), ("##",), "kin", rules=other_rules))
    for name in ("One", "Other"):
        project.add_brush(ThingsBrush(name, name))
    room = project.add_room("Yard", (16, 16), 8)
    room.lay("Ground", box=((0, 0), (15, 15)))
    room.lay("Wet", box=((4, 4), (8, 12)))
    return room


@given(rules, rules, places, places)
def test_what_is_laid_without_override_breaks_no_rule_of_its_own(one, other, first, second):
    room = yard(one, other)
    room.lay("Other", cells=first)
    room.lay("One", cells=second)
    own = [f for f in room.project.check() if f.sentence.startswith("One")]
    assert own == []


@given(rules, places)
def test_the_verdict_tells_whether_a_single_stroke_lays(one, where):
    room = yard(one, ())
    room.lay("One", cells=where)
    for y, x in ((3, 3), (5, 5), (12, 12)):
        stands = any((t.y, t.x) == (y, x) for t in room.things())
        allowed = room.verdict("One", y, x).allowed
        assert bool(room.lay("One", cells=[(y, x)])) == (allowed and not stands)


@given(rules, places)
def test_the_nearest_spot_of_a_refusal_is_allowed(one, where):
    room = yard(one, ())
    room.lay("One", cells=where)
    found = room.verdict("One", 6, 6)
    if not found.allowed and found.nearest is not None:
        assert room.verdict("One", *found.nearest).allowed


def test_adjusting_a_field_afterwards_keeps_the_strokes(tmp_path):
    room = yard((), ())
    project = room.project
    project.add_brush(FieldBrush("Moss", (Sown("One"),), spacing=0.9, density=1.0, seed=3))
    room.lay("Moss", line=((8, 2), (8, 13)))
    density = room.data.layers["moss"].plane("density").copy()
    dense = len(room.sown("Moss"))
    project.add_brush(FieldBrush("Moss", (Sown("One"),), spacing=1.8, density=1.0, seed=3))
    assert np.array_equal(room.data.layers["moss"].plane("density"), density)
    assert 0 < len(room.sown("Moss")) < dense / 2
    project.undo()
    assert len(room.sown("Moss")) == dense


def test_pictures_of_a_room_at_any_scale_have_its_proportions():
    room = yard((), ())
    for scale in (0.2, 0.5, 1, 1.5, 3):
        height, width = room.render(scale).shape[:2]
        assert height == width == round(16 * 8 * scale)


def test_exported_layers_laid_over_each_other_are_the_room():
    room = yard((), ())
    room.lay("Other", cells=[(2, 2), (10, 10)])
    found = {
        name: read_png(b"".join(data)).rgba
        for name, data in export_files(room.project.data, ("Yard",), "png")
    }
    ground, things = found["Yard.ground.png"].astype(float), found["Yard.things.png"].astype(float)
    back = np.array([0xE9, 0xE2, 0xD2], float)

    def over(below, above):
        alpha = above[..., 3:] / 255
        return below * (1 - alpha) + above[..., :3] * alpha

    expected = over(over(np.broadcast_to(back, ground[..., :3].shape), ground), things)
    assert np.abs(found["Yard.png"][..., :3] - expected).max() <= 3
