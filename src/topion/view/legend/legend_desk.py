"""The legend desk in the place of the table: rooms of others, and what their symbols mean."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from topion.model.legend import Reading
from topion.view import style
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.parts import lay_page, paint_paper
from topion.view.legend.grid_view import Views
from topion.view.legend.left_side import LeftSide
from topion.view.legend.meaning_side import MeaningSide
from topion.view.legend.reading_bar import ReadingBar
from topion.view.legend.work import LegendWork, Read, read_files
from topion.view.panels.fields import number_field
from topion.view.session import Session
from topion.view.tasks import run_task


class LegendDesk(QWidget):
    """Signals: brought(names of the new rooms) when they are in the project."""

    brought = pyqtSignal(object)
    tables = None
    ground = None
    key_area = "legend"

    def __init__(
        self, session: Session, paths: Sequence[Path], read: Read, reading: Reading
    ) -> None:
        super().__init__()
        self.session = session
        self.work = work = LegendWork(session, paths, read, reading)
        self.bar = DeskBar(session, gestures=False, tried=False)
        self.views, self.reading = Views(work), ReadingBar(work)
        self.left, self.side = LeftSide(work), MeaningSide(work)
        self.foot = Foot(work)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for part, share in ((self.reading, 0), (self.views, 1), (self.foot, 0)):
            column.addWidget(part, share)
        lay_page(self, self.bar, (self.left, 0), (middle, 1), (self.side, 0))
        self.reading.asked.connect(self.read_again)
        self.views.symbols.picked.connect(lambda symbol: self.side.choose([symbol]))
        self.foot.bring.clicked.connect(lambda _: self.bring_in())
        work.legend_changed.connect(self.refresh)
        work.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show where we are."""
        self.bar.show_item("legends", self.work.legend.name, self.work.batch.text())

    def read_again(self, reading: Reading) -> None:
        """Read the files in another way, off the GUI thread."""
        work = self.work
        project, paths = self.session.project.frozen(), work.paths
        run_task(
            self.window() or self, "Reading", lambda _: read_files(project, paths, reading),
            lambda read: work.take(read, reading), self.session.said.emit,
        )  # fmt: skip
        self.reading.refresh()

    def bring_in(self) -> None:
        """Make the rooms; the table shows the first of them."""
        session = self.session
        before = set(session.project.rooms)
        count = len(self.work.batch.grids)
        title = f"Bringing in {count:,} room{'s' * (count != 1)}"
        session.do_aside(title, self.work.plan())
        new = [name for name in session.project.rooms if name not in before]
        if new:
            self.brought.emit(new)

    def close_desk(self) -> None:
        """Nobody works on it any longer."""
        self.work.stop()


class Foot(QWidget):
    """The name of the legend, what will be made plainly, and the button that brings all in."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 0, 12, 0)
        line.setSpacing(8)
        line.addWidget(QLabel("Legend"))
        self.name = QLineEdit()
        self.name.setFixedWidth(104)
        self.name.setAccessibleName("Name of the legend")
        self.name.setToolTip("It lies in the project, and is proposed the next time")
        self.name.editingFinished.connect(self._rename)
        self.made = QLabel()
        self.made.setWordWrap(True)
        self.made.setFont(style.font(12))
        style.tint(self.made, "soft")
        self.bring = QPushButton()
        self.bring.setObjectName("strong")
        line.addWidget(self.name)
        line.addWidget(QLabel("Rooms of"))
        self.cell = number_field("Cell size of the rooms in px", 26)
        self.cell.setText(str(work.wanted.cell_px))
        self.cell.editingFinished.connect(self._cell_typed)
        line.addWidget(self.cell)
        line.addWidget(QLabel("px,"))
        self.seen = QComboBox()
        self.seen.setAccessibleName("Seen from")
        self.seen.setToolTip("How the rooms are looked at")
        self.seen.addItem("from above", "top")
        self.seen.addItem("from the side", "side")
        self.seen.activated.connect(lambda _: work.want(seen=self.seen.currentData()))
        line.addWidget(self.seen)
        self.made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        line.addWidget(self.made, 1)
        line.addWidget(self.bring)
        work.legend_changed.connect(self.refresh)
        work.changed.connect(self.refresh)
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "top")

    def _rename(self) -> None:
        text = self.name.text().strip()
        if text and text != self.work.legend.name:
            self.work.call(text)
        self.name.setText(self.work.legend.name)

    def _cell_typed(self) -> None:
        text = self.cell.text().strip()
        if text.isdigit() and 1 <= int(text) <= 512:
            self.work.want(cell_px=int(text))
        self.cell.setText(str(self.work.wanted.cell_px))

    def refresh(self) -> None:
        """Show what pressing the button does."""
        work, count = self.work, len(self.work.batch.grids)
        if not self.name.hasFocus():
            self.name.setText(work.legend.name)
        self.bring.setText(f"Bring in {count:,} room{'s' * (count != 1)}")
        self.bring.setEnabled(count > 0)
        self.bring.setToolTip("As one stroke: undo takes all of them back")
        words = []
        for kind, names in work.made().items():
            word = {"material": "material", "prefab": "thing"}.get(kind, "colour")
            words += [f"{len(names):,} {word}{'s' * (len(names) != 1)}"] if names else []
        self.made.setText(f"makes {', '.join(words)} plainly" if words else "")
        self.made.setToolTip("Plain tiles and prefabs for names that the project does not have")
