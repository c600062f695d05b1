"""The curves that are picked, which of their points, and what is done to them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.kind import DrawsCurves, brush_or_none
from topion.brushes.shape import Handle
from topion.edit import along
from topion.edit import curves as edits
from topion.edit.picked import entry_of
from topion.edit.pieces import Pick
from topion.errors import TopionError
from topion.model.curve import Curve, Side
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.view.context import Context
from topion.view.hands import HANDS, Hands
from topion.view.picking import Picking

SLIDE_CELLS = 0.25  # of one press of a key


class PickedCurves(QObject):
    """Signals: changed() when another point is picked.

    points : numbers of the picked points of the curve that was picked first.
    """

    changed = pyqtSignal()

    def __init__(self, context: Context, picking: Picking, hands: Hands) -> None:
        super().__init__()
        self._context, self._picking, self._hands = context, picking, hands
        self.points: tuple[int, ...] = ()
        picking.changed.connect(self._other)
        self._of: Pick | None = None

    def _other(self) -> None:
        first = self.first()
        if (first[0] if first else None) != self._of:
            self._of, self.points = first[0] if first else None, ()

    def there(self) -> list[tuple[Pick, Curve]]:
        """Those that are picked and still there."""
        if not self._context.has_room:
            return []
        room = self._context.room
        found = ((pick, entry_of(room, pick)) for pick in self._picking.entries)
        return [(pick, entry) for pick, entry in found if isinstance(entry, Curve)]

    def first(self) -> tuple[Pick, Curve] | None:
        """The one that was picked first: its values are shown and typed."""
        return next(iter(self.there()), None)

    def are_shown(self) -> bool:
        """Whether curves are drawn: while something is picked, or a hand draws them."""
        project = self._context.project
        brushes = (brush_or_none(project, self._hands[hand]) for hand in HANDS)
        return bool(self.there()) or any(isinstance(brush, DrawsCurves) for brush in brushes)

    # --- its points -----------------------------------------------------------------------

    def take_point(self, number: int, *, more: bool = False) -> None:
        """Pick a point of the first curve, or one more."""
        known = self.points
        if more and number in known:
            self.points = tuple(n for n in known if n != number)
        else:
            self.points = (*known, number) if more else (number,)
        self.changed.emit()

    def chosen(self) -> tuple[int, ...]:
        """The picked points that there are."""
        first = self.first()
        many = len(first[1].points) if first else 0
        return tuple(n for n in self.points if n < many)

    def drop_points(self) -> bool:
        """Pick no points; False if none are."""
        had, self.points = bool(self.points), ()
        if had:
            self.changed.emit()
        return had

    def remove_points(self) -> bool:
        """Take the picked points away; False without any."""
        chosen = self.chosen()
        if not chosen or not self.do(edits.without_points, chosen):
            return False
        self.points = ()
        self.changed.emit()
        return True

    def move_points(self, by: tuple[float, ...], *, key: object = None) -> bool:
        """The picked points so many cells on; False without any."""
        chosen = self.chosen()
        return bool(chosen) and self.do(edits.points_moved, chosen, by, key=key)

    def nudge(self, by: tuple[int, ...]) -> bool:
        """The picked points by steps of a key; False without any."""
        step = 1 / self._hands.cell_parts
        steps = tuple(round(v * step, 6) for v in by)
        return self.move_points(steps, key=("points", self._of, self.points))

    def add_point(self, pick: Pick, far: float) -> None:
        """One more at a length of a curve."""
        context = self._context
        try:
            edit, number = edits.with_point(context.project, context.room_name, pick, far)
        except TopionError as problem:
            context.said.emit(str(problem))
            return
        if context.apply(edit):
            self.take_point(number)

    def plan_pull(
        self, pick: Pick, handle: Handle, by: tuple[float, ...], *, apart: bool
    ) -> Edit | None:
        """What a pull of a point or of its handle would do; None where it cannot be."""
        project, room = self._context.project, self._context.room_name
        try:
            if handle.pulls:
                side: Side = "before" if handle.pulls == "before" else "after"
                return edits.handle_moved(project, room, pick, handle.point, side, by, apart=apart)
            chosen = self.chosen() if handle.point in self.chosen() else (handle.point,)
            return edits.points_moved(project, room, pick, chosen, by)
        except TopionError:
            return None

    # --- what is done to them -------------------------------------------------------------

    def do(self, plan: Callable[..., Edit], *args: object, key: object = None, **named: object
           ) -> bool:  # fmt: skip
        """Apply an Edit of the first of them; a refusal is said."""
        first = self.first()
        if first is None:
            return False
        return self._context.try_(plan, self._context.room_name, first[0], *args, key=key, **named)

    def join(self) -> None:
        """Make one of the two that are picked."""
        picks = [pick for pick, _ in self.there()]
        if self._context.try_(edits.joined, self._context.room_name, picks):
            self._picking.pick(picks[:1])

    # --- things along them ----------------------------------------------------------------

    def riders(self) -> list[tuple[Pick, Thing]]:
        """The picked things that belong to curves."""
        return [(pick, thing) for pick, thing in self._picking.things() if thing.along is not None]

    def slide(self, steps: int) -> bool:
        """Picked things so many steps along their curves; False without any."""
        riders = [pick for pick, _ in self.riders()]
        if not riders:
            return False
        return self._context.try_(along.slid_along, self._context.room_name, riders,
                                  steps * SLIDE_CELLS, key=("slide", tuple(riders)))  # fmt: skip

    def put_along(self, **values: float | bool) -> None:
        """Other values of where they are along them."""
        riders = [pick for pick, _ in self.riders()]
        if riders:
            self._context.try_(along.put_along, self._context.room_name, riders, **values)

    def detach(self) -> None:
        """Picked things stand by themselves; of a picked curve, all of its things."""
        riders = [pick for pick, _ in self.riders()]
        if riders:
            self._context.try_(along.detached, self._context.room_name, riders)
        elif self.first() is not None:
            self.do(edits.all_detached)

    def attach(self, *, onto: bool = False) -> None:
        """Picked things belong to the picked curve from now on."""
        first = self.first()
        things = [pick for pick, thing in self._picking.things() if thing.along is None]
        if first is not None and things:
            self._context.try_(along.attached, self._context.room_name, things, first[0],
                               onto=onto)  # fmt: skip
