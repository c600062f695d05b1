"""What a door waits for, in words, and how much of it there is in the world."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from topion.conditions import Cleared, Taken
from topion.model.condition import Condition, When
from topion.model.walked import counts_of
from topion.plan.threads import Port, when_told
from topion.view import style
from topion.view.plan.work import PlanWork

_MOST_PARTS = 12
_RIGHT = Qt.TextElideMode.ElideRight


@dataclass(frozen=True)
class Told:
    """About one condition.  parts : of how many, and how many there are."""

    text: str
    there: int = 0
    wanted: int = 0


def told_of(work: PlanWork, condition: Condition, room: str) -> Told | None:
    """How much there is of what a condition counts; None where nothing is counted."""
    project = work.session.project
    if isinstance(condition, Cleared):
        known = project.rooms.peek(room)
        if known is None:
            return None
        names = [thing.prefab for _, layer in known.bottom_up("things")
                 for thing in layer.things.values() if counts_of(project, thing)]  # fmt: skip
        kinds = ", ".join(f"{names.count(name)} {name}" for name in dict.fromkeys(names))
        text = f"{len(names)} to be done: {kinds}" if names else "nothing there counts"
        return Told(text, len(names), max(1, len(names)))
    if isinstance(condition, Taken):
        count = sum(_pickups(work, condition.of))
        return Told(f"{count} there in the rooms in use", count, condition.count)
    return None


def _pickups(work: PlanWork, of: str) -> Iterator[int]:
    """How many things of each room that was read a condition may count as taken."""
    project = work.session.project
    for room in project.rooms.read_ones():
        for _, layer in room.bottom_up("things"):
            for thing in layer.things.values():
                prefab = project.prefabs.get(thing.prefab)
                role = thing.role or (prefab.role if prefab is not None else None)
                names = (thing.prefab, prefab.class_name if prefab is not None else "", "anything")
                if role is not None and role.kind == "pickup" and of in names:
                    yield 1


class ConditionCard(QWidget):
    """Hidden where a door waits for nothing."""

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self._work = work
        self._words = ""
        self._told: list[Told] = []
        self.setAccessibleName("What it waits for")

    def show_when(self, when: When, port: Port) -> None:
        """Show what a door waits for."""
        self._words = when_told(when, port.door.room)
        found = (told_of(self._work, condition, port.door.room) for condition in when.all_of)
        self._told = [told for told in found if told is not None]
        self.setVisible(bool(self._told))
        self.setFixedHeight(12 + 34 * len(self._told))
        self.setAccessibleDescription("; ".join(told.text for told in self._told))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("line"), 1.0))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        for number, told in enumerate(self._told):
            top = 6.0 + 34 * number
            enough = told.there >= told.wanted
            painter.setFont(style.font(12))
            painter.setPen(style.ink("ink" if enough else "buoy"))
            place = QRectF(9, top, self.width() - 18, 17)
            words = painter.fontMetrics().elidedText(told.text, _RIGHT, int(place.width()))
            painter.drawText(place, words)
            self._draw_bar(painter, told, QRectF(9, top + 20, self.width() - 18, 6))

    @staticmethod
    def _draw_bar(painter: QPainter, told: Told, bar: QRectF) -> None:
        parts = min(_MOST_PARTS, max(1, told.wanted))
        wide = bar.width() / parts
        for part in range(parts):
            there = told.there * parts >= (part + 1) * told.wanted
            inside = QRectF(bar.left() + part * wide, bar.top(), wide - 2, bar.height())
            painter.fillRect(inside, style.ink("tidal" if there else "line"))
