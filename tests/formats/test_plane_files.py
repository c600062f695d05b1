"""Files of a room that can be read by themselves."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as some

from tests.rooms import small_room
from topion.edit.rooms import resize_room
from topion.errors import BadFile
from topion.formats.folder import read_project
from topion.formats.plane_files import PlaneHead, conflict_lines, head_of, plane_bytes, read_plane
from topion.model.compare import differences
from topion.model.conflict import CellsConflict

NAME = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1, max_size=8
)
NAMES = st.dictionaries(
    st.integers(1, 60_000),
    st.tuples(NAME) | st.tuples(NAME, NAME) | st.tuples(NAME, NAME, NAME),
    max_size=4,
)
CELLS = some.arrays(np.uint16, some.array_shapes(min_dims=2, max_dims=3, max_side=6))


@given(CELLS, NAMES, st.integers(-40, 40), st.booleans())
def test_what_is_written_reads_back(cells, names, start, turned):
    begin = (start,) * cells.ndim if start else ()
    head = PlaneHead(cells.shape, begin, names, 5 if turned else 0)
    conflicts = ({"kind": "cells", "at": [1, 2]}, {"note": "two\nlines"})
    found = read_plane(plane_bytes(head, cells, conflicts), "a.rows", (1, 1))
    assert (found.head, found.conflicts) == (head, conflicts)
    assert np.array_equal(found.cells, cells)


def test_rows_of_former_versions_have_no_head():
    found = read_plane(b"2*1 0\n3*4\n", "a.rows", (2, 3))
    assert not found.headed and found.cells.tolist() == [[1, 1, 0], [4, 4, 4]]
    assert head_of(b"2*1\n", "a.rows") is None


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"{", "a head that does not end"),
        (b"{}\n", "must begin with a head"),
        (b"[]\n", "holds b"),
        (b'{"size": [2]}\n', "two or three sides"),
        (b'{"size": [2, 0]}\n', "two or three sides"),
        (b'{"size": [99999, 2]}\n', "two or three sides"),
        (b'{"size": [9000, 9000]}\n', "two or three sides"),
        (b'{"size": [16000, 2]}\n2*0\n', "line 3: has 1 rows, but 16000 are declared"),
        (b'{"size": [1, 2], "from": [1]}\n2*0\n', "from: must be 2 numbers"),
        (b'{"size": [1, 2], "from": [1e9, 2]}\n2*0\n', "from"),
        (b'{"size": [1, 2], "turned": 40}\n2*0\n', "turned"),
        (b'{"size": [1, 2], "names": {"0": "a"}}\n2*0\n', "names: must be names by number"),
        (b'{"size": [1, 2], "names": {"1": []}}\n2*0\n', "names: must be names by number"),
        (b'{"size": [1, 2], "names": {"1": 4}}\n2*0\n', "names: must be names by number"),
        (b'{"size": [1, 2], "names": {"99999": "a"}}\n2*0\n', "names: must be names by number"),
        (b'{"size": [1, 2], "eval": 1}\n2*0\n', "must begin with a head"),
        (b'{"size": [1, 2]}\n2*0\nconflict {\n', "line 3"),
        (b'{"size": [1, 2]}\n2*0\nconflict {}\n2*0\n', "line 4: has rows behind its conflicts"),
        (b'{"size": [1, 2]}\n3*0\n', "line 2: has 3 cells"),
    ],
)  # fmt: skip
def test_a_head_that_is_not_sound_is_refused_with_its_line(data, message):
    with pytest.raises(BadFile, match=message):
        read_plane(data, "a.rows", (1, 1))


@pytest.fixture
def saved(tmp_path):
    room = small_room()
    room.lay("Stones", box=((2, 2), (4, 5)))
    return room, room.project.save(tmp_path / "A.topion")


def test_cells_are_found_by_name_whatever_the_numbers(saved):
    room, folder = saved
    index = (folder / "project.json").read_text()
    assert '"materials": ["Mud", "Water", "Stones"]' in index
    other = index.replace('["Mud", "Water", "Stones"]', '["Stones", "Sand", "Mud", "Water"]')
    (folder / "project.json").write_text(other)
    project = read_project(folder)
    cells = project.room("Yard").layers["ground"].plane("material")
    names = np.array([project.material_name(int(v)) for v in cells.flat]).reshape(cells.shape)
    assert {*names[2:5, 2:6].flat} == {"Stones"} and (names == "Mud").sum() == cells.size - 12
    assert room.material(2, 2) == "Stones"


def test_a_file_from_before_the_room_grew_lies_where_it_lay(saved):
    room, folder = saved
    rows = folder / "rooms" / "Yard" / "ground.material.rows"
    things = folder / "rooms" / "Yard" / "things.things.json"
    room.lay("Bush", cells=[(9, 9)])
    room.project.save()
    before = rows.read_bytes(), things.read_bytes()
    room.project.history.apply(resize_room(room.project.data, "Yard", (30, 40), (3, 5)))
    room.project.save()
    assert rows.read_bytes() != before[0] and b'"from": [-3, -5]' in rows.read_bytes()
    grown = read_project(folder)
    rows.write_bytes(before[0])  # as another one has it who did not know of the larger room
    things.write_bytes(before[1])
    assert differences(read_project(folder), grown) == []


def test_cells_that_the_room_does_not_reach_are_kept_as_a_conflict(saved):
    room, folder = saved
    room.lay("Stones", cells=[(23, 31)])
    room.project.save()
    rows = folder / "rooms" / "Yard" / "ground.material.rows"
    before = rows.read_bytes()
    room.resize((20, 28))
    room.project.save()
    rows.write_bytes(before)
    found = read_project(folder).room("Yard")
    (conflict,) = found.conflicts
    assert isinstance(conflict, CellsConflict) and found.info.size == (20, 28)
    assert conflict.box.hi == (24, 32)


def test_conflict_lines_are_one_line_each():
    assert conflict_lines([{"a": "x\ny"}]).count(b"\n") == 1 and conflict_lines([]) == b""
