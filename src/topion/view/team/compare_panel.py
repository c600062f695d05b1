"""Compare: another version of the project over this one, what differs, and taking parts over."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.comparing import Change
from topion.comparing.taking import take_over
from topion.comparing.words import sentence
from topion.errors import TopionError
from topion.model.edit import Edit
from topion.model.project import Project
from topion.view import style
from topion.view.desks.parts import hairline
from topion.view.host import Host
from topion.view.panels.fields import choice_button
from topion.view.tasks import Worker
from topion.view.team.divider import Divider
from topion.view.team.other_room import OtherRoom
from topion.view.team.versions import (
    Version,
    revision_of,
    revisions,
    saved_version,
    version_at,
)

_WIDE = 304
_CHANGE = Qt.ItemDataRole.UserRole
_MOST_LINES = 2000
_SOON_MS = 60  # after a change, until what differs is listed anew
_HOW = ("Show another version over this one: what it had lies left of the line, what you have lies"
        " right of it.")  # fmt: skip


class ComparePanel(QFrame):
    """Beside the table.  Signals: closed() when it is to go away, shown_at(cell)."""

    closed = pyqtSignal()
    shown_at = pyqtSignal(object)
    key_area = "compare"

    def __init__(self, host: Host, tables: QWidget, ask_path: Callable[[], Path | None]) -> None:
        """tables : over which the other version is shown.  ask_path : for another version."""
        super().__init__()
        self.setObjectName("right")
        self.setFixedWidth(_WIDE)
        self.setAccessibleName("Compare")
        self.host, self._tables, self._ask_path = host, tables, ask_path
        self.version: Version | None = None
        self.other: OtherRoom | None = None
        self.divider = Divider(tables)
        self.divider.moved.connect(self._update)
        self.title, self.told = QLabel("Compare"), QLabel()
        self.list = QListWidget()
        self.saved = choice_button("as saved", "With what lies in the folder")
        self.path = choice_button("folder or file…", "With another folder or a packed file")
        self.git = choice_button("git ▾", "With a revision that git keeps")
        self.take = QPushButton("Take over here")
        self._over: Any = None
        self._worker: Worker | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON_MS)
        self._soon.timeout.connect(self._compare_again)
        self._lay_out()
        self.use()

    def _lay_out(self) -> None:
        self.title.setFont(style.font(15, bold=True))
        self.told.setWordWrap(True)
        style.tint(self.told, "soft")
        close = choice_button("×", "Away with the other version (Shift+F7)")
        close.clicked.connect(lambda _: self.closed.emit())
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(close)
        sources = QHBoxLayout()
        sources.setSpacing(2)
        for button, does in ((self.saved, self.with_saved), (self.path, self._with_path),
                             (self.git, self._show_git)):  # fmt: skip
            button.clicked.connect(lambda _, act=does: act())
            sources.addWidget(button)
        sources.addStretch(1)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setWordWrap(True)
        self.list.setStyleSheet(
            "QListWidget { background: transparent; } QListWidget::item { padding: 3px 2px; }"
        )
        self.list.setAccessibleName("What differs")
        self.list.itemActivated.connect(self._go)
        self.list.itemClicked.connect(self._go)
        self.take.setObjectName("strong")
        self.take.clicked.connect(lambda _: self.take_over())
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 8, 10)
        column.setSpacing(6)
        column.addLayout(head)
        column.addLayout(sources)
        column.addWidget(self.told)
        column.addWidget(self.list, 1)
        column.addWidget(hairline())
        column.addWidget(self.take)

    def use(self) -> None:
        """Another project is open."""
        session = self.host.session
        self.leave()
        session.changed.connect(lambda _: self._on_changed())
        session.room_changed.connect(self._on_changed)
        session.picking.changed.connect(self._show_take)
        session.ahead.made.connect(self._on_made)
        self.refresh()

    # --- which version --------------------------------------------------------------------

    def with_saved(self) -> None:
        """The one that lies in the folder."""
        folder = self.host.session.handle.folder
        if folder is None:
            self.host.say(
                "This project was not saved yet, so there is no other version in its folder"
            )
            return
        self._with(lambda project, step: saved_version(folder, project, step))

    def _with_path(self) -> None:
        path = self._ask_path()
        if path is not None:
            self.with_path(path)

    def with_path(self, path: Path) -> None:
        """A folder, packed file or bundle."""
        self._with(lambda project, step: version_at(path, project, step))

    def with_revision(self, revision: str) -> None:
        """One that git keeps."""
        folder = self.host.session.handle.folder
        if folder is not None:
            self._with(lambda project, step: revision_of(folder, revision, project, step))

    def git_menu(self) -> QMenu:
        """The latest revisions."""
        menu = QMenu(self)
        known = revisions(self.host.session.handle.folder)
        for name, words in known:
            action = menu.addAction(f"{words[:60]}")
            if action is not None:
                action.triggered.connect(lambda _=False, n=name: self.with_revision(n))
        if not known:
            none = menu.addAction("git keeps no revision of this project")
            if none is not None:
                none.setEnabled(False)
        return menu

    def _show_git(self) -> None:
        self.git_menu().popup(self.git.mapToGlobal(self.git.rect().bottomLeft()))

    def _with(self, read: Callable[[Project, Callable[[str], None]], Version]) -> None:
        """Read it on a thread, and show it."""
        session = self.host.session
        frozen = session.project.frozen()
        if session.aside is None:
            return
        found = session.aside("Read the other version", lambda step: read(frozen, step))
        if isinstance(found, Version):
            self.show_version(found)

    def show_version(self, version: Version) -> None:
        """Lay it over the table."""
        self.leave()
        self.version = version
        session = self.host.session
        self.other = OtherRoom(session, version.project, self._update)
        self.divider.left = version.title

        def over(painter: QPainter, looks: Any) -> None:
            if self.other is not None:
                edge = self.divider.share * self._tables.width()
                if not self.other.over(painter, looks, edge, (version.title, "now")):
                    QTimer.singleShot(0, self._update)  # not while it is painted

        self._over = session.over = over
        self.divider.show()
        self.divider.place()
        self.refresh()
        self._update()

    def leave(self) -> None:
        """Show this version alone."""
        session = self.host.session
        if self._over is not None and session.over is self._over:
            session.over = None
        self._over = self.version = self.other = None
        self.divider.hide()
        self._update()

    # --- what it shows --------------------------------------------------------------------

    def _update(self) -> None:
        shown = getattr(self._tables, "shown", None)
        if shown is not None:
            shown.update()

    def _on_made(self) -> None:
        if self.other is not None:
            self.other.renew()

    def _on_changed(self) -> None:
        if self.version is not None and self.other is not None:
            self.other.refresh()
            self._soon.start()

    def _compare_again(self) -> None:
        """Find out on a thread what differs by now; of changes meanwhile the last counts."""
        version = self.version
        if version is None or self._worker is not None:
            return
        frozen = self.host.session.project.frozen()
        self._worker = Worker(lambda _: version.again(frozen), "Compare")
        self._worker.finished.connect(self._take_found)
        self._worker.begin()

    def _take_found(self) -> None:
        worker, self._worker = self._worker, None
        known, found = self.version, worker.result if worker is not None else None
        if known is not None and isinstance(found, Version) and found.tree is known.tree:
            self.version = found
            self.refresh()

    def refresh(self) -> None:
        """List what differs now."""
        self.list.clear()
        version = self.version
        if version is None:
            self.told.setText(_HOW)
        else:
            count = len(version.found)
            many = "nothing differs" if not count else f"{count} change{'s' * (count != 1)} since"
            self.told.setText(f"{version.title}: {many}")
            room = None
            for one in version.found[:_MOST_LINES]:
                if one.room and one.room != room:
                    room = one.room
                    self._add(room, None, heading=True)
                self._add(sentence(one), one)
        self._show_take()

    def _add(self, text: str, change: Change | None, *, heading: bool = False) -> None:
        item = QListWidgetItem(text[0].upper() + text[1:])
        if heading:
            item.setFont(style.font(13, bold=True))
            item.setFlags(Qt.ItemFlag.ItemIsEnabled)
            item.setSizeHint(QSize(0, 26))
        item.setToolTip(text)
        item.setData(_CHANGE, change)
        self.list.addItem(item)

    def _show_take(self) -> None:
        session, found = self.host.session, self.other.found if self.other is not None else None
        area = session.picking.area
        self.take.setText("Take over what is picked" if area else "Take over all of this room")
        more = "" if area else "; pick an area with the lasso for a part"
        self.take.setToolTip(f"As the other version has it, one Edit{more}")
        self.take.setEnabled(found is not None and not found.is_nothing)

    # --- what is done ---------------------------------------------------------------------

    def _go(self, item: QListWidgetItem) -> None:
        change = item.data(_CHANGE)
        session = self.host.session
        if not isinstance(change, Change) or change.room not in session.project.rooms:
            return
        if change.room != session.room_name:
            session.open_room(change.room)
        if change.lo:
            origin = (session.room.info.origin or (0,) * session.room.info.axes)[-len(change.lo) :]
            middle = tuple((a + b - 1) // 2 - o for a, b, o
                           in zip(change.lo, change.hi, origin, strict=True))  # fmt: skip
            deep = session.room.info.axes - len(middle)
            self.shown_at.emit((0,) * deep + middle)

    def take_over(self) -> None:
        """The picked part, or all of the room, as the other version has it."""
        session, other = self.host.session, self.other
        if other is None or other.room is None or other.found is None:
            return
        room, found, area = other.room, other.found, session.picking.area

        def planned(project: Project, name: str) -> Edit:
            return take_over(project, name, (other.project, room), found, area)

        try:
            session.apply(planned(session.project, session.room_name))
        except TopionError as problem:
            self.host.say(str(problem))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: object) -> None:
        self.refresh()
