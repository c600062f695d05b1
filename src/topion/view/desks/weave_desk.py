"""The weave desk: a scrap to draw on, the rules, and their cover."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Literal

from PyQt6.QtCore import QMimeData, QSize, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.grounds import SHAPES
from topion.brushes.kind import all_brushes, lays_here
from topion.grid.told import several
from topion.model.tileset import TileRef
from topion.view import style
from topion.view.desks.desk_bar import DeskBar
from topion.view.desks.ground import Ground
from topion.view.desks.learn_panel import LearnPanel
from topion.view.desks.parts import Switches, fill, hairline, side_column
from topion.view.desks.rule_list import RuleList
from topion.view.desks.rule_side import RuleSide
from topion.view.desks.slot_strip import SlotStrip
from topion.view.desks.weave_work import WeaveWork
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.tables import Tables
from topion.weaving import rule_edits

_LEFT = 412
_LIFTS = "lifts"


class WeaveDesk(QWidget):
    """bar : its top line.  ground : what is drawn on; its session is the one at work."""

    key_area = "weave"

    def __init__(self, session: Session, brush: str) -> None:
        super().__init__()
        self.session = session
        self.ground = Ground(session, brush)
        self.work = WeaveWork(session, self.ground)
        self.bar = DeskBar(session)
        self.tables = Tables(self.ground.session, rulers=False)
        self.in_room = False
        self.where = Switches({"scrap": False, "room": True})
        self.where.setToolTip("Draw on the scrap of this brush, or in the worked room")
        self.where.chosen = self.show_room
        self.where.show_value(False)
        self.rules = RuleList(self.work)
        self.side = RuleSide(self.work, self.rules)
        self.learning = LearnPanel(self.work, self.rules)
        self.setAcceptDrops(True)
        self.strip = SlotStrip(session, deep=self.work.deep)
        self.strip.picked.connect(self.take_slot)
        self._lay_out()
        self.work.changed.connect(self.refresh)
        self.work.pointed.connect(self._show_why)
        self.ground.renewed.connect(self._show_table)
        session.moved.connect(self._look_in_room)
        self._show_table()
        self._show_first_set()
        self.refresh()

    # --- building -------------------------------------------------------------------------

    def _lay_out(self) -> None:
        left, column = side_column(_LEFT)
        head = QHBoxLayout()
        head.addWidget(heading("Draw, and the rules answer at once"))
        head.addWidget(self.where, 1)
        column.addLayout(head)
        self.tables.setFixedSize(QSize(_LEFT - 28, _LEFT - 28))
        column.addWidget(self.tables)
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setFixedHeight(34)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(self.told)
        column.addLayout(self._shape_buttons())
        column.addLayout(self._settings())
        column.addStretch(1)
        if not self.work.deep:  # pictures and areas of flat rooms are learned from
            column.addWidget(hairline())
            column.addWidget(heading("Learn rules from tiles laid by hand"))
        column.addLayout(self._learn_buttons())
        for button in (self.from_picked, self.from_picture):
            button.setVisible(not self.work.deep)
        middle = QWidget()
        lines = QVBoxLayout(middle)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(12, 12, 12, 8)
        head.addWidget(heading("Rules · the first that fits lays its tile"))
        head.addStretch(1)
        hint = heading("hover the scrap to see which")
        style.tint(hint, "ink")
        head.addWidget(hint)
        lines.addLayout(head)
        lines.addWidget(self.learning)
        lines.addWidget(self.rules, 1)
        lines.addWidget(self.strip)
        whole = QHBoxLayout()
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(left)
        whole.addWidget(_Upright())
        whole.addWidget(middle, 1)
        whole.addWidget(self.side)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(0)
        page.addWidget(self.bar)
        page.addLayout(whole, 1)

    def _shape_buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(6)
        self.shapes: dict[str, QPushButton] = {}
        for shape in SHAPES:
            button = QPushButton(shape)
            button.setToolTip(f"Put the ready shape “{shape}” on the scrap")
            button.clicked.connect(lambda _, s=shape: self.ground.use_shape(s))
            self.shapes[shape] = button
            line.addWidget(button)
        return line

    def _learn_buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(6)
        self.from_picked = QPushButton("From what is picked")
        self.from_picked.setToolTip("From the area picked with the lasso in the worked room")
        self.from_picked.clicked.connect(lambda _: self.learning.learn_picked())
        self.from_picture = QPushButton("From a picture…")
        self.from_picture.setToolTip("From the picture of a room, cut into tiles; or drop it here")
        self.from_picture.clicked.connect(lambda _: self._ask_picture())
        line.addWidget(self.from_picked)
        line.addWidget(self.from_picture)
        line.addStretch(1)
        return line

    def _ask_picture(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "A picture of a room", "", "PNG (*.png)")
        if path:
            self.learning.learn_picture(Path(path))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and _picture_in(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        path = _picture_in(event.mimeData()) if event is not None else None
        if event is not None and path is not None:
            event.acceptProposedAction()
            self.learning.learn_picture(path)

    def _settings(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self.right = self._choice(grid, "Right button", "What the right button does on the scrap",
                                  self._set_right)  # fmt: skip
        self.beyond = self._choice(grid, "Beyond the room’s edge", "What cells that are not in the "
                                   "room count as", self.set_beyond)  # fmt: skip
        self.joins = QPushButton()
        self.joins.setObjectName("plain")
        self.joins.setAccessibleName("Also joins to")
        self.joins.setToolTip("Materials that count as the same")
        self.joins.clicked.connect(lambda _: self._show_joins())
        grid.addWidget(QLabel("Also joins to"), 2, 0)
        grid.addWidget(self.joins, 2, 1, Qt.AlignmentFlag.AlignRight)
        return grid

    def _choice(
        self, grid: QGridLayout, label: str, tip: str, put: Callable[[str], object]
    ) -> QComboBox:
        choice = QComboBox()
        choice.setAccessibleName(label)
        choice.setToolTip(tip)
        choice.activated.connect(lambda _: put(choice.currentText()))
        row = grid.rowCount() - 1 if grid.count() == 0 else grid.rowCount()
        grid.addWidget(QLabel(label), row, 0)
        grid.addWidget(choice, row, 1)
        return choice

    # --- showing --------------------------------------------------------------------------

    @property
    def name(self) -> str:
        """The brush that is made."""
        return self.ground.brush_name

    def refresh(self) -> None:
        """Show the brush as it is now."""
        work, book = self.work, self.work.book
        open_cases = sum(case.by == "open" for case in work.cover())
        count = len(book.rules)
        told = f"{work.kind.kind if work.kind else ''} · {several(count, 'rule')}"
        told += f" · {several(open_cases, 'case') if open_cases else 'no cases'} open"
        self.bar.show_item("brushes", self.name, told)
        fill(self.beyond, ["counts as same", "counts as open"], f"counts as {book.beyond}")
        self.joins.setText(f"{', '.join(book.joins) or 'nothing'} ▾")
        hands = self.ground.session.hands
        brushes = all_brushes(self.ground.session.project)
        own = self.ground.session.room if self.ground.session.has_room else None
        fits = [n for n, b in brushes.items() if own and b.material and lays_here(b, own)]
        now = hands["right"]
        fill(self.right, [_LIFTS, *fits], now if now in fits else _LIFTS)

    def _show_why(self) -> None:
        """In words what fires where the pointer is."""
        why = self.work.why
        text = "Left button lays the material, right button lifts it. Every gesture works."
        if why is not None and not why.rule:
            text = "No rule fits here" + (": the last resort lies" if why.tile else "")
        elif why is not None:
            turn = ("", ", turned ¼", ", turned ½", ", turned ¾")[why.turn]
            mirrored = ", mirrored" if why.mirrored else ""
            whose = "" if why.book == self.work.material else f" of {why.book}"
            text = f"Rule {why.number}{whose}, {why.rule}{turn}{mirrored}"
            if why.variants > 1:
                text += f" · tile {why.variant + 1} of {why.variants}"
            near = [near for near in self.work.near if not near.behind]
            if near:
                text += f"\nclose: {', '.join(f'rule {n.number}' for n in near[:3])}"
        self.told.setText(text)
        style.tint(self.told, "ink" if why else "soft")

    def _show_table(self) -> None:
        axes = self.session.room.info.axes if self.in_room else 3 if self.work.deep else 2
        self.tables.show_for(axes)
        self._show_why()

    def show_room(self, in_room: bool) -> None:
        """Draw in the worked room, or on the scrap."""
        fits = self.session.has_room and self.session.room.info.axes == (3 if self.work.deep else 2)
        if in_room and not fits:
            self.session.said.emit("The worked room is of the other kind: the scrap stays")
            return
        if in_room == self.in_room:
            return
        self.in_room = in_room
        self.where.show_value(in_room)
        self.tables.use(self.session if in_room else self.ground.session)
        if in_room and self.session.hands.can_take(self.name):
            self.session.hands.take("left", self.name)
        self._show_table()
        for part in (*self.shapes.values(), self.right):
            part.setEnabled(not in_room)
        self.tables.fit()

    def _look_in_room(self) -> None:
        if self.in_room:
            self.work.look_in_room()

    def _show_first_set(self) -> None:
        kind = self.work.kind
        for ref in kind.tiles_used()[:1] if kind is not None else ():
            self.strip.show_set(ref.tileset)

    # --- setting --------------------------------------------------------------------------

    def take_slot(self, ref: TileRef) -> None:
        """A slot was picked: the chosen tile becomes that one, or the rule lays it, too."""
        if self.work.chosen_rule() is None:
            self.work.add(rule_edits.plain(ref), len(self.work.book.rules) + 1)
            return
        self.rules.lay(ref, self.rules.variant)

    def _set_right(self, name: str) -> None:
        lift = self.ground.lift_name
        self.ground.session.hands.take("right", lift if name == _LIFTS else name)
        self.ground.session.hands.show("left")

    def set_beyond(self, text: str) -> None:
        """What counts beyond the edge of the room, in the words of the choice."""
        counts: Literal["same", "open"] = "open" if text.endswith("open") else "same"
        self.work.set_book(replace(self.work.book, beyond=counts), f"beyond the room {counts}")

    def _show_joins(self) -> None:
        menu, book = QMenu(self), self.work.book
        for name in self.work.others():
            action = menu.addAction(name, lambda n=name: self._join(n))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(name in book.joins)
        menu.popup(self.joins.mapToGlobal(self.joins.rect().bottomLeft()))

    def _join(self, name: str) -> None:
        joins = name not in self.work.book.joins
        words = f"joins to {name}" if joins else f"joins no longer to {name}"
        self.work.set_book(rule_edits.joined_to(self.work.book, name, joins), words)

    def close_desk(self) -> None:
        """Let go of what only the desk needs."""
        self.session.moved.disconnect(self._look_in_room)
        self.tables.close_rooms()
        self.ground.close()


def _picture_in(data: QMimeData | None) -> Path | None:
    """The first PNG file among what is dragged."""
    urls = data.urls() if data is not None and data.hasUrls() else []
    paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
    return next((path for path in paths if path.suffix.lower() == ".png"), None)


class _Upright(QWidget):
    """A hairline between columns."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), style.ink("line"))
