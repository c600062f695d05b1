"""The survey as a list; a click jumps to the place."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout

from topion.survey import Finding
from topion.survey.at_cursor import lying_at
from topion.view import look

if TYPE_CHECKING:
    from topion.view.window import Window


class SurveyDialog(QDialog):
    """All findings of all rooms."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.main = window
        self.setWindowTitle("Survey")
        self.resize(520, 320)
        self.told = QLabel()
        self.told.setFont(look.font(15, bold=True))
        self.list = QListWidget()
        self.list.setAccessibleName("Findings")
        self.list.setStyleSheet(
            f"QListWidget {{ background: {look.name('card')};"
            f" border: 1px solid {look.name('line')};"
            f" border-radius: 4px; }} QListWidget::item {{ padding: 6px; }}"
            f" QListWidget::item:selected {{ background: {look.name('panel2')};"
            f" color: {look.name('ink')}; }}"
        )
        self.list.setWordWrap(True)
        self.list.itemClicked.connect(self._jump)
        self.list.itemActivated.connect(self._jump)
        again = QPushButton("Check again")
        again.clicked.connect(self.refresh)
        layout = QVBoxLayout(self)
        layout.addWidget(self.told)
        layout.addWidget(self.list, 1)
        layout.addWidget(again, 0, Qt.AlignmentFlag.AlignRight)

    def refresh(self) -> None:
        findings = self.main.session.handle.check()
        self.list.clear()
        for finding in findings:
            item = QListWidgetItem(finding.text())
            item.setData(Qt.ItemDataRole.UserRole, finding)
            self.list.addItem(item)
        count = len(findings)
        text = f"{count} finding{'s' if count != 1 else ''}"
        self.told.setText(text if count else "Nothing found: all is well")

    def _jump(self, item: QListWidgetItem) -> None:
        finding: Finding = item.data(Qt.ItemDataRole.UserRole)
        session = self.main.session
        if finding.room and finding.room != session.room_name:
            session.open_room(finding.room)
        if finding.cell is None:
            return
        self.main.table.centre_on(finding.cell)
        for lying in lying_at(session.project, session.room, finding.cell):
            if lying.layer == finding.layer and lying.thing == finding.thing:
                session.select(lying)
                return
