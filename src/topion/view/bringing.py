"""Opens the legend desk on texts and pictures, and goes from there into the new rooms."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog

from topion.formats.symbols.texts import TEXT_SUFFIXES
from topion.model.legend import USUAL
from topion.view.desks.desks import Desks
from topion.view.legend.legend_desk import LegendDesk
from topion.view.legend.work import Read, read_files
from topion.view.tasks import run_task


class Bringing:
    """window : a Host that is a widget, too."""

    def __init__(self, window: Any, desks: Desks) -> None:
        self._window, self._desks = window, desks

    @property
    def desk(self) -> LegendDesk | None:
        """The legend desk, while it is shown."""
        desk = self._desks.desk
        return desk if isinstance(desk, LegendDesk) else None

    def ask_texts(self) -> None:
        """Ask for texts and show what their symbols stand for."""
        kinds = " ".join(f"*{suffix}" for suffix in TEXT_SUFFIXES)
        self._ask("Rooms from text", f"Text and CSV ({kinds});;All files (*)")

    def ask_pictures(self) -> None:
        """Ask for pictures and show what their colours stand for."""
        self._ask("Rooms from pictures", "PNG (*.png)")

    def ask_folder(self) -> None:
        """Ask for a folder of texts and pictures."""
        start = str(self._window.last_folder())
        folder = QFileDialog.getExistingDirectory(self._window, "Rooms from a folder", start)
        if folder:
            self.open([Path(folder)])

    def _ask(self, title: str, kinds: str) -> None:
        start = str(self._window.last_folder())
        paths, _ = QFileDialog.getOpenFileNames(self._window, title, start, kinds)
        if paths:
            self.open([Path(path) for path in paths])

    def open(self, paths: Sequence[Path]) -> None:
        """Read files and folders off the GUI thread, and show the legend desk."""
        project = self._window.session.project.frozen()
        name = paths[0].name if len(paths) == 1 else f"{len(paths)} files"
        run_task(
            self._window, f"Reading {name}", lambda _: read_files(project, paths, USUAL),
            lambda read: self._show(paths, read), self._window.fail,
        )  # fmt: skip

    def _show(self, paths: Sequence[Path], read: Read) -> None:
        if not read.batch.grids:
            why = read.batch.problems[0][1] if read.batch.problems else "there is no text in it"
            self._window.fail(f"Nothing could be read: {why}")
            return
        desk = LegendDesk(self._window.session, paths, read, USUAL)
        desk.brought.connect(self._go_on)
        self._desks.show_desk(desk)
        desk.side.list.setFocus()

    def _go_on(self, rooms: list[str]) -> None:
        """The rooms are there: paint in the first."""
        desk = self.desk
        told = desk.work.batch.text() if desk is not None else ""
        self._desks.close_desk()
        self._window.session.open_room(rooms[0])
        self._window.say(f"Brought in {told}; Ctrl+Z takes it back")
