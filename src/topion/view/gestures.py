"""The gesture in use: tapped to switch, held to borrow."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.gestures import GESTURES, Gesture, GestureKind

AnyGesture = GestureKind | Literal["lasso"]
ALL_GESTURES: tuple[AnyGesture, ...] = (*GESTURES, "lasso")


class Gestures(QObject):
    """Signals: changed().  now : the gesture that the next stroke is drawn with.

    picking : the lasso is in use: the left button picks, and the right one lays as before.
    """

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.now = Gesture()
        self.picking = False
        self._borrowed: tuple[AnyGesture, bool] | None = None  # from which, and whether it was used

    @property
    def kind(self) -> AnyGesture:
        """What is shown as in use."""
        return "lasso" if self.picking else self.now.kind

    def set(self, gesture: Gesture) -> None:
        """Use that gesture with its options."""
        self.now = gesture
        self.changed.emit()

    def use(self, kind: AnyGesture) -> None:
        """Draw strokes with that gesture, or pick."""
        self.picking = kind == "lasso"
        self.set(self.now if kind == "lasso" else replace(self.now, kind=kind))

    def borrow(self, kind: AnyGesture) -> None:
        """A gesture's key went down: use it; after one stroke its release gives it back."""
        if self._borrowed is None:
            self._borrowed = (self.kind, False)
        self.use(kind)

    def give_back(self) -> None:
        """The key came up: go back if a stroke was laid meanwhile, else keep the gesture."""
        if self._borrowed is not None and self._borrowed[1]:
            kind = self._borrowed[0]
            self._borrowed = None
            self.use(kind)
        self._borrowed = None

    def stroke_began(self) -> None:
        """A borrowed gesture is used now."""
        if self._borrowed is not None:
            self._borrowed = (self._borrowed[0], True)

    def next_option(self) -> None:
        """A box filled or in outline; a flood of what is connected or of all alike."""
        gesture = self.now
        if self.picking:
            return
        if gesture.kind == "box":
            self.set(replace(gesture, outline=not gesture.outline))
        elif gesture.kind == "flood":
            self.set(replace(gesture, everywhere=not gesture.everywhere))

    def toggle_corners(self) -> None:
        """A flood steps over corners too, or not."""
        self.set(replace(self.now, corners=not self.now.corners))
