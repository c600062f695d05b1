"""The plan as SVG and PNG."""

from __future__ import annotations

import base64
import io
import xml.etree.ElementTree as ET

import pytest
from PIL import Image

from tests.plan.worlds import small_world
from tests.rooms import small_room
from topion.cli import main
from topion.edit.places import place_room, take_off
from topion.errors import BadValue
from topion.formats.exports import EXPORTS, export_files
from topion.formats.exports.plan_png import plan_picture
from topion.formats.exports.plan_svg import plan_svg
from topion.plan.scene import MARGIN_PX, scene_of

XLINK = "{http://www.w3.org/1999/xlink}"
SVG = "{http://www.w3.org/2000/svg}"


def test_the_svg_is_xml_with_each_place_each_thread_and_each_door():
    world = small_world()
    world.history.apply(place_room(world.data, "Attic", (40, 0)))
    root = ET.fromstring(plan_svg(world.data))
    images = list(root.iter(f"{SVG}image"))
    assert len(images) == 4
    for image in images:
        data = base64.b64decode(image.get(f"{XLINK}href").split(",", 1)[1])
        assert Image.open(io.BytesIO(data)).size[0] > 0
    texts = [text.text for text in root.iter(f"{SVG}text")]
    assert {"Yard", "Attic", "Cave", "Attic again", "start"} <= set(texts)
    curves = [path for path in root.iter(f"{SVG}path") if "C" in path.get("d")]
    assert len(curves) == 4  # two threads, each with its edge
    doors = [r for r in root.iter(f"{SVG}rect") if r.get("fill") == "#fbfaf5"]
    assert len(doors) == 5


def test_the_svg_has_nothing_an_outside_checker_minds(svg_faults, tmp_path):
    world = small_world()
    world.add_room('<Salt & "smoke">', (6, 6))
    world.history.apply(place_room(world.data, '<Salt & "smoke">', (0, 0)))
    assert svg_faults(plan_svg(world.data), tmp_path) == ""
    assert "error" in svg_faults(b"<svg><g nonsense='1'/></svg>", tmp_path)


def test_names_of_rooms_are_escaped():
    room = small_room((6, 6))
    room.project.add_room('<Salt & "smoke">', (6, 6))
    room.project.history.apply(place_room(room.project.data, '<Salt & "smoke">', (0, 0)))
    root = ET.fromstring(plan_svg(room.project.data))
    assert '<Salt & "smoke">' in [text.text for text in root.iter(f"{SVG}text")]


def test_rooms_lie_to_scale_within_the_margin():
    scene = scene_of(small_world().data)
    assert scene.rect(scene.spots["Yard"].rect)[:2] == pytest.approx((MARGIN_PX, MARGIN_PX))
    yard, attic = (scene.rect(scene.spots[name].rect) for name in ("Yard", "Attic"))
    assert attic.left - yard.left == pytest.approx(30 * scene.px)


def test_the_png_is_as_large_as_the_scene_and_shows_the_rooms():
    world = small_world()
    world.room("Yard").lay("Stones", box=((0, 0), (9, 19)))
    picture = plan_picture(world.data)
    scene = scene_of(world.data)
    assert picture.shape[:2] == scene.size_px
    y, x = scene.at((7.0, 10.0))
    assert tuple(picture[int(y), int(x), :3]) != tuple(picture[2, 2, :3])


def test_a_scale_makes_it_larger_up_to_a_limit():
    world = small_world()
    assert plan_picture(world.data, 2).shape[0] > plan_picture(world.data, 1).shape[0]
    assert max(scene_of(world.data, 100).size_px) <= 4096
    with pytest.raises(BadValue):
        scene_of(world.data, 0.0)


def test_a_plan_without_rooms_is_refused_in_a_sentence():
    world = small_world()
    world.history.apply(take_off(world.data, ["Yard", "Attic", "Cave"]))
    with pytest.raises(BadValue, match="at least one room"):
        list(export_files(world.data, (), "plan-svg"))


def test_the_command_line_writes_both(tmp_path, capsys):
    small_world().save(tmp_path / "W.topion")
    for kind in ("plan-svg", "plan-png"):
        assert EXPORTS[kind].whole
        assert main(["export", str(tmp_path / "W.topion"), "--to", kind, "-o", str(tmp_path)]) == 0
    assert {path.suffix for path in tmp_path.glob("* plan.*")} == {".svg", ".png"}
    world = small_world()
    world.history.apply(take_off(world.data, ["Yard", "Attic", "Cave"]))
    world.save(tmp_path / "E.topion")
    assert (
        main(["export", str(tmp_path / "E.topion"), "--to", "plan-svg", "-o", str(tmp_path)]) != 0
    )
    assert "the plan" in capsys.readouterr().err
