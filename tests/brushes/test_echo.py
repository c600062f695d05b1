"""Echo: what is filled holds only neighbourhoods of the sample, and keeps what lies round it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import small_room
from tests.voxel_rooms import isle
from topion.brushes import Echo
from topion.brushes.marks import Marks, Place
from topion.edit.picked import Picks, scrap_of
from topion.errors import BadValue, Stopped
from topion.grid.areas import Area
from topion.grid.bit_sets import bits_where, members, where_bits
from topion.grid.boxes import Box
from topion.grid.echo import UNKNOWN, Beside, echo
from topion.grid.windows import Windows
from topion.progress import heard_by


def patches(seed, shape, count):
    """Cells of the nearest of some points, each of one of `count` values."""
    rng = np.random.default_rng(seed)
    points, value = rng.random((2 * count, len(shape))) * shape, rng.integers(0, count, 2 * count)
    at = np.indices(shape).reshape(len(shape), -1).T
    near = ((at[:, None] - points) ** 2).sum(axis=2).argmin(axis=1)
    return value[near].reshape(shape).astype(np.int32)


def windows_in(values, side, whole):
    """The neighbourhoods of an array that lie wholly where `whole` says."""
    shape = (side,) * values.ndim
    view = np.lib.stride_tricks.sliding_window_view
    there = view(whole, shape).reshape(-1, side**values.ndim).all(axis=1)
    return {
        w.tobytes()
        for w in view(values, shape).reshape(-1, side**values.ndim)[there].astype(np.int32)
    }


def seen(values, side, copies=()):
    return Windows.seen(values, np.ones(values.shape, bool), side, copies)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([((14, 14), 2), ((16, 16), 3), ((8, 8, 8), 2)]),
       st.integers(2, 5))  # fmt: skip
def test_every_neighbourhood_that_is_laid_was_in_the_sample(seed, kind, count):
    shape, side = kind
    sample = patches(seed, shape, count)
    size = tuple(v // 2 + 4 for v in shape)
    rng = np.random.default_rng(seed)
    fill = rng.random(size) < 0.9
    given_values = np.where(rng.random(size) < 0.3, rng.integers(0, count, size), UNKNOWN)
    given_values = np.where(fill, UNKNOWN, given_values).astype(np.int32)
    found = echo(seen(sample, side), given_values, fill, seed)
    laid = fill & ~found.left
    whole = laid | np.isin(given_values, sample)  # what the sample does not have asks for nothing
    known = windows_in(sample, side, np.ones(shape, bool))
    assert windows_in(found.values, side, laid) <= known
    for window in windows_in(np.where(whole, found.values, -9), side, whole):
        cells = np.frombuffer(window, np.int32)
        if window not in known:  # it was there before: none of its cells was laid
            assert _lies_without(found.values, laid, cells, side)
    assert (found.values[~fill] == given_values[~fill]).all()


def _lies_without(values, laid, cells, side):
    """Whether a neighbourhood is found somewhere where nothing was laid."""
    view, shape = np.lib.stride_tricks.sliding_window_view, (side,) * values.ndim
    alike = (view(values, shape).reshape(-1, side**values.ndim) == cells).all(axis=1)
    touched = view(laid, shape).reshape(-1, side**values.ndim).any(axis=1)
    return not (alike & touched).any()


def test_the_same_seed_gives_the_same_and_another_one_another():
    sample, fill = patches(3, (20, 20), 4), np.ones((24, 24), bool)
    nothing = np.full(fill.shape, UNKNOWN, np.int32)
    first = echo(seen(sample, 2), nothing, fill, 7)
    assert (echo(seen(sample, 2), nothing, fill, 7).values == first.values).all()
    assert (echo(seen(sample, 2), nothing, fill, 8).values != first.values).any()
    assert not first.left.any()


def test_what_is_common_in_the_sample_is_common_in_what_is_laid():
    sample = (np.random.default_rng(1).random((40, 40)) < 0.2).astype(np.int32)
    fill = np.ones((60, 60), bool)
    found = echo(seen(sample, 2), np.full(fill.shape, UNKNOWN, np.int32), fill, 1)
    assert 0.12 < found.values.mean() < 0.3


def test_where_nothing_fits_cells_are_left_open_and_told():
    sample = np.array([[0, 1] * 4, [1, 0] * 4] * 4, np.int32)  # a checkerboard
    given_values = np.full((3, 6), UNKNOWN, np.int32)
    given_values[1] = [0, 1, 0, UNKNOWN, 0, 0]  # two of a kind side by side, out of step
    fill = np.zeros((3, 6), bool)
    fill[1, 3] = True
    found = echo(seen(sample, 2), given_values, fill, 1)
    assert found.values[1, 3] == 1 and not found.left.any()
    given_values[1, 4] = 1
    assert echo(seen(sample, 2), given_values, fill, 1).left[1, 3]


def test_copies_add_what_the_sample_shows_turned():
    sample = np.zeros((4, 6), np.int32)
    sample[:, 3:] = 1
    plain = seen(sample, 2)
    turned = seen(sample, 2, [lambda a: np.rot90(a, 1), lambda a: a[:, ::-1]])
    assert len(plain) == 3 and len(turned) == 5
    assert turned.counts.sum() == 3 * 15


@given(st.integers(0, 1000), st.integers(1, 200))
def test_sets_are_packed_into_numbers_and_read_back(seed, count):
    wanted = np.random.default_rng(seed).random(count) < 0.4
    bits = bits_where(wanted)
    assert (where_bits(bits, count) == wanted).all()
    assert list(members(bits)) == np.flatnonzero(wanted).tolist()


@pytest.mark.parametrize("share", [0.05, 0.6])
def test_what_can_stand_beside_is_told_as_by_comparing_each_pair(share):
    windows = seen(patches(5, (16, 16), 4), 3)
    beside, count = Beside(windows), len(windows)
    sets = np.random.default_rng(0).random((20, count)) < share
    for number, (axis, step) in enumerate(beside.sides):
        told = [where_bits(beside.of(bits_where(row), number), count) for row in sets]
        cells = windows.cells
        head, tail = (np.delete(cells, n, axis=axis + 1).reshape(count, -1) for n in (2, 0))
        first, then = (tail, head) if step > 0 else (head, tail)
        may = (first[:, None] == then[None]).all(axis=2)
        assert (np.array(told) == (sets @ may)).all()


# --- the brush ----------------------------------------------------------------------------


def yard():
    room = small_room((24, 32))
    room.lay("Mud", box=((0, 0), (12, 12)))
    room.lay("Water", box=((3, 3), (8, 9)))
    room.lay("Stones", box=((9, 2), (11, 6)))
    return room


def picked(room, box):
    project = room.project.data
    name = room.name
    layers = [i for i, _ in project.room(name).cell_layers()]
    return scrap_of(project, name, Picks((), Area.of_box(box), tuple(layers)))


def neighbourhoods(room, box, side):
    project = room.project.data
    _, layer = project.room(room.name).cell_layers()[0]
    values = layer.plane("material")[box.slices].astype(np.int32)
    return windows_in(values, side, np.ones(values.shape, bool))


@pytest.mark.parametrize("side", [2, 3])
def test_a_box_is_filled_as_one_edit_in_the_manner_of_what_was_picked(side):
    room = yard()
    box = Box((0, 0), (12, 12))
    goal = Box((2, 15), (23, 31))
    before = neighbourhoods(room, goal, side)
    changed = 0
    for seed in range(4):
        room.project.add_brush(Echo("Echo", picked(room, box), looks_at=side, seed=seed))
        count = len(room.project.history.edits)
        room.lay("Echo", box=(goal.lo, goal.hi))
        made = len(room.project.history.edits) - count
        assert made <= 1
        changed += made
        assert neighbourhoods(room, goal, side) <= neighbourhoods(room, box, side)
        if made:
            room.project.undo()
        assert neighbourhoods(room, goal, side) == before
    assert changed


def test_blocks_are_filled_too():
    room = isle((10, 12, 24))
    room.lay("Stones", box=((3, 2, 2), (4, 5, 5)))
    room.lay("Water", box=((2, 6, 6), (2, 8, 8)))
    project = room.project.data
    layers = tuple(i for i, _ in project.room(room.name).cell_layers())
    box = Box((0, 0, 0), (6, 10, 10))
    scrap = scrap_of(project, room.name, Picks((), Area.of_box(box), layers))
    room.project.add_brush(Echo("Echo", scrap))
    place = Place(project, room.name)
    goal = Box((1, 1, 12), (6, 11, 23))
    edits = [
        project.brush("Echo").changed(seed=n).plan(place, Marks(goal.cells())) for n in range(4)
    ]
    assert any(edit.cells_written for edit in edits)
    with pytest.raises(BadValue, match="voxel"):
        Echo("Echo 2", scrap, looks_at=3)


def test_a_sample_without_a_neighbourhood_is_refused():
    room = yard()
    with pytest.raises(BadValue, match="cells wide"):
        Echo("Thin", picked(room, Box((0, 0), (1, 12))))


def test_filling_can_be_stopped():
    room = yard()
    room.project.add_brush(Echo("Echo", picked(room, Box((0, 0), (12, 12)))))

    def stop(_):
        raise Stopped("Echo")

    with pytest.raises(Stopped), heard_by(stop):
        place = Place(room.project.data, room.name)
        room.project.data.brush("Echo").plan(place, Marks(Box((2, 16), (22, 30)).cells()))
