"""When something appears or opens: what it does, and its conditions as sentences."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from topion.conditions import CONDITIONS
from topion.errors import TopionError
from topion.model.condition import ALWAYS, Condition, When
from topion.model.project import Project
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, labelled
from topion.view.panels.sentence import Choices, RuleSentence


class WhenRows(QWidget):
    """put : called with another When.  failed : with a sentence.  choices : of a blank of a
    condition, by its number and field, where the blank's own are not enough.
    revert : called to have it as before it was set here; offered where `show_when` says so."""

    def __init__(self, project: Callable[[], Project], *, of_room: bool) -> None:
        """of_room : also conditions that speak of one thing of a room."""
        super().__init__()
        self.kinds = {kind: made for kind, made in CONDITIONS.items()
                      if of_room or not made.points}  # fmt: skip
        self.revert: Callable[[], object] = lambda: None
        self.put: Callable[[When], object] = lambda _: None
        self.failed: Callable[[str], object] = lambda _: None
        self.choices: Callable[[int, str], Choices | None] = lambda *_: None
        self.when = ALWAYS
        self._project = project
        self.effect = choice_button("", "Whether it appears or opens, once its conditions hold")
        self.effect.clicked.connect(lambda _: self._next_effect())
        self.more = choice_button("+ condition", "One more condition, which must hold too")
        self.more.clicked.connect(lambda _: self._ask_more())
        self.own = choice_button("as its prefab", "Without conditions of its own")
        self.own.clicked.connect(lambda _: self.revert())
        self.own.hide()
        self.conditions: list[tuple[RuleSentence, QPushButton]] = []
        self._list = QVBoxLayout()
        self._list.setSpacing(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(2)
        whole.addWidget(labelled("It", self.effect))
        whole.addLayout(self._list)
        whole.addWidget(labelled("", self.own, self.more))

    def show_when(self, when: When, *, own: bool = False, mixed: bool = False) -> None:
        """Show another When, which can be reverted where it is its own; those of several differ
        where it is mixed."""
        self.when = when
        self.own.setVisible(own)
        told = f"{when.effect} when" if when.all_of else "is there from the start"
        told = "mixed" if mixed else told
        self.effect.setText(told)
        self.effect.setEnabled(bool(when.all_of))
        if [sentence.rule for sentence, _ in self.conditions] == list(when.all_of):
            return
        emptied(self._list)
        self.conditions = []
        for number, condition in enumerate(when.all_of):
            self._list.addWidget(self._row(number, condition))

    def _row(self, number: int, condition: Condition) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(10, 0, 0, 0)
        sentence = RuleSentence(self._project, partial(self.set_field, number))
        sentence.more_choices = partial(self.choices, number)
        sentence.show_form(condition)
        gone = choice_button("×", "Without this condition")
        gone.clicked.connect(lambda _: self._put_at(number, None))
        line.addWidget(sentence, 1)
        line.addWidget(gone)
        self.conditions.append((sentence, gone))
        return row

    def _next_effect(self) -> None:
        opens = self.when.effect == "appears"
        self.put(replace(self.when, effect="opens" if opens else "appears"))

    def _ask_more(self) -> None:
        menu = QMenu(self)
        for kind, make in self.kinds.items():
            menu.addAction(make().sentence(), partial(self.add_condition, kind))
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

    def add_condition(self, kind: str) -> None:
        """One more condition of a kind."""
        try:
            self.put(replace(self.when, all_of=(*self.when.all_of, CONDITIONS[kind]())))
        except TopionError as problem:
            self.failed(str(problem))

    def set_field(self, number: int, field: str, value: Any) -> None:
        """Set a blank of a condition."""
        condition: Any = self.when.all_of[number]
        try:
            self._put_at(number, replace(condition, **{field: value}))
        except TopionError as problem:
            self.failed(str(problem))

    def _put_at(self, number: int, condition: Condition | None) -> None:
        known, new = self.when.all_of, () if condition is None else (condition,)
        self.put(replace(self.when, all_of=(*known[:number], *new, *known[number + 1 :])))
