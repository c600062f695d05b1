"""Planes of cells put together from their files."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as some

from topion.errors import BadFile
from topion.formats.plane_files import PlaneHead, plane_bytes, read_plane
from topion.merging.planes import merged_plane
from topion.model.conflict import CellsConflict, Conflict
from topion.model.naming import Naming, values_kept
from topion.model.plain import from_plain

FILE = "rooms/Yard/ground.material.rows"
NAMES = {1: ("Mud",), 2: ("Brick",), 3: ("Water",)}


def rows(cells, names=None, start=(), plane=FILE) -> bytes:
    cells = np.asarray(cells, np.uint16)
    known = NAMES if names is None else names
    used = {n: known[n] for n in np.unique(cells[cells > 0]).tolist() if n in known}
    return plane_bytes(PlaneHead(cells.shape, start, used), cells)


def named(data: bytes) -> list[list[str]]:
    """The names in the cells of a file."""
    found = read_plane(data, FILE, (1, 1))
    names = {0: "."} | {n: name[0] for n, name in found.head.names.items()}
    return [[names[v] for v in row] for row in found.cells.tolist()]


def conflicts(merged) -> list[CellsConflict]:
    return [from_plain(Conflict, plain) for plain in merged.conflicts]


CELLS = some.arrays(np.uint16, (5, 6), elements=st.integers(0, 3))


@given(CELLS, CELLS, CELLS, st.booleans())
def test_every_cell_is_as_the_side_has_it_that_changed_it(base, ours, theirs, other_numbers):
    sent = {1: ("Water",), 2: ("Mud",), 3: ("Brick",)}  # theirs numbers the same names otherwise
    to = np.array([0, 2, 3, 1], np.uint16)
    data = rows(to[theirs], sent) if other_numbers else rows(theirs)
    found = merged_plane(FILE, rows(base), rows(ours), data)
    want = np.where(theirs == base, ours, np.where(ours == base, theirs, ours))
    # a name that is nowhere else may have been given up for another; told apart by all three
    if {*np.unique(base)} <= {*np.unique(ours)} & {*np.unique(theirs)}:
        plain = [["." if not v else NAMES[v][0] for v in row] for row in want.tolist()]
        assert named(found.data) == plain
        both = (ours != base) & (theirs != base) & (ours != theirs)
        kept = np.zeros(both.shape, bool)
        for one in conflicts(found):
            mask, _ = values_kept(one, Naming(NAMES))
            kept[one.box.slices] |= one.cells.cells > 0
            assert mask.shape == one.box.shape
        assert (kept == both).all()


def test_both_may_add_materials_under_the_same_number():
    base, mud = [[0, 0, 0, 0]], {1: ("Mud",)}
    ours = rows([[1, 2, 0, 0]], {**mud, 2: ("Moss",)})
    theirs = rows([[0, 0, 2, 1]], {**mud, 2: ("Sand",)})
    found = merged_plane(FILE, rows(base), ours, theirs)
    assert named(found.data) == [["Mud", "Moss", "Sand", "Mud"]] and not found.conflicts


def test_a_material_that_was_called_otherwise_is_not_painted_over():
    base = rows([[1, 1, 1]])
    ours = rows([[1, 1, 1]], {1: ("Silt",)})
    theirs = rows([[1, 2, 1]])
    found = merged_plane(FILE, base, ours, theirs)
    assert named(found.data) == [["Silt", "Brick", "Silt"]] and not found.conflicts


def test_what_both_painted_otherwise_is_ours_and_keeps_theirs():
    found = merged_plane(FILE, rows([[1, 1, 1]]), rows([[1, 2, 2]]), rows([[1, 3, 0]]))
    assert named(found.data) == [["Mud", "Brick", "Brick"]]
    (one,) = conflicts(found)
    assert one.at == (0, 1) and one.count == 2 and one.side == "theirs"
    mask, values = values_kept(one, Naming(NAMES))
    assert mask.all() and values.tolist() == [[3, 0]]


def test_conflicts_that_lie_apart_are_told_apart():
    base = np.ones((3, 9), int)
    ours, theirs = base.copy(), base.copy()
    ours[0, 0] = ours[2, 8] = 2
    theirs[0, 0] = theirs[2, 8] = 3
    found = merged_plane(FILE, rows(base), rows(ours), rows(theirs))
    assert [one.at for one in conflicts(found)] == [(0, 0), (2, 8)]


def test_a_room_that_grew_on_one_side_takes_in_what_the_other_painted():
    base = [[1, 1], [1, 1]]
    ours = [[2, 2, 2], [2, 1, 1], [2, 1, 1]]  # by a row in the north and a column in the west
    theirs = [[1, 1], [1, 3]]
    found = merged_plane(FILE, rows(base), rows(ours, start=(-1, -1)), rows(theirs))
    assert named(found.data) == [["Brick"] * 3, ["Brick", "Mud", "Mud"], ["Brick", "Mud", "Water"]]
    assert read_plane(found.data, FILE, (1, 1)).head.box.lo == (-1, -1) and not found.conflicts


def test_cells_painted_where_the_other_cut_the_room_are_kept_as_a_conflict():
    found = merged_plane(FILE, rows([[1, 1, 1]]), rows([[1, 1]]), rows([[1, 1, 2]]))
    assert named(found.data) == [["Mud", "Mud"]]
    (one,) = conflicts(found)
    assert one.at == (0, 2) and one.count == 1


def test_rows_that_nobody_changed_twice_are_not_read():
    broken = rows([[1, 1], [1, 1]]).replace(b"2*1\n2*1", b"2*1\nbad row")
    found = merged_plane(FILE, broken, broken.replace(b"2*1\n", b"2*0\n"), broken)
    assert found.data.endswith(b"2*0\nbad row\n")
    with pytest.raises(BadFile, match="holds b'b'"):
        merged_plane(FILE, broken, broken.replace(b"bad", b"bed"), broken.replace(b"bad", b"bid"))


def test_conflicts_of_an_earlier_merge_stay_until_somebody_settles_them():
    first = merged_plane(FILE, rows([[1, 1]]), rows([[1, 2]]), rows([[1, 3]])).data
    settled = rows([[1, 2]])
    again = merged_plane(FILE, first, first, first.replace(b"1 2\n", b"0 2\n"))
    assert b"conflict" in again.data
    done = merged_plane(FILE, first, settled, first.replace(b"1 2\n", b"0 2\n"))
    assert b"conflict" not in done.data and named(done.data) == [[".", "Brick"]]


def test_amounts_are_merged_like_numbers():
    file = "rooms/Yard/reeds.density.rows"
    base, ours, theirs = ([[0, 9]], [[5, 9]], [[0, 200]])
    found = merged_plane(file, *(rows(cells, {}, plane=file) for cells in (base, ours, theirs)))
    assert read_plane(found.data, file, (1, 1)).cells.tolist() == [[5, 200]]
