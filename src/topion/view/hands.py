"""The two hands: which brush each mouse button lays, and what keys do to the one shown."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal, get_args

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes import Lift
from topion.brushes.kind import (
    About,
    BrushKind,
    Hand,
    Nibbed,
    Seeded,
    Stepped,
    Value,
    brush_or_none,
    lays_here,
)
from topion.errors import TopionError
from topion.view.context import Context

Mode = Literal["lifting", "overriding", "shifting", "asking", "measuring"]  # while a key is held
ABOUT_AXES: tuple[About, ...] = get_args(About)
HANDS: tuple[Hand, ...] = ("left", "right")


class Hands(QObject):
    """Signals: changed() when another brush is taken or shown, mode_changed() for held keys.

    shown : the hand whose brush In hand shows.  cell_parts : to a cell, on which things stand.
    """

    changed = pyqtSignal()
    mode_changed = pyqtSignal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self._context = context
        self._names: dict[Hand, str] = {"left": "", "right": ""}
        self._of_kind: dict[int, dict[Hand, str]] = {}  # by the axes of rooms
        self.shown: Hand = "left"
        self.cell_parts: Literal[1, 2, 3, 4] = 1
        self.lifting = False
        self.overriding = False
        self.measuring = False  # told is how far the pointer is from a press
        self.asking = False  # shown is where the thing in hand may stand
        self.shifting = False

    def __getitem__(self, hand: Hand) -> str:
        """The name of its brush, or nothing."""
        return self._names[hand]

    def names(self) -> dict[Hand, str]:
        """The brushes of both."""
        return dict(self._names)

    def take(self, hand: Hand, brush: str) -> None:
        """Take a brush in a hand; its settings are shown."""
        self._names[hand] = brush
        self.shown = hand
        self.changed.emit()

    def show(self, hand: Hand) -> None:
        """Show the settings of that hand."""
        self.shown = hand
        self.changed.emit()

    def show_other(self) -> None:
        """Show the settings of the other hand."""
        self.show("right" if self.shown == "left" else "left")

    def hold(self, mode: Mode, held: bool) -> None:
        """The keys that lift instead, override refusals, move a layer's contents, or show where a
        thing may stand."""
        if getattr(self, mode) != held:
            setattr(self, mode, held)
            self.mode_changed.emit()

    def next_parts(self) -> None:
        """Things stand on whole cells, halves, thirds or quarters."""
        following: dict[Any, Literal[1, 2, 3, 4]] = {1: 2, 2: 3, 3: 4, 4: 1}
        self.cell_parts = following[self.cell_parts]
        self.mode_changed.emit()

    # --- what they hold -------------------------------------------------------------------

    def can_take(self, name: str) -> bool:
        """Whether there is such a brush, and this kind of room can be painted with it."""
        brush = brush_or_none(self._context.project, name)
        room = self._context.has_room
        return brush is not None and (not room or lays_here(brush, self._context.room))

    def keep(self) -> None:
        """Remember what is held for rooms of this kind."""
        if self._context.has_room:
            self._of_kind[self._context.room.info.axes] = dict(self._names)

    def recall(self) -> None:
        """Hold what was held in rooms of this kind, else the first brushes that fit."""
        if self._context.has_room:
            self._names.update(self._of_kind.get(self._context.room.info.axes, {}))
        names = [name for bay in self._context.project.bays for name in bay.brushes]
        names = [name for name in names if self.can_take(name)]
        for place, hand in enumerate(HANDS):
            if not self.can_take(self._names[hand]):
                self._names[hand] = names[place] if len(names) > place else ""
        self.changed.emit()

    def has_lost(self) -> bool:
        """Whether a brush that is held is no longer there."""
        known = self._context.project.brushes
        return any(name and name not in known for name in self._names.values())

    def brush(self, hand: Hand) -> BrushKind | None:
        """The brush of a hand, as it is in the library."""
        return brush_or_none(self._context.project, self._names[hand])

    def shown_brush(self) -> BrushKind | None:
        """The brush whose settings are shown."""
        return self.brush(self.shown)

    def in_hand(self, hand: Hand) -> BrushKind | None:
        """The brush of a hand as it would lay now: lifting while that key is held."""
        brush = self.brush(hand)
        return None if brush is None else self.form(hand, lifting=self.lifting)(brush)

    def form(self, hand: Hand, *, lifting: bool) -> Callable[[BrushKind], BrushKind]:
        """How a brush of the library lays in that hand, with the keys that are held now."""
        parts = self.cell_parts

        def formed(brush: BrushKind) -> BrushKind:
            brush = brush.in_hand(hand)
            if lifting and not brush.lifts:
                nib = brush.nib if isinstance(brush, Nibbed) else 1
                return brush.lifting() or Lift(only=brush.lift_only(), nib=nib)
            if parts > 1 and isinstance(brush, Stepped):
                return brush.changed(cell_parts=parts)
            return brush

        return formed

    # --- the brush that is shown ----------------------------------------------------------

    def set_field(self, brush: BrushKind, field: str, value: Value) -> None:
        """Change one setting of a brush; pulls of one slider become one Edit."""
        if value in ABOUT_AXES and any(s.name == field and s.form == "about"
                                       for s in brush.settings()):  # fmt: skip
            self._put(lambda: brush.turned_about(value))
            return
        self._put(lambda: brush.changed(**{field: value}), ("brush", brush.name, field))

    def roll(self) -> None:
        """Other places and variants by chance."""
        brush = self.shown_brush()
        if brush is not None and isinstance(brush, Seeded):
            seed = (brush.seed * 1103515245 + 12345) % 10_000
            self._put(lambda: brush.changed(seed=seed))

    def turn(self) -> None:
        """Turn the shown brush by a step."""
        self.change(lambda brush: brush.turned(self._context.project))

    def tip(self) -> None:
        """Another side of the block up."""
        self.change(lambda brush: brush.tipped(self._context.project))

    def turn_about(self, axis: About) -> None:
        """A quarter about an axis of the room."""
        self.change(lambda brush: brush.turned_about(axis))

    def lift_by(self, levels: int) -> None:
        """What is laid comes to lie so many levels higher."""
        self.change(lambda brush: brush.lifted_by(levels))

    def hold_at(self, by: tuple[int, ...]) -> None:
        """The brush is held by the cell that lies so many cells on from the one it is held by."""
        self.change(lambda brush: brush.held_at(by))

    def flip(self) -> None:
        """Mirror what the shown brush lays."""
        self.change(lambda brush: brush.flipped())

    def straighten(self) -> None:
        """Turn, mirror and scale back."""
        self.change(lambda brush: brush.straightened())

    def change(self, change: Callable[[BrushKind], BrushKind]) -> None:
        """Put another form of the shown brush in its place; a refusal is said."""
        brush = self.shown_brush()
        if brush is not None:
            self._put(lambda: change(brush))

    def _put(self, make: Callable[[], BrushKind], merge_key: object = None) -> None:
        try:
            made = make()
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return
        self._context.put(made, merge_key)
