"""What goes out reads back, and keeps to its published schema."""

import csv
import io
import json

import jsonschema
import numpy as np
import pytest

from tests.rooms import planes, small_room
from topion.errors import BadFile, UnknownName
from topion.formats.bundle import bundle_bytes, read_bundle, schema
from topion.formats.csv_layers import csv_files
from topion.formats.exports import export_files
from topion.model.compare import differences
from topion.pictures.png import read_png


@pytest.fixture
def yard():
    room = small_room()
    room.lay("Water", box=((2, 2), (8, 9)))
    room.lay("Lamp", cells=[(4, 4), (12, 12)])
    room.lay("Reeds", box=((10, 10), (20, 20)))
    return room


def test_a_bundle_keeps_to_the_schema(yard):
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(json.loads(bundle_bytes(yard.project.data)), schema())


def test_a_bundle_reads_back_equal(yard, tmp_path):
    path = tmp_path / "b.json"
    path.write_bytes(bundle_bytes(yard.project.data))
    assert differences(read_bundle(path), yard.project.data) == []


@pytest.mark.parametrize(
    ("old", "new", "message"),
    [
        (b'"topion-bundle"', b'"other"', "is not a Topion bundle"),
        (b'"version": 1', b'"version": 9', "has version 9"),
        (b'"density": [', b'"density": ["1*0",', "line .*rows|line .*cells"),
        (b'"anchor_px"', b'"anchor"', "line .*anchor: is not known"),
    ],
)
def test_a_damaged_bundle_is_refused(yard, tmp_path, old, new, message):
    path = tmp_path / "b.json"
    path.write_bytes(bundle_bytes(yard.project.data).replace(old, new, 1))
    with pytest.raises(BadFile, match=message):
        read_bundle(path)


def test_csv_tells_tiles_materials_densities_and_things(yard):
    tables = {
        name: list(csv.reader(io.StringIO(data.decode())))
        for name, data in csv_files(yard.project.data, yard.data)
    }
    kept = planes(yard, "Ground")
    assert np.array_equal(np.array(tables["Yard.ground.csv"], int), kept["tile"])
    assert np.array_equal(np.array(tables["Yard.ground.material.csv"], int), kept["material"])
    assert (
        tables["materials.csv"][1] == ["1", "Mud"]
        and len(tables["tiles.csv"]) == len(yard.project.data.tiles) + 1
    )
    assert [row[1:4] for row in tables["Yard.things.csv"][1:]] == [
        ["Lamp", "4.0", "4.0"],
        ["Lamp", "12.0", "12.0"],
    ]
    assert len(tables["Yard.reeds.csv"]) == len(yard.sown("Reeds")) + 1
    assert "Yard.reeds.density.csv" in tables


def test_png_shows_the_room_and_each_layer_alone(yard):
    found = dict(export_files(yard.project.data, ("Yard",), "png", 2.0))
    assert set(found) == {"Yard.png", "Yard.ground.png", "Yard.things.png", "Yard.reeds.png"}
    assert np.array_equal(read_png(b"".join(found["Yard.png"])).rgba, yard.render(2.0))
    assert np.array_equal(
        read_png(b"".join(found["Yard.things.png"])).rgba, yard.render(2.0, "Things")
    )


def test_an_unknown_export_is_named(yard):
    with pytest.raises(UnknownName, match="json"):
        list(export_files(yard.project.data, ("Yard",), "jsn"))
