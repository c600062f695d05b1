"""Placement rules, one module each.

A rule is a small dataclass with a `kind`, a plain `sentence` and a `check`.  To add one,
write its module and name it here; prefabs, fields, the ghost and the survey then know it.
"""

from topion.model.plain import register_kinds
from topion.model.prefab import PlacementRule
from topion.things.rules.at_most import AtMost
from topion.things.rules.clear_of import ClearOf
from topion.things.rules.headroom import Headroom
from topion.things.rules.keeps_cells import KeepsCells
from topion.things.rules.level_footing import LevelFooting
from topion.things.rules.on import NotOn, On

register_kinds(PlacementRule, On, NotOn, ClearOf, KeepsCells, AtMost, LevelFooting, Headroom)

__all__ = ["AtMost", "ClearOf", "Headroom", "KeepsCells", "LevelFooting", "NotOn", "On"]
