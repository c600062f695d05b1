"""The bar over the table that asks whose version stays, one conflict after the other."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QWidget

from topion.edit.conflicts import Open, box_of, open_conflicts, settled
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.model.conflict import Conflict, Side
from topion.model.project import Project
from topion.render.pixels import as_rgba
from topion.render.scene import render_box
from topion.survey.both_changed import sentence_of
from topion.view import style
from topion.view.panels.fields import choice_button
from topion.view.session import Session
from topion.view.table.camera import Camera
from topion.view.table.compose import image_of

_TOP_PX = 34
_MOST_SEEN = 1 << 18  # cells of a version that is shown before it is chosen


class ConflictBar(QFrame):
    """Floats over the table of a room that has conflicts.

    Signals: centred(cell) when the table is to show one.
    """

    centred = pyqtSignal(object)
    key_area = "conflicts"

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setObjectName("floating")
        self.setAccessibleName("What both changed")
        self.at = 0
        self._seen: object = None  # what draws the version that does not stand
        self.told, self.count = QLabel(), QLabel()
        self.told.setFont(style.font(13))
        style.tint(self.count, "soft")
        self.ours = QPushButton("Ours")
        self.theirs = QPushButton("Theirs")
        self.before = choice_button("‹", "The conflict before (Page up)")
        self.next = choice_button("›", "The next conflict (Page down)")
        self.ours.setToolTip("Keep what we have here (O)")
        self.theirs.setToolTip("Take what they have here (T); shown while the pointer is on it")
        line = QHBoxLayout(self)
        line.setContentsMargins(12, 5, 6, 5)
        line.setSpacing(6)
        for part in (self.told, self.ours, self.theirs, self.before, self.count, self.next):
            line.addWidget(part)
        self.ours.clicked.connect(lambda _: self.choose("ours"))
        self.theirs.clicked.connect(lambda _: self.choose("theirs"))
        self.before.clicked.connect(lambda _: self.step(-1))
        self.next.clicked.connect(lambda _: self.step(1))
        for button in (self.ours, self.theirs):
            button.installEventFilter(self)
        parent.installEventFilter(self)
        self.use(session)

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.changed.connect(lambda _: self.refresh())
        session.room_changed.connect(self._first)
        self._first()

    def _first(self) -> None:
        self.at = 0
        self.refresh()

    # --- what it shows --------------------------------------------------------------------

    def open_ones(self) -> list[Open]:
        """The conflicts of the room that is open."""
        session = self.session
        return list(open_conflicts(session.project, session.room_name)) if session.has_room else []

    @property
    def current(self) -> Conflict | None:
        """The conflict it speaks of."""
        known = self.open_ones()
        if not known:
            return None
        return known[min(self.at, len(known) - 1)].conflict  # type: ignore[return-value]

    def refresh(self) -> None:
        """Tell of what is to be settled now; hidden where nothing is."""
        self._show_version("")
        known = self.open_ones()
        self.setVisible(bool(known))
        self.session.spoken_of = self.current
        if not known:
            return
        self.at = min(self.at, len(known) - 1)
        sentence = sentence_of(self.session.project, known[self.at])
        self.told.setText(sentence[0].upper() + sentence[1:])
        self.count.setText(f"{self.at + 1} of {len(known)}")
        several = len(known) > 1
        for part in (self.before, self.count, self.next):
            part.setVisible(several)
        stands = "theirs" if known[self.at].conflict.side == "ours" else "ours"
        for side, button in (("ours", self.ours), ("theirs", self.theirs)):
            button.setObjectName("strong" if side == stands else "")
            style_of = button.style()
            if style_of is not None:
                style_of.polish(button)
        self._place()

    def _place(self) -> None:
        above = self.parentWidget()
        if above is not None:
            self.setMaximumWidth(max(self.minimumSizeHint().width(), above.width() - 80))
            self.adjustSize()
            self.move(max(0, (above.width() - self.width()) // 2), _TOP_PX)
            self.raise_()

    # --- what is done ---------------------------------------------------------------------

    def step(self, by: int) -> None:
        """Speak of another one, and show its place."""
        known = self.open_ones()
        if known:
            self.at = (self.at + by) % len(known)
            self.refresh()
            self.show_place()

    def show_place(self) -> None:
        """Bring it to the middle of the table."""
        conflict = self.current
        box = box_of(self.session.room, conflict) if conflict is not None else None
        if box is not None:
            cell = tuple((a + b - 1) // 2 for a, b in zip(box.lo, box.hi, strict=True))
            deep = self.session.room.info.axes - len(cell)
            self.centred.emit((0,) * deep + cell)

    def choose(self, side: Side) -> None:
        """That version stays; one Edit."""
        known = self.open_ones()
        if known:
            self._show_version("")
            self.session.try_(settled, known[min(self.at, len(known) - 1)], side)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        keys: dict[int, Callable[[], None]] = {
            Qt.Key.Key_O: lambda: self.choose("ours"),
            Qt.Key.Key_T: lambda: self.choose("theirs"),
            Qt.Key.Key_PageUp: lambda: self.step(-1),
            Qt.Key.Key_PageDown: lambda: self.step(1),
        }
        if event is not None and event.key() in keys:
            keys[event.key()]()
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None:
            return False
        if watched is self.parentWidget():
            if event.type() == QEvent.Type.Resize and self.isVisible():
                self._place()
        elif event.type() in (QEvent.Type.Enter, QEvent.Type.FocusIn):
            self._show_version("ours" if watched is self.ours else "theirs")
        elif event.type() in (QEvent.Type.Leave, QEvent.Type.FocusOut):
            self._show_version("")
        return False

    # --- the version that does not stand ----------------------------------------------------

    def _show_version(self, side: str) -> None:
        """Lay that side's version over the table; nothing for none, or for what stands."""
        session = self.session
        if self._seen is not None and session.over is self._seen:
            session.over = None
        self._seen = None
        known = self.open_ones() if side else []
        if known and session.over is None and session.room.info.axes == 2:
            open_ = known[min(self.at, len(known) - 1)]
            shown = self._version(open_, side) if open_.conflict.side == side else None
            if shown is not None:
                project, box = shown
                self._seen = session.over = self._painter(project, box)
        parent = self.parentWidget()
        shown_table = getattr(parent, "shown", None)
        if shown_table is not None:
            shown_table.update()

    def _version(self, open_: Open, side: str) -> tuple[Project, Box] | None:
        session = self.session
        try:
            edit = settled(session.project, open_, "ours" if side == "ours" else "theirs")
        except TopionError:
            return None
        box = box_of(session.room, open_.conflict)  # type: ignore[arg-type]
        scratch = session.project.scratch()
        scratch.rooms[session.room_name] = session.room.frozen()
        for record in edit.records:
            record.write(scratch)
        if session.room_name not in scratch.rooms:
            return None
        after = box_of(scratch.room(session.room_name), open_.conflict)  # type: ignore[arg-type]
        both = box.union(after) if box and after else box or after
        if both is None or both.size > _MOST_SEEN:
            return None
        return scratch, both.grown(1).clipped(session.room.box)

    def _painter(self, project: Project, box: Box) -> Callable[[QPainter, Camera], None]:
        room = project.room(self.session.room_name)
        side = max(1, min(64, room.info.cell_px * 2))
        image = image_of(as_rgba(render_box(project, room, box, side)))

        def over(painter: QPainter, camera: Camera) -> None:
            target = camera.rect_of(box.lo[0], box.lo[1], box.hi[0], box.hi[1])
            painter.drawImage(target, image)
            painter.setPen(style.ink("tidal"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(target)

        return over
