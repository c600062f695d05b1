"""The rows of In hand for a stamp."""

from __future__ import annotations

from typing import Literal

from topion.brushes.kind import Setting
from topion.brushes.stamping import Onto

Repeat = Literal["side by side", "once", "at a pitch", "at a rate"]
REPEATS: tuple[Repeat, ...] = ("side by side", "once", "at a pitch", "at a rate")
ONTO: tuple[Onto, ...] = ("its cells", "open cells", "whole area")

_MIRRORED = Setting("mirrored", "Mirrored", "switch", hint="West and east change places (M)")
_RAISED = Setting("raised", "Raised", "number", -8, 8, 1, "levels",
                  hint="Levels by which it is laid higher (Shift+PgUp, Shift+PgDown)")  # fmt: skip
_REPEAT = Setting("repeat", "Repeat", "choice", choices=REPEATS,
                  hint="How often a stroke lays it")  # fmt: skip
_MORE: dict[str, Setting] = {
    "at a pitch": Setting("pitch", "Pitch", "number", 1, 32, 1, "c",
                          hint="Cells from one to the next along a stroke"),
    "at a rate": Setting("rate", "Rate", "number", 1, 20, 0.5, "/s",
                         hint="How many a second while the button is held"),
}  # fmt: skip
_ONTO = Setting("onto", "Lays", "choice", choices=ONTO,
                hint="Its cells; only where the room is open; or all of its area")  # fmt: skip
_ANCHOR = Setting("anchor", "Anchor", "cell",
                  hint="Its cell under the pointer; hold Y and point at another")  # fmt: skip
_TURN_HINT = "A quarter further (T, Shift+T, Ctrl+T); Backspace sets it back"


def settings_of_stamp(about: tuple[str, ...], repeat: Repeat) -> tuple[Setting, ...]:
    """about : the axes about which it can be turned."""
    turn = Setting("turn", "Turn", "about", choices=about, hint=_TURN_HINT)
    deep = (_RAISED,) if len(about) > 1 else ()
    more = (_MORE[repeat],) if repeat in _MORE else ()
    return (turn, _MIRRORED, *deep, _REPEAT, *more, _ONTO, _ANCHOR)
