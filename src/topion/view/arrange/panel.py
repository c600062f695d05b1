"""The panel Arrange: ready examples, copies, one row a property, the names that may stand there."""

from __future__ import annotations

import math
from functools import partial
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.arrange.arranging import MOST_COPIES
from topion.arrange.examples import ALONG, EXAMPLES, About
from topion.arrange.expression import read
from topion.arrange.names import CONSTANTS, FUNCTIONS, VARIABLES
from topion.arrange.stand_ins import PIECE, POINT
from topion.view import style
from topion.view.arrange.grip import PreviewGrip
from topion.view.arrange.preview import draw_preview, summary
from topion.view.arrange.row import ArrangeRow
from topion.view.arrange.work import ArrangeWork
from topion.view.desks.parts import Switches, hairline
from topion.view.dialogs.form import spin
from topion.view.host import Host
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, heading, labelled

_WIDE = 280
_FIRST = ("x", "y", "turn", "scale")  # that have a row from the start


class ArrangePanel(QFrame):
    """Signals: closed() when it is to go away."""

    closed = pyqtSignal()

    def __init__(self, host: Host) -> None:
        super().__init__()
        self.setObjectName("right")
        self.setFixedWidth(_WIDE)
        self.setAccessibleName("Arrange")
        self.host = host
        self.work = ArrangeWork(host.session)
        self.rows: dict[str, ArrangeRow] = {}
        self.title, self.told = QLabel(), QLabel()
        style.tint(self.told, "soft")
        self.title.setFont(style.font(16, bold=True))
        self.told.setWordWrap(True)
        self.makes = QCheckBox("make")
        self.makes.setToolTip("Copies first, until there are so many in all")
        self.count = spin(12, MOST_COPIES, "How many there shall be in all")
        self.count.setFixedWidth(64)
        self.refused = Switches({"stay": False, "go all the same": True})
        self.refused.chosen = self._set_refused
        self.more = choice_button("+ another property ▾", "A row for another property")
        self.apply_button = QPushButton("Apply as one Edit")
        self.apply_button.setObjectName("strong")
        self.apply_button.setToolTip("Put all of it on; Ctrl+Z takes it back (Ctrl+Enter)")
        self.drop_button = QPushButton("Drop")
        self.drop_button.setToolTip("Nothing is changed (Esc)")
        self._lay_out()
        self._connect()
        self.use()

    def _lay_out(self) -> None:
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 8, 12, 6)
        column.setSpacing(4)
        column.addWidget(self.title)
        column.addWidget(self.told)
        column.addLayout(self._examples())
        copies = QHBoxLayout()
        for part in (self.makes, self.count, QLabel("copies first")):
            copies.addWidget(part)
        copies.addStretch(1)
        column.addLayout(copies)
        self._column = QVBoxLayout()
        self._column.setSpacing(2)
        column.addLayout(self._column)
        column.addWidget(self.more, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        column.addWidget(hairline())
        column.addLayout(self._names())
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inner)
        for widget in (inner, area.viewport()):
            if widget is not None:
                widget.setAutoFillBackground(False)
        foot = QVBoxLayout()
        foot.setContentsMargins(12, 2, 12, 10)
        foot.addWidget(labelled("Refused ones", self.refused))
        buttons = QHBoxLayout()
        buttons.addWidget(self.apply_button, 2)
        buttons.addWidget(self.drop_button, 1)
        foot.addLayout(buttons)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(area, 1)
        whole.addWidget(hairline())
        whole.addLayout(foot)

    def _examples(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(4)
        self.examples: dict[str, ExampleCard] = {}
        for name in EXAMPLES:
            card = ExampleCard(name)
            card.clicked.connect(lambda _, n=name: self._take_example(n))
            self.examples[name] = card
            line.addWidget(card)
        return line

    def _names(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(2)
        head = QHBoxLayout()
        head.addWidget(heading("May stand in a row"), 1)
        every = choice_button(f"all {len(FUNCTIONS) + len(CONSTANTS) + len(VARIABLES)} names ▾",
                              "All names that an expression may use")  # fmt: skip
        every.clicked.connect(lambda _: self.names_menu().popup(
            every.mapToGlobal(every.rect().topLeft())))  # fmt: skip
        head.addWidget(every)
        column.addLayout(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(0)
        for number, (name, words) in enumerate(
            (("i", "0, 1, 2 …"), ("n", "how many"), ("t", "i / n, to 1"), ("value", "what it has"))
        ):
            for part, label in enumerate((QLabel(name), QLabel(words))):
                label.setFont(style.font(12, bold=not part))
                style.tint(label, "tidal" if not part else "soft")
                grid.addWidget(label, number // 2, 2 * (number % 2) + part)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        column.addLayout(grid)
        return column

    def _connect(self) -> None:
        self.makes.toggled.connect(lambda _: self._set_copies())
        self.count.valueChanged.connect(lambda _: self._set_copies())
        self.more.clicked.connect(lambda _: self.more_menu().popup(
            self.more.mapToGlobal(self.more.rect().bottomLeft())))  # fmt: skip
        self.apply_button.clicked.connect(lambda _: self.apply())
        self.drop_button.clicked.connect(lambda _: self.closed.emit())

    # --- shown ----------------------------------------------------------------------------

    def use(self) -> None:
        """Another session is worked on."""
        session = self.host.session
        self.work = ArrangeWork(session)
        self.work.changed.connect(self.refresh)
        session.picking.changed.connect(self.work.refresh)
        session.changed.connect(self.work.refresh)
        if self.isVisible():
            self.showEvent(None)
        self.refresh()

    def showEvent(self, event: object) -> None:
        session = self.host.session
        session.grip = grip = PreviewGrip(self.work)

        def over(painter: QPainter, looks: Any) -> None:
            grip.draw(painter, looks)
            draw_preview(painter, looks, self.work)

        session.over = over
        self.work.begin()

    def hideEvent(self, event: object) -> None:
        self.host.session.over = self.host.session.grip = None
        self.makes.setChecked(False)
        self.work.end()

    def refresh(self) -> None:
        """Show what is asked and what comes of it."""
        work, found = self.work, self.work.found
        things = work.things()
        kinds = {PIECE: "pieces", POINT: "points"}
        names = {kinds.get(thing.prefab, thing.prefab) for thing in things.values()}
        what = next(iter(names)) if len(names) == 1 else "things"
        count = work.count
        self.title.setText(f"{count} {what}" if things else "Nothing picked")
        grouped = f" · {len(things)} in groups that count as one" if count < len(things) else ""
        self.told.setText(summary(found) if found is not None and work.session.preview else
                          f"one row for each property{grouped}" if things else
                          "Pick things with the lasso (S)")  # fmt: skip
        self._show_rows()
        self.refused.show_value(work.all_the_same)
        self.apply_button.setEnabled(work.session.preview is not None)
        self.more.setEnabled(bool(things))
        work.session.previewed.emit()

    def _show_rows(self) -> None:
        work, known = self.work, self.work.properties()
        wanted = [n for n in known if n in _FIRST or n in work.asked.rows or n in self.rows]
        if wanted != [*self.rows]:
            emptied(self._column)
            self.rows = {name: self._row(name) for name in wanted}
        refused = set(work.found.refused) if work.found is not None else set()
        for name, row in self.rows.items():
            values = work.found.values.get(name) if work.found is not None else None
            wrong = work.found.wrong.get(name) if work.found is not None else None
            row.show_row(work.asked.rows.get(name, ""), values, wrong, refused)

    def _row(self, name: str) -> ArrangeRow:
        row = ArrangeRow(name)
        row.typed.connect(lambda *asked: self.work.ask(*asked))  # that of the project that is open
        row.rolled.connect(lambda: self.work.roll())
        self._column.addWidget(row)
        return row

    def more_menu(self) -> QMenu:
        """The properties that have no row yet."""
        menu = QMenu(self)
        for name in self.work.properties():
            if name not in self.rows:
                menu.addAction(name, partial(self.add_row, name))
        return menu

    def add_row(self, name: str) -> None:
        """A row for another property."""
        self.rows[name] = self._row(name)
        self.rows[name].show_row("", None, None, set())
        self.rows[name].field.setFocus()

    def names_menu(self) -> QMenu:
        """All names with what they give; a click writes one into the row that is typed in."""
        menu = QMenu(self)
        for title, names in (
            ("Variables", VARIABLES),
            ("Numbers", {n: f"{v:.6g}" for n, v in CONSTANTS.items()}),
            ("Functions", {f.shown: f.told for f in FUNCTIONS.values()}),
        ):
            part = menu.addMenu(title)
            for name, words in names.items() if part is not None else ():
                part.addAction(f"{name}\t{words}", partial(self._write, name))  # type: ignore[union-attr]
        return menu

    def _write(self, name: str) -> None:
        row = next((r for r in self.rows.values() if r.field.hasFocus()), None)
        row = row or next(iter(self.rows.values()), None)
        if row is not None:
            row.field.insert(name)
            self.work.ask(row.name, row.field.text())

    # --- done -----------------------------------------------------------------------------

    def _take_example(self, name: str) -> None:
        self._set_copies()
        self.work.take_example(name)

    def _set_copies(self) -> None:
        self.work.set_copies(self.count.value() if self.makes.isChecked() else 0)

    def _set_refused(self, go: bool) -> None:
        self.work.all_the_same = go
        self.refresh()

    def apply(self) -> None:
        """Put it on; the panel stays for more."""
        if self.work.apply():
            self.makes.setChecked(False)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        elif control and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.apply()
        else:
            super().keyPressEvent(event)


class ExampleCard(QPushButton):
    """A ready arrangement as a small picture."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self.setAccessibleName(f"Arrange {'along a curve' if name == ALONG else f'as a {name}'}")
        self.setToolTip("Along the curve that is picked besides" if name == ALONG else
                        f"As a {name}, about the middle of what is picked")  # fmt: skip
        self.setStyleSheet("border-radius: 5px; padding: 0;")
        self.setFixedHeight(46)

    def sizeHint(self) -> QSize:
        return QSize(38, 46)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        count = {"row": 6, "grid": 9}.get(self.name, 12)
        points = example_points(self.name, count)
        wide, high = self.width() - 14.0, 22.0
        painter.setPen(QPen(Qt.PenStyle.NoPen))
        painter.setBrush(style.ink("tidal" if self.name == "circle" else "ink"))
        for y, x in points:
            painter.drawEllipse(QPointF(7 + x * wide, 6 + y * high), 1.7, 1.7)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(11))
        painter.drawText(
            self.rect().adjusted(0, 30, 0, -2), Qt.AlignmentFlag.AlignCenter, self.name
        )


def example_points(name: str, count: int) -> list[tuple[float, float]]:
    """Where an example puts so many, as shares of a frame: (y, x)."""
    if name == ALONG:
        shares = [n / (count - 1) for n in range(count)]
        return [(0.5 + 0.42 * math.sin(math.tau * share), share) for share in shares]
    rows = EXAMPLES[name](About((0.0, 0.0), count))
    zero = {key: np.zeros(count) for key in ("value", "x", "y", "z")}
    ys, xs = (read(rows[key]).values(zero, 3, key) for key in ("y", "x"))
    span = max(float(np.ptp(ys)), float(np.ptp(xs)), 1e-9)
    return [(float((y - ys.mean()) / span + 0.5), float((x - xs.mean()) / span + 0.5))
            for y, x in zip(ys, xs, strict=True)]  # fmt: skip
