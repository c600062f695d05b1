"""Another sheet or cut for a tile set: what becomes of each slot, before it is taken."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from topion.edit.resheet import Resheet, SlotChange, resheet, take
from topion.model.picture import Picture
from topion.model.tileset import Cut
from topion.view import style
from topion.view.desks.block_shelf import scrolled
from topion.view.desks.parts import add_row, paint_paper
from topion.view.panels.fields import heading
from topion.view.panels.inked import Inked, inked
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.tasks import Step, Worker

WORDS = {  # of all of a kind, of one, and their ink
    "same": ("as before", "as before", "soft"),
    "moved": ("moved, found by their pixels", "moved", "tidal"),
    "redrawn": ("redrawn in their place", "redrawn", "buoy"),
    "kept below": ("in use, kept at the foot", "kept at the foot", "ochre"),
    "gone": ("gone, used by nothing", "gone", "soft"),
    "new": ("new", "new", "ink"),
}
_ROW, _PICTURE = 34, 28
_MOST_ROWS = 200


class ResheetPanel(QWidget):
    """Signals: changed() when it is known anew what becomes of slots; done(whether it was taken).

    change : what would be taken; None while it is found out or where it cannot be.
    """

    changed = pyqtSignal()
    done = pyqtSignal(bool)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.tileset_name = ""
        self.sheet: Picture | None = None
        self.path: Path | None = None
        self.change: Resheet | None = None
        self._loose: Cut | None = None
        self._comparing: Worker | None = None
        self.setFixedWidth(300)
        self.title = heading("")
        self.spins = {name: self._spin(name) for name in ("width", "height", "margin", "spacing")}
        self.told = Inked()
        self.told.setWordWrap(True)
        self.list = ChangeList()
        self.take = QPushButton("Take it")
        self.take.setObjectName("strong")
        self.take.setToolTip("Take the sheet; what was laid keeps its look where that is there")
        self.take.clicked.connect(lambda _: self.accept())
        self.leave = QPushButton("Leave it")
        self.leave.setToolTip("Keep the sheet as it was")
        self.leave.clicked.connect(lambda _: self.reject())
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(80)
        self._soon.timeout.connect(self._compare)
        self._lay_out()

    def _spin(self, name: str) -> QSpinBox:
        spin = QSpinBox()
        spin.setRange(1 if name in ("width", "height") else 0, 512)
        spin.setFixedWidth(70)
        spin.setAccessibleName(f"Cut: {name}, px")
        spin.setToolTip(f"Cut: {name} in px")
        spin.valueChanged.connect(lambda _: self._typed())
        return spin

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 10)
        column.setSpacing(8)
        column.addWidget(self.title)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        tile = QWidget()
        pair = QHBoxLayout(tile)
        pair.setContentsMargins(0, 0, 0, 0)
        for part in (self.spins["width"], QLabel("×"), self.spins["height"]):
            pair.addWidget(part)
        pair.addStretch(1)
        add_row(grid, "Tile, px", tile)
        add_row(grid, "Margin", self.spins["margin"])
        add_row(grid, "Spacing", self.spins["spacing"])
        column.addLayout(grid)
        column.addWidget(self.told)
        column.addWidget(scrolled(self.list), 1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.leave)
        buttons.addWidget(self.take, 1)
        column.addLayout(buttons)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "left")

    # --- showing --------------------------------------------------------------------------

    def show_sheet(self, tileset_name: str, sheet: Picture, path: Path | None = None) -> None:
        """What becomes of the slots of a tile set on that sheet.  path : where it came from; None
        for its own sheet, cut otherwise."""
        self.tileset_name, self.sheet, self.path = tileset_name, sheet, path
        words = f"{path.name} for {tileset_name}" if path is not None else f"Cut {tileset_name}"
        self.title.setText(words)
        cut = self.session.project.tileset(tileset_name).cut
        values = {"width": cut.tile[1], "height": cut.tile[0], "margin": cut.margin,
                  "spacing": cut.spacing}  # fmt: skip
        for name, spin in self.spins.items():
            spin.setValue(values[name])
        self._loose = cut if cut.rects else None
        self._soon.start()

    def _typed(self) -> None:
        self._loose = None
        self._soon.start()

    def cut(self) -> Cut:
        """The cut as it is typed."""
        if self._loose is not None:
            return self._loose
        values = {name: spin.value() for name, spin in self.spins.items()}
        return Cut((values["height"], values["width"]), values["margin"], values["spacing"])

    def _compare(self) -> None:
        if self._comparing is not None:
            self._comparing.let_go()
        sheet, name, cut = self.sheet, self.tileset_name, self.cut()
        if sheet is None or name not in self.session.project.tilesets:
            return
        project = self.session.project.scratch()

        def work(step: Step) -> Resheet:
            return resheet(project, name, sheet, cut)

        self._comparing = Worker(work, "Comparing")
        self._comparing.finished.connect(self._show)
        self._comparing.begin()

    def _show(self) -> None:
        worker = self._comparing
        self.change = worker.result if worker is not None else None
        self.take.setEnabled(self.change is not None)
        if self.change is None:
            self.told.say(worker.problem if worker is not None else "")
            style.tint(self.told, "buoy")
            self.list.show_change(None)
        else:
            counts = self.change.counts
            lines = [f"{inked('■', ink)} {counts[how]} {words}"
                     for how, (words, _, ink) in WORDS.items() if counts[how]]  # fmt: skip
            self.told.say("<br>".join(lines))
            style.tint(self.told, "ink")
            self.list.show_change(self.change)
            self.take.setEnabled(self.change.before != self.change.after)
        self.changed.emit()

    # --- taking ---------------------------------------------------------------------------

    def accept(self) -> None:
        """Take it."""
        change = self.change
        if change is None or not self.session.try_(take, change):
            return
        self._end(taken=True)

    def reject(self) -> None:
        """Keep the sheet as it was."""
        self._end(taken=False)

    def _end(self, *, taken: bool) -> None:
        self._soon.stop()
        if self._comparing is not None:
            self._comparing.let_go()
        self.change = None
        self.done.emit(taken)
        self.sheet = self.path = None


class ChangeList(QWidget):
    """The slots that fare otherwise than before: how they looked, how they will, and why."""

    def __init__(self) -> None:
        super().__init__()
        self._change: Resheet | None = None
        self.rows: list[SlotChange] = []
        self.setAccessibleName("Slots that change")

    def show_change(self, change: Resheet | None) -> None:
        """Show these, redrawn ones first."""
        self._change = change
        changed = [c for c in change.changes if c.how != "same"] if change is not None else []
        order = ["redrawn", "kept below", "gone", "moved", "new"]
        self.rows = sorted(changed, key=lambda c: order.index(c.how))[:_MOST_ROWS]
        self.setFixedSize(262, max(1, len(self.rows)) * _ROW)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, change = QPainter(self), self._change
        if change is None:
            return
        seen = event.rect() if event is not None else self.rect()
        for number, row in enumerate(self.rows):
            top = number * _ROW
            if not seen.intersects(QRectF(0, top, self.width(), _ROW).toRect()):
                continue
            _, words, ink = WORDS[row.how]
            painter.fillRect(QRectF(0, top + 3, 4, _PICTURE), style.ink(ink))
            for tileset, at, left in ((change.before, row.old, 10), (change.after, row.new, 56)):
                frame = QRectF(left, top + 3, _PICTURE, _PICTURE)
                painter.fillRect(frame, style.ink("panel2"))
                if at is not None:
                    picture = pixmap_of(tileset.pixels(at))
                    painter.drawPixmap(frame, picture, QRectF(picture.rect()))
            painter.setPen(style.ink("soft"))
            painter.drawText(QRectF(39, top, 18, _ROW), Qt.AlignmentFlag.AlignCenter, "›")
            painter.setPen(style.ink("ink"))
            painter.drawText(QRectF(92, top + 2, 168, 16), Qt.AlignmentFlag.AlignLeft, row.name)
            painter.setPen(style.ink("soft"))
            painter.drawText(QRectF(92, top + 17, 168, 16), Qt.AlignmentFlag.AlignLeft, words)
