"""How strokes meet a room: the work plane, what they lie on, mirrors, what is seen above."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.gestures import Mirror
from topion.brushes.kind import Setting, SoftEdged
from topion.view.context import Context
from topion.view.gestures import Gestures
from topion.view.hands import Hand, Hands

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
class WorkPlane:
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
        """The mirrors that strokes have now."""
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
        """What strokes lie on, in a word."""
        return AIMS[self.aim]

    def changed(self, field: str, value: object) -> WorkPlane:
        """With one of its settings changed."""
        if field == "aim_words":
            field, value = "aim", next(aim for aim, words in AIMS.items() if words == value)
        if field == "level":
            value = int(float(str(value)))
        known: dict[str, Any] = {field: value}
        return replace(self, **known)


class Planes(QObject):
    """The work plane of every room.  Signals: changed()."""

    changed = pyqtSignal()

    def __init__(self, context: Context, hands: Hands, gestures: Gestures) -> None:
        super().__init__()
        self._context, self._hands, self._gestures = context, hands, gestures
        self._of_rooms: dict[str, WorkPlane] = {}

    @property
    def here(self) -> WorkPlane:
        """The work plane and mirrors of the room."""
        context = self._context
        known = self._of_rooms.get(context.room_name)
        if known is None and context.has_room:
            height, width = context.room.info.plan
            known = WorkPlane(mirror_at=((height - 1) / 2, (width - 1) / 2))
            self._of_rooms[context.room_name] = known
        return known or WorkPlane()

    def set(self, **changes: object) -> None:
        """Change the work plane (kept inside the room), what strokes lie on, or mirrors."""
        plane = replace(self.here, **changes)  # type: ignore[arg-type]
        if self._is_deep:
            last = self._context.room.info.size[plane.axis] - 1
            plane = replace(plane, level=max(0, min(last, plane.level)))
        if plane != self.here:
            self._of_rooms[self._context.room_name] = plane
            self.changed.emit()

    def shift(self, by: tuple[int, ...]) -> None:
        """The room grew before its first cell: what stood in it lies so many cells further."""
        here = self._of_rooms.get(self._context.room_name)
        if here is not None:
            y, x = here.mirror_at
            level = here.level + (by[here.axis] if len(by) == 3 else 0)
            self.set(mirror_at=(y + by[-2], x + by[-1]), level=level)

    @property
    def _is_deep(self) -> bool:
        return self._context.has_room and self._context.room.info.axes == 3

    def aim(self, hand: Hand) -> Aim:
        """What a stroke of that hand lies on in a voxel room.

        Where faces are pointed at, lifting and floods mean the cell behind the face; brushes
        with a soft edge always mean the ground that is seen.
        """
        brush = self._hands.in_hand(hand)
        if isinstance(brush, SoftEdged):
            return "cell"
        aim = self.here.aim
        behind = self._gestures.now.kind == "flood" or (
            brush is not None and (brush.lifts or brush.meets)
        )
        return "cell" if aim == "face" and behind else aim

    def across(self, hand: Hand, kind: str) -> int | None:
        """The axis across which a stroke of that kind is flat in a voxel room."""
        if self.aim(hand) == "plane":
            return self.here.axis
        return None if kind == "flood" else 0

    def turn(self) -> None:
        """Lay the work plane across the next axis."""
        if self._is_deep:
            axis = (self.here.axis - 1) % 3
            cell = self._context.cursor
            level = cell[axis] if cell else self._context.room.info.size[axis] // 2
            self.set(axis=axis, level=level, aim="plane")

    def raise_by(self, levels: int) -> None:
        """Move the work plane by so many levels."""
        self.set(level=self.here.level + levels)

    def next_aim(self) -> None:
        """Lay on the plane, the surface or the cell, in turn."""
        aims = list(AIMS)
        self.set(aim=aims[(aims.index(self.here.aim) + 1) % len(aims)])

    def next_above(self) -> None:
        """Show, ghost or hide what is above the plane, in turn."""
        self.set(above=ABOVE[(ABOVE.index(self.here.above) + 1) % len(ABOVE)])

    def next_mirror(self) -> None:
        """The next way of mirroring."""
        self.set(mirror=MIRRORS[(MIRRORS.index(self.here.mirror) + 1) % len(MIRRORS)])

    def stand_mirror_here(self) -> None:
        """Stand the mirrors in the cell under the pointer."""
        cell = self._context.cursor
        if cell is None:
            self._context.said.emit("Point at the cell in which the mirror shall stand")
            return
        mirror = "E–W" if self.here.mirror == "off" else self.here.mirror
        self.set(mirror=mirror, mirror_at=(float(cell[-2]), float(cell[-1])))
