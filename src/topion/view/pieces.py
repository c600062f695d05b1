"""The pieces that are picked, and what is done to all of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

from PyQt6.QtCore import QObject, pyqtSignal

from topion.brushes.shape import Handle
from topion.edit import pieces as edits
from topion.edit.pieces import Pick, Where, picked_pieces, shape_of
from topion.errors import TopionError
from topion.model.edit import Edit
from topion.model.piece import Piece
from topion.view.context import Context
from topion.view.picking import Picking
from topion.weaving.pieces import pieces_at

Outlines = Literal["picked", "this layer", "all layers"]
OUTLINES: tuple[Outlines, ...] = ("picked", "this layer", "all layers")


class PickedPieces(QObject):
    """Signals: changed() when others are picked, or other outlines are shown.

    outlines : which pieces are drawn with their outline.  hidden : none are while a key is held.
    """

    changed = pyqtSignal()

    def __init__(self, context: Context, picking: Picking) -> None:
        super().__init__()
        self._context, self._picking = context, picking
        self.outlines: Outlines = "this layer"
        self.hidden = False
        picking.changed.connect(self.changed)

    @property
    def picks(self) -> tuple[Pick, ...]:
        """All that is picked, things too: Edits of pieces leave those alone."""
        return self._picking.entries

    def there(self) -> list[tuple[Pick, Piece]]:
        """Those that still are in the room that is shown."""
        if not self.picks or not self._context.has_room:
            return []
        return picked_pieces(self._context.room, self.picks)

    def first(self) -> tuple[Pick, Piece] | None:
        """The one that was picked first: its values are shown and typed."""
        return next(iter(self.there()), None)

    def pick(self, picks: Iterable[Pick]) -> None:
        """Pick these and no others; the layer of the last one is worked on."""
        self._picking.pick(picks)

    def show_outlines(self, which: Outlines) -> None:
        """Draw the outlines of these pieces."""
        self.outlines = which
        self.changed.emit()

    def hide(self, hidden: bool) -> None:
        """Draw none while a key is held."""
        if hidden != self.hidden:
            self.hidden = hidden
            self.changed.emit()

    # --- where --------------------------------------------------------------------------

    def here(self, cell: tuple[int, ...]) -> list[tuple[Pick, Piece]]:
        """All pieces of shown layers in a cell, uppermost first."""
        room, project = self._context.room, self._context.project
        found = []
        for layer_id, layer in reversed(room.cell_layers()):
            if layer.info.shown:
                at = pieces_at(project, layer, cell)
                found += [(Pick(layer_id, number), piece) for number, piece in at]
        return found

    # --- what is done to them -----------------------------------------------------------

    def do(self, plan: Callable[..., Edit], *args: object, key: object = None) -> bool:
        """Apply an Edit of the picked pieces; a refusal is said.  key : of Edits that become
        one, such as the steps of a nudge."""
        try:
            edit = plan(self._context.project, self._context.room_name, self.picks, *args)
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return False
        return self._context.apply(edit, key)

    def turn(self) -> None:
        """A quarter clockwise, each about its middle."""
        self.do(edits.turned)

    def mirror(self, axis: int = -1) -> None:
        """Each where it stands."""
        self.do(edits.mirrored, axis)

    def restack(self, where: Where) -> None:
        """Nearer or farther."""
        self.do(edits.restacked, where)

    def rebrush(self, brush: str) -> None:
        """The same shapes by another brush."""
        self.do(edits.rebrushed, brush)

    def melt(self) -> None:
        """Into the cells of their layers."""
        if self.do(edits.melted):
            self._picking.pick(())

    def put(self, plan: Callable[..., Edit], *args: object, key: object = None) -> bool:
        """The same for the first of them alone."""
        first = self.first()
        if first is None:
            return False
        try:
            edit = plan(self._context.project, self._context.room_name, first[0], *args)
        except TopionError as problem:
            self._context.said.emit(str(problem))
            return False
        return self._context.apply(edit, key)

    def plan_pull(self, pick: Pick, handle: Handle, by: tuple[int, ...]) -> Edit | None:
        """What a pull of a handle would do; None where it cannot be."""
        try:
            return edits.pulled(self._context.project, self._context.room_name, pick, handle, by)
        except TopionError:
            return None

    def without_point(self, pick: Pick, number: int) -> bool:
        """Take one of the points of a trail away."""
        return self._context.try_(edits.without_point, self._context.room_name, pick, number)

    def words(self, piece: Piece) -> str:
        """A piece in a few words, as its brush says it."""
        brush = shape_of(self._context.project, piece)
        return brush.words(piece) if brush is not None else f"of {piece.brush}, which is missing"
