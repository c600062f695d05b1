"""Pictures of the looks of a room, made on a thread and kept as long as they are right."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from topion.grid.arrays import Rgba
from topion.render.look_pictures import Look, look_picture
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.tasks import Step, Worker

_STAMPS = ("tilesets", "tiles", "themes", "palette", "blocks", "block_names", "prefabs", "brushes")
_AGAIN_MS = 250
_Key = tuple[object, ...]


class LookPictures(QObject):
    """Signals: made() when some are there that were not."""

    made = pyqtSignal()

    def __init__(self, parent: QObject, size: tuple[int, int]) -> None:
        """size : (height, width) in px."""
        super().__init__(parent)
        self._size = size
        self._kept: dict[Look, tuple[_Key, QImage]] = {}
        self._wanted: tuple[Look, ...] = ()
        self._session: Session | None = None
        self._worker: Worker | None = None
        self._keys: dict[Look, _Key] = {}  # of what it makes
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._begin)

    def want(self, session: Session, looks: Iterable[Look]) -> None:
        """Let these be there soon, of the room as it is now."""
        if session is not self._session:
            self._kept.clear()
        self._session, self._wanted = session, tuple(looks)
        self._soon.start(0 if self._worker is None else _AGAIN_MS)

    def image(self, look: Look) -> QImage | None:
        """The picture of a look, perhaps one of the room as it was; None until it is made."""
        found = self._kept.get(look)
        return found[1] if found else None

    def stop(self) -> None:
        """Nobody looks at them."""
        self._wanted = ()
        self._soon.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None

    def _key(self, session: Session, look: Look) -> _Key:
        room = session.room
        layers = tuple(layer.revision for _, layer in room.drawn())
        tint = room.layers[look.tint].revision if look.tint in room.layers else 0
        return (session.room_name, layers, tint, session.project.stamp(*_STAMPS))

    def _begin(self) -> None:
        session = self._session
        if session is None or not session.has_room or not self._wanted:
            return
        if self._worker is not None:
            self._soon.start(_AGAIN_MS)
            return
        keys = {look: self._key(session, look) for look in self._wanted}
        stale = [look for look, key in keys.items() if self._kept.get(look, (None,))[0] != key]
        if not stale:
            return
        frozen, name, size = session.project.frozen(), session.room_name, self._size

        def work(step: Step) -> dict[Look, Rgba]:
            found = {}
            for look in stale:
                step(look.theme or "picture")
                found[look] = look_picture(frozen, frozen.room(name), look, size)
            return found

        self._keys, self._worker = keys, Worker(work, "Pictures of looks")
        self._worker.finished.connect(self._came)  # of a slot of ours: not once we are gone
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker = self._worker, None
        for look, picture in ((worker.result if worker else None) or {}).items():
            self._kept[look] = (self._keys[look], image_of(picture))
        self.made.emit()
        self._soon.start(_AGAIN_MS)  # the room may have changed meanwhile
