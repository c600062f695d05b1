"""The main window: joins the panels, the table and the commands."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from topion.scripting import ProjectHandle
from topion.view import settings, style
from topion.view.arrange.panel import ArrangePanel
from topion.view.beside import Beside
from topion.view.bringing import Bringing
from topion.view.clipboard import Clipboard
from topion.view.commands import Commands
from topion.view.desks.desks import Desks
from topion.view.dressing import Dressing
from topion.view.drops import Drops
from topion.view.extensions import ExtensionNews, extension_commands
from topion.view.files import Files
from topion.view.homing import Homing
from topion.view.keeper import Keeper
from topion.view.looks import Looks
from topion.view.menus import Menus
from topion.view.new_brush import NewBrush
from topion.view.overlays import Overlays
from topion.view.panels.at_cursor import AtCursor
from topion.view.panels.in_hand import InHand
from topion.view.panels.levels import Levels
from topion.view.panels.rack import CARD_MIME, Rack
from topion.view.panels.ribbon import Ribbon
from topion.view.panels.right import Right
from topion.view.panels.stack import Stack
from topion.view.panels.top_bar import TopBar
from topion.view.planning import Planning
from topion.view.saves import Saves
from topion.view.saying import Said
from topion.view.session import Session
from topion.view.sheet_sources import SheetSources
from topion.view.survey.panel import SurveyPanel
from topion.view.surveying import SOON_MS, Surveying
from topion.view.tables import Tables
from topion.view.tasks import Task, run_task, wait_for_all
from topion.view.team.compare_panel import ComparePanel
from topion.view.team.conflict_bar import ConflictBar
from topion.view.trust import Trust
from topion.view.trying import Trying
from topion.view.window_commands import HOME_COMMANDS, window_commands

_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
_BUILT_MS = 1500  # until a window that is built part by part stands
_AWAY_MS = 120  # without the keys, until held ones count as let go


class Window(QMainWindow):
    """One project in one window.  Signals: none; all goes through the session."""

    session: Session
    desks: Desks
    files: Files
    homing: Homing
    trying: Trying

    def __init__(
        self, handle: ProjectHandle, keeper: Keeper | None = None, *, at_once: bool = True
    ) -> None:
        """keeper : of that project, where it was begun on a thread.  at_once : build all of it;
        else part by part, with `build_next`, so that a window that is seen already goes on."""
        super().__init__()
        self._looks: Looks | None = None
        self._gives_back = False  # the keys, after a click on a button
        self._unbuilt = self._parts(handle, keeper, at_once)
        while at_once and self.build_next():
            pass

    def panels(self) -> list[QWidget]:
        """What the window is made of, in the order in which it is looked at."""
        return [self.tables, self.top_bar, self.left, self.right, self.ribbon, self.rack]

    def build_next(self) -> bool:
        """Build the next part; False once all are there."""
        return next(self._unbuilt, None) is not None

    def _parts(self, handle: ProjectHandle, keeper: Keeper | None, at_once: bool) -> Iterator[str]:
        self.session = Session(handle, keeper)
        self.setWindowTitle(f"{handle.name} – Topion")
        self.resize(1280, 800)
        self.commands = Commands()
        yield from self._frame()
        yield from self._panels_beside(at_once)
        yield from self._helpers(handle)
        self.commands.add(window_commands(self))
        self.extensions = ExtensionNews(self)
        self.commands.add(extension_commands(self))
        yield "commands"
        self.planning = Planning(self, self.desks, self.surveying, self.files,
                                 self.trying.walk_in)  # fmt: skip
        self.overlays = Overlays(self, self.pages, self.commands, self.desks, self.homing)
        self._connect()
        yield "overlays"
        self._hear()
        QApplication.instance().focusChanged.connect(self._keep_keys)  # type: ignore[union-attr]
        self.table.setFocus()

    def _frame(self) -> Iterator[str]:
        """From the outside inwards: what is put into a window that is there is dressed once."""
        self.pages = QStackedWidget()  # the project, and Home
        self.setCentralWidget(self.pages)
        body, work = QWidget(), QWidget()
        self.pages.addWidget(body)
        whole = _column(body)
        self.desks = Desks(self.session, work, self)
        self.desks.changed.connect(self._show_desk)
        self.desks.jumped.connect(self.centre_on)
        whole.addWidget(self.desks, 1)
        lines, self._middle = _column(work), QHBoxLayout()
        self._middle.setSpacing(0)
        yield "frame"
        self.top_bar = TopBar(self.session)
        lines.addWidget(self.top_bar)
        lines.addLayout(self._middle, 1)
        yield "top bar"
        self.ribbon = Ribbon(self.session)
        whole.addWidget(self.ribbon)
        yield "ribbon"
        self.rack = Rack(self.session)
        whole.addWidget(self.rack)
        yield "rack"
        self.stack, self.levels = Stack(self.session), Levels(self.session)
        self.left = QStackedWidget()
        self.left.setFixedWidth(self.stack.width())
        for panel in (self.stack, self.levels):
            self.left.addWidget(panel)
        self._middle.addWidget(self.left)
        yield "left"
        self.tables = Tables(self.session)
        self._middle.addWidget(self.tables, 1)
        yield "table"
        self.in_hand = InHand(self.session)
        yield "in hand"
        self.at_cursor = AtCursor(self.session)
        self.right = Right(self.in_hand, self.at_cursor, self.session)
        yield "beside"
        self._middle.addWidget(self.right)
        yield "right"

    def _panels_beside(self, at_once: bool) -> Iterator[str]:
        """What can stand in the place of the right column, put away for now."""
        self.surveying = Surveying(self.session, SOON_MS if at_once else _BUILT_MS)
        self.survey = SurveyPanel(self, self.surveying)
        self.survey.hide()
        self.survey.closed.connect(self.show_survey)
        self._middle.addWidget(self.survey)
        yield "survey"
        self.arrange = ArrangePanel(self)
        self.arrange.hide()
        self.arrange.closed.connect(self.show_arrange)
        yield "to arrange"
        self._middle.addWidget(self.arrange)
        yield "arrange"
        self.compare = ComparePanel(self, self.tables, lambda: self.files.ask_version())
        self.compare.hide()
        self.compare.closed.connect(self.show_compare)
        self.compare.shown_at.connect(self.centre_on)
        self._middle.addWidget(self.compare)
        self.said = Said(self)
        self.conflicts = ConflictBar(self.tables, self.session)
        self.conflicts.centred.connect(self.centre_on)
        yield "compare"

    def _helpers(self, handle: ProjectHandle) -> Iterator[str]:
        """What carries out the commands."""
        self.beside, self.trying = Beside(self, self), Trying(self)
        self.sources = SheetSources(handle)
        self.saves = Saves(self, self)
        self.trust = Trust(self, self, self.top_bar.care)
        self.files = Files(self, self, self.saves, lambda: self.tables.space)
        self.new_brush = NewBrush(self, self, self.files)
        self.clipboard = Clipboard(self, self)
        self.menus = Menus(self, self.commands, lambda: self.session, self.files, self.tables,
                           self.top_bar, self.rack, self.new_brush,
                           lambda: self.trust.others)  # fmt: skip
        self.bringing = Bringing(self, self.desks)
        self.homing = Homing(self, self.pages, self.files)
        self.dressing = Dressing(self)
        self.drops = Drops(self, self.files, self.bringing.open, self.homing)
        self.setAcceptDrops(True)
        yield "files"

    @property
    def looks(self) -> Looks:
        """Made when it is asked for the first time."""
        if self._looks is None:
            self._looks = Looks(self, self.tables, self, self.session)
        return self._looks

    def tell_keys(self) -> None:
        """Tooltips tell the keys as they are now."""
        for button, command, text in self._keyed:
            button.setToolTip(self.commands.tip(command, text))

    def _connect(self) -> None:
        """Buttons carry out commands, and tell their keys."""
        self._keyed: list[tuple[QPushButton, str, str]] = []
        for button, command, text in (
            (self.top_bar.project, "project menu", ""),
            (self.top_bar.room, "room menu", ""),
            (self.top_bar.plan, "plan", ""),
            (self.top_bar.survey, "survey", ""),
            (self.top_bar.sheets, "sheets", "Tile sheets: take slots in hand"),
            (self.top_bar.looks, "looks", ""),
            (self.top_bar.walk, "walk", ""),
            (self.top_bar.export, "export", ""),
            (self.top_bar.theme, "dark", ""),
            (self.rack.new, "new brush", "Make a brush from a sheet or a picture"),
            (self.stack.add, "add layer", ""),
        ):
            button.clicked.connect(lambda _, c=self.commands[command]: c.does())
            self._keyed.append((button, command, text))
        self.tell_keys()
        self.sources.found.connect(self._offer_sheet)

    @property
    def table(self) -> Any:
        """The table that is shown: that of flat or that of voxel rooms, or that of a desk."""
        return self.at_tables.shown

    @property
    def at_work(self) -> Session:
        """Where strokes are laid: in the room, or on the ground of a desk."""
        return self.desks.session_at_work

    @property
    def at_tables(self) -> Tables:
        """The tables that are shown: of rooms, or of a desk."""
        desk = self.desks.desk
        tables = desk.tables if desk is not None else None
        return tables if tables is not None else self.tables

    def open_desk(self, brush: str) -> None:
        """Show the desk of a brush in the place of the table."""
        self.desks.open(brush)

    def _show_desk(self) -> None:
        self.rack.setVisible(self.desks.desk is None)
        if self.desks.desk is None:
            self.to_table()

    def _show_kind(self) -> None:
        """Show the panel and the table that belong to the kind of room."""
        session = self.session
        axes = session.room.info.axes if session.has_room else 2
        self.left.setCurrentWidget(self.levels if axes == 3 else self.stack)
        self.tables.show_for(axes)

    def _asks(self, question: str) -> bool:
        """A question with yes and no."""
        box, button = QMessageBox(self), QMessageBox.StandardButton
        box.setWindowTitle("Topion")
        box.setText(question)
        box.setStandardButtons(button.Yes | button.No)
        return box.exec() == button.Yes

    def _aside(self, title: str, work: Task, with_worker: object = None) -> object:
        """Run long work of the session on a thread; what fails is said."""
        found: list[object] = []
        run_task(self, title, work, found.append, self.say, with_worker)  # type: ignore[arg-type]
        return found[0] if found else None

    def _hear(self) -> None:
        self.session.aside = self._aside
        self.session.sees = lambda at: self.tables.shown.sees(at)
        self.session.asks = self._asks
        self.session.said.connect(self.say)
        self.session.asked.connect(lambda name: self.commands[name].does())
        self.session.did.connect(self.rack.hints.did)
        self.session.desk_asked.connect(self.open_desk)
        self.session.prefab_asked.connect(self.desks.open_prefab)
        self.session.prefabs_asked.connect(lambda names: self.desks.open_prefab(*names))
        self.trust.use(self.session)
        self.session.room_changed.connect(self._show_kind)
        self._show_kind()
        self.tables.look_ahead()

    def use(self, handle: ProjectHandle, keeper: Keeper | None = None) -> None:
        """Show another project."""
        self.homing.remember()
        self.homing.leave()
        self.saves.leave()
        self.session.close()
        self.session.blockSignals(True)
        self.session = Session(handle, keeper)
        for part in (self.top_bar, self.stack, self.levels, self.tables, self.in_hand,
                     self.at_cursor, self.right, self.ribbon, self.rack,
                     self.surveying, self.desks, self.conflicts):  # fmt: skip
            part.use(self.session)
        if self._looks is not None:
            self._looks.use(self.session)
        self.sources.use(handle)
        self._hear()
        self.setWindowTitle(f"{handle.name} – Topion")
        self.survey.use()
        self.arrange.use()
        self.compare.use()
        self.homing.remember()

    # --- messages: see Host ---------------------------------------------------------------

    def say(self, text: str) -> None:
        """Show a sentence over the foot of the table for a few seconds."""
        self.said.say(text, None if self.homing.shown else self.tables)

    def fail(self, sentence: str) -> None:
        """Something could not be done: say it where it cannot be missed."""
        self.say(sentence)

    def last_folder(self) -> Path:
        """Where files were opened or saved last."""
        return settings.last_folder()

    def remember_folder(self, folder: Path) -> None:
        """Begin there the next time."""
        settings.remember_folder(folder)

    def drop_work(self) -> None:
        """Forget the stroke in progress."""
        self.tables.drop_stroke()

    def show_bay(self, name: str) -> None:
        """Put a bay of the rack in front."""
        self.rack.show_bay(name)

    def to_table(self) -> None:
        """Give the keys back to the table."""
        self.activateWindow()
        self.table.setFocus()

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """Bring a cell of the room to the middle of the table."""
        self.tables.centre_on(cell)

    # --- files dropped here ---------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None or data.hasFormat(CARD_MIME):
            return
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        self.drops.hovers(data)

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None:
            return
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
        self.activateWindow()
        self.drops.take(data)

    # --- keys -----------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        only = HOME_COMMANDS if self.homing.shown else None
        if event is not None and event.key() in _ENTER and self._typed():
            return
        if event is not None and not self.commands.press(event, only):
            super().keyPressEvent(event)

    def _keep_keys(self, before: QWidget | None, now: QWidget | None) -> None:
        """A click on a button leaves the keys where they were: a stroke goes on by them.  The
        Tab key still leads to it."""
        clicked = QApplication.mouseButtons() != Qt.MouseButton.NoButton
        if not clicked or not isinstance(now, QAbstractButton) or now.window() is not self:
            return
        if self._gives_back:  # to the button that has them now
            return
        now.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        table = self.table if self.table.isVisible() else None
        back = before if table is None or before is table else table
        if back is not None and back.isVisible():
            self._gives_back = True
            back.setFocus()
            self._gives_back = False

    def _typed(self) -> bool:
        """Enter in a field took what was typed: the keys go back to the table."""
        field = QApplication.focusWidget()
        if not isinstance(field, QLineEdit | QAbstractSpinBox) or not self.table.isVisible():
            return False
        self.to_table()
        return True

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is not None:
            self.commands.release(event)

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            QTimer.singleShot(_AWAY_MS, self._let_go_if_away)

    def _let_go_if_away(self) -> None:
        """A key that is let go while another window has the keys is not heard here."""
        if self.isActiveWindow():
            return  # the focus only came round
        for mode in ("lifting", "overriding", "shifting", "asking", "measuring"):
            self.session.hands.hold(mode, False)
        self.at_tables.hold_space(False)

    # --- commands -------------------------------------------------------------------------

    def escape(self) -> None:
        """Drop the stroke in progress, leave a desk, or pick nothing."""
        if self.at_tables.drop_stroke():
            return
        left = self.trying.leave() or self.desks.close_desk()
        if not left and not self.session.curves.drop_points():
            self.session.picked.pick(None)

    def add_layer(self) -> None:
        """Ask which kind of layer shall lie above this one."""
        shown: Any = self.left.currentWidget()
        shown.show_add_menu()

    def show_keys(self) -> None:
        """The keys of what is under the pointer, and of all else."""
        self.overlays.show_keys()

    def show_looks(self) -> None:
        """What the room is worn in, or away with it."""
        self.looks.toggle()

    def show_survey(self) -> None:
        """The list of findings in the place of the hands, or away with it."""
        self.beside.turn_survey()

    def show_arrange(self) -> None:
        """Arrange what is picked by expressions, in the place of the hands; or away with it."""
        self.beside.turn_arrange()

    def show_compare(self) -> None:
        """Another version over this one, in the place of the hands; or away with it."""
        self.beside.turn_compare()

    def show_sheets(self) -> None:
        """The desk of the tile sets, or bring one in where there is none."""
        if not self.session.project.tilesets:
            self.files.bring_in_sheet()
            return
        self.desks.open_tile_sets(self.files.bring_in_sheet)

    def _offer_sheet(self, name: str) -> None:
        self.say(f"{self.sources.waiting[name].name} was changed on disk; the desk of tile set "
                 f"{name} shows what would change (F6)")  # fmt: skip

    def walk(self, *, here: bool = False) -> None:
        """Try the room: from where it starts, or from the cell under the pointer."""
        self.trying.walk(here=here)

    def show_plan(self) -> None:
        """The plan of the world, or away with it."""
        self.planning.turn()

    def show_blocks(self) -> None:
        """The desk of the blocks."""
        self.desks.open_blocks()

    def show_finder(self) -> None:
        """Find anything by letters."""
        self.overlays.show_finder()

    def show_settings(self) -> None:
        """The settings, or away with them."""
        self.overlays.turn_settings()

    def show_home(self, *, new: bool = False) -> None:
        """Leave the project and show Home.  new : to begin another one."""
        self.homing.show(new=new)

    def toggle_dark(self) -> None:
        """Paper, or its dark counterpart."""
        style.use_dark(not style.is_dark())
        settings.remember_dark(style.is_dark())
        app = QApplication.instance()
        if isinstance(app, QApplication):
            style.dress(app)
        self.dressing.begin()
        self.overlays.show_dark()

    # --- closing ---------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.saves.may_leave():
            event.ignore()
            return
        settings.remember_window(self)
        self.homing.remember()
        if self.homing.home is not None:
            self.homing.home.stop()
        self.saves.leave()
        self.session.close()
        self.desks.close_desk()
        self.tables.close_rooms()
        self.surveying.stop()
        self.sources.stop()
        self.trust.stop()
        wait_for_all()


def _column(widget: QWidget) -> QVBoxLayout:
    """A layout from top to bottom without gaps."""
    made = QVBoxLayout(widget)
    made.setContentsMargins(0, 0, 0, 0)
    made.setSpacing(0)
    return made
