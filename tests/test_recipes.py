"""A new brush kind, rule, check, export, shelf and facet, each added as the docs tell: one class
in one place, and everything else follows."""

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Annotated, ClassVar

import jsonschema
import numpy as np
import pytest

import topion
from tests.rooms import small_room, stand, tile
from topion.brushes.boxed import COLUMNS, INSIDE, ROWS, BoxShape
from topion.brushes.kind import BrushKind, Sample, Setting, lays_here
from topion.brushes.laying import Laid, lay
from topion.brushes.marks import Marks, Place
from topion.cli import main
from topion.conditions import ConditionKind
from topion.edit.library import put_item
from topion.edit.pieces import Pick, pulled
from topion.formats.bundle import bundle_bytes, bundle_plain, read_bundle, schema
from topion.formats.exports import EXPORTS, ExportKind, export_files
from topion.model.brush import Brush
from topion.model.compare import differences
from topion.model.condition import Condition, When
from topion.model.edit import Edit
from topion.model.form import Blank, Form
from topion.model.picture import Picture
from topion.model.piece import Piece
from topion.model.plain import KINDS
from topion.model.prefab import PlacementRule, Thing
from topion.model.project import Project
from topion.model.refs import Ref
from topion.model.role import Role
from topion.model.shelves import SHELVES, Shelf, add_shelf
from topion.model.tileset import TileRef
from topion.model.typed import register_kinds
from topion.pictures.png import picture_of
from topion.render.cards import card_picture
from topion.roles import RoleKind
from topion.survey import CHECKS, Finding, add_check
from topion.survey.check import RoomCheck
from topion.things.ground import Ground, Spots
from topion.things.rules.answer import Answer
from topion.things.rules.kind import RuleKind
from topion.walk import World, step
from topion.weaving.shapes import Coded


@dataclass(frozen=True)
class Checker(BrushKind):
    """Lays a material on every second cell."""

    kind: ClassVar[str] = "checker"
    bay: ClassVar[str] = "Built"
    name: str
    of: Annotated[str, Ref("materials")] = "Water"
    layer: str = ""
    colour: str = "#334455"
    odd: bool = False

    def plan(self, place: Place, marks: Marks) -> Edit:
        layer_id, layer = place.cells_layer(self.layer)
        cells = marks.cells[place.room.box.holds(marks.cells)]
        cells = cells[cells.sum(axis=1) % 2 == int(self.odd)]
        laid = Laid.of_cells(cells, layer.size, place.project.material_id(self.of))
        return Edit(self.name, lay(place, layer_id, laid), self.colour)

    def summary(self) -> str:
        return f"checker · {self.of}"

    def settings(self) -> tuple[Setting, ...]:
        return (Setting("odd", "Odd cells", "switch"),)


@dataclass(frozen=True)
class Hoop(BoxShape):
    """A shape: the border of a rectangle, open inside."""

    kind: ClassVar[str] = "hoop"
    letters: ClassVar[tuple[str, ...]] = (ROWS, COLUMNS)
    name: str
    parts: dict[str, TileRef]
    layer: str = ""
    colour: str = "#556677"
    stays: bool = True

    def coded(self, piece: Piece) -> Coded:
        number = self.form_numbers(piece)
        first = 1 + self.orientation_number(piece) * len(self.found)
        return Coded(piece.box.lo, np.where(number == INSIDE, 0, number + first).astype(np.uint16))

    def form_words(self, key: str) -> str:
        return key

    def summary(self) -> str:
        return "hoop"


@dataclass(frozen=True)
class FarFromEdge(RuleKind):
    """Keeps away from the edge of the room."""

    kind: ClassVar[str] = "far from edge"
    compares: ClassVar[bool] = True
    cells: int = 2

    def sentence(self) -> str:
        return f"stands {self.cells} cells from the edge"

    def short(self) -> str:
        return "near the edge"

    def reason(self, measured: object) -> tuple[str, str, str]:
        return "too near the edge", str(measured), f"{self.cells} cells"

    def check(self, ground: Ground, spots: Spots) -> Answer:
        answer = Answer.of(spots)
        last = np.array(ground.room.info.size) - 1
        far = np.minimum(spots.cells, last - spots.cells).min(axis=1)
        answer.allowed[:] = far >= self.cells
        answer.measured[~answer.allowed] = far[~answer.allowed]
        return answer


class Crowded(RoomCheck):
    """More than two things in a room."""

    name: ClassVar[str] = "crowded"

    def findings(self, project, room) -> Iterator[Finding]:
        count = sum(len(layer.things) for layer in room.layers.values())
        if count > 2:
            yield Finding(self.name, f"{count} things stand here", room.info.name)


class Names(ExportKind):
    """The names of the rooms as text."""

    kind: ClassVar[str] = "names"
    text: ClassVar[str] = "Names of the rooms"

    def files(self, project, rooms, scale) -> Iterator[tuple[str, bytes]]:
        yield "names.txt", "\n".join(rooms).encode()


@dataclass(frozen=True)
class Wind(RoleKind):
    """A role: blows the figure up as long as it touches it."""

    kind: ClassVar[str] = "wind"
    form: ClassVar[Form] = ("Blows ", Blank("up", "number", 1, 9), " cells up.")
    up: float = 2.0

    def touched(self, me, walk) -> None:
        walk.throw(me, self.up, 0.0)
        walk.say(f"{me.name} blows")


@dataclass(frozen=True)
class Late(ConditionKind):
    """A condition: so many ticks have passed."""

    kind: ClassVar[str] = "late"
    form: ClassVar[Form] = (Blank("ticks", "number", 0, 9999, whole=True), " ticks have passed")
    ticks: int = 10

    def holds(self, walk) -> bool:
        return walk.tick >= self.ticks


@dataclass(frozen=True)
class Poster:
    """An item of a shelf of its own: a picture, and the brush it praises."""

    name: str
    picture: Picture
    praises: Annotated[str, Ref("brushes")] = ""
    words: tuple[str, ...] = ()


@pytest.fixture
def extended():
    """All of them registered, and gone again after the test."""
    register_kinds(Brush, Checker, Hoop)
    register_kinds(PlacementRule, FarFromEdge)
    register_kinds(Role, Wind)
    register_kinds(Condition, Late)
    add_shelf(Shelf("posters", "poster", Poster))
    check = Crowded()
    add_check(check)
    EXPORTS["names"] = Names()
    yield
    del KINDS[Brush]["checker"], KINDS[Brush]["hoop"], KINDS[PlacementRule]["far from edge"]
    del KINDS[Role]["wind"], KINDS[Condition]["late"]
    del SHELVES["posters"], EXPORTS["names"]
    CHECKS.remove(check)


def poster() -> Poster:
    rgba = np.full((3, 5, 4), 200, np.uint8)
    return Poster("Visit the marsh", picture_of(rgba), "Mud", ("come", "and see"))


@pytest.fixture
def room(extended):
    room = small_room()
    room.project.add_brush(Checker("Chess"))
    bush = room.project.data.prefab("Bush")
    room.project.add_prefab(replace(bush, rules=(FarFromEdge(3),)))
    room.project.history.apply(put_item(room.project.data, "posters", poster()))
    return room


def test_the_brush_lays_has_a_card_and_is_undone(room):
    before = room.project.data.frozen()
    room.lay("Chess", box=((2, 2), (5, 5)))
    assert room.material(2, 2) == "Water" and room.material(2, 3) == "Mud"
    room.project.undo()
    assert differences(room.project.data, before) == []
    brush = room.project.data.brush("Chess")
    assert isinstance(brush.sample(room.project.data, deep=False), Sample)
    assert len(np.unique(card_picture(room.project.data, brush))) > 4
    assert lays_here(brush, room.data)
    assert "Chess" in next(b for b in room.project.data.bays if b.name == "Built").brushes


def test_the_shape_stays_a_piece_that_is_pulled_saved_and_undone(room, tmp_path):
    parts = {"nw": tile(0, 1), "nm": tile(0, 2)}
    room.project.add_brush(Hoop("Ring", parts))
    room.lay("Ring", box=((2, 2), (6, 7)))
    assert room.material(2, 4) == "Ring" and room.material(4, 4) == "Mud"
    brush = room.project.data.brush("Ring")
    pick, handle = Pick("ground", 1), brush.handles(room.data.layers["ground"].pieces[1])[-1]
    room.project.history.apply(pulled(room.project.data, "Yard", pick, handle, (3, 2)))
    assert room.material(9, 9) == "Ring" and room.material(6, 4) == "Mud"
    again = topion.open(room.project.save(tmp_path / "A.topion"))
    assert differences(again.data, room.project.data) == []
    jsonschema.validate(bundle_plain(room.project.data), schema())
    assert len(np.unique(card_picture(room.project.data, brush))) > 4
    room.project.undo()
    assert room.material(6, 4) == "Ring"


def test_the_rule_is_asked_by_verdict_stroke_field_and_survey(room):
    refused = room.verdict("Bush", 1, 9)
    assert not refused and refused.reasons[0].told() == "too near the edge: 1 of 3 cells"
    assert len(room.lay("Bush", line=((9, 0), (9, 8))).records[0].after) == 6
    room.lay("Bush", cells=[(0, 0)], override=True)
    assert any(f.check == "rule broken: far from edge" for f in room.project.check())
    fields = replace(room.project.data.brush("Reeds"), rules=(FarFromEdge(5),), density=1.0)
    room.project.add_brush(fields)
    room.lay("Reeds", box=((0, 0), (23, 31)))
    assert all(4.5 <= t.y <= 18.5 for t in room.sown("Reeds"))
    assert dict(room.tally("Reeds").refused)["near the edge"] > 0


def test_the_check_and_the_export_are_found_by_name(room):
    room.lay("Bush", cells=[(5, 5), (9, 9), (12, 12)])
    assert [f.sentence for f in room.project.check() if f.check == "crowded"] == [
        "3 things stand here"
    ]
    assert dict(export_files(room.project.data, ("Yard",), "names")) == {"names.txt": b"Yard"}


def test_the_command_line_knows_the_export(room, tmp_path, capsys):
    folder = room.project.save(tmp_path / "P.topion")
    assert main(["export", str(folder), "--to", "names", "-o", str(tmp_path)]) == 0
    assert (tmp_path / "names.txt").read_text() == "Yard"
    with pytest.raises(SystemExit):
        main(["export", "--help"])
    assert f"one of {', '.join(EXPORTS)}" in " ".join(capsys.readouterr().out.split())


def test_the_shelf_is_saved_read_compared_undone_and_in_the_journal(room, tmp_path):
    data = room.project.data
    folder = room.project.save(tmp_path / "P.topion")
    assert (folder / "posters/Visit the marsh.png").exists()
    again = topion.open(folder)
    assert differences(again.data, data) == []
    assert again.data.shelf("posters")["Visit the marsh"] == poster()
    other = replace(poster(), words=("stay",))
    room.project.history.apply(put_item(data, "posters", other))
    assert differences(again.data, data) == ["poster Visit the marsh differs"]
    room.project.save()
    room.project.undo()
    assert differences(again.data, data) == []


def test_the_shelf_is_renamed_used_and_copied(room):
    project = room.project
    assert [u.shelf for u in project.used_by("brushes", "Mud")] == ["posters"]
    project.rename("brushes", "Mud", "Silt")
    assert project.data.shelf("posters")["Visit the marsh"].praises == "Silt"
    other = topion.new(None, "Other")
    other.take_from(project, "posters", "Visit the marsh")
    assert "Silt" in other.data.brushes


def test_the_bundle_and_its_schema_know_all_of_it(room, tmp_path):
    plain = bundle_plain(room.project.data)
    jsonschema.validate(json.loads(json.dumps(plain)), schema())
    path = tmp_path / "b.json"
    path.write_bytes(bundle_bytes(room.project.data))
    assert differences(read_bundle(path), room.project.data) == []


def test_without_the_extension_all_of_it_but_shelves_is_kept(room, tmp_path):
    room.project.history.apply(Edit("gone", ()))
    data: Project = room.project.data
    data.put_item(("posters", "Visit the marsh"), None)
    folder = room.project.save(tmp_path / "P.topion")
    kinds = KINDS[Brush].pop("checker"), KINDS[PlacementRule].pop("far from edge")
    try:
        again = topion.open(folder)
        assert again.data.brush("Chess").summary() == "unknown · checker"
        assert again.room("Yard").verdict("Bush", 1, 9)
        again.add_brush(replace(again.data.brush("Mud"), nib=3))
        again.save(tmp_path / "Q.topion")
    finally:
        KINDS[Brush]["checker"], KINDS[PlacementRule]["far from edge"] = kinds
    there = topion.open(tmp_path / "Q.topion").data
    assert there.brush("Chess") == data.brush("Chess")
    assert there.prefab("Bush") == data.prefab("Bush")


def test_the_role_and_the_condition_are_walked_saved_and_told(room, tmp_path):
    waits = When("appears", (Late(30),))
    stand(room, Thing("Bush", 6, 6, role=Wind(), when=waits))
    assert Wind().sentence() == "Blows 2 cells up." and "30 ticks" in waits.sentence()
    room.data.info = replace(room.data.info, seen="side")
    states = [World(room.project.data).begin(room.name, (6, 6))]
    for _ in range(40):
        states.append(step(states[-1], 0))
    news = {state.tick: state.news for state in states if state.news}
    assert news[30] == ("Bush appeared",) and any("Bush blows" in told for told in news.values())
    again = topion.open(room.project.save(tmp_path / "windy.topion"))
    assert not differences(room.project.data, again.data)
