"""Roles, one module each: what a thing is while a room is walked.

Every role defined in a module of this folder is found by itself: to add one, write its module
after `hazard.py`.  An extension calls `register_kinds(Role, ItsRole)`.
"""

from topion.model.role import Role
from topion.model.typed import register_kinds
from topion.modules import classes_in
from topion.roles.door import Door
from topion.roles.emitter import Emitter
from topion.roles.goal import Goal
from topion.roles.hazard import Hazard
from topion.roles.kind import RoleKind
from topion.roles.launcher import Launcher
from topion.roles.mover import Mover
from topion.roles.pickup import Pickup
from topion.roles.scenery import Scenery
from topion.roles.start import Start
from topion.roles.switch import Switch
from topion.roles.walker import Walker

ROLES: dict[str, type[RoleKind]] = {
    kind.kind: kind for kind in classes_in(__name__, RoleKind) if kind is not RoleKind
}
register_kinds(Role, *ROLES.values())

__all__ = [
    "ROLES", "Door", "Emitter", "Goal", "Hazard", "Launcher", "Mover", "Pickup", "RoleKind",
    "Scenery", "Start", "Switch", "Walker",
]  # fmt: skip
