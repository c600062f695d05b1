"""The keys of the figure, as bits of one number a tick."""

from __future__ import annotations

from typing import TypeAlias

from topion.model.recording import KEY_BITS

Keys: TypeAlias = int
LEFT, RIGHT, UP, DOWN, JUMP, ACT, TURN = KEY_BITS.values()
EVERY_KEY = LEFT | RIGHT | UP | DOWN | JUMP | ACT | TURN
