"""A placement rule as a sentence whose blanks are clicked to be set."""

from __future__ import annotations

import html
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, Protocol

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QMenu, QWidget

from topion.brushes.kind import DrawsCurves
from topion.edit.places import placed, titles
from topion.model.form import Blank, Form, points_of, words_for
from topion.model.project import Project
from topion.parsing import words_of
from topion.things.field import Sows
from topion.things.rules.kind import RuleKind
from topion.view.panels.inked import Inked, inked

Put = Callable[[str, Any], object]  # a field and its new value
Choices = list[tuple[str, Callable[[], object]]]  # words and what they do


class Formed(Protocol):
    """What has a sentence with blanks: a placement rule, or a role."""

    @property
    def form(self) -> Form: ...
    def sentence(self) -> str: ...


class RuleSentence(Inked):
    """The sentence of a rule or a role.  put : called with a field and its new value."""

    def __init__(self, project: Callable[[], Project], put: Put) -> None:
        super().__init__()
        self._project, self.put = project, put
        self.rule: Formed | None = None
        # what else a blank can be, by its field; None for nothing else
        self.more_choices: Callable[[str], Choices | None] = lambda _: None
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.RichText)
        links = Qt.TextInteractionFlag.LinksAccessibleByMouse
        self.setTextInteractionFlags(links | Qt.TextInteractionFlag.LinksAccessibleByKeyboard)
        self.linkActivated.connect(self.ask)

    def show_rule(self, rule: RuleKind) -> None:
        """Show a rule, faintly where it is off."""
        self.show_form(rule, "ink" if rule.on else "soft")

    def show_form(self, rule: Formed, colour: str = "ink") -> None:
        """Show what has a sentence, in one of the inks."""
        self.rule = rule
        parts = [html.escape(part) if isinstance(part, str) else _link(rule, part, colour)
                 for part in rule.form]  # fmt: skip
        self.say(inked("".join(parts), colour))
        self.setAccessibleName(rule.sentence())

    def blanks(self) -> Iterator[Blank]:
        """What can be set in it."""
        yield from (part for part in (self.rule.form if self.rule else ())
                    if isinstance(part, Blank))  # fmt: skip

    def ask(self, field: str) -> None:
        """Ask for another value of a blank."""
        rule = self.rule
        blank = next((b for b in self.blanks() if b.field == field), None)
        if rule is None or blank is None:
            return
        now = getattr(rule, field)
        if (others := self.more_choices(field)) is not None:
            menu = QMenu(self)
            for words, does in others:
                menu.addAction(words, does)
            menu.popup(QCursor.pos())
            return
        if blank.asks == "switch":
            self.put(field, not now)
        elif blank.asks in ("number", "words", "points"):
            text = f"{now:g}" if blank.asks == "number" else words_for(replace(blank, none=""), now)
            self.typed = Typed(self, text, lambda said: self._typed(blank, said))
            self.typed.open_at(QCursor.pos())
        else:
            self.menu_of(blank, now).popup(QCursor.pos())

    def _typed(self, blank: Blank, text: str) -> None:
        if blank.asks == "words":
            self.put(blank.field, words_of(text))
            return
        try:
            if blank.asks == "points":
                self.put(blank.field, points_of(text))
                return
            value = float(text.replace(",", "."))
        except ValueError:
            return
        value = min(blank.highest, max(blank.lowest, value))
        self.put(blank.field, round(value) if blank.whole else value)

    def menu_of(self, blank: Blank, now: Any) -> QMenu:
        """The values to choose from."""
        menu = QMenu(self)
        many = blank.asks == "materials"
        for value, words in self.choices(blank):
            new = _toggled(now, value) if many else value
            action = menu.addAction(words, lambda v=new: self.put(blank.field, v))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(value in now if many else value == now)
        return menu

    def choices(self, blank: Blank) -> list[tuple[Any, str]]:
        """(value, words) of all that a blank can be."""
        project = self._project()
        if blank.asks == "choice":
            return list(blank.choices)
        if blank.asks in ("materials", "material"):
            none = [("", blank.none)] if blank.asks == "material" else []
            return [*none, *((name, name) for name in project.materials)]
        if blank.asks in ("curves", "field"):
            wanted = DrawsCurves if blank.asks == "curves" else Sows
            fitting = (n for n, brush in project.brushes.items() if isinstance(brush, wanted))
            return [("", blank.none), *((name, name) for name in fitting)]
        if blank.asks == "region":
            names = {layer.info.name for room in project.rooms for _, layer in
                     project.rooms.passing(room).regions()}  # fmt: skip
            return [("", blank.none), *((name, name) for name in sorted(names))]
        if blank.asks == "room":
            return [("", blank.none), *((name, name) for name in project.rooms)]
        if blank.asks == "place":
            room, known = getattr(self.rule, "room", ""), titles(project)
            here = [(name, known[name]) for name in placed(project, room)] if room else []
            return [("", blank.none), *here]
        classes = sorted({p.class_name for p in project.prefabs.values() if p.class_name})
        none = [("", blank.none)] if blank.none != "…" else []
        return [*none, ("anything", "anything"), *((c, f"class {c}") for c in classes),
                *((name, name) for name in project.prefabs)]  # fmt: skip


def _toggled(names: tuple[str, ...], name: str) -> tuple[str, ...]:
    return tuple(n for n in names if n != name) if name in names else (*names, name)


def _link(rule: Formed, blank: Blank, colour: str) -> str:
    value = getattr(rule, blank.field)
    words = words_for(blank, value)
    more = "" if blank.asks in ("number", "switch", "points") else " ▾"
    said = f"<b>{html.escape(words)}</b>"
    return f"<a href='{blank.field}' style='color:@{colour}'>{said}</a>{inked(more, 'soft')}"


class Typed(QFrame):
    """A small field for a value, over everything; Enter or a click elsewhere takes it."""

    def __init__(self, parent: QWidget, text: str, done: Callable[[str], object]) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.field = QLineEdit(text)
        self.field.setFixedWidth(max(90, 9 * len(text) + 30))
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 4, 4, 4)
        row.addWidget(self.field)
        self._done: Callable[[str], object] | None = done
        self.field.returnPressed.connect(self.close)

    def open_at(self, point: QPoint) -> None:
        """Show it there."""
        self.move(point)
        self.show()
        self.field.setFocus()
        self.field.selectAll()

    def hideEvent(self, event: object) -> None:
        done, self._done = self._done, None
        if done is not None and self.field.isModified():
            done(self.field.text())
