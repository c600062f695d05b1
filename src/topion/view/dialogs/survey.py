"""The survey as a list; a click jumps to the place."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QSize, Qt
from PyQt6.QtWidgets import QDialog, QLabel, QListView, QVBoxLayout, QWidget

from topion.edit.pieces import Pick
from topion.survey import Finding
from topion.survey.at_cursor import lying_at
from topion.view import style
from topion.view.host import Host
from topion.view.surveying import Surveying

_ROW_PX = 30


class Findings(QAbstractListModel):
    """Tens of thousands are as quick as one: only what is seen is made text."""

    def __init__(self) -> None:
        super().__init__()
        self.findings: list[Finding] = []

    def show(self, findings: list[Finding]) -> None:
        """Other findings."""
        self.beginResetModel()
        self.findings = findings
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return len(self.findings)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.ToolTipRole:
                return self.findings[index.row()].text()
            case Qt.ItemDataRole.SizeHintRole:
                return QSize(0, _ROW_PX)
        return None


class SurveyDialog(QDialog):
    """All findings of all rooms."""

    def __init__(self, parent: QWidget, host: Host, surveying: Surveying) -> None:
        super().__init__(parent)
        self.host, self._surveying = host, surveying
        surveying.changed.connect(self.refresh)
        self.setWindowTitle("Survey")
        self.resize(720, 360)
        self.told = QLabel()
        self.told.setFont(style.font(15, bold=True))
        self.model = Findings()
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setUniformItemSizes(True)
        self.list.setAccessibleName("Findings")
        self.list.setStyleSheet(
            f"QListView {{ background: {style.name('card')};"
            f" border: 1px solid {style.name('line')};"
            f" border-radius: 4px; }} QListView::item {{ padding: 6px; }}"
            f" QListView::item:selected {{ background: {style.name('panel2')};"
            f" color: {style.name('ink')}; }}"
        )
        self.list.clicked.connect(self._jump)
        self.list.activated.connect(self._jump)
        layout = QVBoxLayout(self)
        layout.addWidget(self.told)
        layout.addWidget(self.list, 1)

    def refresh(self) -> None:
        """Show anew what the session says."""
        findings = self._surveying.findings
        self.model.show(findings)
        count = len(findings)
        text = f"{count} finding{'s' if count != 1 else ''}"
        clean = "Looking…" if self._surveying.busy else "Nothing found: all is well"
        self.told.setText(text if count else clean)

    def _jump(self, index: QModelIndex) -> None:
        finding = self.model.findings[index.row()]
        session = self.host.session
        if finding.room and finding.room != session.room_name:
            session.open_room(finding.room)
        if finding.cell is None or not session.has_room or session.room_name != finding.room:
            return
        self.host.centre_on(finding.cell)
        if finding.piece is not None:
            session.gestures.use("lasso")
            session.pieces.pick([Pick(finding.layer, finding.piece)])
            return
        for lying in lying_at(session.project, session.room, finding.cell):
            if lying.layer == finding.layer and lying.thing == finding.thing:
                session.picked.pick(lying)
                return
