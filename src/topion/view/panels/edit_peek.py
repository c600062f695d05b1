"""A small sheet over the ribbon: a picture of what the Edit under the pointer changed."""

from __future__ import annotations

from collections import OrderedDict

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from topion.grid.arrays import Rgba
from topion.model.edit import Edit
from topion.render.edit_pictures import edit_picture
from topion.view import style
from topion.view.session import Session
from topion.view.table.compose import image_of
from topion.view.tasks import Step, Worker

SIZE_PX = (132, 208)
_SOON_MS, _MOST_KEPT = 160, 200


class EditPeek(QFrame):
    """Shown a moment after the pointer came to rest on a chip; the picture is made on a thread."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.ToolTip)
        self.setObjectName("peek")
        self.setAccessibleName("What an edit changed")
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 6)
        column.setSpacing(4)
        self.picture = QLabel()
        self._words = QLabel()
        column.addWidget(self.picture)
        column.addWidget(self._words)
        self._kept: OrderedDict[int, tuple[Edit, QImage | None]] = OrderedDict()
        self._wanted: tuple[Session, Edit, QPoint] | None = None
        self._worker: Worker | None = None
        self._made: Edit | None = None  # whose picture it makes
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._begin)

    def want(self, session: Session, edit: Edit, foot: QPoint) -> None:
        """Show this one soon, standing on a point of the screen."""
        if self._wanted is not None and self._wanted[1] is edit and self.isVisible():
            return
        self._wanted = (session, edit, foot)
        known = self._kept.get(id(edit))
        if known is not None and known[0] is edit:
            self._show(known[1])
        else:
            self._soon.start()

    def away(self) -> None:
        """The pointer is elsewhere."""
        self._wanted = None
        self._soon.stop()
        self.hide()

    def _begin(self) -> None:
        if self._wanted is None:
            return
        if self._worker is not None:
            self._soon.start()
            return
        session, edit, _ = self._wanted
        frozen = session.project.frozen()

        def work(step: Step) -> Rgba | None:
            return edit_picture(frozen, edit, SIZE_PX)

        self._made, self._worker = edit, Worker(work, "Picture of an edit")
        self._worker.finished.connect(self._came)  # of a slot of ours: not once we are gone
        self._worker.begin()

    def _came(self) -> None:
        worker, self._worker, edit = self._worker, None, self._made
        if worker is None or edit is None:
            return
        image = None if worker.result is None else image_of(worker.result)
        self._kept[id(edit)] = (edit, image)
        while len(self._kept) > _MOST_KEPT:
            self._kept.popitem(last=False)
        if self._wanted is not None and self._wanted[1] is edit:
            self._show(image)

    def _show(self, image: QImage | None) -> None:
        assert self._wanted is not None
        _, edit, foot = self._wanted
        self.picture.setVisible(image is not None)
        if image is not None:
            self.picture.setPixmap(QPixmap.fromImage(image))
        cells, rooms = edit.cells_written, {d.room for d in edit.dirty() if d.room}
        said = [edit.label, *sorted(rooms)[:2], f"{cells:,} cells" if cells else ""]
        self._words.setText(" · ".join(part for part in said if part))
        self._words.setFont(style.font(12))
        self.adjustSize()
        self.move(foot.x() - self.width() // 2, foot.y() - self.height() - 6)
        self.show()
