"""Saves of an open project."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

from topion.edit.history import History as History
from topion.edit.history import Moment
from topion.formats.store import Store
from topion.formats.writing import Promise, save_frozen
from topion.model.project import Project


def fresh_id() -> str:
    """An id that no other project has."""
    return uuid4().hex[:16]


@dataclass
class Saving:
    """What a save writes: the project as it was at a moment.  store : once it is written."""

    project: Project
    moment: Moment
    folder: Path
    over: bool = False
    store: Store | None = None

    def write(
        self, each: Callable[[str], None] | None = None, promise: Promise | None = None
    ) -> Saving:
        """Slow.  Raises what `save_frozen` raises."""
        self.store = save_frozen(self.project, self.folder, each, over=self.over, promise=promise)
        return self
