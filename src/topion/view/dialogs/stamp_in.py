"""How something from outside comes in as a stamp: its name, size and what it is made of."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QWidget,
)

from topion.brushes.kind import all_brushes
from topion.edit.clips import Clip
from topion.edit.library import free_name
from topion.formats.meshes.read import SUFFIXES
from topion.formats.stamps_in import clip_of_file, clip_of_room
from topion.model.solid import LONGEST_MODEL
from topion.view.dialogs.form import finish, problem_line, spin
from topion.view.host import Host
from topion.view.tasks import Step, run_task

Take = Callable[[Clip, str, bool], object]  # a clip, its name, and whether it is a room
OWN = "blocks of its colours"


class StampIn(QDialog):
    """Reads off the GUI thread; what is refused is said in the dialog.

    rooms : those of another project, of which one is brought in; none for a file of cells.
    """

    def __init__(
        self, parent: QWidget, host: Host, path: Path, take: Take, rooms: list[str] | None = None
    ) -> None:
        super().__init__(parent)
        self.host, self.path, self._take = host, path, take
        self.setWindowTitle(f"Bring in {path.name}")
        project = host.session.project
        self.name = QLineEdit(free_name(path.stem or "Stamp", project.brushes))
        self.room = QComboBox()
        self.room.addItems(rooms or [])
        self.room.setAccessibleName("Room")
        self.room.currentTextChanged.connect(
            lambda text: self.name.setText(free_name(text or "Stamp", project.brushes))
        )
        if rooms:
            self.name.setText(free_name(rooms[0], project.brushes))
        mesh, heights = path.suffix.lower() in SUFFIXES, path.suffix.lower() == ".png"
        self.size_cells = spin(32, LONGEST_MODEL, "Cells along its longest side")
        self.levels = spin(16, 256, "Levels that white stands for; black is none")
        self.becomes = QComboBox()
        self.becomes.setAccessibleName("It becomes")
        self.becomes.addItem("a card to lay it with", False)
        self.becomes.addItem("a room of its own", True)
        self.made_of = QComboBox()
        self.made_of.setAccessibleName("Made of")
        self.made_of.addItem(OWN, "")
        for brush in all_brushes(project).values():
            if brush.material and brush.lays_blocks():
                self.made_of.addItem(brush.material, brush.material)
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("It becomes", self.becomes)
        if rooms is not None:
            form.addRow("Room", self.room)
        else:
            form.addRow("Made of", self.made_of)
        if mesh:
            form.addRow("Longest side, cells", self.size_cells)
        if heights:
            form.addRow("Levels", self.levels)
        self.problem = problem_line()
        finish(self, form, "Bring it in", self.bring_in, self.problem)

    def bring_in(self) -> None:
        """Do what the dialog asks; a refusal is shown in it."""
        name = self.name.text().strip()
        project, as_room = self.host.session.project, bool(self.becomes.currentData())
        if not name or name in (project.rooms if as_room else project.brushes):
            kind = "room" if as_room else "brush"
            self.problem.setText(f"There is a {kind} {name} already" if name else "It needs a name")
            return
        room, size, levels = self.room.currentText(), self.size_cells.value(), self.levels.value()
        material = self.made_of.currentData()

        def work(step: Step) -> Clip:
            if room:
                return clip_of_room(self.path, room)
            return clip_of_file(self.path, name, size=size, levels=levels, material=material,
                                step=step)  # fmt: skip

        def done(clip: Clip) -> None:
            self.accept()
            self._take(clip, name, as_room)

        window = self.parentWidget() or self
        run_task(window, f"Bringing in {self.path.name}", work, done, self.problem.setText)
