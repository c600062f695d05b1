"""Dataclasses to plain values and back: what is wrong is named with its place."""

from dataclasses import dataclass, field
from typing import ClassVar, Literal, NamedTuple

import pytest
from hypothesis import given
from hypothesis import strategies as st

import topion.things.rules  # noqa: F401
from tests.rooms import SHEET, thirteen, tile
from topion.brushes import FieldBrush, Lift, Mosaic, Sown, Stamp, ThingsBrush, Weave
from topion.errors import BadValue, UnknownName
from topion.model.brush import Brush
from topion.model.plain import BadPlain, from_plain, place_text, to_plain
from topion.model.prefab import PlacementRule
from topion.model.typed import register_kinds
from topion.things.rules import AtMost, ClearOf, KeepsCells, NotOn, On
from topion.weaving.ready import ready_rules
from topion.weaving.rules import RuleBook, Variant


class Corner(NamedTuple):
    y: int
    x: int = 0


@dataclass(frozen=True)
class Post:
    name: str
    height: float = 1.0
    kind_of_wood: Literal["oak", "ash"] = "oak"
    corners: tuple[Corner, ...] = ()
    notes: dict[str, int] = field(default_factory=dict)
    on: bool = False
    twin: str | None = None

    def __post_init__(self):
        if self.height < 0:
            raise BadValue("the height", self.height, "0 or more")


whole = st.integers(-(2**53) + 1, 2**53 - 1)
text = st.text(st.characters(exclude_categories=["Cs"]), max_size=3)
posts = st.builds(
    Post,
    name=text,
    height=st.floats(0, 9),
    kind_of_wood=st.sampled_from(["oak", "ash"]),
    corners=st.lists(st.builds(Corner, whole, whole), max_size=3).map(tuple),
    notes=st.dictionaries(text, whole, max_size=3),
    on=st.booleans(),
    twin=st.none() | text,
)


@given(posts)
def test_plain_values_read_back(post):
    assert from_plain(Post, to_plain(post)) == post


def test_defaults_are_left_out_so_that_files_stay_short():
    assert to_plain(Post("a")) == {"name": "a"}
    assert to_plain(Post("a", corners=(Corner(1, 2),)))["corners"] == [[1, 2]]


@pytest.mark.parametrize(
    ("value", "place", "reason"),
    [
        ({}, "name", "is missing"),
        ({"name": 3}, "name", "must be text, not 3"),
        ({"name": "a", "heigth": 1}, "heigth", "is not known here; known are name, height"),
        ({"name": "a", "height": True}, "height", "must be a number"),
        ({"name": "a", "height": float("nan")}, "height", "finite"),
        ({"name": "a", "height": float("inf")}, "height", "finite"),
        ({"name": "a", "height": -1}, "the whole", "the height is -1"),
        ({"name": "a", "kind_of_wood": "elm"}, "kind_of_wood", "one of oak, ash"),
        ({"name": "a", "corners": [[1, 2], [1, "x"]]}, "corners[1][1]", "a whole number"),
        ({"name": "a", "corners": [[1, 2, 3]]}, "corners[0]", "at most 2"),
        ({"name": "a", "corners": [[]]}, "corners[0]", "too few"),
        ({"name": "a", "corners": 5}, "corners", "must be a list"),
        ({"name": "a", "notes": {"k": 1.5}}, "notes.k", "a whole number"),
        ({"name": "a", "on": 1}, "on", "true or false"),
        ([], "the whole", "must be a record"),
    ],
)
def test_what_is_wrong_is_named_with_its_place(value, place, reason):
    with pytest.raises(BadPlain) as caught:
        from_plain(Post, value)
    assert str(caught.value).startswith(place) and reason in str(caught.value)


def test_places_read_like_a_path():
    assert place_text(("rules", 2, "marks", 0)) == "rules[2].marks[0]"
    assert place_text(()) == "the whole"


BRUSHES = [
    Weave(
        "W", RuleBook(ready_rules(thirteen()), ("Mud",), "open", "Mud", tile(0, 0)), "Ground", nib=3
    ),
    Mosaic("M", (Variant(tile(1, 1), 2.5),), turns=True, seed=4),
    Stamp("S", ((tile(0, 0), None), (None, tile(1, 1)))),
    ThingsBrush("T", "Lamp", turn=90, mirrored=True, scale=2, cell_parts=3),
    FieldBrush(
        "F", (Sown("Lamp", 2, 1.5),), 0.8, (0.5, 1.5), (0, 90), (On(("Mud",)), AtMost(3)), 9, 50
    ),
    Lift("L", only="W", nib=5),
]
RULES = [On(("Mud", "Silt")), NotOn(("Water",)), ClearOf(2.5, "lights"), KeepsCells(), AtMost(4)]


@pytest.mark.parametrize("brush", BRUSHES, ids=lambda b: b.kind)
def test_each_kind_of_brush_reads_back(brush):
    plain = to_plain(brush)
    assert plain["kind"] == brush.kind and from_plain(Brush, plain) == brush


@pytest.mark.parametrize("rule", RULES, ids=lambda r: r.kind)
def test_each_kind_of_rule_reads_back_and_has_a_sentence(rule):
    assert from_plain(PlacementRule, to_plain(rule)) == rule
    assert rule.sentence() and rule.short()
    assert all(isinstance(part, str) and part for part in rule.reason(1.0))


def test_a_kind_can_be_taken_once():
    class Other:
        kind: ClassVar[str] = "weave"

    with pytest.raises(ValueError, match=r"already topion\.brushes\.weave"):
        register_kinds(Brush, Other)


def test_a_brush_of_an_unknown_kind_is_kept_and_written_back_as_it_was():
    plain = {"kind": "hose", "name": "x", "spray": [1, {"deep": True}]}
    brush = from_plain(Brush, plain)
    assert to_plain(brush) == plain and "hose" in brush.summary()
    rule = from_plain(PlacementRule, {"kind": "under", "cells": 3})
    assert to_plain(rule) == {"kind": "under", "cells": 3} and "not known here" in rule.sentence()


@pytest.mark.parametrize("plain", [{"kind": "hose"}, {"kind": "hose", "name": 3}, {"kind": []}, {}])
def test_what_has_no_name_or_no_kind_is_no_brush(plain):
    with pytest.raises(BadPlain):
        from_plain(Brush, plain)


def test_settings_name_real_fields_of_their_brush():
    for brush in BRUSHES:
        for setting in brush.settings():
            assert hasattr(brush, setting.name), (brush.kind, setting.name)
            assert setting.label and setting.form in (
                "number",
                "range",
                "switch",
                "choice",
                "seed",
                "text",
                "about",
                "cell",
                "pattern",
                "mix",
            )


def test_unknown_names_tell_when_there_are_none():
    assert "there are none yet" in str(UnknownName("room", "x", []))
    assert SHEET in str(UnknownName("tile set", "shet", [SHEET]))
