"""Placement rules, one module each; prefabs, fields, strokes, ghost and survey know them all.

Every rule defined in a module of this folder is found by itself: to add one, write its module
after `headroom.py`.  An extension calls `register_kinds(PlacementRule, ItsRule)`.
"""

from topion.model.prefab import PlacementRule
from topion.model.typed import register_kinds
from topion.modules import classes_in
from topion.things.rules.at_most import AtLeast, AtMost
from topion.things.rules.beside import Beside
from topion.things.rules.clear_of import ClearOf
from topion.things.rules.faces_away import FacesAway
from topion.things.rules.from_edge import FromEdge
from topion.things.rules.headroom import Headroom
from topion.things.rules.in_zone import InZone
from topion.things.rules.keeps_cells import KeepsCells
from topion.things.rules.kind import RuleKind
from topion.things.rules.level_footing import LevelFooting
from topion.things.rules.near import Near
from topion.things.rules.not_in_sight import NotInSight
from topion.things.rules.on import NotOn, On
from topion.things.rules.only_in import OnlyIn

register_kinds(PlacementRule, *classes_in(__name__, RuleKind))

__all__ = [
    "AtLeast", "AtMost", "Beside", "ClearOf", "FacesAway", "FromEdge", "Headroom", "InZone",
    "KeepsCells",
    "LevelFooting", "Near", "NotInSight", "NotOn", "On", "OnlyIn", "RuleKind",
]  # fmt: skip
