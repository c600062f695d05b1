"""What is declared is checked before memory is taken, and said in a sentence with the bound."""

import json

import pytest

import topion
from tests.rooms import small_room
from topion.errors import BadFile, BadValue
from topion.formats.bundle import bundle_plain, read_bundle

LARGE = [16384, 4096]


@pytest.fixture
def folder(tmp_path):
    return small_room((6, 7)).project.save(tmp_path / "P.topion")


def enlarge(folder, layers):
    """A room whose settings declare so many large layers."""
    path = folder / "rooms/Yard/room.json"
    head = json.loads(path.read_text())
    head["room"]["size"] = LARGE
    layer = {"name": "L", "kind": "tiles"}
    head["layers"] = [{"id": f"l{n}", "layer": layer} for n in range(layers)]
    path.write_text(json.dumps(head))


def test_layers_beyond_the_budget_of_a_project_are_refused_before_they_are_read(folder):
    enlarge(folder, 40)
    with pytest.raises(BadFile, match="would take 5120 MiB, more than 1024 MiB"):
        topion.open(folder).room("Yard")


def test_layers_within_the_budget_are_asked_for_their_files(folder):
    enlarge(folder, 4)
    with pytest.raises(BadFile, match=r"l0\.material\.rows: is missing"):
        topion.open(folder).room("Yard")


def test_a_bundle_has_the_same_budget(folder, tmp_path):
    plain = bundle_plain(topion.open(folder).data)
    entry = plain["rooms"][0]
    entry["room"]["size"] = LARGE
    rows = ["4096*0"] * LARGE[0]
    layer = {"name": "L", "kind": "tiles"}
    entry["layers"] = [{"id": f"l{n}", "layer": layer, "material": rows, "pinned": rows}
                       for n in range(9)]  # fmt: skip
    entry["layers"][0]["material"] = ["4096*1"] * LARGE[0]
    path = tmp_path / "big.json"
    path.write_text(json.dumps(plain))
    assert read_bundle(path).rooms["Yard"].bytes_stored == 2 * LARGE[0] * LARGE[1]
    for line in entry["layers"]:
        line["material"] = ["4096*1"] * LARGE[0]
    path.write_text(json.dumps(plain))
    with pytest.raises(BadFile, match="more than 1024 MiB"):
        read_bundle(path)


@pytest.mark.parametrize("key", ["materials", "rooms", "bays"])
def test_a_long_list_in_the_index_is_refused_at_once(folder, key):
    path = folder / "project.json"
    index = json.loads(path.read_text())
    index[key] = ["x"] * 200_000
    path.write_text(json.dumps(index))
    with pytest.raises(BadFile, match=f"{key}: lists more than 100000"):
        topion.open(folder)
    index[key] = ["x" * 100] * 200_000
    path.write_text(json.dumps(index))
    with pytest.raises(BadFile, match=r"MiB long, more than 16 MiB|lists more than"):
        topion.open(folder)


def test_more_things_than_a_layer_may_hold_are_refused_before_they_are_read(folder):
    path = folder / "rooms/Yard/things.things.json"
    path.write_text("[\n" + "{},\n" * 260_000 + "{}]\n")
    with pytest.raises(BadFile, match="lists more than 250000 things"):
        topion.open(folder).room("Yard")


@pytest.mark.parametrize("scale", [0, -1, 1e9, float("nan"), float("inf"), 500])
def test_a_picture_beyond_bounds_is_refused(scale):
    room = small_room((300, 400))
    with pytest.raises(BadValue, match="the scale"):
        room.render(scale)
