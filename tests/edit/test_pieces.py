"""Pieces over painted cells: what shows is what laying them one on the other would give, and every
change of theirs is one Edit, exact both ways."""

from __future__ import annotations

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.rooms import slots
from tests.shapes import FLAT, deep_shape_room, shape_room, shown_refs
from topion.brushes import Lift, Run
from topion.edit import pieces as edits
from topion.edit.picked import Picks, removed
from topion.edit.picked_moves import duplicated
from topion.edit.pieces import Pick, rank_of
from topion.edit.rooms import set_layer
from topion.edit.serial import edit_from_plain, edit_to_plain
from topion.errors import BadValue
from topion.model.compare import differences
from topion.model.edit import DoesNotFit
from topion.model.piece import Piece
from topion.model.solid import Block, block_ref
from topion.scripting import open as open_project
from topion.weaving.looms import loom_of, tile_id
from topion.weaving.pieces import pieces_at
from topion.weaving.settle import shown_materials, shown_tiles

SIZE = (14, 18)
SHAPES = tuple(brush.name for brush in FLAT)
cells = st.tuples(st.integers(-2, SIZE[0] + 1), st.integers(-2, SIZE[1] + 1))


def ground(room):
    return room.data.layers["ground"]


def plainly(room):
    """(tiles, materials): all pieces laid cell by cell over what is painted, then woven whole."""
    project, layer = room.project.data, ground(room)
    material = np.array(layer.plane("material"))
    over = {}
    order = sorted(layer.pieces.items(), key=lambda pair: (pair[1].order, pair[0]))
    for _, piece in order:
        brush = project.brushes[piece.brush]
        coded = brush.coded(piece)
        for at in np.argwhere(coded.codes).tolist():
            cell = tuple(a + b for a, b in zip(at, coded.corner, strict=True))
            if not room.data.box.holds(np.array([cell])).all():
                continue
            code = int(coded.codes[tuple(at)])
            met = over.get(cell)
            if brush.joins and met and met[0] == piece.brush:
                code |= met[1]
            over[cell] = (piece.brush, code)
            material[cell] = project.material_id(piece.brush)
    tiles = loom_of(project).whole(material)
    pinned = layer.plane("pinned")
    tiles = np.where(pinned, pinned, tiles)
    for cell, (name, code) in over.items():
        ref = project.brushes[name].forms[code - 1]
        tiles[cell] = tile_id(project, ref) if ref else 0
    return tiles, material


def act(room, what, number, a, b):
    """One of the things that can be done to pieces and cells, chosen by numbers."""
    project, picks = room.project, [Pick("ground", n) for n in ground(room).pieces]
    pick = picks[number % len(picks) :][:1] if picks else []
    name = "Yard"
    if what in ("Mud", "Water", "Stones", *SHAPES):
        room.lay(what, line=(a, b)) if number % 2 else room.lay(what, box=(a, b))
    elif what == "lift":
        room.lay(Lift(pieces="cut out" if number % 2 else "whole"), line=(a, b))
    elif what == "undo":
        project.undo()
    elif pick:
        data = project.data
        by = (b[0] - a[0], b[1] - a[1])
        brush = edits.shape_of(data, ground(room).pieces[pick[0].number])
        handles = brush.handles(ground(room).pieces[pick[0].number])
        made = {
            "pull": lambda: edits.pulled(data, name, pick[0], handles[number % len(handles)], by),
            "turn": lambda: edits.turned(data, name, picks[: 1 + number % 3]),
            "mirror": lambda: edits.mirrored(data, name, pick, -1 - number % 2),
            "nearer": lambda: edits.restacked(data, name, pick, "nearer"),
            "farthest": lambda: edits.restacked(data, name, picks[: 1 + number % 3], "farthest"),
            "order": lambda: edits.ordered(data, name, pick[0], 1 + number % 5),
            "rebrush": lambda: edits.rebrushed(data, name, pick, SHAPES[number % len(SHAPES)]),
            "copy": lambda: duplicated(data, name, Picks(tuple(picks[: 1 + number % 2])), by)[0],
            "melt": lambda: edits.melted(data, name, pick),
            "remove": lambda: removed(data, name, Picks(tuple(pick))),
        }[what]
        project.history.apply(made())


KINDS = ("Mud", "Water", *SHAPES, *SHAPES, "lift", "undo", "pull", "pull", "turn", "mirror", "nearer",
         "farthest", "order", "rebrush", "copy", "melt", "remove")  # fmt: skip
acts = st.tuples(st.sampled_from(KINDS), st.integers(0, 30), cells, cells)


@settings(max_examples=60, deadline=None)
@given(st.lists(acts, min_size=1, max_size=14))
def test_whatever_is_done_to_pieces_shows_what_laying_them_anew_would(sequence):
    room = shape_room(SIZE)
    for what, number, a, b in sequence:
        act(room, what, number, a, b)
        tiles, material = plainly(room)
        assert np.array_equal(shown_tiles(room.project.data, ground(room)), tiles)
        assert np.array_equal(shown_materials(room.project.data, ground(room)), material)
    for edit in list(room.project.history.edits):
        json.dumps(edit_to_plain(edit))
    while ground(room).pieces:
        assert room.project.undo()
    tiles, _ = plainly(room)
    assert np.array_equal(shown_tiles(room.project.data, ground(room)), tiles)


@settings(max_examples=25, deadline=None)
@given(st.lists(acts, min_size=1, max_size=8))
def test_pieces_are_saved_undone_and_redone_exactly(tmp_path_factory, sequence):
    room = shape_room(SIZE)
    folder = room.project.save(tmp_path_factory.mktemp("p") / "A.topion")
    before, start = open_project(folder), room.project.history.at
    for what, number, a, b in sequence:
        if what != "undo":
            act(room, what, number, a, b)
    history, end = room.project.history, room.project.history.at
    history.jump(start)
    assert differences(room.project.data, before.data) == []
    history.jump(end)
    room.project.save()
    assert differences(room.project.data, open_project(folder).data) == []


def test_what_is_painted_under_a_piece_comes_back_when_it_moves():
    room = shape_room()
    before = slots(room)
    room.lay("Wall", box=((2, 2), (8, 8)))
    assert room.material(5, 5) == "Wall" and ground(room).plane("material")[5, 5] > 0
    pick = [Pick("ground", 1)]
    room.project.history.apply(edits.moved(room.project.data, "Yard", pick, (9, 14)))
    now = slots(room)
    assert now[5][5] == before[5][5] and room.material(14, 19) == "Wall"
    room.project.history.apply(removed(room.project.data, "Yard", Picks(tuple(pick))))
    assert slots(room) == before


def test_a_weave_sees_the_material_of_a_piece():
    room = shape_room()
    inside = slots(room)[14][20]
    room.lay("Wall", box=((15, 18), (18, 24)))
    assert slots(room)[14][20] != inside, "mud has an edge beside the wall"


def test_a_cell_brush_paints_beneath_a_piece_and_says_so():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    shown = slots(room)
    edit = room.lay("Water", box=((13, 13), (14, 14)))
    assert edit.notes == ("beneath Wall",) and slots(room) == shown
    assert room.lay("Water", box=((20, 2), (21, 3))).notes == ()


def test_lifting_takes_a_piece_whole_or_cuts_it_out():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    shown = slots(room)
    room.lift(box=((13, 13), (13, 13)))
    assert not ground(room).pieces and room.material(13, 13) == "Mud"
    room.project.undo()
    room.lay(Lift(pieces="cut out"), box=((13, 13), (13, 13)))
    assert not ground(room).pieces and room.material(13, 13) == "Mud"
    now = slots(room)
    assert now[12][12] == shown[12][12] and now[16][16] == shown[16][16]


def test_only_the_nearest_piece_is_lifted():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    room.lay("Brick", box=((14, 14), (18, 18)))
    room.lift(box=((15, 15), (15, 15)))
    assert [piece.brush for piece in ground(room).pieces.values()] == ["Wall"]


def test_pieces_of_locked_and_hidden_layers_are_left_alone_and_it_is_said():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    pick = [Pick("ground", 1)]
    for change, word in (({"locked": True}, "locked"), ({"shown": False}, "hidden")):
        data = room.project.data
        room.project.history.apply(set_layer(data, "Yard", "ground", **change))
        for edit in (edits.moved(data, "Yard", pick, (1, 1)), edits.melted(data, "Yard", pick),
                     edits.restacked(data, "Yard", pick, "nearest")):  # fmt: skip
            assert not edit and word in edit.refused[0]
        room.project.undo()


def test_restacking_goes_one_past_what_it_meets_or_past_all():
    room = shape_room()
    for corner in (10, 12, 14, 16):
        room.lay("Wall", box=((corner, corner), (corner + 3, corner + 3)))
    data = room.project.data
    room.lay("Brick", box=((0, 25), (3, 29)))  # meets none of them
    room.project.history.apply(edits.restacked(data, "Yard", [Pick("ground", 1)], "nearer"))
    assert [rank_of(ground(room), n)[0] for n in range(1, 6)] == [4, 5, 3, 2, 1]
    room.project.history.apply(edits.restacked(data, "Yard", [Pick("ground", 1)], "nearest"))
    assert rank_of(ground(room), 1) == (1, 5)
    room.project.history.apply(edits.ordered(data, "Yard", Pick("ground", 1), 3))
    assert rank_of(ground(room), 1) == (3, 5)
    assert len(room.project.history.edits[-1].records[0].after) == 1


def test_orders_that_came_too_close_are_given_anew():
    room = shape_room()
    for column in (0, 8, 16):
        room.lay("Wall", box=((10, column), (13, column + 4)))
    data = room.project.data
    for number in (1, 2, 3) * 40:
        room.project.history.apply(edits.ordered(data, "Yard", Pick("ground", number), 2))
        assert rank_of(ground(room), number)[0] == 2


def test_melting_takes_along_what_lies_under_it():
    room = shape_room()
    for corner in (10, 12, 14):
        room.lay("Wall", box=((corner, corner), (corner + 3, corner + 3)))
    shown = slots(room)
    data = room.project.data
    edit = edits.melted(data, "Yard", [Pick("ground", 3)])
    room.project.history.apply(edit)
    assert (
        slots(room) == shown and not ground(room).pieces and edit.label == "Melt Wall with 2 below"
    )


def test_a_piece_does_not_leave_the_room():
    room = shape_room()
    room.lay("Wall", box=((2, 2), (4, 4)))
    with pytest.raises(BadValue, match="inside Yard"):
        edits.moved(room.project.data, "Yard", [Pick("ground", 1)], (0, 40))


@pytest.mark.parametrize("shape", [(3, 10**6), (3, 10**30), (9999, 9999)])
def test_a_size_that_no_piece_can_have_is_refused_by_name(shape):
    room = shape_room()
    room.lay("Wall", box=((2, 2), (4, 4)))
    with pytest.raises(BadValue, match="of a piece"):
        edits.resized(room.project.data, "Yard", Pick("ground", 1), shape)


def test_one_edit_of_copies_on_several_layers_gives_each_its_own_number():
    room = shape_room()
    room.project.history.apply(add_layer_edit(room))
    room.lay("Wall", box=((2, 2), (4, 4)), layer="Ground")
    room.lay("Wall", box=((2, 2), (4, 4)), layer="Roof")
    picks = [Pick(room.data.id_of(n), k) for n, k in (("Ground", 1), ("Roof", 2))]
    edit, copies = duplicated(room.project.data, "Yard", Picks(tuple(picks)), (5, 5))
    fresh = copies.entries
    room.project.history.apply(edit)
    assert [pick.number for pick in fresh] == [3, 4]
    assert len(edits.picked_pieces(room.data, fresh)) == 2
    room.project.undo()
    assert len(edits.picked_pieces(room.data, fresh)) == 0


def add_layer_edit(room):
    from topion.edit.rooms import add_layer
    from topion.model.layer import LayerInfo

    return add_layer(room.project.data, "Yard", LayerInfo("Roof", "tiles"))


def test_a_pull_is_small_in_the_journal_whatever_it_covers():
    room = shape_room((200, 200))
    room.lay("Wall", box=((2, 2), (150, 150)))
    data, pick = room.project.data, Pick("ground", 1)
    brush = data.brushes["Wall"]
    handle = brush.handles(ground(room).pieces[1])[-1]
    edit = edits.pulled(data, "Yard", pick, handle, (20, 20))
    assert len(json.dumps(edit_to_plain(edit))) < 600
    assert edit.label == "Pull Wall to 169 × 169"


def test_a_piece_of_a_brush_that_is_gone_shows_nothing_and_stays():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    plain = edit_to_plain(removed(room.project.data, "Yard", Picks((Pick("ground", 1),))))
    assert plain["records"][0]["before"]["1"]["brush"] == "Wall"
    ghost = Piece("Nobody", ((1, 1), (2, 2)))
    assert edits.shape_of(room.project.data, ghost) is None


def test_all_pieces_in_a_cell_are_told_nearest_first():
    room = shape_room()
    room.lay("Wall", box=((12, 12), (16, 16)))
    room.lay("Quay", line=((16, 12), (15, 15)))
    found = pieces_at(room.project.data, ground(room), (16, 15))
    assert [piece.brush for _, piece in found] == ["Quay", "Wall"]
    assert pieces_at(room.project.data, ground(room), (1, 1)) == []


def test_pieces_of_voxel_rooms_are_saved_and_stand_where_they_were(tmp_path):
    room = deep_shape_room()
    room.lay("Beam", line=((4, 2, 2), (4, 2, 9)))
    room.lay("Bank", line=((2, 6, 3), (2, 6, 6)))
    room.lay("Box", box=((2, 8, 8), (4, 10, 11)))
    shown = shown_tiles(room.project.data, room.data.layers["blocks"]).copy()
    again = open_project(room.project.save(tmp_path / "A.topion"))
    layer = again.data.room("Isle").layers["blocks"]
    assert np.array_equal(shown_tiles(again.data, layer), shown)
    assert len(layer.pieces) == 3 and shown_refs(again.data.brushes["Bank"], layer.pieces[2])


def test_a_brush_that_became_one_of_blocks_lays_nothing_in_flat_rooms():
    room = shape_room()
    room.lay("Pipe", line=((12, 4), (12, 9)))
    room.project.add_block(Block("Beam", "#808080"))
    room.project.add_brush(Run("Pipe", {"middle": block_ref("Beam")}))
    assert room.material(12, 6) == "Mud"
    assert edits.shape_of(room.project.data, ground(room).pieces[1]) is None
    room.render(1)
    room.project.undo()
    assert room.material(12, 6) == "Pipe"


def test_a_piece_of_another_kind_of_room_is_refused_from_a_journal():
    room = shape_room()
    room.lay("Pipe", line=((12, 4), (12, 9)))
    plain = edit_to_plain(room.project.history.edits[-1])
    room.project.undo()
    plain["records"][0]["after"]["1"]["points"] = [[0, 1, 2], [0, 1, 4]]
    with pytest.raises(DoesNotFit, match="another kind of room"):
        edit_from_plain(plain).records[0].check(room.project.data)


def test_a_renamed_brush_keeps_its_pieces():
    room = shape_room()
    room.lay("Pipe", line=((12, 4), (12, 9)))
    shown = slots(room)
    room.project.rename("brushes", "Pipe", "Main")
    assert ground(room).pieces[1].brush == "Main" and slots(room) == shown
    assert room.material(12, 6) == "Main"
    assert [use.count for use in room.project.used_by("brushes", "Main") if use.room] == [1]
