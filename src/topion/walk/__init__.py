"""Trying a room with a small figure: `step(state, keys) -> state`, the same on every machine.

All places and speeds are whole numbers of a unit that is chosen so that a jump comes out exactly.
"""

from topion.walk.keys import ACT, DOWN, JUMP, LEFT, RIGHT, TURN, UP, Keys
from topion.walk.state import State
from topion.walk.step import step
from topion.walk.world import World

__all__ = ["ACT", "DOWN", "JUMP", "LEFT", "RIGHT", "TURN", "UP", "Keys", "State", "World", "step"]
