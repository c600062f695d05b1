"""Pitch and rate: the facet of brushes whose drags may be laid mark by mark."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from topion.brushes.kind import BrushKind, Setting
from topion.model.typed import between

PITCH = Setting("pitch", "Pitch", "number", 0, 16, 0.5, "c",
                hint="Cells from mark to mark of a drag; 0 leaves no gap")  # fmt: skip
RATE = Setting("rate", "Rate", "number", 0, 20, 0.5, "/s",
               hint="Marks a second while the button is held; 0 as the pointer goes")  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Spaced(BrushKind):
    """pitch : cells from mark to mark along a drag; 0 for as many as it comes over.  rate : marks
    a second while the button is held; 0 for as many as the pointer comes over."""

    pitch: Annotated[float, between(0, 256, "cells")] = 0.0
    rate: Annotated[float, between(0, 30, "a second")] = 0.0

    def beat(self) -> float:
        return self.rate

    def gap(self) -> float:
        return self.pitch
