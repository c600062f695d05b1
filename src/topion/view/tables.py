"""The two tables of a window, of which one is shown; that of voxel rooms is made when needed."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QMenu, QStackedWidget

from topion.render.eye import VIEWS, View
from topion.view.session import Session
from topion.view.table.table import Table
from topion.view.voxel.support import opengl_problem


class _NoTable(QLabel):
    """What stands for the table of voxel rooms where there is no OpenGL."""

    def __init__(self, problem: str) -> None:
        super().__init__(f"{problem}\n\nFlat rooms work as ever.")
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setWordWrap(True)
        self.setMargin(40)
        self.setAccessibleName("Table")

    def drop_stroke(self) -> bool:
        return False

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        return lambda *_: None  # whatever a table is asked to show, there is nothing to show


class Tables(QStackedWidget):
    """Calls that only one kind of table knows come here, and do nothing for the other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.flat = Table(session)
        self.voxel: Any = None
        self.addWidget(self.flat)

    @property
    def shown(self) -> Any:
        return self.currentWidget()

    @property
    def has_opengl(self) -> bool:
        """Whether voxel rooms can be shown."""
        return not opengl_problem()

    def use(self, session: Session) -> None:
        self.session = session
        self.flat.use(session)
        if hasattr(self.voxel, "use"):
            self.voxel.use(session)

    def show_for(self, axes: int) -> None:
        """Show the table for rooms with so many axes."""
        if axes == 3 and self.voxel is None:
            self.voxel = self._made()
            self.addWidget(self.voxel)
        self.setCurrentWidget(self.voxel if axes == 3 else self.flat)

    def _made(self) -> Any:
        problem = opengl_problem()
        if problem:
            return _NoTable(problem)
        from topion.view.voxel.table import VoxelTable  # moderngl may not be there

        return VoxelTable(self.session)

    def _ask(self, name: str, *values: Any) -> bool:
        found = getattr(self.shown, name, None)
        if found is not None:
            found(*values)
        return found is not None

    def look_from(self, view: View) -> bool:
        return self._ask("look_from", view)

    def next_corner(self) -> bool:
        return self._ask("next_corner")

    def toggle_perspective(self) -> bool:
        return self._ask("toggle_perspective")

    def toggle_seats(self) -> bool:
        return self._ask("toggle_seats")

    def set_plane_here(self) -> bool:
        return self._ask("set_plane_here")

    def fit_selection(self) -> bool:
        return self._ask("fit_selection")

    def close_rooms(self) -> None:
        if self.voxel is not None:
            self.voxel.close_room()

    def add_views(self, menu: QMenu) -> None:
        """The fixed views as entries of a menu, where the table has them."""
        if not hasattr(self.shown, "look_from"):
            return
        menu.addSeparator()
        for number, view in enumerate(VIEWS, 1):
            text = f"From the {view}" if view != "top" else "From above"
            menu.addAction(f"{text}\tCtrl+{number}", lambda v=view: self.look_from(v))
        menu.addAction("Perspective\tP", self.toggle_perspective)
        menu.addAction("Tops and bottoms of things\tU", self.toggle_seats)
