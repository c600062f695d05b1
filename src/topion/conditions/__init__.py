"""Conditions, one module each: what can be so or not while a room is walked.

Every condition defined in a module of this folder is found by itself: to add one, write its module
after `cleared.py`.  An extension calls `register_kinds(Condition, ItsCondition)`.
"""

from topion.conditions.cleared import Cleared
from topion.conditions.inside import Inside
from topion.conditions.kind import ConditionKind
from topion.conditions.switch_on import SwitchOn
from topion.conditions.taken import Taken
from topion.model.condition import Condition
from topion.model.typed import register_kinds
from topion.modules import classes_in

CONDITIONS: dict[str, type[ConditionKind]] = {
    kind.kind: kind for kind in classes_in(__name__, ConditionKind)
}
register_kinds(Condition, *CONDITIONS.values())

__all__ = ["CONDITIONS", "Cleared", "ConditionKind", "Inside", "SwitchOn", "Taken"]
