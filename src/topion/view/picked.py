"""What is picked: one of the things or tiles that lie in a cell."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from topion.edit.rooms import change_things
from topion.model.prefab import Thing
from topion.survey.at_cursor import Lying
from topion.view.context import Context
from topion.view.hands import Hands


class Picked(QObject):
    """Signals: changed(), also when another layer is worked on."""

    changed = pyqtSignal()

    def __init__(self, context: Context, hands: Hands) -> None:
        super().__init__()
        self._context, self._hands = context, hands
        self.lying: Lying | None = None

    def pick(self, lying: Lying | None) -> None:
        """Pick that and work on its layer, or pick nothing."""
        self.lying = lying
        if lying is not None:
            self._context.layer_id = lying.layer
        self.changed.emit()

    def work_on(self, layer_id: str) -> None:
        """Lay on that layer."""
        self._context.layer_id = layer_id
        self.changed.emit()

    def thing(self) -> tuple[str, int, Thing] | None:
        """Layer id, number and the thing that is picked, if it still stands."""
        lying = self.lying
        if lying is None or lying.thing is None or not self._context.has_room:
            return None
        layer = self._context.room.layers.get(lying.layer)
        thing = layer.things.get(lying.thing) if layer else None
        return (lying.layer, lying.thing, thing) if thing else None

    def remove(self) -> None:
        """Take the picked thing away."""
        found = self.thing()
        if found:
            layer_id, number, thing = found
            room, label = self._context.room_name, f"Remove {thing.prefab}"
            self._context.try_(change_things, room, layer_id, {number: None}, label)
            self.pick(None)

    def nudge(self, dy: int, dx: int, dz: int = 0) -> bool:
        """Move the thing by cells, or by the parts of cells in use; False without one."""
        found = self.thing()
        if not found:
            return False
        layer_id, number, thing = found
        step = 1 / self._hands.cell_parts
        z, y, x = (round(v + d * step, 6) for v, d in zip(thing.at, (dz, dy, dx), strict=True))
        moved = {number: replace(thing, z=z, y=y, x=x)}
        room, label = self._context.room_name, f"Move {thing.prefab}"
        self._context.try_(change_things, room, layer_id, moved, label)
        return True
