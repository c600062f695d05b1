"""A room that is tried: its live things, the figure, recordings and the time line round it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QMenu, QWidget

from topion.edit.judging import switch_check_off, switch_check_on
from topion.edit.names import rename_item
from topion.edit.walks import (
    add_figure,
    choose_figure,
    keep_recording,
    remove_recording,
    set_figure,
)
from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.survey.recordings_differ import RecordingsDiffer
from topion.view import style
from topion.view.desks.block_shelf import scrolled
from topion.view.desks.parts import hairline, lay_page, side_column
from topion.view.session import Session
from topion.view.table.camera import STEPS
from topion.view.table.overlay import label
from topion.view.tables import Tables
from topion.view.walk.figure_panel import FigurePanel
from topion.view.walk.live_list import LiveList
from topion.view.walk.reach_legend import ReachLegend
from topion.view.walk.reach_marks import draw_reach, draw_reach_deep
from topion.view.walk.reaching import Reaching
from topion.view.walk.recording_list import RecordingList
from topion.view.walk.replays import Replays
from topion.view.walk.run import WalkRun
from topion.view.walk.stage_view import StageView
from topion.view.walk.time_line import TimeLine
from topion.view.walk.walk_bar import WalkBar
from topion.view.walk.walk_room import WalkRoom
from topion.walk import ACT, DOWN, JUMP, LEFT, RIGHT, TURN, UP, State, World
from topion.walk.gaps import told
from topion.walk.replay import recorded

KEYS = {
    Qt.Key.Key_Left: LEFT, Qt.Key.Key_Right: RIGHT, Qt.Key.Key_Up: UP, Qt.Key.Key_Down: DOWN,
    Qt.Key.Key_Space: JUMP, Qt.Key.Key_X: ACT, Qt.Key.Key_G: TURN,
}  # fmt: skip
_HINT = "arrows walk · Space jumps · X acts · P stands still · Esc goes back to painting here"
_CLOSE_PX = 30.0  # of a cell, at least
_KEEP = 0.28  # of the view: the figure is kept so far from its edges


class WalkDesk(QWidget):
    """ground : the room as it is shown.  run : time and states.  Raises UnknownName for a room that
    is not there."""

    key_area = "walk"

    def __init__(self, session: Session, room: str, at: tuple[float, ...] | None = None) -> None:
        super().__init__()
        self.session = session
        self.run = WalkRun(World(session.project.frozen()), room, at)
        self.ground = WalkRoom(session, self.run.world.stage(room), self.run.now.worn)
        self.bar = WalkBar(self.run, session.handle.name)
        self.tables = Tables(self.ground.session, rulers=False)
        self.view = StageView(self.run)
        self.live = LiveList(self.run)
        self.live.pointed = self._point
        self.live.led = self.show_way
        self.figure = FigurePanel()
        self.figure.put = self._set_figure
        self.figure.others.clicked.connect(lambda _: self.figures_menu().popup(
            self.figure.others.mapToGlobal(self.figure.others.rect().bottomLeft())))  # fmt: skip
        self.reaching = Reaching()
        self.legend = ReachLegend(self.reaching)
        self.recordings = RecordingList()
        self.recordings.plays = self.play_recording
        self.recordings.removes = self._remove_recording
        self.recordings.keep = self.keep_recording
        self.recordings.surveys = self._survey_recordings
        self.replays = Replays(session)
        self.replays.changed.connect(self._show_recordings)
        self.time = TimeLine(self.run)
        self._where = self.run.now.whereabouts
        self._lay_out()
        self.bar.begun.connect(self._begin_anew)
        self.bar.reach.toggled.connect(self.reaching.show)
        self.reaching.changed.connect(self._on_reach)
        self.reaching.search_from(self.run.now)
        self.run.stepped.connect(self._on_stepped)
        session.changed.connect(self._on_changed)
        self._use_room()
        self._refresh()

    def _lay_out(self) -> None:
        right, column = side_column(272)
        column.addWidget(self.figure)
        column.addWidget(hairline())
        column.addWidget(self.legend)
        column.addWidget(hairline())
        column.addWidget(self.recordings)
        column.addStretch(1)
        area = scrolled(right)
        area.setWidgetResizable(True)
        area.setFixedWidth(276)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        lay_page(self, self.bar, (self.live, 0), (self.tables, 1), (area, 0), foot=self.time)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("panel"))

    # --- the room -------------------------------------------------------------------------

    def look_as(self, tables: Tables) -> None:
        """From where other tables look, but near enough for the figure."""
        mine, other = self.tables.shown, tables.shown
        if type(mine) is not type(other):
            return
        if hasattr(mine, "begin_at"):
            mine.begin_at(other.eye)
        elif hasattr(mine, "camera"):
            mine.camera.step = other.camera.step
        self._come_close()
        self.keep_in_view(whole=True)

    def _come_close(self) -> None:
        """So near that the figure can be made out."""
        table = self.tables.shown
        if hasattr(table, "begin_at"):
            table.begin_at(replace(table.eye, px=max(table.eye.px, _CLOSE_PX)))
        elif hasattr(table, "camera"):
            near = [zoom * table.camera.cell_px >= _CLOSE_PX for zoom in STEPS]
            close = near.index(True) if any(near) else len(STEPS) - 1
            table.camera.step = max(table.camera.step, close)

    def _use_room(self) -> None:
        """Show the room that is walked now."""
        session = self.ground.session
        self.tables.use(session)
        self.tables.show_for(session.room.info.axes)
        session.over = self._draw_over
        session.more_models = self.view.models
        self._come_close()
        self.keep_in_view(whole=True)

    def _draw_over(self, painter: QPainter, looks: Any) -> None:
        foot, reach = self.tables.shown.height(), self.reaching.reach
        if not self.reaching.on or (reach and reach.begun.room != self.run.now.room):
            reach = None
        if self.ground.session.room.info.axes == 3:
            if reach is not None:
                draw_reach_deep(painter, looks, reach)
            self.view.draw_deep(painter, looks)
            foot -= 30  # the hint of voxel rooms stands there
        else:
            if reach is not None:
                draw_reach(painter, looks, reach)
            self.view.draw_flat(painter, looks)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        label(painter, QPointF(12, foot - 32), _HINT)

    def keep_in_view(self, *, whole: bool = False) -> None:
        """Move the view so that the figure is well inside; whole : with it in the middle."""
        table, state = self.tables.shown, self.run.now
        z, y, x = state.place()
        if not hasattr(table, "camera"):
            table.eye = replace(table.eye, target=(z + 1.0, y + 0.5, x + 0.5))
            return
        view = table.view_rect()
        if whole:
            table.centre_on((round(y), round(x)))
        box, camera = self.view.figure_box(table.camera), table.camera
        keep = view.adjusted(view.width() * _KEEP, view.height() * _KEEP,
                             -view.width() * _KEEP, -view.height() * _KEEP)  # fmt: skip
        camera.left += max(0.0, keep.left() - box.left()) - max(0.0, box.right() - keep.right())
        camera.top += max(0.0, keep.top() - box.top()) - max(0.0, box.bottom() - keep.bottom())
        camera.left, camera.top = round(camera.left), round(camera.top)
        self._hold_in(table, self._shown_box())

    def _shown_box(self) -> Box:
        """The cells that the camera may show: those of a view that the figure is in, else all."""
        room, cell = self.ground.session.room, self.cell
        for _, layer in room.regions():
            inside = layer.plane("inside")
            if (
                layer.info.purpose == "view"
                and room.box.holds(np.array([cell]))[0]
                and inside[cell]
            ):
                return Box.of_cells(np.argwhere(inside))
        return room.box

    @staticmethod
    def _hold_in(table: Any, box: Box) -> None:
        """Show nothing beyond a box as long as it fills the view; else its middle."""
        view, camera = table.view_rect(), table.camera
        for name, axis, low, high in (("left", 1, view.left(), view.right()),
                                      ("top", 0, view.top(), view.bottom())):  # fmt: skip
            first, end = box.lo[axis] * camera.px, box.hi[axis] * camera.px
            at = getattr(camera, name)
            if end - first <= high - low:
                at = (low + high - first - end) / 2
            else:
                at = max(high - end, min(low - first, at))
            setattr(camera, name, round(at))

    def _on_stepped(self) -> None:
        state = self.run.now
        if state.whereabouts != self._where:
            self._where = state.whereabouts
            self.reaching.search_from(state)
            self.ground.renew(state.world.stage(state.room), state.worn)
            self._use_room()
        self.keep_in_view()
        table = self.tables.shown
        if hasattr(table, "stand_again"):
            table.stand_again()
        table.update()
        self.live.refresh()

    # --- changes of the project -----------------------------------------------------------

    def _on_changed(self, dirty: object) -> None:
        """Something was painted or set, here or by undo."""
        if self.run.now.room not in self.session.project.rooms:
            self.bar.done.emit()
            return
        self.run.change_world(World(self.session.project.frozen()))
        self.reaching.search_from(self._first_here())
        if not self.ground.storing:
            self.ground.renew(self.run.world.stage(self.run.now.room), self.run.now.worn)
            self._use_room()
        self._refresh()

    def _first_here(self) -> State:
        """Where the reach is searched from: how the walk begins in this room."""
        run, room = self.run, self.run.now.room
        if run.states[0].room == room:
            return run.world.begin(room, run.start_at or None)
        return next(state for state in run.states if state.room == room)

    def _on_reach(self) -> None:
        self.live.missed = (
            frozenset(place.key for place in self.reaching.reach.missed)
            if self.reaching.on and self.reaching.reach is not None
            else frozenset()
        )
        self.live.refresh()
        self.tables.shown.update()

    def show_way(self, key: tuple[str, int]) -> None:
        """Play the keys that the search found to a thing."""
        reach, start = self.reaching.reach, self.run.states[0]
        place = next((p for p in reach.places if p.key == key), None) if reach else None
        if reach is None or place is None or not self.reaching.on:
            return
        keys = reach.witness(key)
        if keys is None:
            self.session.said.emit(f"{place.prefab}: no way found, {told(reach, place)}")
        elif reach.begun.room != start.room:
            self.session.said.emit("begin in this room to see the way: From here")
        else:
            way = recorded(f"To {place.prefab}", reach.begun, self.run.start_at, keys)
            self.run.show_recording(reach.begun.world, way)
            self.run.play()

    def _refresh(self) -> None:
        self.figure.show_figure(self.run.world.figure)
        self._show_recordings()
        self.live.update()

    def _show_recordings(self) -> None:
        known = self.session.project.shelf("recordings")
        here = {
            name: found for name, found in known.items() if found.room == self.run.states[0].room
        }
        asked = RecordingsDiffer.name not in self.session.project.shelf("unasked")
        self.recordings.show_recordings(here, self.replays.answers, busy=self.replays.busy,
                                        surveyed=asked)  # fmt: skip

    def _survey_recordings(self, on: bool) -> None:
        """Let the survey play the recordings, or not."""
        name = RecordingsDiffer.name
        if on:
            self.session.try_(switch_check_on, name)
        else:
            self.session.try_(switch_check_off, name, "not played with the survey")

    def _set_figure(self, field: str, value: Any) -> None:
        figure = self.run.world.figure
        if field == "name" and figure.name in self.session.project.shelf("figures"):
            self.session.try_(rename_item, "figures", figure.name, value)
            return
        try:
            new = replace(figure, **{field: value})
        except TopionError as problem:
            self.session.said.emit(str(problem))
            self.figure.show_figure(figure)
            return
        self.session.try_(set_figure, new)

    def figures_menu(self) -> QMenu:
        """The other figures of the project, and a new one like this."""
        project, now = self.session.project, self.run.world.figure
        menu = QMenu(self)
        for name in project.shelf("figures"):
            if name != now.name:
                menu.addAction(name, lambda n=name: self.session.try_(choose_figure, n))
        menu.addSeparator()
        menu.addAction("New, like this one", lambda: self.session.try_(add_figure, now))
        return menu

    # --- recordings -----------------------------------------------------------------------

    def keep_recording(self, name: str) -> None:
        """Keep the keys so far by that name; a recording of that name is recorded anew."""
        known = self.session.project.shelf("recordings").get(name)
        if known is not None and not self.run.at:
            self.play_recording(name)
            self.run.seek(len(self.run.keys))
        self.session.try_(keep_recording, self.run.recording(name))

    def play_recording(self, name: str) -> None:
        """Play a recording from its start."""
        found = self.session.project.shelf("recordings").get(name)
        if found is None:
            return
        try:
            self.run.show_recording(World(self.session.project.frozen(), found.figure), found)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        self.run.play()

    def _remove_recording(self, name: str) -> None:
        self.session.try_(remove_recording, name)

    # --- time and keys --------------------------------------------------------------------

    def _begin_anew(self, here: bool) -> None:
        state = self.run.now
        axes = self.ground.session.room.info.axes
        at = tuple(round(v, 4) for v in state.place()[-axes:]) if here else None
        self.run.begin(World(self.session.project.frozen()), state.room, at)
        self.run.play()
        self.tables.shown.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
            return
        try:
            key = Qt.Key(event.key())
        except ValueError:  # a key of some keyboard that Qt has no name for
            super().keyPressEvent(event)
            return
        if key in KEYS:
            if not event.isAutoRepeat():
                self._hold(KEYS[key])
            return
        does = {Qt.Key.Key_P: lambda: self.run.play(not self.run.plays),
                Qt.Key.Key_M: self.bar.reach.toggle,
                Qt.Key.Key_R: self.run.record_from_here,
                Qt.Key.Key_Comma: lambda: self.run.step_by(-1),
                Qt.Key.Key_Period: lambda: self.run.step_by(1),
                Qt.Key.Key_Home: lambda: self.run.seek(0),
                Qt.Key.Key_W: lambda: self._begin_anew(False)}.get(key)  # fmt: skip
        if does is None:
            super().keyPressEvent(event)
        else:
            does()

    def _hold(self, bit: int) -> None:
        self.run.held |= bit
        self.run.tapped |= bit
        if not self.run.plays and not self.run.replays:
            self.run.play()  # it goes on with the first key

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        bit = next((bit for key, bit in KEYS.items() if key.value == event.key()), 0)
        if bit and not event.isAutoRepeat():
            self.run.held &= ~bit
        elif not bit:
            super().keyReleaseEvent(event)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.run.held = self.run.tapped = 0  # a key let go elsewhere is not heard here

    def _point(self, key: Any) -> None:
        self.view.lit = key
        self.tables.shown.update()

    @property
    def cell(self) -> tuple[int, ...]:
        """The cell that the figure is in."""
        axes = self.ground.session.room.info.axes
        return tuple(round(v) for v in self.run.now.place()[-axes:])

    def close_desk(self) -> None:
        """Let go of what only the walk needs."""
        self.run.play(False)
        self.session.changed.disconnect(self._on_changed)
        self.replays.stop()
        self.reaching.stop()
        self.tables.close_rooms()
        self.ground.close()
