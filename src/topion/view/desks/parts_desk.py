"""The parts of a composite prefab: edited with the whole rack; its things follow each stroke."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel, QWidget

from topion.edit.prefabs import placed_in
from topion.view import style
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.parts import lay_page, side_column
from topion.view.desks.parts_room import PartsRoom
from topion.view.panels.fields import heading
from topion.view.panels.rack import Rack
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.tables import Tables

_PREVIEW = 250  # px


class PartsDesk(QWidget):
    """ground : the room of the parts of a prefab."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.session, self.name = session, name
        self.ground = PartsRoom(session, name)
        self.bar = DeskBar(session, tried=False, lasso=True)
        self.tables = Tables(self.ground.session, rulers=False)
        self.tables.show_for(3 if self.ground.deep else 2)
        self.rack = Rack(self.ground.session)
        self.rack.new.hide()
        self.preview = _Preview(self)
        self.placed = QLabel()
        self.placed.setWordWrap(True)
        self._lay_out()
        self.ground.renewed.connect(self._renewed)
        self.ground.painted.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        right, side = side_column(_PREVIEW + 40)
        side.addWidget(heading("As it is placed"))
        side.addWidget(self.preview)
        side.addWidget(heading("Placed in"))
        side.addWidget(self.placed)
        hint = QLabel("All that are placed look so after each stroke. It stands in the cells that "
                      "hold something, at the foot of the middle one.")  # fmt: skip
        hint.setWordWrap(True)
        style.tint(hint, "soft")
        side.addWidget(hint)
        side.addStretch(1)
        lay_page(self, self.bar, (self.tables, 1), (right, 0), foot=self.rack)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    def _renewed(self) -> None:
        self.tables.use(self.ground.session)
        self.rack.use(self.ground.session)
        self.refresh()

    def refresh(self) -> None:
        """Show the prefab as it is now."""
        if self.ground.item is None:
            return
        self.bar.show_item("prefabs", self.name, f"parts · {self.ground.size_words()}")
        placed = placed_in(self.session.project, self.name)
        self.placed.setText("\n".join(f"{room}: {n}" for room, n in placed) or "no room yet")
        self.preview.update()

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        self.tables.close_rooms()
        self.ground.close()


class _Preview(QWidget):
    """The picture of the prefab over the cells it stands in."""

    def __init__(self, desk: PartsDesk) -> None:
        super().__init__()
        self._desk = desk
        self.setFixedSize(_PREVIEW, _PREVIEW)
        self.setAccessibleName("As it is placed")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        prefab = self._desk.ground.item
        if prefab is None:
            return
        high, wide = prefab.picture.size_px
        times = max(1, min(8, int((_PREVIEW - 24) / max(high, wide))))
        size = QRectF(0, 0, wide * times, high * times)
        if max(high, wide) > _PREVIEW - 24:
            share = (_PREVIEW - 24) / max(high, wide)
            size = QRectF(0, 0, wide * share, high * share)
        size.moveCenter(QRectF(self.rect()).center())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, times == 1)
        picture = pixmap_of(prefab.picture.rgba)
        painter.drawPixmap(size, picture, QRectF(picture.rect()))
