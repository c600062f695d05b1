"""The keys of the figure, as bits of one number a tick."""

from __future__ import annotations

from typing import TypeAlias

Keys: TypeAlias = int
LEFT, RIGHT, UP, DOWN, JUMP, ACT = 1, 2, 4, 8, 16, 32
KEY_NAMES = {LEFT: "left", RIGHT: "right", UP: "up", DOWN: "down", JUMP: "jump", ACT: "act"}
EVERY_KEY = LEFT | RIGHT | UP | DOWN | JUMP | ACT


def names_of(keys: Keys) -> str:
    """The names of held keys, joined by `+`; `-` for none."""
    return "+".join(name for bit, name in KEY_NAMES.items() if keys & bit) or "-"


def keys_named(text: str) -> Keys:
    """The held keys of such text.  Raises ValueError for a name that is none."""
    known = {name: bit for bit, name in KEY_NAMES.items()}
    if text == "-":
        return 0
    found = 0
    for name in text.split("+"):
        if name not in known:
            raise ValueError(name)
        found |= known[name]
    return found
