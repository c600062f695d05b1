"""What stands at the right of the table: the hands, or a panel in their place."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from topion.view import style
from topion.view.arrange.panel import ArrangePanel
from topion.view.desks.desks import Desks
from topion.view.panels.right import Right
from topion.view.survey.panel import SurveyPanel
from topion.view.surveying import Surveying
from topion.view.team.compare_panel import ComparePanel


class Beheld(Protocol):
    """The window, as far as this needs it."""

    session: Any
    top_bar: Any
    desks: Desks
    surveying: Surveying
    right: Right
    survey: SurveyPanel
    arrange: ArrangePanel
    compare: ComparePanel

    def to_table(self) -> None: ...


class Beside(QObject):
    """Shows one of them at a time; each command shows its panel, or puts it away again."""

    def __init__(self, window: Beheld, parent: QObject) -> None:
        super().__init__(parent)
        self._window = window
        window.surveying.changed.connect(self.show_count)

    def turn_survey(self) -> None:
        """The list of findings."""
        self._turn(self._window.survey, self._window.survey.list)

    def turn_compare(self) -> None:
        """Another version over this one."""
        self._turn(self._window.compare, self._window.compare.saved)

    def turn_arrange(self) -> None:
        """What is picked, arranged by expressions."""
        arrange = self._window.arrange
        if not arrange.isVisible():
            self._window.session.gestures.use("lasso")
        row = next(iter(arrange.rows.values()), None)
        self._turn(arrange, arrange if row is None else row.field)

    def _turn(self, panel: QWidget, first: QWidget) -> None:
        """first : what in the panel has the keys when it comes."""
        window, shown = self._window, not panel.isVisible()
        if shown and window.desks.desk is not None:
            window.desks.close_desk()
        if panel is not window.compare or not shown:
            window.compare.leave()
        for other in (window.right, window.survey, window.arrange, window.compare):
            other.setVisible(other is (panel if shown else window.right))
        if shown:
            first.setFocus()
        else:
            window.to_table()
        self.show_count()

    def show_count(self) -> None:
        """How many findings count, on the button of the survey."""
        count, shown = self._window.surveying.count, self._window.survey.isVisible()
        button = self._window.top_bar.survey
        button.setText(f"Survey {count}" if count else "Survey")
        button.setChecked(shown)
        style.tint(button, "buoy" if count else "ink")
