"""How strokes meet a room: the work plane, what they lie on, mirrors, what is seen above."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from topion.brushes.gestures import Mirror
from topion.model.brush import Setting

Aim = Literal["plane", "face", "cell"]
AIMS: dict[Aim, str] = {"plane": "plane", "face": "surface", "cell": "cell"}
Above = Literal["shown", "ghosted", "hidden"]
ABOVE: tuple[Above, ...] = ("shown", "ghosted", "hidden")
PLANES = ("Plane, level", "Plane, row", "Plane, column")
MIRRORS = ("off", "E–W", "N–S", "both")

_HINTS = {
    "mirror": "Strokes are laid mirrored too (I); Shift+I stands it here",
    "level": "The work plane; Ctrl+wheel moves it, X turns it, G sets it here",
    "aim": "The work plane, the surface that the pointer hits, or that very cell (A)",
}


@dataclass(frozen=True)
class Work:
    """axis, level : the work plane lies across this axis of (z, y, x), in that level of cells.

    aim : where strokes lie: on the plane, on the face that the pointer hits, or in its cell.
    above : how cells beyond the plane are seen.  mirror : which mirrors strokes have.
    mirror_at : (y, x) where the mirrors stand, in cells; whole numbers are middles of cells.
    """

    axis: int = 0
    level: int = 0
    aim: Aim = "face"
    above: Above = "shown"
    mirror: str = "off"
    mirror_at: tuple[float, float] = (0.0, 0.0)

    def mirrors(self) -> tuple[Mirror, ...]:
        found = []
        if self.mirror in ("E–W", "both"):
            found.append(Mirror(-1, self.mirror_at[1]))
        if self.mirror in ("N–S", "both"):
            found.append(Mirror(-2, self.mirror_at[0]))
        return tuple(found)

    def settings(self, size: tuple[int, ...]) -> tuple[Setting, ...]:
        """The rows of the In hand panel for a room of that size."""
        mirror = Setting("mirror", "Mirror", "choice", choices=MIRRORS, hint=_HINTS["mirror"])
        if len(size) == 2:
            return (mirror,)
        label, last = PLANES[self.axis], size[self.axis] - 1
        plane = Setting("level", label, "number", 0, last, 1, hint=_HINTS["level"])
        choices = tuple(AIMS.values())
        aim = Setting("aim_words", "Lay on", "choice", choices=choices, hint=_HINTS["aim"])
        return (aim, plane, mirror)

    @property
    def aim_words(self) -> str:
        return AIMS[self.aim]

    def changed(self, field: str, value: object) -> Work:
        """With one of its settings changed."""
        if field == "aim_words":
            field, value = "aim", next(aim for aim, words in AIMS.items() if words == value)
        if field == "level":
            value = int(float(str(value)))
        known: dict[str, Any] = {field: value}
        return replace(self, **known)
