"""Several prefabs set at once, as one Edit."""

import pytest

from tests.rooms import prefab, small_room
from topion.edit.prefab_sets import (
    MIXED,
    change_property,
    change_rule,
    set_prefabs,
    shared,
    shared_properties,
    united_rules,
)
from topion.errors import BadValue
from topion.model.property import Property
from topion.roles import Scenery
from topion.things.rules import ClearOf, FromEdge, KeepsCells

NAMES = ("One", "Two", "Three")


@pytest.fixture
def project():
    made = small_room().project
    made.add_prefab(prefab("One", ClearOf(2.0), KeepsCells(), properties=(Property("note"),)))
    made.add_prefab(prefab("Two", KeepsCells(), turns="any", properties=(Property("note"),)))
    made.add_prefab(prefab("Three", properties=(Property("lit", "yes or no"),)))
    return made


def of(project):
    return [project.data.prefab(name) for name in NAMES]


def test_a_value_they_differ_in_is_mixed_until_it_is_set_for_all(project):
    assert shared(of(project), "turns") is MIXED and shared(of(project), "mirrors") is False
    before = [*of(project)]
    project.history.apply(set_prefabs(project.data, NAMES, turns="quarters", role=Scenery()))
    assert shared(of(project), "turns") == "quarters" and shared(of(project), "role") == Scenery()
    project.undo()
    assert of(project) == before


def test_a_rule_is_changed_and_taken_away_where_it_is_and_added_where_it_is_not(project):
    assert united_rules(of(project)) == [(ClearOf(2.0), 1), (KeepsCells(), 2)]
    project.history.apply(change_rule(project.data, NAMES, KeepsCells(), KeepsCells(on=False)))
    assert [p.rules for p in of(project)] == [
        (ClearOf(2.0), KeepsCells(on=False)), (KeepsCells(on=False),), ()]  # fmt: skip
    project.history.apply(change_rule(project.data, NAMES, None, ClearOf(2.0)))
    assert united_rules(of(project))[0] == (ClearOf(2.0), 3)
    project.history.apply(change_rule(project.data, NAMES, ClearOf(2.0), None))
    assert all(not isinstance(rule, ClearOf) for p in of(project) for rule in p.rules)


def test_only_properties_that_all_have_are_shown_and_a_new_one_goes_to_each(project):
    assert shared_properties(of(project)) == ()
    assert shared_properties(of(project)[:2]) == (Property("note"),)
    project.history.apply(change_property(project.data, NAMES, None, Property("lit")))
    assert [[p.name for p in known.properties] for known in of(project)] == [
        ["note", "lit"], ["note", "lit"], ["lit"]]  # fmt: skip
    project.history.apply(
        change_property(project.data, NAMES, Property("note"), Property("word", default="a"))
    )
    assert [known.properties[0].name for known in of(project)] == ["word", "word", "lit"]


def test_what_one_of_them_cannot_have_changes_none(project):
    with pytest.raises(BadValue):
        set_prefabs(project.data, NAMES, height=99)
    with pytest.raises(BadValue):
        change_rule(project.data, NAMES, None, FromEdge(-3))
