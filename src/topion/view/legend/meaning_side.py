"""At the right of the legend desk: all symbols, and what those that are chosen stand for."""

from __future__ import annotations

from PyQt6.QtCore import QItemSelectionModel
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListView,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.view import style
from topion.view.desks.parts import hairline, paint_paper
from topion.view.legend.symbol_rows import SYMBOL, SymbolPainter, SymbolRows, named, told_of
from topion.view.legend.work import LegendWork
from topion.view.panels.fields import choice_button, heading

WIDE = 340
_NOTHING = "nothing"
_SEVERAL = "several"


class MeaningSide(QWidget):
    """The list of symbols over the three parts of a meaning."""

    def __init__(self, work: LegendWork) -> None:
        super().__init__()
        self.work = work
        self.setFixedWidth(WIDE)
        self.rows = SymbolRows(work)
        self.painter = SymbolPainter(work)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setItemDelegate(self.painter)
        self.list.setUniformItemSizes(True)
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setStyleSheet("QListView { background: transparent; }")
        self.list.setAccessibleName("Symbols")
        self.list.setToolTip("Several at once with Shift or Ctrl")
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.each = choice_button("each its own", "Every symbol that stands for nothing becomes a "
                                                  "material of its own")  # fmt: skip
        self.each.clicked.connect(lambda _: work.each_its_own())
        self.title = heading("Symbols")
        self.of = QLabel()
        self.of.setFont(style.font(14, bold=True))
        self.told = QLabel()
        style.tint(self.told, "soft")
        self.choices: dict[str, QComboBox] = {}
        self.nothing = QPushButton("Stands for nothing")
        self.nothing.setToolTip("Leave these cells open")
        self.nothing.clicked.connect(lambda _: self.mean(material="", prefab="", tint=""))
        self._lay_out()
        model = self.list.selectionModel()
        if model is not None:
            model.selectionChanged.connect(lambda _a, _b: self._chosen())
        work.legend_changed.connect(self.refresh)
        work.changed.connect(self._renew)
        self.choose(self.rows.rows[:1])
        work.light("")  # nobody chose it

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setContentsMargins(12, 10, 10, 4)
        head.addWidget(self.title, 1)
        head.addWidget(self.each)
        grid = QGridLayout()
        grid.setContentsMargins(12, 8, 12, 10)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(6)
        top = QHBoxLayout()
        top.setSpacing(10)
        top.addWidget(self.of)
        top.addWidget(self.told, 1)
        grid.addLayout(top, 0, 0, 1, 2)
        for row, (part, label, tip) in enumerate((
            ("material", "Material", "What these cells are; a name that is not there becomes plain "
                                     "tiles"),
            ("prefab", "Thing", "What stands in each of these cells; a name that is not there "
                                "becomes a plain prefab"),
            ("tint", "Tint", "The colour of the palette in which these cells are worn"),
        ), 1):  # fmt: skip
            choice = QComboBox()
            choice.setEditable(True)
            choice.setAccessibleName(label)
            choice.setToolTip(tip)
            choice.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
            choice.activated.connect(lambda _, p=part: self._pick(p))
            line = choice.lineEdit()
            if line is not None:
                line.editingFinished.connect(lambda p=part: self._pick(p))
            self.choices[part] = choice
            grid.addWidget(QLabel(label), row, 0)
            grid.addWidget(choice, row, 1)
        grid.setColumnStretch(1, 1)
        grid.addWidget(self.nothing, 4, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(self.list, 1)
        column.addWidget(hairline())
        column.addLayout(grid)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "left")

    # --- chosen -------------------------------------------------------------------------------

    def chosen(self) -> list[str]:
        """The symbols that are chosen."""
        return [index.data(SYMBOL) for index in self.list.selectedIndexes()]

    def choose(self, symbols: list[str]) -> None:
        """Choose these."""
        model = self.list.selectionModel()
        if model is None:
            return
        model.clearSelection()
        for symbol in symbols:
            if symbol in self.rows.rows:
                index = self.rows.index(self.rows.rows.index(symbol))
                model.select(index, QItemSelectionModel.SelectionFlag.Select)
                self.list.scrollTo(index)

    def _chosen(self) -> None:
        chosen = self.chosen()
        self.work.light(chosen[0] if len(chosen) == 1 else "")
        self.refresh()

    def _renew(self) -> None:
        chosen = self.chosen()
        self.painter.forget()
        self.rows.renew()
        self.choose([symbol for symbol in chosen if symbol in self.rows.rows])
        self.refresh()

    # --- shown --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what the legend says now."""
        work, chosen = self.work, self.chosen()
        self.title.setText(f"{'Colours' if work.of_pictures else 'Symbols'}  {len(work.counts)}")
        open_ = sum(not any(work.meaning(symbol).parts) for symbol in work.counts)
        self.each.setVisible(open_ > 0)
        self.of.setText(named(chosen[0]) if len(chosen) == 1 else f"{len(chosen)} symbols")
        self.told.setText(told_of(work.counts[chosen[0]]) if len(chosen) == 1 else "")
        project = work.session.project
        known = {
            "material": self.work.materials(),
            "prefab": list(project.prefabs),
            "tint": [tint.name for tint in project.palette],
        }
        for part, choice in self.choices.items():
            values = {getattr(work.meaning(symbol), part) for symbol in chosen}
            own = [n for n in work.legend.names(part) if n not in known[part]]  # type: ignore[arg-type]
            self._fill(choice, [_NOTHING, *known[part], *own])
            shown = next(iter(values)) or _NOTHING if len(values) == 1 else _SEVERAL
            choice.setEditText(shown if chosen else "")
            choice.setEnabled(bool(chosen))
        self.nothing.setEnabled(bool(chosen))
        viewport = self.list.viewport()
        if viewport is not None:
            viewport.update()

    @staticmethod
    def _fill(choice: QComboBox, texts: list[str]) -> None:
        if texts != [choice.itemText(n) for n in range(choice.count())]:
            choice.blockSignals(True)
            choice.clear()
            choice.addItems(texts)
            choice.blockSignals(False)

    def _pick(self, part: str) -> None:
        text = self.choices[part].currentText().strip()
        if text == _SEVERAL:
            return
        self.mean(**{part: "" if text == _NOTHING else text})

    def mean(self, **parts: str) -> None:
        """The chosen symbols stand for other parts."""
        self.work.mean(self.chosen(), **parts)
