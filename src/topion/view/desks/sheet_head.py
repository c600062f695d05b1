"""The line above a sheet: which one, what can be done with it, and finding its slots."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QWidget,
)

from topion.edit.proposed import put_proposed, told_of
from topion.model.edit import Edit
from topion.view.host import Host
from topion.view.tasks import run_task


class SheetHead(QWidget):
    """Signals: replaced(Path) by another PNG, recut() for another cut, added(paths) of pictures."""

    replaced = pyqtSignal(object)
    recut = pyqtSignal()
    added = pyqtSignal(object)

    def __init__(self, host: Host, bring_in: Callable[[], object]) -> None:
        super().__init__()
        self.host, self._bring_in = host, bring_in
        self.sheets = QComboBox()
        self.sheets.setAccessibleName("Sheet")
        self.more = QPushButton("Sheet ▾")
        self.more.setToolTip("Replace it, cut it otherwise, add pictures, bring in another")
        self.more.clicked.connect(lambda _: self.show_menu())
        self.offer = QPushButton()
        self.offer.setObjectName("strong")
        self.offer.setToolTip("Show what becomes of each slot, before it is taken")
        self.offer.clicked.connect(lambda _: self._take_offer())
        self.offer.hide()
        host.sources.found.connect(lambda _: self.refresh())
        self.search = QLineEdit()
        self.search.setPlaceholderText("⌕ name, tag, unused, alike")
        self.search.setAccessibleName("Find slots")
        self.search.setToolTip("Show slots by name or tag; “unused” those that nothing lays, "
                               "“alike” those with equal pixels")  # fmt: skip
        self.search.setFixedWidth(210)
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 8, 12, 6)
        for part in (self.sheets, self.more, self.offer):
            line.addWidget(part)
        line.addStretch(1)
        line.addWidget(self.search)

    @property
    def name(self) -> str:
        """The tile set that is chosen."""
        return self.sheets.currentText()

    def refresh(self) -> None:
        """Show whether the file of the sheet is another one now."""
        path = self.host.sources.waiting.get(self.name)
        self.offer.setVisible(path is not None)
        if path is not None:
            self.offer.setText(f"{path.name} changed on disk ›")

    def show_menu(self) -> None:
        """What can be done with the sheet."""
        menu = QMenu(self)
        there = self.name in self.host.session.project.tilesets
        for text, does, can in (
            ("Replace by another PNG…", self._ask_replacement, there),
            ("Cut it otherwise", self.recut.emit, there),
            ("Add single pictures…", self._ask_pictures, there),
            ("Make the brushes it is likely for", self._make_brushes, there),
            ("Bring in another…", self._bring_in, True),
        ):
            action = menu.addAction(text, does)
            if action is not None:
                action.setEnabled(can)
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def _make_brushes(self) -> None:
        """Weaves, mosaics and stamps as its slots lie, as one Edit."""
        session = self.host.session
        project, name = session.project.scratch(), self.name
        made: list[tuple[Edit, list[str]]] = []
        run_task(self.window() or self, f"Looking at {name}",
                 lambda step: put_proposed(project, project.tileset(name)), made.append,
                 self.host.fail)  # fmt: skip
        for edit, names in made:
            if not names:
                self.host.say(f"{name}: no weave, mosaic or stamp is seen in how its slots lie")
            elif session.apply(edit):
                self.host.say(f"Made of {name}: {told_of(session.project, names)}")

    def _ask_replacement(self) -> None:
        title, folder = f"Another sheet for {self.name}", str(self.host.last_folder())
        path, _ = QFileDialog.getOpenFileName(self, title, folder, "PNG (*.png)")
        if path:
            self.replaced.emit(Path(path))

    def _ask_pictures(self) -> None:
        title, folder = f"Pictures, each a slot of {self.name}", str(self.host.last_folder())
        paths, _ = QFileDialog.getOpenFileNames(self, title, folder, "PNG (*.png)")
        if paths:
            self.added.emit([Path(path) for path in paths])

    def _take_offer(self) -> None:
        path = self.host.sources.waiting.get(self.name)
        if path is not None:
            self.replaced.emit(path)
