"""What takes long to make the first time is made on a thread, and drawn when it is there."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from importlib import import_module

from PyQt6.QtCore import QObject, pyqtSignal

from topion.model.layer import Layer
from topion.model.project import Project
from topion.things.field import Field, field_of
from topion.things.sowing import make_tables, tables_ready
from topion.view.tasks import Step, Worker

# What sowing and spreading count with; too slow to load for the GUI thread.
_PARTS = ("scipy.spatial", "scipy.ndimage", "scipy.sparse.csgraph")


def load_parts() -> None:
    """Load the parts of SciPy that are used later; for threads."""
    for name in _PARTS:
        import_module(name)


class Ahead(QObject):
    """Makes the tables of points of fields that somebody wants to draw.

    Signals: made() when some are there that were not.
    """

    made = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._wanted: list[Field] = []
        self._worker: Worker | None = None
        self._loaded = all(name in sys.modules for name in _PARTS)

    def has(self, project: Project, layer: Layer) -> bool:
        """Whether what a field layer sows can be drawn at once; if not, it soon can."""
        field = field_of(project, layer)
        return field is None or self.has_field(field)

    def has_field(self, field: Field) -> bool:
        """The same for a field by itself."""
        if self._loaded and tables_ready(field):
            return True
        self._wanted.append(field)
        self._start()
        return False

    def want(self, fields: Iterable[Field]) -> None:
        """These may be drawn soon."""
        for field in fields:
            self.has_field(field)

    @property
    def busy(self) -> bool:
        """Whether something is still to come."""
        return bool(self._wanted) or (self._worker is not None and self._worker.isRunning())

    def _start(self) -> None:
        if self._worker is not None and self._worker.isRunning():
            return
        wanted, self._wanted = self._wanted, []

        def work(step: Step) -> int:
            load_parts()
            for field in wanted:
                if not tables_ready(field):
                    make_tables(field)
            return len(wanted)

        self._worker = Worker(work, "Sowing")
        self._worker.finished.connect(self._done)
        self._worker.begin()

    def _done(self) -> None:
        self._loaded = True
        self.made.emit()
        self._wanted = [field for field in self._wanted if not tables_ready(field)]
        if self._wanted:
            self._start()

    def stop(self) -> None:
        """Make no more."""
        self._wanted = []
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None
