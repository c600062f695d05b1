"""Opens the plan in the place of the table, and goes from there into rooms."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QMenu, QWidget

from topion.formats.exports import EXPORTS
from topion.survey import Finding
from topion.view.desks.desks import Desks
from topion.view.files import Files
from topion.view.plan.plan_desk import PlanDesk
from topion.view.surveying import Surveying
from topion.walk.links import Cell

_EXPORTS = ("plan-svg", "plan-png")


class Planning:
    """window : with a session, `show_survey` and `centre_on`.  walk_in : walks a room."""

    def __init__(
        self, window: Any, desks: Desks, surveying: Surveying, files: Files,
        walk_in: Callable[[str, Cell | None], object],
    ) -> None:  # fmt: skip
        self._window, self._desks, self._surveying = window, desks, surveying
        self._files, self._walk_in = files, walk_in

    @property
    def desk(self) -> PlanDesk | None:
        """The plan, while it is shown."""
        desk = self._desks.desk
        return desk if isinstance(desk, PlanDesk) else None

    def turn(self) -> None:
        """Show the plan, or the room again."""
        if self.desk is not None:
            self._desks.close_desk()
            return
        desk = PlanDesk(self._window.session, self._surveying)
        desk.work.entered.connect(self._enter)
        desk.work.walked.connect(self._walk_in)
        desk.right.found.connect(self._go_to)
        desk.bar.surveyed.connect(self._window.show_survey)
        desk.new_asked.connect(self._new_room)
        desk.export_asked.connect(self._ask_export)
        self._desks.show_desk(desk)
        desk.view.setFocus()

    def _enter(self, room: str, cell: Cell | None) -> None:
        session = self._window.session
        if room not in session.project.rooms or not session.reads_room(room):
            return
        self._desks.close_desk()
        if room != session.room_name:
            session.open_room(room)
        if cell is not None:
            self._window.centre_on(cell)

    def _go_to(self, finding: Finding) -> None:
        """Where a finding is."""
        if finding.room:
            self._enter(finding.room, finding.cell)
            self._window.survey.go_to(finding)

    def _new_room(self) -> None:
        """Ask for a new room, which is placed at once."""
        desk = self.desk
        if desk is not None:
            dialog = self._files.new_room()
            dialog.accepted.connect(lambda: desk.work.place(dialog.name.text()))

    def _ask_export(self) -> None:
        desk = self.desk
        if desk is not None:
            menu = QMenu(self._window)
            for kind in _EXPORTS:
                menu.addAction(f"{EXPORTS[kind].text}…", lambda k=kind: self._files.ask_export(k))
            button: QWidget = desk.bar.export
            menu.popup(button.mapToGlobal(QPoint(0, button.height() + 2)))
