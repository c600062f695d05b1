"""The last stroke stays warm: what is set of its brush or gesture lays it again in place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.drawn import Drawn
from topion.brushes.kind import BrushKind, Stepped, brush_or_none
from topion.edit.warm import Form, Warm, laid_again, tried_again
from topion.errors import TopionError
from topion.things.kept_out import keepers, kept_out
from topion.view.context import Context
from topion.view.gestures import Gestures
from topion.view.hands import Hand, Hands

MOST_WARM_CELLS = 120_000  # a larger stroke takes too long to be laid at each step of a slider


class Warmth(QObject):
    """Signals: changed() when a stroke becomes warm, is laid again, or cools.

    hand : that laid it.  last : the last stroke, also after it cooled, to be laid elsewhere.
    """

    changed = pyqtSignal()

    def __init__(self, context: Context, hands: Hands, gestures: Gestures) -> None:
        super().__init__()
        self._context, self._hands, self._gestures = context, hands, gestures
        self._now: Warm | None = None
        self._laying = False
        self._let_in = False  # walls, into cells that things keep
        self.hand: Hand = "left"
        self.last: tuple[Hand, Drawn, str] | None = None
        context.changed.connect(lambda _: self._look())
        context.room_changed.connect(self.cool)
        gestures.changed.connect(self._follow_gesture)
        hands.mode_changed.connect(self._follow_parts)

    @property
    def now(self) -> Warm | None:
        """The stroke that is warm; None without one."""
        warm = self._now
        return warm if warm is not None and warm.is_last(self._context.handle.history) else None

    def begin(self, hand: Hand, drawn: Drawn, form: Form, at: int, given: int) -> None:
        """A stroke was laid: so many Edits lay before it.  given : see Warm."""
        context, history = self._context, self._context.handle.history
        name = self._hands[hand]
        edits = tuple(history.edits[at : history.at])
        self.hand, self.last = hand, (hand, drawn, name)
        self._let_in = False
        brush = brush_or_none(context.project, name)
        most = brush.most_ghosted() if brush is not None else 0
        large = sum(edit.cells_written for edit in edits) > (most or MOST_WARM_CELLS)
        self._now = None if large else Warm(
            at, edits, context.room_name, context.layer_id, name, drawn, form, given
        )  # fmt: skip
        self.changed.emit()

    def cool(self) -> None:
        """Keep the stroke as it is."""
        if self._now is not None:
            self._now = None
            self.changed.emit()

    def _look(self) -> None:
        """Something was done since: the stroke is not the last any more."""
        if not self._laying and self._now is not None and self.now is None:
            self.cool()

    def put(self, brush: BrushKind) -> bool:
        """Change the brush of the warm stroke, and lay it again with it; False where that brush
        laid no warm stroke, or is meant for something else now."""
        warm = self.now
        if warm is None or brush.name != warm.brush:
            return False
        before = brush_or_none(self._context.project, warm.brush)
        if any(getattr(brush, aim) != getattr(before, aim, None) for aim in brush.aims):
            self.cool()
            return False
        self._lay(warm, brush)
        return True

    def use_brush(self, name: str) -> None:
        """Lay the warm stroke with another brush, which is in the hand then."""
        warm = self.now
        if warm is not None and name != warm.brush and self._hands.can_take(name):
            self._lay(replace(warm, brush=name))
            self._hands.take(self.hand, name)

    def _follow_gesture(self) -> None:
        warm, gesture = self.now, self._gestures.now
        if warm is None or self._gestures.picking or gesture.kind != warm.drawn.gesture.kind:
            return
        wanted = replace(gesture, across=warm.drawn.gesture.across)
        if wanted != warm.drawn.gesture:
            self._lay(replace(warm, drawn=replace(warm.drawn, gesture=wanted)))

    def _follow_parts(self) -> None:
        """Things stand on other parts of cells."""
        warm, parts = self.now, self._hands.cell_parts
        brush = brush_or_none(self._context.project, warm.brush) if warm else None
        held = warm.form(brush) if warm and brush else None
        if warm is not None and isinstance(held, Stepped) and held.cell_parts != parts:
            form = self._hands.form(self.hand, lifting=False)
            self._lay(replace(warm, form=form))

    def _lay(self, warm: Warm, brush: BrushKind | None = None) -> None:
        try:
            if not self._let_in and not self._may(warm, brush):
                return
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return
        self._laying = True
        try:
            self._now = laid_again(self._context.handle.history, warm, brush)
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return
        finally:
            self._laying = False
        self.last = (self.hand, self._now.drawn, self._now.brush)
        if not self._now.edits:
            self._context.said.emit("Laid so, the stroke leaves nothing; it is still warm")
        self.changed.emit()

    def _may(self, warm: Warm, brush: BrushKind | None) -> bool:
        """Whether no thing keeps its cells from it; what was let in once is not asked about again
        while the stroke is warm."""
        context = self._context
        if not keepers(context.project):
            return True
        before, edit = tried_again(context.handle.history, warm, brush)
        if not context.lets(edit, before):
            self.changed.emit()  # what was set is shown as it was
            return False
        self._let_in = bool(kept_out(before, edit))
        return True

    def elsewhere(self, cell: tuple[int, ...] | None,
                  lay: Callable[[Hand, Drawn], object]) -> None:  # fmt: skip
        """Lay the last stroke once more, beginning in a cell; `lay` lays it with that hand."""
        if self.last is None or cell is None:
            self._context.said.emit("Lay a stroke first, then point where it shall be laid again")
            return
        hand, drawn, name = self.last
        if len(cell) != drawn.points.shape[1]:
            self._context.said.emit("The last stroke was laid in a room of another kind")
            return
        if self._hands[hand] != name and self._hands.can_take(name):
            self._hands.take(hand, name)
        lay(hand, drawn.moved_to(cell))
