"""The right column of desks: how the chosen slots or blocks act, and where they are used."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.slots import SlotUse
from topion.model.traits import Traits
from topion.parsing import words_of
from topion.view.desks.parts import add_row, hairline, paint_paper
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import heading
from topion.view.session import Session

FLAGS = {
    "solid": ("Solid", "Fills its cell"),
    "walkable": ("Walkable", "Can be walked on"),
    "climbable": ("Climbable", "Can be climbed"),
    "opening": ("Opening", "Lets through where all round is solid"),
    "carries": ("Carries things", "Things can stand on it"),
    "slope": ("Slope", "Its top is not level"),
    "not_for_use": ("Not for use", "The survey finds it where it lies in a room"),
}
_MIXED = "several"
_MOST_USES = 6


class TraitSide(QWidget):
    """Signals: asked(SlotUse) to jump to where what is shown is used."""

    asked = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(300)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 8)
        self.column.setSpacing(6)
        self.title = heading("")
        self.head = QHBoxLayout()
        self.head.addWidget(self.title, 1)
        self.column.addLayout(self.head)
        self.add_preview()
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)
        self.name = self.add_text(
            "Name", "A name that stays when the picture changes", self._rename
        )
        self.tags = self.add_text("Tags", "Words by which rules and searches know it", self._tag)
        self.top = self.add_text("Top", "Height of the surface that carries, 0 to 1",
                             lambda: self.set_number("top", self.top, float))  # fmt: skip
        self.add_rows()
        self.column.addLayout(self.grid)
        self.flags: dict[str, QCheckBox] = {}
        flags = QGridLayout()
        flags.setVerticalSpacing(2)
        for number, (field, (words, tip)) in enumerate(FLAGS.items()):
            box = QCheckBox(words)
            box.setToolTip(tip)
            box.clicked.connect(lambda on, f=field: self.set_flag(f))
            self.flags[field] = box
            flags.addWidget(box, number // 2, number % 2)
        self.column.addLayout(flags)
        self.add_more()
        self.column.addWidget(hairline())
        self.column.addWidget(heading("Used by"))
        self.uses = QVBoxLayout()
        self.uses.setSpacing(0)
        self.column.addLayout(self.uses)
        self.column.addStretch(1)
        session.changed.connect(self.refresh)

    # --- what each kind of side tells -----------------------------------------------------

    @abstractmethod
    def items(self) -> Sequence[Traits]:
        """What is known of each that is shown."""

    @abstractmethod
    def refresh(self, dirty: object = None) -> None:
        """Show what is chosen as it is now."""

    @abstractmethod
    def set_all(self, **changes: Any) -> None:
        """Give all that are shown other traits."""

    @abstractmethod
    def own_name(self) -> str:
        """The name of the one that is shown; nothing for several."""

    @abstractmethod
    def rename(self, old: str, new: str) -> None:
        """Give it another name."""

    def add_preview(self) -> None:
        """Add what stands above the rows."""

    def add_rows(self) -> None:
        """Add rows below those that all have."""

    def add_more(self) -> None:
        """Add what stands below the traits."""

    # --- building and showing -------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_paper(self, "left")

    def add_text(self, label: str, tip: str, done: Callable[[], object]) -> QLineEdit:
        """A row with a line of text."""
        edit = QLineEdit()
        edit.setAccessibleName(label)
        edit.setToolTip(tip)
        edit.editingFinished.connect(done)
        add_row(self.grid, label, edit)
        return edit

    def show_traits(self) -> None:
        """Show what all have in common; what differs among them is said so."""
        items = self.items()
        for part in (self.name, self.tags, self.top, *self.flags.values()):
            part.setEnabled(bool(items))
        self.name.setEnabled(bool(self.own_name()))
        show_values(self.name, [self.own_name()])
        show_values(self.tags, [", ".join(item.tags) for item in items])
        show_values(self.top, [f"{item.top:g}" for item in items])
        for field, box in self.flags.items():
            values = {bool(getattr(item, field)) for item in items}
            box.setTristate(len(values) > 1)
            box.setCheckState(Qt.CheckState.PartiallyChecked if len(values) > 1 else (
                Qt.CheckState.Checked if True in values else Qt.CheckState.Unchecked))  # fmt: skip

    def show_uses(self, found: list[SlotUse], *, of_one: bool) -> None:
        """Show where it is used; each leads there."""
        emptied(self.uses)
        for use in found[:_MOST_USES]:
            where = f"{use.room}: {use.cells:,} cells" if use.room else use.name
            button = QPushButton(f"{where} ›")
            button.setObjectName("plain")
            button.setToolTip("Go there")
            button.clicked.connect(lambda _, u=use: self.asked.emit(u))
            self.uses.addWidget(button)
        more = len(found) - _MOST_USES
        words = f"and {more} more" if more > 0 else "" if found else "nothing lays it"
        if words and of_one:
            self.uses.addWidget(QLabel(words))

    # --- setting --------------------------------------------------------------------------

    def set_flag(self, field: str) -> None:
        """Set a trait of all that is marked, or take it away where all have it."""
        values = {bool(getattr(item, field)) for item in self.items()}
        if values:
            self.set_all(**{field: len(values) > 1 or not values.pop()})

    def _rename(self) -> None:
        old, new = self.own_name(), self.name.text().strip()
        if old and new and new != old:
            self.rename(old, new)
        self.refresh()

    def _tag(self) -> None:
        if self.tags.isModified():
            self.set_all(tags=words_of(self.tags.text()))

    def set_number(self, field: str, edit: QLineEdit, kind: Callable[[str], Any]) -> None:
        """Take a number that was written."""
        if not edit.isModified():
            return
        try:
            value = kind(edit.text().replace(",", "."))
        except ValueError:
            label = edit.accessibleName()
            self.session.said.emit(f"{label} is a number, not “{edit.text()}”")
            edit.setModified(False)
            self.refresh()
            return
        self.set_all(**{field: value})


def show_values(edit: QLineEdit, values: list[str]) -> None:
    """The value of all of them, or that they differ."""
    if edit.hasFocus() and edit.isModified():
        return
    same = len(set(values)) == 1
    edit.setText(values[0] if same else "")
    edit.setPlaceholderText(_MIXED if len(set(values)) > 1 else "")
    edit.setModified(False)
