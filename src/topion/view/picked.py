"""What is picked in At cursor: one of all that lies in a cell."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from topion.edit.picked import brush_of
from topion.edit.pieces import Pick
from topion.survey.at_cursor import Lying
from topion.view.context import Context
from topion.view.picking import Picking


class Picked(QObject):
    """Signals: changed(), also when another layer is worked on."""

    changed = pyqtSignal()

    def __init__(self, context: Context, picking: Picking) -> None:
        super().__init__()
        self._context, self._picking = context, picking
        self.lying: Lying | None = None

    def pick(self, lying: Lying | None) -> None:
        """Pick that and work on its layer, or pick nothing."""
        self.lying = lying
        numbers = () if lying is None else (lying.thing, lying.piece, lying.curve)
        number = next((n for n in numbers if n is not None), None)
        if lying is not None:
            self._context.layer_id = lying.layer
        self._picking.pick([] if number is None or lying is None else [Pick(lying.layer, number)])
        self.changed.emit()

    def brush(self) -> str:
        """The brush that laid what is picked; nothing where that has none."""
        if self.lying is not None and self.lying.brush:
            return self.lying.brush
        context = self._context
        if not context.has_room:
            return ""
        return brush_of(context.project, context.room, self._picking.picks())

    def work_on(self, layer_id: str) -> None:
        """Lay on that layer."""
        self._context.layer_id = layer_id
        self.changed.emit()
