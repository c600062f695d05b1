"""The survey as a list; a click jumps to the place."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from topion.survey import Finding
from topion.survey.at_cursor import lying_at
from topion.view import style
from topion.view.host import Host
from topion.view.surveying import Surveying


class SurveyDialog(QDialog):
    """All findings of all rooms."""

    def __init__(self, parent: QWidget, host: Host, surveying: Surveying) -> None:
        super().__init__(parent)
        self.host, self._surveying = host, surveying
        surveying.changed.connect(self.refresh)
        self.setWindowTitle("Survey")
        self.resize(520, 320)
        self.told = QLabel()
        self.told.setFont(style.font(15, bold=True))
        self.list = QListWidget()
        self.list.setAccessibleName("Findings")
        self.list.setStyleSheet(
            f"QListWidget {{ background: {style.name('card')};"
            f" border: 1px solid {style.name('line')};"
            f" border-radius: 4px; }} QListWidget::item {{ padding: 6px; }}"
            f" QListWidget::item:selected {{ background: {style.name('panel2')};"
            f" color: {style.name('ink')}; }}"
        )
        self.list.setWordWrap(True)
        self.list.itemClicked.connect(self._jump)
        self.list.itemActivated.connect(self._jump)
        layout = QVBoxLayout(self)
        layout.addWidget(self.told)
        layout.addWidget(self.list, 1)

    def refresh(self) -> None:
        """Show anew what the session says."""
        findings = self._surveying.findings
        self.list.clear()
        for finding in findings:
            item = QListWidgetItem(finding.text())
            item.setData(Qt.ItemDataRole.UserRole, finding)
            self.list.addItem(item)
        count = len(findings)
        text = f"{count} finding{'s' if count != 1 else ''}"
        clean = "Looking…" if self._surveying.busy else "Nothing found: all is well"
        self.told.setText(text if count else clean)

    def _jump(self, item: QListWidgetItem) -> None:
        finding: Finding = item.data(Qt.ItemDataRole.UserRole)
        session = self.host.session
        if finding.room and finding.room != session.room_name:
            session.open_room(finding.room)
        if finding.cell is None:
            return
        self.host.centre_on(finding.cell)
        for lying in lying_at(session.project, session.room, finding.cell):
            if lying.layer == finding.layer and lying.thing == finding.thing:
                session.picked.pick(lying)
                return
