"""The placement rules of a field, under its settings: each a sentence whose blanks are set."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from topion.errors import TopionError
from topion.model.prefab import PlacementRule
from topion.model.project import Project
from topion.things.rules import RuleKind
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, labelled, narrow_column
from topion.view.panels.new_rules import NEW_RULES
from topion.view.panels.sentence import RuleSentence

Rules = tuple[PlacementRule, ...]


class FieldRules(QWidget):
    """put : called with other rules.  failed : with a sentence where a value cannot be."""

    def __init__(self, project: Callable[[], Project], put: Callable[[Rules], object],
                 failed: Callable[[str], object]) -> None:  # fmt: skip
        super().__init__()
        self._project, self._put, self._failed = project, put, failed
        self.rules: Rules = ()
        self.rows: list[tuple[RuleSentence, QPushButton]] = []
        self.more = choice_button("+ rule", "One more rule of what it sows")
        self.more.clicked.connect(lambda _: self.menu().popup(
            self.more.mapToGlobal(self.more.rect().bottomLeft())))  # fmt: skip
        self._list = narrow_column()
        whole = narrow_column()
        self.setLayout(whole)
        whole.addWidget(labelled("Rules of what it sows", self.more))
        whole.addLayout(self._list)

    def show_rules(self, rules: Rules) -> None:
        """Show these; rows stay where they are as they were."""
        if rules == self.rules:
            return
        self.rules = rules
        emptied(self._list)
        self.rows = []
        for number, rule in enumerate(rules):
            self._list.addWidget(self._row(number, rule))

    def _row(self, number: int, rule: PlacementRule) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 2, 0, 2)
        sentence = RuleSentence(self._project, partial(self._set, number))
        if isinstance(rule, RuleKind):
            sentence.show_rule(rule)
        else:
            sentence.setText(rule.sentence())
        gone = choice_button("×", "Without this rule")
        gone.clicked.connect(lambda _: self._change(number, ()))
        line.addWidget(sentence, 1)
        line.addWidget(gone)
        self.rows.append((sentence, gone))
        return row

    def menu(self) -> QMenu:
        """The kinds of rules that can be added."""
        menu = QMenu(self)
        for words, make in NEW_RULES.items():
            menu.addAction(words, lambda m=make: self._put((*self.rules, m())))
        return menu

    def _set(self, number: int, field: str, value: Any) -> None:
        rule: Any = self.rules[number]
        try:
            self._change(number, (replace(rule, **{field: value}),))
        except TopionError as problem:
            self._failed(str(problem))

    def _change(self, number: int, new: Rules) -> None:
        self._put((*self.rules[:number], *new, *self.rules[number + 1 :]))
