"""Brushes of kinds that nobody here knows: kept, drawn plainly, and written back unharmed."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from topion.brushes.kind import BrushKind
from topion.brushes.marks import Marks, Place
from topion.errors import BadValue
from topion.model.brush import Brush
from topion.model.edit import Edit
from topion.model.plain import JsonRecord, Unread, keep_unknown


@dataclass(frozen=True)
class UnknownBrush(BrushKind, Unread):
    """unread : its record as it was read, but for the kind."""

    bay: ClassVar[str] = "Stamps"
    layer: ClassVar[str] = ""  # type: ignore[misc]
    colour: ClassVar[str] = "#6b7479"  # type: ignore[misc]
    kind: str  # type: ignore[misc]
    unread: JsonRecord = field(hash=False)

    def __post_init__(self) -> None:
        name = self.unread.get("name")
        if not isinstance(name, str) or not name.strip():
            raise BadValue(f"the name of a brush of kind {self.kind}", name, "text")

    @property
    def name(self) -> str:  # type: ignore[override]
        return str(self.unread["name"])

    def plan(self, place: Place, marks: Marks) -> Edit:
        reason = f"brushes of kind “{self.kind}” are not known here: an extension is missing"
        return Edit(self.name, (), self.colour, (reason,))

    def summary(self) -> str:
        return f"unknown · {self.kind}"

    def at_home(self, layer: str) -> UnknownBrush:
        return self


keep_unknown(Brush, UnknownBrush)
