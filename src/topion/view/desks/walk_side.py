"""What the things of a prefab do while a room is walked: their role, and when they are there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from topion.edit.prefab_sets import MIXED, shared
from topion.model.condition import ALWAYS
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.view.desks.parts import Switches
from topion.view.desks.role_chips import RoleChips
from topion.view.panels.fields import heading, labelled
from topion.view.panels.when_rows import WhenRows


class WalkSide(QWidget):
    """put : called with another role, counts or when, by its name.  failed : with a sentence."""

    def __init__(self, project: Callable[[], Project], put: Callable[..., object],
                 failed: Callable[[str], object]) -> None:  # fmt: skip
        super().__init__()
        self.role = RoleChips(project)
        self.role.put = lambda role: put(role=role)
        self.role.failed = failed
        self.counts = Switches({"no": False, "yes": True})
        self.counts.setToolTip("Whether its room is not cleared as long as it is there")
        self.counts.chosen = lambda counts: put(counts=counts)
        self.when = WhenRows(project, of_room=False)
        self.when.put = lambda when: put(when=when)
        self.when.failed = failed
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(heading("Role in the walk"))
        column.addWidget(self.role)
        column.addWidget(labelled("Counts for clearing its room", self.counts))
        column.addWidget(self.when)

    def show_prefabs(self, prefabs: Sequence[Prefab]) -> None:
        """Show what they do; of several that differ, that nothing is the same."""
        role: Any = shared(prefabs, "role")
        self.role.show_role(prefabs[0].role if role is MIXED else role, mixed=role is MIXED)
        self.counts.show_value(shared(prefabs, "counts"))
        when: Any = shared(prefabs, "when")
        self.when.show_when(ALWAYS if when is MIXED else when, mixed=when is MIXED)
