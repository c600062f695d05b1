"""How a mesh from outside comes in: its size in voxels, and what becomes of it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QWidget,
)

from topion.formats.meshes.voxels import model_from_file
from topion.model.solid import LONGEST_MODEL, VoxelModel
from topion.scripting import plan_model
from topion.view.dialogs.form import finish, problem_line
from topion.view.host import Host
from topion.view.tasks import run_task

_INTO = {"prefab": "a prefab, 16 voxels to a cell", "block": "a block, at most 16 voxels",
         "room": "this room, a cell a voxel"}  # fmt: skip
_UP = {"usual for its kind": None, "y": "y", "z": "z"}


class MeshDialog(QDialog):
    """Reads and voxelises off the GUI thread; what is refused is said in the dialog."""

    def __init__(self, parent: QWidget, host: Host, path: Path) -> None:
        super().__init__(parent)
        self.host, self.path = host, path
        self.setWindowTitle(f"Bring in {path.name}")
        self.name = QLineEdit(path.stem)
        self.size_voxels = QSpinBox()
        self.size_voxels.setRange(1, LONGEST_MODEL)
        self.size_voxels.setValue(32)
        self.size_voxels.setToolTip("Voxels along its longest side")
        self.into = QComboBox()
        session = host.session
        for key, words in _INTO.items():
            if key != "room" or (session.has_room and session.room.info.axes == 3):
                self.into.addItem(words, key)
        self.up = QComboBox()
        self.up.addItems(list(_UP))
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Becomes", self.into)
        form.addRow("Longest side, voxels", self.size_voxels)
        form.addRow("Axis that points up", self.up)
        self.problem = problem_line()
        finish(self, form, "Bring it in", self.bring_in, self.problem)

    def bring_in(self) -> None:
        """Do what the dialog asks; a refusal is shown in it."""
        size, up = self.size_voxels.value(), _UP[self.up.currentText()]
        run_task(
            self.parentWidget() or self,
            f"Bringing in {self.path.name}",
            lambda step: model_from_file(self.path, size, up=up, step=step),  # type: ignore[arg-type]
            self._came,
            self.problem.setText,
        )

    def _came(self, model: VoxelModel) -> None:
        session, into = self.host.session, self.into.currentData()
        name = self.name.text().strip() or self.path.stem
        said: list[str] = []
        session.said.connect(said.append)
        try:
            done = session.try_(plan_model, name, model, into, *self._place(model, into))
        finally:
            session.said.disconnect(said.append)
        if not done:
            self.problem.setText(said[-1] if said else "Nothing of it lies in the room")
            return
        self.accept()
        if name in session.project.brushes:
            session.hands.take("left", name)
            self.host.show_bay("Things" if into == "prefab" else "Built")

    def _place(self, model: VoxelModel, into: str) -> tuple[object, ...]:
        """In the middle of the room, on the work plane."""
        if into != "room":
            return ()
        session = self.host.session
        _, height, width = session.room.info.size
        level = session.planes.here.level if session.planes.here.axis == 0 else 0
        corner = (level, (height - model.size[1]) // 2, (width - model.size[2]) // 2)
        return session.room_name, corner
