"""Right of the sheet: what is picked, the survey of the world, and where it starts and ends."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QListView,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.edit.logic import set_role
from topion.edit.pieces import Pick
from topion.edit.places import begin_at
from topion.grid.told import cell_told, several
from topion.model.walked import role_of
from topion.roles import Goal
from topion.view import style
from topion.view.desks.parts import hairline, paint_paper
from topion.view.panels.fields import choice_button, heading, labelled
from topion.view.plan.door_side import DoorSide
from topion.view.plan.place_side import PlaceSide
from topion.view.plan.work import PlanWork
from topion.view.survey.rows import ROW, Line, RowPainter, Rows, finding_rows

WIDE = 276
_TALLEST = 1 << 20
_HINT = ("Drag rooms; their edges snap.\nDrag from a door to another one to link them.\n"
         "Double click enters a room.")  # fmt: skip


class RightSide(QWidget):
    """Signals: found(a finding) that is to be shown in its room."""

    found = pyqtSignal(object)

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedWidth(WIDE)
        self._world = False  # all of the column for the world
        self.picked = self._tab("What is picked")
        self.world = self._tab("The world: its findings, where it starts and ends")
        self.world.setText("World")
        self.picked.clicked.connect(lambda _: self._show(world=False))
        self.world.clicked.connect(lambda _: self._show(world=True))
        self.door, self.place = DoorSide(work), PlaceSide(work)
        self.hint = QLabel(_HINT)
        style.tint(self.hint, "soft")
        self.hint.setWordWrap(True)
        self.state = QLabel()
        self.state.setFont(style.font(11))
        style.tint(self.state, "soft")
        self.list, self.rows = QListView(), Rows()
        self.painter = RowPainter(self.list)
        self.starts = choice_button("", "Where the world starts")
        self.starts.clicked.connect(lambda _: self._popup(self.starts_menu(), self.starts))
        self.ends = choice_button("", "What ends the world")
        self.ends.clicked.connect(lambda _: self._popup(self.ends_menu(), self.ends))
        self._dress_list()
        self._lay_out()
        work.changed.connect(self.refresh)
        work.picked_changed.connect(lambda: self._show(world=self._world and not work.picked))
        work.surveying.began.connect(self._show_state)
        self.refresh()

    @staticmethod
    def _tab(tip: str) -> QPushButton:
        tab = QPushButton()
        tab.setObjectName("tab")
        tab.setToolTip(tip)
        tab.setAccessibleName(tip)
        return tab

    def _dress_list(self) -> None:
        self.list.setModel(self.rows)
        self.list.setItemDelegate(self.painter)
        self.list.setMouseTracking(True)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setStyleSheet("QListView { background: transparent; }")
        self.list.setAccessibleName("Survey of the world")
        self.list.setMinimumHeight(120)
        self.list.clicked.connect(self._go)
        self.list.activated.connect(self._go)
        self.painter.pressed.connect(self._fix)

    def _lay_out(self) -> None:
        tabs = QHBoxLayout()
        tabs.setContentsMargins(12, 6, 12, 0)
        tabs.setSpacing(10)
        tabs.addWidget(self.picked)
        tabs.addWidget(self.world)
        tabs.addStretch(1)
        top = QWidget()
        inner = QVBoxLayout(top)
        inner.setContentsMargins(14, 4, 14, 4)
        for widget in (self.door, self.place, self.hint):
            inner.addWidget(widget)
        inner.addStretch(1)
        self.top = QScrollArea()
        self.top.setWidgetResizable(True)
        self.top.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.top.setWidget(top)
        for part in (self.top.viewport(), top):
            if part is not None:
                part.setAutoFillBackground(False)
        head = QHBoxLayout()
        head.setContentsMargins(14, 4, 14, 0)
        head.addWidget(heading("Survey of the world"), 1)
        head.addWidget(self.state)
        foot = QVBoxLayout()
        foot.setContentsMargins(14, 2, 14, 8)
        foot.setSpacing(0)
        foot.addWidget(labelled("World starts", self.starts))
        foot.addWidget(labelled("World ends", self.ends))
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 0, 0, 0)
        column.setSpacing(3)
        column.addLayout(tabs)
        column.addWidget(self.top, 7)
        column.addWidget(hairline())
        column.addLayout(head)
        column.addWidget(self.list, 4)
        column.addWidget(hairline())
        column.addLayout(foot)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "left")

    # --- shown ----------------------------------------------------------------------------

    def _show(self, *, world: bool) -> None:
        self._world = world
        self.refresh()

    def refresh(self) -> None:
        """Show what is picked and known now."""
        work = self.work
        count = len(work.places) or bool(work.port) or len(work.things[1])
        self.picked.setText(f"Picked {int(count)}" if count else "Picked")
        for tab, on in ((self.picked, not self._world), (self.world, self._world)):
            style.tint(tab, "buoy" if on else "soft")
        self.top.setVisible(not self._world)
        idle = not (work.port or work.places)
        self.top.setMaximumHeight(96 if idle else _TALLEST)
        self.door.setVisible(work.port is not None)
        self.place.setVisible(bool(work.places))
        self.hint.setVisible(not (work.port or work.places))
        things = len(work.things[1])
        self.hint.setText(f"{several(things, 'thing')} of "
                          f"{work.spots[work.things[0]].title}\nDrag one of them: all go along, "
                          "also into another room." if things else _HINT)  # fmt: skip
        if work.port is not None:
            self.door.show_port(work.ports[work.port])
        if work.places:
            self.place.show_places()
        self.rows.show(finding_rows(work.surveying.judged))
        self._show_state()
        self._show_world()

    def _show_state(self) -> None:
        surveying = self.work.surveying
        clean = "all is well" if surveying.known and not surveying.count else ""
        self.state.setText(surveying.doing or clean)

    def _show_world(self) -> None:
        work = self.work
        known = work.outlines.known.get(work.begins)
        cell = cell_told(known.starts[0][-2:]) if known else ""
        self.starts.setText(f"{work.begins}, {cell} ▾" if cell else "nowhere yet ▾")
        ends = [f"{goal.prefab} of {room}" for room, doors in work.outlines.known.items()
                for goal in doors.goals if goal.world]  # fmt: skip
        ends += [f"{door.prefab} of {room}" for room, doors in work.outlines.known.items()
                 for door in doors.doors if door.ends_world]  # fmt: skip
        told = ends[0] if len(ends) == 1 else f"{len(ends)} ways" if ends else "nowhere yet"
        self.ends.setText(f"{told} ▾")
        self.ends.setToolTip("\n".join(ends) or "Nothing ends the world yet")

    # --- done -----------------------------------------------------------------------------

    @staticmethod
    def _popup(menu: QMenu, below: QWidget) -> None:
        menu.popup(below.mapToGlobal(below.rect().topLeft()))

    def starts_menu(self) -> QMenu:
        """The rooms that have a start."""
        menu = QMenu(self)
        for room, doors in self.work.outlines.known.items():
            for cell in doors.starts[:1]:
                told = cell_told(cell[-2:])
                menu.addAction(f"{room}, {told}", partial(self.start_in, room))
        return menu

    def start_in(self, room: str) -> None:
        """Let the world start in a room; one that has no place gets one."""
        work = self.work
        if all(spot.room != room for spot in work.spots.values()):
            work.place(room)
        spot = next((s for s in work.spots.values() if s.room == room), None)
        if spot is not None and room != work.begins:
            work.session.try_(begin_at, spot.name)

    def ends_menu(self) -> QMenu:
        """All goals: whether each ends the world or only its room."""
        menu = QMenu(self)
        for room, doors in self.work.outlines.known.items():
            for goal in doors.goals:
                action = menu.addAction(f"{goal.prefab} of {room}")
                if action is not None:
                    action.setCheckable(True)
                    action.setChecked(goal.world)
                    pick = Pick(goal.layer, goal.number)
                    action.triggered.connect(partial(self.end_at, room, pick, not goal.world))
        return menu

    def end_at(self, room: str, pick: Pick, ends: bool, *_: object) -> None:
        """Let a goal end the world, or only its room."""
        session = self.work.session
        if session.reads_room(room):
            thing = session.project.room(room).layers[pick.layer].things[pick.number]
            if isinstance(role_of(session.project, thing), Goal):
                role = Goal("the world" if ends else "the room")
                session.try_(set_role, room, {pick: thing}, role)

    def _go(self, index: QModelIndex) -> None:
        row = index.data(ROW)
        if isinstance(row, Line):
            self.found.emit(row.finding)

    def _fix(self, row: object, word: str) -> None:
        if isinstance(row, Line):
            self.work.surveying.fix(row.finding, word)
