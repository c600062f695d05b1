"""What both sides changed is kept in the project until somebody says whose version stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.merging.pairs import Pair, merged, painted
from tests.merging.test_whole import moved, with_bush
from tests.rooms import small_room
from topion.edit.conflicts import box_of, open_conflicts, settled
from topion.edit.history import History
from topion.edit.rooms import resize_room
from topion.errors import BadValue
from topion.formats.bundle import bundle_bytes, read_bundle
from topion.formats.folder import read_project
from topion.formats.writing import write_project
from topion.merging.by_file import merged_file
from topion.merging.trees import tree_in_memory, write_tree
from topion.model.compare import differences
from topion.model.conflict import CellsConflict, EntryConflict, ItemConflict, SettingConflict
from topion.model.plane import Plane
from topion.pictures.png import picture_of, png_bytes, read_png
from topion.survey import survey
from topion.survey.both_changed import NAME, BothChanged


def materials(project, row: int, columns: slice) -> list[str]:
    cells = project.room("Yard").layers["ground"].plane("material")[row, columns]
    return [project.material_name(int(v)) for v in cells]


@pytest.fixture
def both_painted():
    """Ours has stones, theirs water, in three of the same cells."""
    pair = Pair(painted([]), painted([]), painted([]))
    pair.ours.lay("Stones", box=((2, 2), (2, 5)))
    pair.theirs.lay("Water", box=((2, 3), (2, 6)))
    return merged(pair).project


def the(project, kind):
    found = [one for one in open_conflicts(project, "Yard") if isinstance(one.conflict, kind)]
    assert found
    return found[0]


@pytest.mark.parametrize(
    ("choice", "wanted"),
    [
        ("ours", ["Stones", "Stones", "Stones", "Stones", "Water"]),
        ("theirs", ["Stones", "Water", "Water", "Water", "Water"]),
    ],
)
def test_cells_are_settled_as_one_side_has_them(both_painted, choice, wanted):
    history = History(both_painted)
    before = both_painted.frozen()
    assert materials(both_painted, 2, slice(2, 7)) == ["Stones"] * 4 + ["Water"]
    for open_ in [*open_conflicts(both_painted, "Yard")]:
        history.apply(settled(both_painted, open_, choice))
    assert materials(both_painted, 2, slice(2, 7)) == wanted
    assert both_painted.room("Yard").conflicts == ()
    while history.undo():
        pass
    assert differences(before, both_painted) == []


def test_a_conflict_lies_where_its_cells_lie_also_after_the_room_grew(both_painted):
    history = History(both_painted)
    open_ = the(both_painted, CellsConflict)
    assert box_of(both_painted.room("Yard"), open_.conflict).lo == (2, 3)
    history.apply(resize_room(both_painted, "Yard", (18, 45), (3, 4)))
    assert box_of(both_painted.room("Yard"), open_.conflict).lo == (5, 7)
    history.apply(settled(both_painted, open_, "theirs"))
    assert materials(both_painted, 5, slice(7, 10)) == ["Water"] * 3


def test_conflicts_are_findings_that_jump_to_their_place_and_offer_both_sides(both_painted):
    findings = [one for one in survey(both_painted) if one.check == NAME]
    assert findings and findings[0].room == "Yard" and findings[0].cell == (2, 3)
    assert "the material of 3 cells in Ground; ours stands" in findings[0].sentence
    edit = BothChanged().fix(both_painted, findings[0], "theirs")
    History(both_painted).apply(edit)
    assert materials(both_painted, 2, slice(3, 6)) == ["Water"] * 3
    assert findings[0] not in survey(both_painted)


def test_a_thing_is_settled_as_one_side_has_it():
    for choice, place in (("ours", (2.0, 8.0)), ("theirs", (9.0, 2.0))):
        pair = with_bush()
        moved(pair.ours, 1, x=8.0)
        moved(pair.theirs, 1, y=9.0)
        project = merged(pair).project
        History(project).apply(settled(project, the(project, EntryConflict), choice))
        thing = project.room("Yard").layers["things"].things[1]
        assert (thing.y, thing.x) == place and project.room("Yard").conflicts == ()


def test_a_thing_that_one_side_took_away_goes_if_that_is_chosen():
    pair = with_bush()
    pair.ours.lift(cells=[(2, 2)], only="Bush")
    moved(pair.theirs, 1, x=8.0)
    project = merged(pair).project
    history = History(project)
    history.apply(settled(project, the(project, EntryConflict), "ours"))
    assert 1 not in project.room("Yard").layers["things"].things
    history.undo()
    history.apply(settled(project, the(project, EntryConflict), "theirs"))
    assert project.room("Yard").layers["things"].things[1].x == 8.0


def test_a_room_that_one_side_took_away_goes_if_that_is_chosen():
    pair = Pair(painted([]), painted([]), painted([]))
    pair.ours.project.remove_room("Yard")
    pair.theirs.lay("Stones", cells=[(1, 1)])
    project = merged(pair).project
    history = History(project)
    history.apply(settled(project, the(project, SettingConflict), "ours"))
    assert not project.rooms
    history.undo()
    history.apply(settled(project, the(project, SettingConflict), "theirs"))
    assert project.room("Yard").conflicts == ()


def test_a_brush_is_settled_as_one_side_has_it():
    for choice, seed in (("ours", 11), ("theirs", 22)):
        pair = Pair(painted([]), painted([]), painted([]))
        for handle, own in ((pair.ours, 11), (pair.theirs, 22)):
            handle.project.add_brush(handle.project.data.brush("Mud").changed(seed=own))
        project = merged(pair).project
        (open_,) = open_conflicts(project)
        History(project).apply(settled(project, open_, choice))
        assert project.brush("Mud").seed == seed and not project.shelf("conflicts")


def test_what_cannot_be_had_any_longer_is_said(both_painted):
    room = both_painted.room("Yard")
    far = CellsConflict(
        "ground", "material", (99, 99), Plane(np.ones((1, 1), np.uint16)), (("Mud",),)
    )
    gone = EntryConflict("nowhere", "things", 3)
    room.conflicts = (far, gone)
    opens = [*open_conflicts(both_painted, "Yard")]
    with pytest.raises(BadValue, match="inside the room"):
        settled(both_painted, opens[0], "theirs")
    with pytest.raises(BadValue, match="one that is still there"):
        settled(both_painted, opens[1], "theirs")
    assert settled(both_painted, opens[1], "ours")


# --- in files -----------------------------------------------------------------------------


def test_conflicts_outlast_saving_and_opening(both_painted, tmp_path):
    both_painted.shelf("conflicts")["x"] = ItemConflict("x", "brushes", "Mud", values={"seed": 4})
    write_project(both_painted, tmp_path / "A.topion")
    again = read_project(tmp_path / "A.topion")
    assert differences(again, both_painted) == [] and again.room("Yard").conflicts
    (tmp_path / "a.json").write_bytes(bundle_bytes(both_painted))
    assert differences(read_bundle(tmp_path / "a.json"), both_painted) == []


def by_files(pair: Pair, place):
    """The project that comes of merging each file by itself, as git does."""
    sides = [tree_in_memory(h.project.data) for h in (pair.base, pair.ours, pair.theirs)]
    files = dict(sides[1].files)
    for name in sides[1].names & sides[2].names:
        base = sides[0].files.get(name)
        files[name] = merged_file(name, base, sides[1].read(name), sides[2].read(name)).data
    write_tree(replace(sides[1], files=files), place)
    return place


def test_what_is_merged_file_by_file_holds_its_conflicts_in_the_files(tmp_path):
    pair = with_bush()
    pair.ours.lay("Stones", cells=[(5, 5)])
    pair.theirs.lay("Water", cells=[(5, 5)])
    moved(pair.ours, 1, x=8.0)
    moved(pair.theirs, 1, x=9.0)
    for handle, seed in ((pair.ours, 11), (pair.theirs, 22)):
        handle.project.add_brush(handle.project.data.brush("Mud").changed(seed=seed))
    place = by_files(pair, tmp_path / "A.topion")
    project = read_project(place)
    kinds = sorted(type(one).__name__ for one in project.room("Yard").conflicts)
    assert kinds == ["CellsConflict", "EntryConflict"]
    assert [one.item for one in project.shelf("conflicts").values()] == ["Mud"]
    # once settled and saved, no file speaks of them again
    history = History(project)
    for where in ("", "Yard"):
        for open_ in [*open_conflicts(project, where)]:
            history.apply(settled(project, open_, "ours"))
    write_project(project, place)
    again = read_project(place)
    assert not again.room("Yard").conflicts and not again.shelf("conflicts")
    assert not any("nflict" in path.read_text() for path in place.rglob("*.rows"))


def test_pixels_that_both_drew_apart_are_put_together_and_else_kept(tmp_path):
    base = small_room().project.data.tileset("sheet").sheet.rgba
    ours, theirs = base.copy(), base.copy()
    ours[0, 0], theirs[9, 9] = (1, 2, 3, 255), (4, 5, 6, 255)
    name = "tilesets/sheet.png"
    found = merged_file(name, *map(png_bytes, (base, ours, theirs)))
    made = read_png(found.data).rgba
    assert not found.conflicts and made[0, 0, 0] == 1 and made[9, 9, 0] == 4
    theirs[0, 0] = (7, 7, 7, 255)
    found = merged_file(name, *map(png_bytes, (base, ours, theirs)))
    assert len(found.conflicts) == 1 and read_png(found.data).rgba[0, 0, 0] == 1
    project = small_room().project
    tree = tree_in_memory(project.data)
    write_tree(replace(tree, files={**tree.files, name: found.data}), tmp_path / "A.topion")
    again = read_project(tmp_path / "A.topion")
    (open_,) = open_conflicts(again)
    History(again).apply(settled(again, open_, "theirs"))
    assert again.tileset("sheet").sheet == picture_of(theirs)
    write_project(again, tmp_path / "A.topion")
    assert not read_project(tmp_path / "A.topion").shelf("conflicts")
