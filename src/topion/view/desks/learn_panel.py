"""Learning in the weave desk: what each tile is taken for, and what was learned."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import cast

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QVBoxLayout, QWidget

from topion.brushes.kind import BrushKind
from topion.edit.examples import (
    Group,
    Patch,
    given_groups,
    groups_in,
    learned_by_cells,
    learned_by_tiles,
    patch_of_area,
    patch_of_picture,
)
from topion.edit.library import free_name, put_brush
from topion.errors import TopionError
from topion.grid.told import several
from topion.model.edit import Edit
from topion.model.records import ItemRecord
from topion.model.tileset import TileRef, TileSet
from topion.pictures.png import read_png_file
from topion.view import style
from topion.view.desks.mark_card import colour_of_material
from topion.view.desks.parts import Switches
from topion.view.desks.rule_list import RuleList
from topion.view.desks.weave_work import WeaveWork
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import heading
from topion.view.table.compose import pixmap_of
from topion.view.tasks import Step, Worker
from topion.weaving.learn import Contradiction, Learned

_OPEN = ""
_ROW, _TILE = 30, 24
_MOST_ROWS, _MOST_SHOWN = 5, 3


@dataclass
class _Source:
    """What is learned from.  words : of it.  of_cells : whether its cells have materials.
    made : a tile set that comes along."""

    patch: Patch
    words: str
    of_cells: bool
    made: TileSet | None = None
    meant: dict[TileRef, str] = field(default_factory=dict)


class LearnPanel(QWidget):
    """Signals: jumped(cell of the room) for an example of a contradiction."""

    jumped = pyqtSignal(object)

    def __init__(self, work: WeaveWork, rules: RuleList) -> None:
        super().__init__()
        self.work, self.rules = work, rules
        self.learned: Learned | None = None
        self._source: _Source | None = None
        self._worker: Worker | None = None
        self.title = heading("")
        self.by = Switches({"by what cells are": True, "by their tiles": False})
        self.by.setToolTip("Whether the cells say what they are, or the tiles that lie in them")
        self.by.chosen = self._use_cells
        self.fewer, self.more = QPushButton("−"), QPushButton("+")
        for button, step, tip in ((self.fewer, -1, "One material less"),
                                  (self.more, 1, "One material more")):  # fmt: skip
            button.setObjectName("plain")
            button.setToolTip(tip)
            button.setAccessibleName(tip)
            button.clicked.connect(lambda _, s=step: self._regroup(s))
        self.away = QPushButton("✕")
        self.away.setObjectName("plain")
        self.away.setAccessibleName("Put learning away")
        self.away.clicked.connect(lambda _: self.hide())
        self.groups = _Groups(self)
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.take = QPushButton("Take these rules")
        self.take.setObjectName("strong")
        self.take.setToolTip("Instead of the rules that the brush has now")
        self.take.clicked.connect(lambda _: self.take_rules())
        self._jumps = QHBoxLayout()
        self._lay_out()
        self.hide()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        for part in (self.title, self.by, self.fewer, self.more, self.away):
            head.addWidget(part, 1 if part is self.title else 0)
        foot = QHBoxLayout()
        foot.addWidget(self.told, 1)
        foot.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 8)
        column.setSpacing(5)
        column.addLayout(head)
        column.addWidget(self.groups)
        column.addLayout(foot)
        column.addLayout(self._jumps)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("card"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)

    # --- what is learned from -------------------------------------------------------------

    def learn_picked(self) -> None:
        """From the area that is picked in the worked room."""
        session = self.work.session
        area = session.picking.area
        if area is None or not session.has_room or session.room.info.axes != 2:
            session.said.emit("Pick an area of a flat room with the lasso (S) first; "
                              "then its tiles can be learned from")  # fmt: skip
            return
        layers = [i for i, layer in session.room.bottom_up("tiles")]
        chosen = session.layer_id if session.layer_id in layers else layers[-1] if layers else ""
        try:
            patch = patch_of_area(session.project, session.room, chosen, area)
        except TopionError as problem:
            session.said.emit(str(problem))
            return
        names = dict(given_groups(patch, session.project))
        words = f"{int(patch.asked.sum()):,} cells of {session.room_name}"
        self._begin(_Source(patch, words, self.work.material in names))

    def learn_picture(self, path: Path) -> None:
        """From a picture of a room, cut into tiles as large as those of the brush."""
        session = self.work.session
        kind = self.work.kind
        sets = session.project.tilesets
        used = [ref.tileset for ref in (kind.tiles_used() if kind else ()) if ref.tileset in sets]
        tile = sets[used[0]].cut.tile if used else (16, 16)
        try:
            picture = read_png_file(path)
            name = free_name(path.stem, sets)
            patch, made = patch_of_picture(picture.rgba, tile, name, sets)
        except TopionError as problem:
            session.said.emit(str(problem))
            return
        self._begin(_Source(patch, f"{path.name}, {patch.tile.size:,} tiles", False, made))

    def _begin(self, source: _Source) -> None:
        self._source = source
        self._regroup(0)
        self.show()

    def _use_cells(self, by_cells: bool) -> None:
        if self._source is not None:
            self._source.of_cells = by_cells
            self._regroup(0)

    def _regroup(self, step: int) -> None:
        """Propose materials anew, one more or one less."""
        source = self._source
        if source is None:
            return
        if source.of_cells:
            named = given_groups(source.patch, self.work.project)
            rows = [(name or _OPEN, group) for name, group in named]
        else:
            wanted = max(1, len(self.groups.rows) + step) if step else 0
            found = groups_in(source.patch, wanted)
            own = self._likely_own(found)
            rows = [(self.work.material if n == own else _OPEN, g) for n, g in enumerate(found)]
        self.groups.show_rows(rows, source.patch)
        self._learn()

    def _likely_own(self, found: list[Group]) -> int:
        """The group that is the brush: with the tiles it lays already, else with most rims."""
        kind = self.work.kind
        known = set(kind.tiles_used()) if kind is not None else set()
        shares = [len(known & set(group.refs)) for group in found]
        if any(shares):
            return shares.index(max(shares))
        counts = [len(group.refs) for group in found]
        return counts.index(max(counts)) if counts else -1

    def mean(self, row: int, material: str) -> None:
        """A group is that material, or open ground."""
        self.groups.rows[row] = (material, self.groups.rows[row][1])
        self.groups.update()
        self._learn()

    # --- learning -------------------------------------------------------------------------

    def _learn(self) -> None:
        source, material = self._source, self.work.material
        if source is None:
            return
        if self._worker is not None:
            self._worker.let_go()
        self.learned = None
        self.title.setText(f"Learn from {source.words}")
        self.by.show_value(source.of_cells)
        self.by.setVisible(bool(source.patch.material.any()))
        for button in (self.fewer, self.more):
            button.setVisible(not source.of_cells)
        self.told.setText("learning …")
        self.take.setEnabled(False)
        frozen, patch = self.work.project.frozen(), source.patch
        meant = {ref: name for name, group in self.groups.rows for ref in group.refs}

        def work(step: Step) -> Learned:
            def go_on() -> None:
                step("learning")

            if source.of_cells:
                return learned_by_cells(patch, frozen, material, go_on)
            return learned_by_tiles(patch, meant, material, go_on)

        worker = self._worker = Worker(work, "Learning")
        worker.finished.connect(lambda: self._show_learned(worker))
        worker.begin()

    def _show_learned(self, worker: Worker) -> None:
        if worker is not self._worker:
            return
        self._clear_jumps()
        if not isinstance(worker.result, Learned):
            self.told.setText(worker.problem or "Nothing was learned")
            return
        learned = self.learned = worker.result
        count = len(learned.book.rules)
        words = [f"{count} rule{'s' if count != 1 else ''} lay {learned.reproduced:,} of "
                 f"{learned.cells:,} cells again"]  # fmt: skip
        if learned.unseen:
            words.append(f"{len(learned.unseen)} of the 47 cases never shown")
        strays = sum(found.cells for found in learned.contradictions)
        if strays:
            words.append(f"{strays} cell{'s' if strays > 1 else ''} contradict")
        self.told.setText(" · ".join(words))
        self.take.setEnabled(count > 0)
        for found in learned.contradictions[:_MOST_SHOWN]:
            self._add_jump(found)
        self._jumps.addStretch(1)

    def _add_jump(self, found: Contradiction) -> None:
        assert self._source is not None
        first = self._source.patch.first
        cell = (found.cell[0] + first[0], found.cell[1] + first[1])
        button = QPushButton(f"cell {cell[0]}, {cell[1]}")
        button.setToolTip(f"{found.tile.slot} lies there, {found.instead.slot} in cells like it: "
                          "a click shows it in the room")  # fmt: skip
        button.setEnabled(self._source.made is None)
        button.clicked.connect(lambda _, c=cell: self.jumped.emit(c))
        self._jumps.addWidget(button)

    def _clear_jumps(self) -> None:
        emptied(self._jumps)

    def take_rules(self) -> None:
        """Give the brush the rules that were learned, with the tile set that they speak of."""
        source, learned, kind = self._source, self.learned, self.work.kind
        if source is None or learned is None or kind is None:
            return
        project, records = self.work.project, []
        if source.made is not None and source.made.name not in project.tilesets:
            records.append(ItemRecord(("tilesets", source.made.name), None, source.made))
            project = project.with_items("tilesets", {source.made.name: source.made})
        book = replace(self.work.book, rules=learned.book.rules, beyond=learned.book.beyond)
        try:
            planned = put_brush(project, cast(BrushKind, kind).changed(rules=book))
        except TopionError as problem:
            self.work.session.said.emit(str(problem))
            return
        label = f"{kind.name}: {several(len(book.rules), 'rule')} learned"
        self.work.session.apply(Edit(label, (*records, *planned.records), kind.colour))
        self.hide()


class _Groups(QWidget):
    """Groups of tiles, each with what it is taken for: a click changes it."""

    def __init__(self, panel: LearnPanel) -> None:
        super().__init__()
        self._panel = panel
        self.rows: list[tuple[str, Group]] = []
        self._pixmaps: dict[TileRef, object] = {}
        self.setAccessibleName("What tiles are taken for")
        self.setToolTip("Click: this material, or open ground; right click names another material")

    def show_rows(self, rows: list[tuple[str, Group]], patch: Patch) -> None:
        self.rows = rows
        self._pixmaps = dict(zip(patch.refs, map(pixmap_of, patch.pictures), strict=True))
        self.setFixedHeight(min(_MOST_ROWS, max(1, len(rows))) * _ROW)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(400, self.height())

    def row_rect(self, number: int) -> QRectF:
        """Where a group is shown."""
        return QRectF(0, number * _ROW, self.width(), _ROW - 2)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        own = self._panel.work.material
        for number, (name, group) in enumerate(self.rows[:_MOST_ROWS]):
            rect = self.row_rect(number)
            colour = colour_of_material(self._panel.work.project, name)
            badge = QRectF(rect.left() + 0.5, rect.top() + 4.5, 96, 20)
            painter.setPen(QPen(style.ink("ink" if name == own else "line"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(badge, 4, 4)
            if name:
                painter.fillRect(QRectF(badge.left() + 6, badge.top() + 5, 10, 10), QColor(colour))
            painter.setPen(style.ink("ink" if name else "soft"))
            painter.setFont(style.font(12, bold=name == own))
            text = painter.fontMetrics().elidedText(name or "open ground",
                                                    Qt.TextElideMode.ElideRight, 72)  # fmt: skip
            painter.drawText(badge.adjusted(22 if name else 8, 0, 0, 0),
                             Qt.AlignmentFlag.AlignVCenter, text)  # fmt: skip
            self._paint_tiles(painter, rect, group)

    def _paint_tiles(self, painter: QPainter, rect: QRectF, group: Group) -> None:
        most = max(1, int((rect.width() - 180) // (_TILE + 3)))
        for place, ref in enumerate(group.refs[:most]):
            left = rect.left() + 106 + place * (_TILE + 3)
            spot = QRectF(left, rect.top() + 2, _TILE, _TILE)
            pixmap = self._pixmaps.get(ref)
            if pixmap is not None:
                painter.drawPixmap(spot.toRect(), pixmap)  # type: ignore[call-overload]
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(11))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(rect, right, f"{group.cells:,}")

    def _row_at(self, point: QPointF) -> int:
        number = int(point.y() // _ROW)
        return number if 0 <= number < len(self.rows) else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or (row := self._row_at(event.position())) < 0:
            return
        panel = self._panel
        if event.button() == Qt.MouseButton.RightButton:
            menu = QMenu(self)
            for name in (panel.work.material, "", *panel.work.others()):
                menu.addAction(name or "open ground", _meaning(panel, row, name))
            menu.popup(event.globalPosition().toPoint())
            return
        own = panel.work.material
        panel.mean(row, "" if self.rows[row][0] == own else own)


def _meaning(panel: LearnPanel, row: int, name: str) -> Callable[[], None]:
    return lambda: panel.mean(row, name)
