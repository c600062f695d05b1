"""The right column of a weave desk: cover, what is tried when no rule fits, and the chosen rule."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.brushes.kind import all_brushes
from topion.grid.told import several
from topion.view import style
from topion.view.desks.cover_grid import CoverGrid, CoverLegend
from topion.view.desks.mark_card import colour_of_material
from topion.view.desks.parts import Switches, add_row, fill, hairline, paint_paper
from topion.view.desks.rule_list import RuleList
from topion.view.desks.weave_work import WeaveWork
from topion.view.panels.fields import heading
from topion.weaving import rule_edits
from topion.weaving.looms import Weaves

_NOTHING = "nothing"


class RuleSide(QWidget):
    """Cover above, settings below; all of it follows the work."""

    def __init__(self, work: WeaveWork, rules: RuleList) -> None:
        super().__init__()
        self.work, self.rules = work, rules
        self.setFixedWidth(300)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 8)
        column.setSpacing(6)
        self.title = heading("")
        self.grid = CoverGrid()
        self.grid.asked.connect(work.make_rule_for)
        self.grid.pointed.connect(work.light)
        self.legend = CoverLegend(self.grid)
        for part in (self.title, self.grid, self.legend, hairline()):
            column.addWidget(part)
        self._rows = QGridLayout()
        self._rows.setVerticalSpacing(5)
        self._rows.setColumnStretch(1, 1)
        self.falls = self._choice("Falls back to", "Whose rules are tried when none of these fits",
                                  self._set_fallback)  # fmt: skip
        self.last = self._choice("Last resort tile", "What is laid when nothing fits at all",
                                 self._set_last)  # fmt: skip
        column.addLayout(self._rows)
        column.addWidget(hairline())
        self.rule_title = heading("")
        column.addWidget(self.rule_title)
        self._rule_rows = QGridLayout()
        self._rule_rows.setVerticalSpacing(5)
        self._rule_rows.setColumnStretch(1, 1)
        self._build_rule()
        column.addLayout(self._rule_rows)
        column.addLayout(self._buttons())
        column.addStretch(1)
        work.changed.connect(self.refresh)
        work.chosen.connect(self.refresh)
        work.counted.connect(self._show_count)
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "left")

    # --- building -------------------------------------------------------------------------

    def _choice(self, label: str, tip: str, put: Callable[[str], object]) -> QComboBox:
        choice = QComboBox()
        choice.setAccessibleName(label)
        choice.setToolTip(tip)
        choice.activated.connect(lambda _: put(choice.currentText()))
        add_row(self._rows, label, choice)
        return choice

    def _build_rule(self) -> None:
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the rule")
        self.name.editingFinished.connect(self._rename)
        add_row(self._rule_rows, "Name", self.name)
        self.sides = Switches({"3 × 3": 3, "5 × 5": 5})
        self.sides.setToolTip("How far round the cell the rule looks")
        self.sides.chosen = lambda side: self._try(
            lambda rule: rule_edits.of_side(rule, side), "size of its card")  # fmt: skip
        add_row(self._rule_rows, "Look at", self.sides)
        self.flags: dict[str, Switches] = {}
        for field, label, tip, words in (
            ("turned", "Also turned", "The card also holds in its quarter turns", ("no", "¼ ½ ¾")),
            ("mirrored", "Also mirrored", "The card, and its turns, also hold mirrored",
             ("no", "left–right")),
            ("turns_tile", "Its tiles", "Whether tiles turn along with the card",
             ("stay", "turn along")),
            ("on", "Tried", "Whether the rule is tried at all", ("off", "on")),
        ):  # fmt: skip
            switch = Switches({words[0]: False, words[1]: True})
            switch.setToolTip(tip)
            switch.chosen = self._flag(field, label)
            self.flags[field] = switch
            add_row(self._rule_rows, label, switch)
        self.weight = QLineEdit()
        self.weight.setObjectName("number")
        self.weight.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.weight.setAccessibleName("Weight of the chosen tile")
        self.weight.setToolTip("How often the chosen tile is laid beside its fellows")
        self.weight.editingFinished.connect(self._weigh)
        add_row(self._rule_rows, "Weight of its tile", self.weight)
        self.count = QLabel()
        self.count.setFont(style.font(13, bold=True))
        self.count.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.where = add_row(self._rule_rows, "Fires", self.count)

    def _flag(self, field: str, label: str) -> Callable[[Any], object]:
        return lambda value: self._try(lambda rule: replace(rule, **{field: value}), label.lower())

    def _buttons(self) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(6)
        for text, tip, act in (
            ("New", "A rule that asks for nothing yet", self.work.add_plain),
            ("Duplicate", "A copy of the rule behind it (Ctrl+D)", self.work.duplicate),
            ("Remove", "Without this rule (Del)", self.work.remove),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.setAccessibleName(f"{text} rule")
            button.clicked.connect(lambda _, a=act: a())
            line.addWidget(button)
        line.addStretch(1)
        return line

    # --- showing --------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the brush and the chosen rule as they are now."""
        work = self.work
        cases = work.cover()
        self.grid.show_cases(cases, colour_of_material(work.project, work.material))
        ways = "64 ways its sides can meet" if self.grid.deep else "47 ways a cell can sit"
        self.title.setText(f"Cover · the {ways}")
        self.legend.update()
        book = work.book
        fill(self.falls, [_NOTHING, *self._others()], book.falls_back_to or _NOTHING)
        last = book.last_resort.slot if book.last_resort else _NOTHING
        tiles = dict.fromkeys(v.tile.slot for rule in book.rules for v in rule.variants)
        fill(self.last, list(dict.fromkeys([_NOTHING, last, *tiles])), last)
        self._show_rule()

    def _others(self) -> list[str]:
        brushes = all_brushes(self.work.project).values()
        deep = self.work.deep
        return [b.material for b in brushes if isinstance(b, Weaves) and b.material
                and b.material != self.work.material and bool(b.lays_blocks()) == deep]  # fmt: skip

    def _show_rule(self) -> None:
        rule = self.work.chosen_rule()
        self.rule_title.setText(f"Rule {self.work.rule}" if rule else "No rule chosen")
        self.name.setEnabled(rule is not None)
        if rule is None:
            return
        if not self.name.hasFocus():
            self.name.setText(rule.name)
        self.sides.show_value(len(rule.marks))
        self.sides.setEnabled(not self.work.deep)
        for field, switch in self.flags.items():
            switch.show_value(getattr(rule, field))
        place = max(0, self.rules.variant)
        if place < len(rule.variants):
            self.weight.setText(f"{rule.variants[place].weight:g}")
        self._show_count()

    def _show_count(self) -> None:
        count = self.work.cells_of(self.work.rule)
        self.count.setText(several(count, "cell"))
        self.where.setText(f"Fires in {self.work.session.room_name or 'no room'}")

    # --- setting --------------------------------------------------------------------------

    def _try(self, change: Callable[[Any], Any], what: str) -> None:
        rule = self.work.chosen_rule()
        self.work.try_rule(change, f"{what} of {rule.name}" if rule else what)

    def _rename(self) -> None:
        rule, name = self.work.chosen_rule(), self.name.text().strip()
        if rule is not None and name and name != rule.name:
            self.work.set_rule(replace(rule, name=name), f"rule {rule.name} is {name} now")

    def _weigh(self) -> None:
        rule = self.work.chosen_rule()
        try:
            weight = float(self.weight.text().replace(",", "."))
        except ValueError:
            self.work.session.said.emit(
                f"The weight of a tile is a number, not “{self.weight.text()}”"
            )
            self._show_rule()
            return
        place = max(0, self.rules.variant)
        there = rule is not None and place < len(rule.variants)
        if there and rule is not None and rule.variants[place].weight != weight:
            self.rules.weigh(place, weight)
            self.work.end_pull()

    def _set_fallback(self, name: str) -> None:
        other = "" if name == _NOTHING else name
        self.work.set_book(replace(self.work.book, falls_back_to=other), f"falls back to {name}")

    def _set_last(self, slot: str) -> None:
        tiles = {v.tile.slot: v.tile for rule in self.work.book.rules for v in rule.variants}
        tile = tiles.get(slot)
        self.work.set_book(replace(self.work.book, last_resort=tile), f"last resort {slot}")
