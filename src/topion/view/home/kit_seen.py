"""What the drawings of Home show of the kit."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from topion.kit import flat
from topion.kit.blockout import FirstRoom, blockout
from topion.model.tileset import TileSet
from topion.render.scene import render_room
from topion.view.table.compose import image_of
from topion.view.tasks import Worker


@dataclass(frozen=True, eq=False)
class KitPictures:
    """sheet : the tiles of the kit.  room : a flat room painted with it."""

    sheet: TileSet
    room: QImage


class KitSeen(QObject):
    """Makes the pictures on a thread, once they are asked for.  Signals: made()."""

    made = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._found: KitPictures | None = None
        self._worker: Worker | None = None

    def pictures(self) -> KitPictures | None:
        """None until they are there: then `made` is sent."""
        if self._worker is None:
            self._worker = Worker(lambda _: _drawn(), "Pictures of the kit")
            self._worker.finished.connect(self._take)
            self._worker.begin()
        return self._found

    def _take(self) -> None:
        self._found = self._worker.result if self._worker is not None else None
        self.made.emit()


@lru_cache(maxsize=1)
def kit_seen() -> KitSeen:
    """The one that all of Home shares."""
    return KitSeen()


def _drawn() -> KitPictures:
    project = blockout("Kit", FirstRoom(size=(14, 22)))
    room = project.room("Room 1")
    room.lay("Ramp 1 : 1", box=((10, 9), (8, 11)))
    room.lay("Ground", box=((8, 12), (10, 16)))
    room.lay("Ramp 2 : 1", box=((10, 20), (9, 17)))
    room.lay("Plank", curve=[(5, 3), (5, 9)])
    room.lay("Pickup", cells=[(4, 5), (4, 7)])
    painted = image_of(render_room(project.data, room.data, 1.0)).copy()
    return KitPictures(flat.tileset(16), painted)
