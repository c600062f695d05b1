"""The survey: a panel beside the table, kept true while painting."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QModelIndex, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QKeyEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListView,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.judging import (
    accept_finding,
    switch_check_off,
    switch_check_on,
    take_back_acceptance,
)
from topion.edit.pieces import Pick
from topion.grid.told import several
from topion.survey import Finding
from topion.survey.at_cursor import lying_at
from topion.survey.judging import code_of
from topion.survey.ledger import known_check
from topion.view import style
from topion.view.host import Host
from topion.view.panels.fields import bold, choice_button
from topion.view.survey.rows import (
    ROW,
    CheckRow,
    Line,
    RowPainter,
    Rows,
    check_rows,
    finding_rows,
)
from topion.view.surveying import Surveying

_WIDE = 304


class _List(QListView):
    """hears : asked first about each key; whether it was for it."""

    def __init__(self) -> None:
        super().__init__()
        self.hears: Callable[[QKeyEvent], bool] = lambda _: False

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self.hears(event):
            super().keyPressEvent(event)


class SurveyPanel(QFrame):
    """Signals: closed() when it is to go away."""

    closed = pyqtSignal()
    key_area = "survey"

    def __init__(self, host: Host, surveying: Surveying) -> None:
        super().__init__()
        self.setObjectName("right")
        self.setFixedWidth(_WIDE)
        self.setAccessibleName("Survey")
        self.host, self._surveying = host, surveying
        self._checks, self._here = False, False
        self._asked: Callable[[str], object] | None = None
        self.told, self.state = QLabel(), QLabel()
        self.told.setFont(style.font(15, bold=True))
        style.tint(self.state, "soft")
        self.list = _List()
        self.model, self.painter = Rows(), RowPainter(self.list)
        self.list.hears = self._hears
        self._lay_out()
        surveying.changed.connect(self.refresh)
        surveying.began.connect(self._show_state)

    def _lay_out(self) -> None:
        close = choice_button("×", "Away with the survey (F7)")
        close.clicked.connect(lambda _: self.closed.emit())
        head = QHBoxLayout()
        head.setContentsMargins(12, 10, 8, 0)
        head.addWidget(self.told, 1)
        head.addWidget(close)
        self.all_rooms = choice_button("all rooms", "The findings of all rooms")
        self.this_room = choice_button("this room", "Only those of the room that is open")
        self.checks = choice_button("checks", "All checks: which are asked, which are off and why")
        self.all_rooms.clicked.connect(lambda _: self._turn_to(checks=False, here=False))
        self.this_room.clicked.connect(lambda _: self._turn_to(checks=False, here=True))
        self.checks.clicked.connect(lambda _: self._turn_to(checks=True, here=False))
        tabs = QHBoxLayout()
        tabs.setContentsMargins(8, 0, 12, 0)
        tabs.setSpacing(2)
        for part in (self.all_rooms, self.this_room, self.checks):
            tabs.addWidget(part)
        tabs.addStretch(1)
        tabs.addWidget(self.state)
        self._dress_list()
        self.asking = self._asking()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addLayout(tabs)
        column.addWidget(self.list, 1)
        column.addWidget(self.asking)

    def _dress_list(self) -> None:
        self.list.setModel(self.model)
        self.list.setItemDelegate(self.painter)
        self.list.setMouseTracking(True)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setStyleSheet("QListView { background: transparent; }")
        self.list.setAccessibleName("Findings")
        self.list.setToolTip("Enter goes there · Ctrl+Enter fixes · A accepts")
        self.list.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.list.customContextMenuRequested.connect(self._menu)
        self.list.clicked.connect(self._jump)
        self.list.activated.connect(self._jump)
        self.painter.pressed.connect(self._press)

    def _asking(self) -> QWidget:
        """A question at the foot: why a finding is all right, or a check is off."""
        part = QWidget()
        column = QVBoxLayout(part)
        column.setContentsMargins(12, 4, 12, 10)
        self.question = QLabel()
        self.question.setWordWrap(True)
        self.answer = QLineEdit()
        self.answer.setAccessibleName("Why")
        self.answer.returnPressed.connect(self._answer)
        keep = QPushButton("Keep")
        keep.setObjectName("strong")
        keep.clicked.connect(lambda _: self._answer())
        leave = choice_button("leave it", "Ask nothing (Esc)")
        leave.clicked.connect(lambda _: self._ask("", None))
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(keep)
        for widget in (self.question, self.answer):
            column.addWidget(widget)
        column.addLayout(row)
        part.hide()
        return part

    # --- what it shows --------------------------------------------------------------------

    def use(self) -> None:
        """Another project is open."""
        self._ask("", None)
        self.refresh()

    def refresh(self) -> None:
        """Show what is known now; nothing is done while it is hidden."""
        if not self.isVisible():
            return
        session, surveying = self.host.session, self._surveying
        if self._checks:
            self.model.show(check_rows(session.project, surveying.findings))
        else:
            room = session.room_name if self._here and session.has_room else ""
            self.model.show(finding_rows(surveying.judged, room))
        count = surveying.count
        clean = "Nothing found: all is well" if surveying.known else "Looking…"
        self.told.setText(several(count, "finding") if count else clean)
        for tab, on in ((self.all_rooms, not self._checks and not self._here),
                        (self.this_room, self._here), (self.checks, self._checks)):  # fmt: skip
            bold(tab, on)
        self._show_state()

    def _show_state(self) -> None:
        self.state.setText(self._surveying.doing)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _turn_to(self, *, checks: bool, here: bool) -> None:
        self._checks, self._here = checks, here
        self.refresh()

    # --- what is done ---------------------------------------------------------------------

    def _jump(self, index: QModelIndex) -> None:
        row = index.data(ROW)
        if isinstance(row, Line):
            self.go_to(row.finding)

    def go_to(self, finding: Finding) -> None:
        """Open its room and show its place, with the thing or piece picked."""
        session = self.host.session
        if finding.room and finding.room != session.room_name:
            if finding.room not in session.project.rooms:
                return
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

    def fix(self, finding: Finding, choice: str = "") -> None:
        """Do what the check offers."""
        self._surveying.fix(finding, choice)

    def accept(self, finding: Finding) -> None:
        """Ask why it is all right, and let it stay."""
        session = self.host.session

        def keep(word: str) -> object:
            return session.try_(accept_finding, code_of(finding), finding.sentence, word)

        self._ask(f"Why is it all right? {finding.sentence}", keep)

    def _press(self, row: object, word: str) -> None:
        session = self.host.session
        if isinstance(row, CheckRow) and row.reason:
            session.try_(switch_check_on, row.name)
        elif isinstance(row, CheckRow):
            self._ask(f"Why is “{row.name}” not asked in this project?",
                      lambda reason: session.try_(switch_check_off, row.name, reason))  # fmt: skip
        elif isinstance(row, Line) and row.word:
            session.try_(take_back_acceptance, code_of(row.finding))
        elif isinstance(row, Line):
            self.fix(row.finding, word)

    def _ask(self, question: str, then: Callable[[str], object] | None) -> None:
        self._asked = then
        self.question.setText(question)
        self.answer.clear()
        self.asking.setVisible(then is not None)
        if then is not None:
            self.answer.setFocus()

    def _answer(self) -> None:
        word, then = self.answer.text().strip(), self._asked
        if then is not None and word:
            self._ask("", None)
            then(word)

    def _menu(self, at: QPoint) -> None:
        row = self.list.indexAt(at).data(ROW)
        viewport = self.list.viewport()
        if viewport is not None and (menu := self.menu_of(row)) is not None:
            menu.popup(viewport.mapToGlobal(at))

    def menu_of(self, row: object) -> QMenu | None:
        """What can be done with a row."""
        if not isinstance(row, Line):
            return None
        menu = QMenu(self)
        finding = row.finding
        _add(menu, "Go there", lambda: self.go_to(finding))
        for word in row.fixes if not row.word else ():
            _add(menu, word.capitalize(), partial(self.fix, finding, word))
        if row.word:
            _add(menu, "Count again", lambda: self._press(row, ""))
        else:
            _add(menu, "Accept with a word…", lambda: self.accept(finding))
        if known_check(finding.by) is not None:
            off = CheckRow(finding.by, "", "", 0)
            _add(menu, f"Ask “{finding.by}” no longer…", lambda: self._press(off, ""))
        return menu

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self._hears(event):
            super().keyPressEvent(event)

    def _hears(self, event: QKeyEvent) -> bool:
        row = self.list.currentIndex().data(ROW)
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if event.key() == Qt.Key.Key_Escape:
            if self._asked is not None:
                self._ask("", None)
            else:
                self.closed.emit()
        elif isinstance(row, Line) and event.key() == Qt.Key.Key_A and not row.word:
            self.accept(row.finding)
        elif isinstance(row, Line) and control and event.key() in (
            Qt.Key.Key_Return, Qt.Key.Key_Enter):  # fmt: skip
            self.fix(row.finding)
        else:
            return False
        return True


def _add(menu: QMenu, text: str, does: Callable[[], object]) -> None:
    action = QAction(text, menu)
    action.triggered.connect(lambda _: does())
    menu.addAction(action)
