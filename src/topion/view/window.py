"""The main window: joins the panels and the table, and carries out what menus ask for."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.library import change_things, put_brush
from topion.errors import TopionError
from topion.grid.orient import TURNS
from topion.scripting import ProjectHandle
from topion.survey import survey
from topion.view import look
from topion.view.dialogs.slots import SlotsDialog
from topion.view.dialogs.survey import SurveyDialog
from topion.view.files import Files
from topion.view.keys import Keys
from topion.view.new_brush import NewBrush
from topion.view.panels.at_cursor import AtCursor
from topion.view.panels.in_hand import InHand
from topion.view.panels.levels import Levels
from topion.view.panels.rack import Rack
from topion.view.panels.ribbon import Ribbon
from topion.view.panels.stack import Stack
from topion.view.panels.top_bar import TopBar
from topion.view.session import Session
from topion.view.tables import Tables
from topion.view.tasks import Worker, run_task
from topion.view.work import AIMS, MIRRORS

_SAID_MS = 4200


class Window(QMainWindow):
    """One project in one window."""

    def __init__(self, handle: ProjectHandle) -> None:
        super().__init__()
        self.session = Session(handle)
        self.setWindowTitle(f"{handle.name} – Topion")
        self.resize(1280, 800)
        self.top_bar = TopBar(self.session)
        self.stack = Stack(self.session)
        self.levels = Levels(self.session)
        self.tables = Tables(self.session)
        self.in_hand = InHand(self.session)
        self.at_cursor = AtCursor(self.session)
        self.ribbon = Ribbon(self.session)
        self.rack = Rack(self.session)
        self._survey: SurveyDialog | None = None
        self._slots: SlotsDialog | None = None
        self._surveying: Worker | None = None
        self._lay_out()
        self.files = Files(self)
        self.new_brush = NewBrush(self)
        self.keys = Keys(self)
        self.top_bar.project.clicked.connect(self.show_project_menu)
        self.top_bar.room.clicked.connect(self.show_room_menu)
        self.top_bar.survey.clicked.connect(self.show_survey)
        self.top_bar.sheets.clicked.connect(self.show_sheets)
        self.top_bar.export.clicked.connect(self.show_export)
        self.top_bar.theme.clicked.connect(self.toggle_dark)
        self.rack.new.clicked.connect(self.show_new_brush)
        self._count_soon = QTimer(self)
        self._count_soon.setSingleShot(True)
        self._count_soon.setInterval(600)
        self._count_soon.timeout.connect(self._count_findings)
        self._hear()
        self.table.setFocus()

    def _lay_out(self) -> None:
        right = QFrame()
        right.setObjectName("right")
        right.setFixedWidth(272)
        right.setStyleSheet(
            f"#right {{ background: {look.name('panel')};"
            f" border-left: 1px solid {look.name('line')}; }}"
        )
        self._right = right
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.in_hand)
        scroll.viewport().setAutoFillBackground(False)  # type: ignore[union-attr]
        self.in_hand.setAutoFillBackground(False)
        panels = QVBoxLayout(right)
        panels.setContentsMargins(0, 0, 0, 0)
        panels.setSpacing(0)
        panels.addWidget(scroll, 1)
        panels.addWidget(self.at_cursor)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        self._left = QStackedWidget()
        self._left.setFixedWidth(self.stack.width())
        for panel in (self.stack, self.levels):
            self._left.addWidget(panel)
        middle.addWidget(self._left)
        middle.addWidget(self.tables, 1)
        middle.addWidget(right)
        body = QWidget()
        whole = QVBoxLayout(body)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.top_bar)
        whole.addLayout(middle, 1)
        whole.addWidget(self.ribbon)
        whole.addWidget(self.rack)
        self.setCentralWidget(body)
        self._said = QLabel(self.tables)
        self._said.setObjectName("said")
        self._said.hide()
        self._hush = QTimer(self)
        self._hush.setSingleShot(True)
        self._hush.timeout.connect(self._said.hide)

    @property
    def table(self) -> Any:
        """The table that is shown: that of flat or that of voxel rooms."""
        return self.tables.shown

    @property
    def layers_panel(self) -> Any:
        """The stack of a flat room or the levels of a voxel room."""
        return self._left.currentWidget()

    def _show_kind(self) -> None:
        """Show the panel and the table that belong to the kind of room."""
        session = self.session
        axes = session.room.info.axes if session.has_room else 2
        self._left.setCurrentWidget(self.levels if axes == 3 else self.stack)
        self.tables.show_for(axes)

    def _aside(self, title: str, work: Any) -> Any:
        """Run long work of the session on a thread; what fails is said."""
        found: list[Any] = []
        run_task(self, title, work, found.append, self.say)
        return found[0] if found else None

    def _hear(self) -> None:
        self.session.aside = self._aside
        self.session.said.connect(self.say)
        refusal, count = self.session.handle.history.refusal, self.session.recovered
        if refusal is not None:
            QTimer.singleShot(0, lambda: self.say(str(refusal)))
        if count:
            text = f"{count} stroke{'s' if count != 1 else ''} that had not been saved came back"
            QTimer.singleShot(0, lambda: self.say(f"{text}; Ctrl+S keeps them"))
        self.session.changed.connect(lambda _: self._count_soon.start())
        self.session.room_changed.connect(self._show_kind)
        self._show_kind()
        self._count_soon.start()

    def use(self, handle: ProjectHandle) -> None:
        """Show another project."""
        self.session.close()
        self.session.blockSignals(True)
        self.session = Session(handle)
        for part in (self.top_bar, self.stack, self.levels, self.tables, self.in_hand,
                     self.at_cursor, self.ribbon, self.rack):  # fmt: skip
            part.use(self.session)
        self._hear()
        self.setWindowTitle(f"{handle.name} – Topion")
        for dialog in (self._survey, self._slots):
            if dialog is not None:
                dialog.close()
        self._survey = self._slots = None

    # --- messages -------------------------------------------------------------------------

    def say(self, text: str) -> None:
        """Show a sentence over the foot of the table for a few seconds."""
        self._said.setText(text)
        self._said.setStyleSheet(
            f"#said {{ background: {look.name('ink')}; color: {look.name('on_ink')};"
            " padding: 7px 12px; border-radius: 6px; }"
        )
        self._said.setMaximumWidth(self.tables.width() - 60)
        self._said.setWordWrap(self._said.sizeHint().width() > self.tables.width() - 60)
        self._said.adjustSize()
        left = (self.tables.width() - self._said.width()) // 2
        self._said.move(left, self.tables.height() - self._said.height() - 14)
        self._said.show()
        self._said.raise_()
        self._hush.start(_SAID_MS)

    # --- keys -----------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and not self.keys.press(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is not None:
            self.keys.release(event)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            for mode in ("lifting", "overriding"):  # a key let go elsewhere is not heard here
                self.session.hold(mode, False)
            self.table.hold_space(False)

    def escape(self) -> None:
        if not self.table.drop_stroke():
            self.session.select(None)

    def other_hand(self) -> None:
        self.session.show_hand("right" if self.session.shown_hand == "left" else "left")

    def _shown_brush(self) -> Any:
        return self.session.project.brushes.get(self.session.hands[self.session.shown_hand])

    def _change_brush(self, **changes: Any) -> None:
        brush = self._shown_brush()
        if brush is not None and all(hasattr(brush, name) for name in changes):
            try:
                self.session.apply(put_brush(self.session.project, replace(brush, **changes)))
            except TopionError as problem:
                self.say(str(problem))

    def roll(self) -> None:
        brush = self._shown_brush()
        if hasattr(brush, "seed"):
            self._change_brush(seed=(brush.seed * 1103515245 + 12345) % 10_000)

    def turn_brush(self) -> None:
        """A quarter, or a little where the prefab may be turned by any angle."""
        brush = self._shown_brush()
        if brush is not None and brush.kind == "things":
            prefab = self.session.project.prefabs.get(brush.prefab)
            if prefab is None or prefab.turns == "none":
                self.say(f"{brush.prefab} cannot be turned")
                return
            step = 15 if prefab.turns == "any" else 90
            self._change_brush(turn=(brush.turn + step) % 360)
        elif self._block_turns(brush) != "none":
            self._change_brush(turn=brush.turn // 4 * 4 + (brush.turn + 1) % 4)

    def tip_brush(self) -> None:
        """Another side of the block up."""
        brush = self._shown_brush()
        if self._block_turns(brush) == "any" and brush.kind == "mosaic":
            self._change_brush(turn=(brush.turn + 4) % TURNS)
        elif brush is not None:
            self.say(f"{brush.name} cannot be tipped over")

    def _block_turns(self, brush: Any) -> str:
        """How the blocks of a brush may be turned, by the one that allows least."""
        if brush is None or not hasattr(brush, "turn"):
            return "none"
        blocks = self.session.project.blocks
        used = [blocks[ref.slot].turns for ref in brush.tiles_used() if ref.slot in blocks]
        found = next((way for way in ("none", "quarters", "any") if way in used), "none")
        if found == "none" and used:
            self.say(f"{brush.name} cannot be turned")
        return found

    def mirror_brush(self) -> None:
        brush = self._shown_brush()
        if brush is not None and brush.kind == "things":
            self._change_brush(mirrored=not brush.mirrored)

    def reset_brush(self) -> None:
        """Turn, mirror and scale back to the prefab's own."""
        brush = self._shown_brush()
        if brush is not None and brush.kind == "things":
            self._change_brush(turn=0.0, mirrored=False, scale=1.0, sway=0.0)
        elif hasattr(brush, "turn"):
            self._change_brush(turn=0)

    # --- work plane and mirrors -----------------------------------------------------------

    def turn_plane(self) -> None:
        """Lay the work plane across the next axis."""
        if self.session.has_room and self.session.room.info.axes == 3:
            axis = (self.session.work.axis - 1) % 3
            cell = self.session.cursor
            level = cell[axis] if cell else self.session.room.info.size[axis] // 2
            self.session.set_work(axis=axis, level=level, aim="plane")

    def raise_plane(self, by: int) -> None:
        """Move the selected thing by a level, or the work plane."""
        if not self.nudge_selected(0, 0, by):
            self.session.set_work(level=self.session.work.level + by)

    def next_aim(self) -> None:
        aims = list(AIMS)
        aim = aims[(aims.index(self.session.work.aim) + 1) % len(aims)]
        self.session.set_work(aim=aim)

    def next_mirror(self) -> None:
        at = MIRRORS.index(self.session.work.mirror)
        self.session.set_work(mirror=MIRRORS[(at + 1) % len(MIRRORS)])

    def stand_mirror_here(self) -> None:
        """Stand the mirrors in the cell under the pointer."""
        cell = self.session.cursor
        if cell is None:
            self.say("Point at the cell in which the mirror shall stand")
            return
        work = self.session.work
        mirror = "E–W" if work.mirror == "off" else work.mirror
        self.session.set_work(mirror=mirror, mirror_at=(float(cell[-2]), float(cell[-1])))

    # --- selection ------------------------------------------------------------------------

    def _selected_thing(self) -> tuple[str, int, Any] | None:
        chosen = self.session.selected
        if chosen is None or chosen.thing is None or not self.session.has_room:
            return None
        layer = self.session.room.layers.get(chosen.layer)
        thing = layer.things.get(chosen.thing) if layer else None
        return (chosen.layer, chosen.thing, thing) if thing else None

    def remove_selected(self) -> None:
        found = self._selected_thing()
        if found:
            layer_id, number, thing = found
            label = f"Remove {thing.prefab}"
            room = self.session.room_name
            self.session.try_(change_things, room, layer_id, {number: None}, label)
            self.session.select(None)

    def nudge_selected(self, dy: int, dx: int, dz: int = 0) -> bool:
        found = self._selected_thing()
        if not found:
            return False
        layer_id, number, thing = found
        step = 1 / self.session.cell_parts
        z, y, x = (round(v + d * step, 6) for v, d in zip(thing.at, (dz, dy, dx), strict=True))
        moved = replace(thing, z=z, y=y, x=x)
        room = self.session.room_name
        self.session.try_(change_things, room, layer_id, {number: moved}, f"Move {thing.prefab}")
        return True

    # --- menus ----------------------------------------------------------------------------

    def _menu_at(self, menu: QMenu, button: QWidget) -> None:
        menu.popup(button.mapToGlobal(QPoint(0, button.height() + 2)))

    def show_project_menu(self) -> None:
        menu = QMenu(self)
        menu.addAction("New project\tCtrl+N", self.files.new_project)
        menu.addAction("Open…\tCtrl+O", self.files.ask_open)
        menu.addAction("Save\tCtrl+S", self.files.save)
        menu.addAction("Save as…", self.files.save_as)
        menu.addSeparator()
        menu.addAction("Bring in a tile sheet…", self.files.bring_in_sheet)
        menu.addAction("Take slots from a sheet…\tF6", self.show_sheets)
        menu.addAction("Bring in a mesh as voxels…", self.files.ask_mesh)
        menu.addSeparator()
        menu.addAction("Undo\tCtrl+Z", self.session.undo)
        menu.addAction("Redo\tCtrl+Y", self.session.redo)
        self._menu_at(menu, self.top_bar.project)

    def show_room_menu(self) -> None:
        menu = QMenu(self)
        for name in self.session.project.rooms:
            action = menu.addAction(name, lambda n=name: self.session.open_room(n))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(name == self.session.room_name)
        menu.addSeparator()
        menu.addAction("New room…", self.files.new_room)
        menu.addAction("Show all of it\tHome", self.table.fit)
        self.tables.add_views(menu)
        self._menu_at(menu, self.top_bar.room)

    def show_export(self) -> None:
        menu = QMenu(self)
        pictures = menu.addMenu("PNG of the room and of each layer")
        for scale in (0.25, 0.5, 1.0, 2.0, 4.0):
            if pictures is not None:
                pictures.addAction(f"{scale:g}×…", lambda s=scale: self.files.ask_export("png", s))
        for kind, text in (("csv", "CSV of each layer…"), ("json", "JSON bundle of the project…")):
            menu.addAction(text, lambda k=kind: self.files.ask_export(k))
        if self.session.has_room and self.session.room.info.axes == 3:
            menu.addAction("glTF of the room…", lambda: self.files.ask_export("gltf"))
            menu.addAction("PNG of this view…", self.files.ask_view_picture)
        self._menu_at(menu, self.top_bar.export)

    def show_new_brush(self) -> None:
        self._menu_at(self.new_brush.menu(), self.rack.new)

    def show_survey(self) -> None:
        if self._survey is None:
            self._survey = SurveyDialog(self)
        self._survey.refresh()
        self._survey.show()
        self._survey.raise_()

    def _count_findings(self) -> None:
        """Run the survey on a thread, over a snapshot; of changes meanwhile the last counts."""
        if self._surveying is not None and self._surveying.isRunning():
            self._count_soon.start()
            return
        snapshot = self.session.project.snapshot()
        self._surveying = Worker(lambda step: survey(snapshot), "Survey")
        self._surveying.finished.connect(self._show_count)
        self._surveying.start()

    def _show_count(self) -> None:
        if self._surveying is None or not isinstance(self._surveying.result, list):
            return
        count = len(self._surveying.result)
        self.top_bar.survey.setText(f"Survey {count}" if count else "Survey")
        colour = look.name("buoy" if count else "ink")
        self.top_bar.survey.setStyleSheet(f"QPushButton {{ color: {colour}; }}")

    def show_sheets(self) -> None:
        if not self.session.project.tilesets:
            self.files.bring_in_sheet()
            return
        dialog = self.sheets_dialog()
        dialog.refresh()
        dialog.show()
        dialog.raise_()

    def sheets_dialog(self) -> SlotsDialog:
        """The dialog behind Sheets, made when first asked for."""
        if self._slots is None:
            self._slots = SlotsDialog(self)
        return self._slots

    def toggle_dark(self) -> None:
        look.use_dark(not look.is_dark())
        app = QApplication.instance()
        if isinstance(app, QApplication):
            look.dress(app)
        self._right.setStyleSheet(
            f"#right {{ background: {look.name('panel')};"
            f" border-left: 1px solid {look.name('line')}; }}"
        )
        self.top_bar.refresh()
        self.in_hand.refresh()
        self.rack.rebuild()
        self._count_findings()
        self.update()

    # --- closing ---------------------------------------------------------------------------

    def fail(self, sentence: str) -> None:
        """Something could not be done: say it where it cannot be missed."""
        self.say(sentence)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.files.may_leave():
            event.ignore()
            return
        self.session.close()
        self.tables.close_rooms()
        self._count_soon.stop()
        for worker in (self._surveying, self.in_hand.counting):
            if worker is not None:
                worker.wait()
