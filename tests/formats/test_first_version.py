"""Projects saved by the first version open unchanged, and are saved as they were."""

import json
import shutil
from pathlib import Path

import jsonschema
import numpy as np
import pytest

import topion
from topion.errors import BadFile
from topion.formats.bundle import bundle_plain, read_bundle, schema
from topion.formats.store import FORMAT
from topion.model.compare import differences
from topion.pictures.png import read_png_file
from topion.render.scene import render_room

FIXTURES = Path(__file__).parent.parent / "fixtures"


@pytest.fixture
def first(tmp_path) -> Path:
    return Path(shutil.copytree(FIXTURES / "First.topion", tmp_path / "First.topion"))


def files(folder: Path) -> dict[str, bytes]:
    return {
        p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()
    }


@pytest.mark.parametrize("name", ["Yard", "Isle"])
def test_its_rooms_look_as_they_did(first, name):
    project = topion.open(first)
    picture = render_room(project.data, project.data.room(name), 2.0)
    assert np.array_equal(picture, read_png_file(FIXTURES / f"First {name}.png").rgba)


def test_its_bundle_reads_as_the_folder_does(first):
    assert differences(read_bundle(FIXTURES / "First.json"), topion.open(first).data) == []


def test_its_bundle_keeps_to_the_schema_that_is_made_from_types_now():
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(json.loads((FIXTURES / "First.json").read_text()), schema())


@pytest.mark.parametrize(
    ("part", "value"),
    [("name", 3), ("materials", ["Mud", 4]), ("rooms", [{"room": {}}]), ("brushes", [{}])],
)
def test_the_schema_refuses_what_the_reader_refuses(tmp_path, part, value):
    plain = json.loads((FIXTURES / "First.json").read_text()) | {part: value}
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(plain, schema())
    path = tmp_path / "bad.json"
    path.write_text(json.dumps(plain))
    with pytest.raises(BadFile):
        read_bundle(path)


def test_the_bundle_written_now_says_the_same(first):
    before = json.loads((FIXTURES / "First.json").read_text())
    assert bundle_plain(topion.open(first).data) == before


def test_saving_it_again_changes_no_byte(first):
    before = files(first)
    project = topion.open(first)
    project.save()
    assert files(first) == before


def test_a_copy_of_it_is_of_the_newest_format_and_says_the_same(first):
    project = topion.open(first)
    assert project.data.room("Yard").layers  # Isle is copied without being read
    elsewhere = first.with_name("Copy.topion")
    project.save(elsewhere)
    before, after = files(first), files(elsewhere)
    index = json.loads(after["project.json"])
    assert index["format"] == FORMAT and after.keys() == before.keys()
    assert {name for name in after if after[name] != before[name]} == {
        "project.json",
        *(name for name in after if name.startswith("rooms/Yard/") and name.endswith(".rows")),
    }
    assert differences(topion.open(elsewhere).data, topion.open(first).data) == []


def test_its_first_change_gives_it_an_id_and_the_newer_format(first):
    project = topion.open(first)
    project.save()
    assert json.loads((first / "project.json").read_text())["format"] == 1
    room = project.room("Yard")
    highest = max(number for layer in room.data.layers.values() for number in layer.things)
    thing = room.things()[-1]
    room.lift(cells=[(round(thing.y), round(thing.x))])
    project.save()
    index = json.loads((first / "project.json").read_text())
    assert index["format"] == FORMAT and index["id"] == project.data.id
    again = topion.open(first).room("Yard")
    assert again.data.next_number() == highest + 1 and again.project.data.id == index["id"]
