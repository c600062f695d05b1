"""Pictures of whole rooms, made on a thread, and kept in memory and on disk."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from typing import NamedTuple

from PyQt6.QtCore import QObject, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPen

from topion.errors import TopionError
from topion.formats.overviews import Shelved, library_print, room_print
from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.render.overview import overview
from topion.view import style
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.tasks import Step, Worker

SIZES = (160, 480, 1440)  # px along the longer side
MOST_BYTES = 256 << 20
_STAMPS = ("tilesets", "tiles", "themes", "palette", "blocks", "block_names", "prefabs", "brushes")
_AT_ONCE_PX = 250_000  # drawn between two looks at what is wanted now
_AGAIN_MS = 15


class Wanted(NamedTuple):
    """One picture.  size : one of SIZES.  theme, tint : as of a Placement."""

    room: str
    size: int
    theme: str | None = None
    tint: str | None = None


class RoomPictures(QObject):
    """Signals: made() when some are there that were not."""

    made = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._library: object = None  # a stamp of all that pictures show beside their room
        self._print: tuple[object, str | None] = (None, None)  # of the library, on disk
        self._kept: OrderedDict[Wanted, tuple[object, QImage]] = OrderedDict()
        self._bytes = 0
        self._unread: dict[Wanted, object] = {}  # that could not be made, of rooms as they were
        self.version = 0  # raised when there are others
        self._line: dict[Wanted, None] = {}  # of those to be made, the next first
        self._worker: Worker | None = None
        self._stamps: dict[Wanted, object] = {}
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._begin)
        session.changed.connect(self._on_changed)
        self._on_changed()

    def _on_changed(self, dirty: object = None) -> None:
        self._library = self._session.project.stamp(*_STAMPS)

    @property
    def busy(self) -> bool:
        """Whether some are still to come."""
        return bool(self._line) or self._worker is not None

    def image(self, wanted: Wanted) -> QImage | None:
        """The best that is there now: perhaps a smaller one, or one of the room as it was; None for
        none.  What is right is made soon."""
        found = self._kept.get(wanted)
        if found is not None:
            self._kept.move_to_end(wanted)
        stamp = self._stamp(wanted)
        if (found is None or found[0] != stamp) and self._unread.get(wanted) != stamp:
            self.want([wanted])
        if found is not None:
            return found[1]
        for size in SIZES[::-1]:
            other = self._kept.get(wanted._replace(size=size))
            if other is not None:
                return other[1]
        return None

    def want(self, several: Iterable[Wanted]) -> None:
        """Let these be there soon, the small ones first."""
        for wanted in several:
            self._line.setdefault(wanted)
        if self._worker is None and not self._soon.isActive():
            self._soon.start(0)

    def forget_line(self) -> None:
        """Other pictures are wanted now than those that were asked for."""
        self._line.clear()

    def _stamp(self, wanted: Wanted) -> object:
        project = self._session.project
        if wanted.room not in project.rooms:
            return None
        return project.rooms.revision(wanted.room), self._library

    def _begin(self) -> None:
        if self._worker is not None or not self._line:
            return
        now: list[Wanted] = []
        px = 0
        for wanted in sorted(self._line, key=lambda w: w.size):
            if px > _AT_ONCE_PX:
                break
            now.append(wanted)
            px += wanted.size * wanted.size
        for wanted in now:
            del self._line[wanted]
        self._stamps = {wanted: self._stamp(wanted) for wanted in now}
        frozen, known = self._session.project.frozen(), self._print
        at = self._library

        def work(step: Step) -> dict[Wanted, QImage]:
            if known[0] != at or known[1] is None:  # once it is saved there is one
                self._print = (at, library_print(frozen))
            shelved, library = Shelved(frozen), self._print[1]
            found = {}
            for wanted in now:
                step(wanted.room)
                picture = _picture(frozen, wanted, shelved, library)
                if picture is not None:
                    found[wanted] = image_of(picture)
            shelved.tidy()
            return found

        self._worker = Worker(work, "Pictures of rooms")
        self._worker.finished.connect(self._came)
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker = self._worker, None
        made: dict[Wanted, QImage] = (worker.result if worker is not None else None) or {}
        self._unread.update((w, stamp) for w, stamp in self._stamps.items() if w not in made)
        for wanted, image in made.items():
            old = self._kept.pop(wanted, None)
            if old is not None:
                self._bytes -= old[1].sizeInBytes()
            self._kept[wanted] = (self._stamps[wanted], image)
            self._bytes += image.sizeInBytes()
        while self._bytes > MOST_BYTES:
            self._bytes -= self._kept.popitem(last=False)[1][1].sizeInBytes()
        self.version += 1
        self.made.emit()
        if self._line:
            self._soon.start(_AGAIN_MS)  # the window lives in between

    def stop(self) -> None:
        """Make no more."""
        self._session.changed.disconnect(self._on_changed)
        self._line.clear()
        self._soon.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None


def _picture(
    project: Project, wanted: Wanted, shelved: Shelved, library: str | None
) -> Rgba | None:  # fmt: skip
    """From the disk, or drawn and kept there; None for a room that cannot be read."""
    if wanted.room not in project.rooms:
        return None
    key = (library, room_print(project, wanted.room), wanted.size, wanted.theme, wanted.tint)
    found = shelved.read(*key)
    if found is not None:
        return found
    try:
        room = project.rooms.passing(wanted.room)
        found = overview(project, room, wanted.size, wanted.theme, wanted.tint)
    except TopionError:  # it is said where that room is opened or surveyed
        return None
    shelved.write(found, *key)
    return found


def draw_filling(
    painter: QPainter, image: QImage | None, frame: QRectF, edge: str = "line"
) -> None:  # fmt: skip
    """The middle of a picture, as much as fills a frame; plain where there is none yet."""
    if image is None:
        painter.fillRect(frame, style.ink("rail"))
    else:
        scale = max(frame.width() / image.width(), frame.height() / image.height())
        wide, high = frame.width() / scale, frame.height() / scale
        part = QRectF((image.width() - wide) / 2, (image.height() - high) / 2, wide, high)
        painter.drawImage(frame, image, part)
    painter.setPen(QPen(style.ink(edge), 1.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(frame)
