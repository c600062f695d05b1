"""The voxels of a prefab: built with every gesture; its picture and its cells drawn from them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSpinBox,
    QWidget,
)

from topion.edit.prefabs import set_picture, set_prefab
from topion.edit.voxels import cells_of_model, resized, with_model_set, with_prefab_model
from topion.formats.models_in import KINDS, model_of_file
from topion.grid.arrays import Rgba
from topion.model.solid import LONGEST_MODEL, VoxelModel
from topion.pictures.png import picture_of
from topion.render.faces import faces_of_quads, model_quads
from topion.render.model_pictures import ModelView, model_picture
from topion.render.portraits import portrait
from topion.view import style
from topion.view.desks.colours import Colours, ask_colour
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.model_marks import ModelMarks
from topion.view.desks.model_room import ModelRoom
from topion.view.desks.model_strip import ModelStrip
from topion.view.desks.parts import Switches, lay_page, side_column
from topion.view.desks.point_list import PointList, hint
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.tables import Tables
from topion.view.tasks import run_task
from topion.view.turns import Turns

_LARGE = 250
_YAW = -40.0  # degrees, until it is turned
_NO_PICTURES = np.zeros((1, 16, 16, 4), np.uint8)


class VoxelDesk(QWidget):
    """ground : the room of voxels of a prefab, which has a model."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.session, self.name = session, name
        self.ground = ModelRoom(session, name, "prefabs")
        self.bar = DeskBar(session, tried=False, lasso=True)
        self.tables = Tables(self.ground.session, rulers=False)
        self.tables.show_for(3)
        self.colours = Colours(self.ground)
        self.preview = _Preview(self)
        self.marks = ModelMarks()
        self.frames = ModelStrip()
        self.frames.put_sets = lambda sets: self.session.try_(with_model_set, self.name, sets)
        self.frames.failed = session.said.emit
        self.frames.shows = self.ground.show_frame
        self.ghosted = Switches({"none": 0, "before": -1, "after": 1})
        self.ghosted.setToolTip("Which frame is seen faintly beside the one that is built")
        self.ghosted.chosen = self.ghost_frame
        self.points = PointList()
        self.points.put = lambda points: self.session.try_(
            set_prefab, self.name, model_points=points
        )
        self.points.place = self.place_point
        self._ghosting = -1
        self._placing = ""
        self.sizes = {name: self._spin(name) for name in ("levels", "rows", "columns")}
        self._lay_out()
        self._over()
        self.ground.renewed.connect(self._renewed)
        session.changed.connect(self._on_changed)
        self.ground.painted.connect(self.refresh)
        self.refresh()

    def _spin(self, name: str) -> QSpinBox:
        spin = QSpinBox()
        spin.setRange(1, LONGEST_MODEL)
        spin.setAccessibleName(f"Voxels: {name}")
        spin.setToolTip(f"How many {name} of voxels; its foot stays in the middle")
        spin.editingFinished.connect(self._resize)
        return spin

    def _lay_out(self) -> None:
        left, column = side_column(290)
        column.addWidget(heading("Colours"))
        column.addWidget(self.colours)
        self.add = QPushButton("+ colour…")
        self.add.setToolTip("One more colour, in the left hand")
        self.add.clicked.connect(lambda _: ask_colour(self.ground, self, clear=False))
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(hint("Left lays, right or E lifts, Alt picks. Gestures, the lasso (S), "
                              "mirrors (I) and the work plane (A) work as in rooms."))  # fmt: skip
        column.addWidget(heading("Levels × rows × columns"))
        line = QHBoxLayout()
        for spin in self.sizes.values():
            line.addWidget(spin)
        column.addLayout(line)
        column.addWidget(heading("Bring in"))
        column.addLayout(self._brought())
        column.addWidget(self.frames)
        ghost = QHBoxLayout()
        ghost.addWidget(QLabel("Ghost of the frame"))
        ghost.addWidget(self.ghosted, 1)
        column.addLayout(ghost)
        column.addStretch(1)
        right, side = side_column(_LARGE + 40)
        side.addWidget(heading("Turned by dragging"))
        side.addWidget(self.preview)
        side.addWidget(heading("Its picture from it"))
        self.draws: dict[ModelView, QPushButton] = {}
        views = QHBoxLayout()
        for view in ("south", "east", "top", "corner"):
            button = QPushButton(view)
            button.setToolTip(f"Draw the picture of the prefab as it is seen from the {view}")
            button.clicked.connect(lambda _, v=view: self.draw_picture(v))
            self.draws[view] = button
            views.addWidget(button)
        side.addLayout(views)
        self.cells = QPushButton("Cells and height from it")
        self.cells.setToolTip("Stand in the cells that it fills")
        self.cells.clicked.connect(lambda _: self.take_cells())
        side.addWidget(self.cells)
        side.addWidget(heading("Named points · x, y, z in voxels"))
        side.addWidget(self.points)
        side.addStretch(1)
        lay_page(self, self.bar, (left, 0), (self.tables, 1), (right, 0))

    def _brought(self) -> QHBoxLayout:
        """Buttons for what can come in the place of the model."""
        line = QHBoxLayout()
        self.file = QPushButton("a file…")
        self.file.setToolTip("A mesh, as large as the model is now along its longest side, or an "
                             "array of NumPy, a voxel a number")  # fmt: skip
        self.file.clicked.connect(lambda _: self._ask_file())
        self.slices = QPushButton("slices…")
        self.slices.setToolTip("A folder of PNG pictures of one size, the lowest level first")
        self.slices.clicked.connect(lambda _: self._ask_slices())
        for button in (self.file, self.slices):
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _ask_file(self) -> None:
        kinds = " ".join(f"*{kind}" for kind in KINDS)
        path, _ = QFileDialog.getOpenFileName(self, "A model", "", f"Meshes, arrays ({kinds})")
        if path:
            self.bring_in(Path(path))

    def _ask_slices(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "A folder of slices")
        if folder:
            self.bring_in(Path(folder))

    def bring_in(self, path: Path) -> None:
        """Put the model of a file or a folder of slices in the place of this one; it is read off
        the GUI thread, and what is refused is said."""
        size, per_cell = max(self.model.size), self.model.per_cell

        def done(model: VoxelModel) -> None:
            self.session.try_(with_prefab_model, self.name, model, f"{self.name} from {path.name}",
                              self.ground.frame)  # fmt: skip

        run_task(self, f"Bringing in {path.name}",
                 lambda step: model_of_file(path, size, per_cell, step), done,
                 self.session.said.emit)  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    # --- showing --------------------------------------------------------------------------

    @property
    def model(self) -> VoxelModel:
        """What is built."""
        return self.ground.model

    def _renewed(self) -> None:
        self.tables.use(self.ground.session)
        self.colours.follow(self.ground)
        self._over()
        self.refresh()

    def _over(self) -> None:
        """What is drawn over the voxels."""
        self.ground.session.over = self.marks.draw

    def _on_changed(self, dirty: Any) -> None:
        self.refresh()

    def ghost_frame(self, by: int) -> None:
        """See the frame that is so many after the shown one faintly; 0 for none."""
        self._ghosting = by
        self.refresh()
        self.tables.shown.update()

    def place_point(self, name: str) -> None:
        """The next click on the model sets that point."""
        self._placing = name
        self.session.said.emit(f"Click the voxel where {name} is")
        self.tables.shown.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not self._placing or not isinstance(event, QMouseEvent):
            return False
        if event.type() != QEvent.Type.MouseButtonPress:
            return False
        name, self._placing = self._placing, ""
        table = self.tables.shown
        table.removeEventFilter(self)
        hit_at = getattr(table, "hit_at", None)
        hit = hit_at(event.position()) if hit_at is not None else None
        if hit is None:
            self.session.said.emit(f"No voxel lies there; {name} stays where it was")
            return True
        z, y, x = (int(v) for v in hit.cell)
        self.points.put({**self.points.points, name: (z, y, x)})
        return True

    def refresh(self) -> None:
        """Show the model as it is now."""
        if self.ground.item is None:
            return
        prefab = self.ground.item
        self.frames.show_prefab(prefab)
        self.points.show_points(prefab.model_points)
        self.marks.points = prefab.model_points
        self.marks.now = self.model
        several = self.ground.frame_model(self._ghosting) is not None
        self.marks.neighbour = self.ground.frame_model(self._ghosting) if self._ghosting else None
        self.ghosted.setEnabled(several)
        self.ghosted.show_value(self._ghosting)
        size = self.model.size
        for spin, side in zip(self.sizes.values(), size, strict=True):
            spin.setValue(side)
        filled = int((self.model.cells > 0).sum())
        told = f"{' × '.join(map(str, size))} voxels · {filled} filled"
        self.bar.show_item("prefabs", self.name, told)
        self.preview.refresh()

    # --- setting --------------------------------------------------------------------------

    def _resize(self) -> None:
        size: Any = tuple(spin.value() for spin in self.sizes.values())
        if self.ground.item is not None and size != self.model.size:
            model = resized(self.model, size)
            self.session.try_(with_prefab_model, self.name, model, f"Size of {self.name}",
                              self.ground.frame)  # fmt: skip

    def draw_picture(self, view: ModelView) -> None:
        """Draw the picture of the prefab from one of the fixed views."""
        rgba, foot = model_picture(self.model, view)
        self.session.try_(set_picture, self.name, picture_of(rgba), foot)

    def take_cells(self) -> None:
        """Stand in the cells that the model fills, and be as high."""
        footprint, height = cells_of_model(self.model)
        self.session.try_(set_prefab, self.name, footprint=footprint, height=height)

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        self.session.changed.disconnect(self._on_changed)
        self.tables.close_rooms()
        self.ground.close()


class _Preview(QWidget):
    """The model alone, turned by dragging."""

    def __init__(self, desk: VoxelDesk) -> None:
        super().__init__()
        self._desk = desk
        self._yaw = _YAW
        self._from: QPointF | None = None
        self._picture: QPixmap | None = None
        self._stale = True
        self._turns = Turns(self, self.update)
        self.setFixedSize(_LARGE, _LARGE)
        self.setAccessibleName("The model, turned")

    def refresh(self) -> None:
        """Draw it anew, after the table."""
        self._stale = True
        self._turns.later()
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        if self._desk.ground.item is None:
            return
        model = self._desk.model
        if not model.extent.size:
            return
        if self._stale and (drawn := self._turns.make(lambda: self._drawn(model))) is not None:
            self._picture, self._stale = pixmap_of(drawn), False
        if self._picture is not None:
            painter.drawPixmap(QRectF(self.rect()), self._picture, QRectF(self._picture.rect()))

    def _drawn(self, model: VoxelModel) -> Rgba:
        faces = faces_of_quads(model_quads(model), model.rgb)
        return portrait(faces, _NO_PICTURES, model.extent, _LARGE, self._yaw)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._from = event.position() if event is not None else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._from is not None:
            self._yaw = round(self._yaw + (event.position().x() - self._from.x()) / 2)
            self._from = event.position()
            self._stale = True
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None
