"""Every form of every shape, at all sizes: what a shape shows follows from where a cell lies."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.rooms import slots, tile
from tests.shapes import (
    BRICK,
    FLAT,
    PAVING,
    PIPE,
    QUAY,
    WALK,
    WALL,
    deep_shape_room,
    shape_room,
    shown_refs,
)
from topion.brushes import Crate, Panel, Ramp, Run, Trail
from topion.brushes.marks import Place
from topion.brushes.trail import trail_cells
from topion.errors import BadValue
from topion.grid.turns import turned
from topion.model.piece import Piece
from topion.model.solid import block_ref
from topion.model.tileset import TileRef

SIZES = list(itertools.product(range(1, 13), repeat=2))
points = st.tuples(st.integers(-4, 20), st.integers(-4, 20))


def box_piece(brush, height, width, **more):
    return Piece(brush.name, ((2, 3), (height + 1, width + 2)), **more)


def place_in(at, side):
    """The letter of a place along one axis."""
    return "a" if side == 1 else "first" if at == 0 else "last" if at == side - 1 else "m"


# --- panel --------------------------------------------------------------------------------


@pytest.mark.parametrize(("height", "width"), SIZES)
def test_a_panel_shows_corners_edges_and_inside_at_every_size(height, width):
    shown = shown_refs(WALL, box_piece(WALL, height, width))
    assert len(shown) == height * width
    rows = {"first": "n", "last": "s", "m": "m", "a": "a"}
    columns = {"first": "w", "last": "e", "m": "m", "a": "a"}
    for (y, x), ref in shown.items():
        key = rows[place_in(y - 2, height)] + columns[place_in(x - 3, width)]
        assert ref == WALL.found[key].tile
        if "a" not in key:
            assert ref == WALL.parts[key]


@given(st.integers(1, 7), st.integers(1, 7), st.integers(0, 3), st.booleans())
def test_a_turned_panel_is_the_picture_of_the_panel_turned(height, width, turn, mirrored):
    """Each tile lies where turning the whole would bring it, and is turned itself."""
    own = (width, height) if turn % 2 else (height, width)
    plain = shown_refs(WALL, box_piece(WALL, *own))
    grid = np.arange(own[0] * own[1]).reshape(own)
    moved = turned(grid, turn, mirrored)
    refs = list(plain.values())
    shown = shown_refs(WALL, box_piece(WALL, height, width, turn=turn, mirrored=mirrored))
    for (y, x), ref in shown.items():
        before = refs[moved[y - 2, x - 3]]
        picture = np.array([[0, 1], [2, 3]])
        once = turned(turned(picture, before.turn, before.mirrored), turn, mirrored)
        assert np.array_equal(once, turned(picture, ref.turn, ref.mirrored))
        assert ref.slot == before.slot


def test_a_missing_part_is_another_one_mirrored_before_it_is_turned():
    corner = Panel("C", {"nw": tile(0, 0), "nm": tile(0, 1), "mm": tile(0, 2)})
    assert corner.found["ne"].tile == TileRef("sheet", "0,0", 0, True)
    assert corner.found["sw"].tile == TileRef("sheet", "0,0", 2, True)
    assert corner.found["me"].tile == TileRef("sheet", "0,1", 1, False)
    assert corner.lacking()[0] == "one wide, top" and corner.lacking()[-1] == "single"


def test_the_inside_of_a_panel_is_chosen_by_place_and_seed():
    piece = box_piece(BRICK, 8, 9)
    shown = shown_refs(BRICK, piece)
    moved = shown_refs(BRICK, piece.shifted((0, 2)))
    assert len(set(shown.values())) == 3
    both = shown.keys() & moved.keys()
    inner = {c for c in both if 3 <= c[0] <= 8 and 6 <= c[1] <= 10}
    assert all(shown[c] == moved[c] for c in inner), "what is not uncovered does not flicker"
    assert shown != shown_refs(BRICK, box_piece(BRICK, 8, 9, seed=5))


def test_a_pattern_inside_runs_on_from_panel_to_panel():
    for piece in (box_piece(PAVING, 6, 7), box_piece(PAVING, 5, 9).shifted((4, 3))):
        for (y, x), ref in shown_refs(PAVING, piece).items():
            on_edge = y in (piece.box.lo[0], piece.box.hi[0] - 1) or x in (
                piece.box.lo[1], piece.box.hi[1] - 1)  # fmt: skip
            assert on_edge or ref == PAVING.pattern[y % 2][x % 3]


# --- run ----------------------------------------------------------------------------------


@pytest.mark.parametrize("length", range(1, 13))
@pytest.mark.parametrize("way", [(0, 1), (0, -1), (1, 0), (-1, 0)])
def test_a_run_has_its_start_where_it_began_and_its_end_where_it_ended(length, way):
    start = np.array([20, 20])
    end = start + np.array(way) * (length - 1)
    piece = PIPE.fitted(Piece("Pipe", (tuple(start.tolist()), tuple(end.tolist()))))
    shown = shown_refs(PIPE, piece)
    cells = [tuple((start + np.array(way) * n).tolist()) for n in range(length)]
    roles = ["alone"] if length == 1 else ["start", *["middle"] * (length - 2), "end"]
    assert [shown[cell].slot for cell in cells] == [PIPE.parts[role].slot for role in roles]
    turns = {(0, 1): (0, False), (0, -1): (0, True), (1, 0): (1, False), (-1, 0): (1, True)}
    if length > 1:
        picture = np.array([[0, 1], [2, 3]])
        first = shown[cells[0]]
        lies = turned(picture, first.turn, first.mirrored)
        east = (0, 1)
        # the side that looks ahead in the part looks ahead along the run
        ahead = {(0, 1): lies[:, 1], (0, -1): lies[:, 0], (1, 0): lies[1], (-1, 0): lies[0]}[way]
        assert set(ahead.tolist()) == {1, 3} and turns[east] == (0, False)


def test_a_run_grows_along_the_longer_side_of_the_drag():
    assert PIPE.fitted(Piece("Pipe", ((5, 5), (7, 11)))).points == ((5, 5), (5, 11))
    assert PIPE.fitted(Piece("Pipe", ((5, 5), (-3, 7)))).points == ((5, 5), (-3, 5))


def test_standing_runs_show_their_own_parts_where_there_are_any():
    drain = Run("Drain", {"top": tile(0, 0), "upright": tile(0, 1), "bottom": tile(0, 2)})
    shown = shown_refs(drain, Piece("Drain", ((1, 1), (4, 1))))
    assert [ref.slot for ref in shown.values()] == ["0,0", "0,1", "0,1", "0,2"]
    upwards = shown_refs(drain, Piece("Drain", ((4, 1), (1, 1))))
    assert [ref.slot for ref in upwards.values()] == ["0,2", "0,1", "0,1", "0,0"]


def test_middles_alternate_along_a_run():
    fence = Run("Fence", {"start": tile(0, 0), "middle": tile(0, 1)}, (tile(0, 2), tile(0, 3)))
    shown = shown_refs(fence, Piece("Fence", ((1, 1), (1, 7))))
    assert [r.slot for r in shown.values()][1:-1] == ["0,1", "0,2", "0,3", "0,1", "0,2"]


# --- trail --------------------------------------------------------------------------------


def links(cells):
    """By cell, the sides on which a way goes on, found step by step."""
    found = {cell: set() for cell in cells}
    sides = {(-1, 0): ("n", "s"), (0, 1): ("e", "w"), (1, 0): ("s", "n"), (0, -1): ("w", "e")}
    for a, b in itertools.pairwise(cells):
        ahead, back = sides[(b[0] - a[0], b[1] - a[1])]
        found[a].add(ahead)
        found[b].add(back)
    return {c: "".join(s for s in "nesw" if s in sides) or "alone" for c, sides in found.items()}


@given(st.lists(points, min_size=1, max_size=7))
def test_a_trail_shows_in_each_cell_the_sides_on_which_it_goes_on(corners):
    piece = WALK.fitted(Piece("Walk", tuple(corners)))
    cells = [tuple(cell) for cell in trail_cells(piece).tolist()]
    steps = np.abs(np.diff(np.array(cells), axis=0)).sum(axis=1)
    assert (steps == 1).all(), "every step goes to a side neighbour"
    assert {*corners} <= {*cells}
    shown = shown_refs(WALK, piece)
    for cell, key in links(cells).items():
        assert shown[cell] == WALK.found[key].tile


def test_two_trails_meet_in_a_tee_and_in_a_cross():
    room = shape_room()
    room.lay("Walk", line=((12, 2), (12, 20)))
    room.lay("Walk", line=((12, 6), (18, 6)))
    room.lay("Walk", line=((8, 14), (18, 14)))
    assert slots(room)[12][6] == WALK.parts["esw"].slot
    assert slots(room)[12][14] == WALK.parts["nesw"].slot
    assert slots(room)[12][10] == WALK.parts["ew"].slot


def test_a_trail_through_clicked_points_turns_at_them():
    room = shape_room()
    edit = room.lay("Walk", curve=[(2, 2), (2, 9), (7, 9)])
    (piece,) = room.data.layers["ground"].pieces.values()
    assert piece.points == ((2, 2), (2, 9), (7, 9)) and edit.label == "Walk 3 points"
    assert slots(room)[2][9] == WALK.parts["es"].slot  # turned, but of that part


def test_a_dragged_trail_keeps_the_corners_of_the_way():
    room = shape_room()
    way = [(2, x) for x in range(2, 8)] + [(y, 7) for y in range(3, 9)]
    from topion.brushes.gestures import Gesture

    marks = Gesture("drag").marks(np.array(way, float), None)
    (piece,) = WALK.planned(marks)
    assert piece.points == ((2, 2), (2, 7), (8, 7))
    assert WALK.plan(Place(room.project.data, "Yard"), marks)


# --- ramp ---------------------------------------------------------------------------------


def slope_cells(rise, run, count):
    """(height, along) of the cells that the diagonal crosses, by plain arithmetic."""
    found = set()
    for along in range(count * run):
        low, high = along * rise / run, (along + 1) * rise / run
        found |= {(h, along) for h in range(count * rise) if h < high and h + 1 > low}
    return found


RATIOS = [(1, 1), (1, 2), (2, 1), (1, 3), (2, 3), (3, 2)]


@pytest.mark.parametrize(("rise", "run"), RATIOS)
@pytest.mark.parametrize("count", [1, 2, 3, 4])
def test_a_ramp_is_a_slope_from_corner_to_corner_filled_below(rise, run, count):
    parts = {f"slope {n}": tile(0, n) for n in range(1, rise + run)}
    ramp = Ramp("R", {**parts, "fill": tile(1, 0), "head": tile(1, 1)}, rise, run)
    high, long = count * rise, count * run
    piece = ramp.fitted(Piece("R", ((0, 0), (high - 1, long - 1))))
    shown = shown_refs(ramp, piece)
    slopes = slope_cells(rise, run, count)
    for height, along in itertools.product(range(high), range(long)):
        ref = shown.get((high - 1 - height, along))
        lowest = min(h for h, a in slopes if a == along)
        if (height, along) in slopes:
            assert ref.slot.startswith("0,")
        else:
            assert ref == (tile(1, 0) if height < lowest else None)
    assert shown.pop((0, long)) == tile(1, 1), "the head joins level ground at the high end"
    steps = [shown[high - 1 - h, a].slot for h, a in sorted(slopes, key=lambda c: (c[1], c[0]))]
    assert steps == [f"0,{n}" for n in range(1, rise + run)] * count


@given(st.integers(-14, 14), st.integers(-14, 14), st.booleans())
def test_a_ramp_rises_between_the_press_and_the_release(down, right, hangs):
    from topion.brushes.gestures import Gesture

    ramp = QUAY.changed(upside_down=hangs)
    marks = Gesture("line").marks(np.array([[20.0, 20.0], [20.0 + down, 20.0 + right]]), None)
    (piece,) = ramp.planned(marks)
    height, width = piece.box.shape
    assert width == 2 * height, "only sizes that go corner to corner"
    assert piece.box.holds(np.array([[20, 20]])).all()
    filled = {c for c in shown_refs(ramp, piece) if piece.box.holds(np.array([c])).all()}
    top, left = piece.box.lo
    rises_east = (right >= 0) != (down > 0)
    corner = {(False, True): (height - 1, width - 1), (False, False): (height - 1, 0),
              (True, True): (0, 0), (True, False): (0, width - 1)}[hangs, rises_east]  # fmt: skip
    assert (top + corner[0], left + corner[1]) in filled
    opposite = (height - 1 - corner[0], width - 1 - corner[1])
    assert height == 1 or (top + opposite[0], left + opposite[1]) not in filled


def test_a_pulled_ramp_snaps_to_its_ticks_and_its_other_end_stays():
    piece = QUAY.fitted(Piece("Quay", ((10, 10), (11, 13))))
    low, high = QUAY.handles(piece)
    assert low.at == (11.5, 9.5) and high.at == (9.5, 13.5)
    longer = QUAY.pulled(piece, high, (-2, 3))
    assert longer.box.shape == (4, 8) and longer.box.hi[0] == 12 and longer.box.lo[1] == 10
    words = [words for _, words in QUAY.ticks(longer)]
    assert words == ["2 × 1", "4 × 2", "6 × 3", "8 × 4", "10 × 5"]


# --- all of them --------------------------------------------------------------------------


@pytest.mark.parametrize("brush", FLAT, ids=lambda b: b.name)
@given(a=points, b=points)
def test_four_quarters_and_two_mirrors_leave_a_piece_as_it_was(brush, a, b):
    piece = brush.fitted(Piece(brush.name, (a, b)))
    assert brush.turned_piece(piece, 4) == piece
    for axis in (-1, -2):
        assert brush.mirrored_piece(brush.mirrored_piece(piece, axis), axis) == piece
    again = piece
    for _ in range(4):
        again = brush.turned_piece(again)
    assert shown_refs(brush, again) == shown_refs(brush, piece)


@pytest.mark.parametrize("brush", FLAT, ids=lambda b: b.name)
@given(
    a=points, b=points, by=st.tuples(st.integers(-6, 6), st.integers(-6, 6)), n=st.integers(0, 9)
)
def test_a_pull_there_and_back_ends_where_it_began(brush, a, b, by, n):
    piece = brush.fitted(Piece(brush.name, (a, b)))
    handles = brush.handles(piece)
    handle = handles[n % len(handles)]
    there = brush.pulled(piece, handle, by)
    assert brush.fitted(there) == there, "what was pulled can be made"
    assert brush.pulled(piece, handle, (0, 0)).box == piece.box


def test_parts_are_tiles_or_blocks_never_both():
    for make in (lambda p: Panel("P", p), lambda p: Crate("P", p)):
        with pytest.raises(BadValue, match="at least one"):
            make({})
    with pytest.raises(BadValue, match="tiles only"):
        Run("P", {"start": tile(0, 0), "end": block_ref("B")})
    with pytest.raises(BadValue, match="in the order n e s w"):
        Trail("T", {"we": tile(0, 0)})
    with pytest.raises(BadValue, match="lowest terms"):
        Ramp("R", {"fill": tile(0, 0)}, 2, 4)
    with pytest.raises(BadValue, match="one of slope 1"):
        Ramp("R", {"slope 9": tile(0, 0)})


# --- voxel rooms --------------------------------------------------------------------------


@pytest.mark.parametrize("size", list(itertools.product(range(1, 6), repeat=3)))
def test_a_crate_shows_all_its_forms_at_every_size(size):
    letters = {0: "bmta", 1: "nmsa", 2: "wmea"}
    crate = Crate("C", {"mmm": block_ref("Fill"), "tnw": block_ref("Corner")})
    piece = Piece("C", ((0, 0, 0), tuple(side - 1 for side in size)))
    shown = shown_refs(crate, piece)
    assert len(shown) == int(np.prod(size))
    order = ("first", "m", "last", "a")
    for cell, ref in shown.items():
        places = [order.index(place_in(cell[axis], size[axis])) for axis in range(3)]
        key = "".join(letters[axis][place] for axis, place in enumerate(places))
        assert ref == crate.found[key].tile


@pytest.mark.parametrize(
    "way", [(0, 0, 1), (0, 0, -1), (0, 1, 0), (0, -1, 0), (1, 0, 0), (-1, 0, 0)]
)
def test_a_run_of_blocks_goes_along_any_axis(way):
    beam = deep_shape_room().project.data.brush("Beam")
    end = tuple(4 + 3 * step for step in way)
    shown = shown_refs(beam, beam.fitted(Piece("Beam", ((4, 4, 4), end))))
    along = [shown[tuple(4 + n * step for step in way)].slot for n in range(4)]
    names = ["Run a", "Run b", "Run b", "Run c"]
    assert along == (names[::-1] if way == (1, 0, 0) else names)


@given(st.integers(-5, 5), st.integers(1, 6), st.booleans())
def test_a_trail_of_blocks_steps_up_a_level_a_cell(rise, length, back):
    pier = deep_shape_room().project.data.brush("Pier")
    ends = [(6, 3, 3), (6 + rise, 3, 3 + length)]
    piece = pier.fitted(Piece("Pier", tuple(ends[::-1] if back else ends)))
    cells = trail_cells(piece)
    steps = np.diff(cells, axis=0)
    assert (np.abs(steps[:, 1:]).sum(axis=1) == 1).all() and (np.abs(steps[:, 0]) <= 1).all()
    climbed = sum(ref.slot == "Way Ew" for ref in shown_refs(pier, piece).values())
    assert climbed == min(abs(rise), length)


@pytest.mark.parametrize("way", [(0, 4), (0, -4), (4, 0), (-4, 0)])
def test_a_ramp_of_blocks_rises_the_way_it_was_drawn(way):
    bank = deep_shape_room().project.data.brush("Bank")
    from topion.brushes.gestures import Gesture

    marks = Gesture("line").marks(np.array([[2, 6, 6], [2, 6 + way[0], 6 + way[1]]], float), None)
    (piece,) = bank.planned(marks)
    step = np.sign(np.array(way))
    shown = shown_refs(bank, piece)
    for n in range(5):
        y, x = (np.array([6, 6]) + step * n).tolist()
        assert shown[2 + n, y, x].slot == "Up"
        assert all(shown[z, y, x].slot == "Full" for z in range(2, 2 + n))
        assert (3 + n, y, x) not in shown
    for axis in (-1, -2):
        other = bank.mirrored_piece(piece, axis)
        back = (axis == -1) == (way[0] == 0)
        assert (other.turn != piece.turn) == back and bank.mirrored_piece(other, axis) == piece
