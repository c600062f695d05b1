"""At the right of Home: a new project, how it begins, and its first room."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIntValidator, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.formats.stems import stem
from topion.formats.store import SUFFIX
from topion.kit.blockout import FirstRoom
from topion.kit.starting import Beginning
from topion.view import style
from topion.view.home.drawings import draw_beginning
from topion.view.home.kit_seen import kit_seen
from topion.view.home.times import short_path

_BEGINNINGS: dict[Beginning, tuple[str, str]] = {
    "empty": (
        "empty", "No tiles, no brushes: <b>bring in a sheet of your own</b>, or drop one below.",
    ),
    "kit": (
        "blockout kit", "Plain grey <b>tiles and blocks with their rules ready</b>: ground, wall, "
        "ramps 1 : 1 and 2 : 1, trail, start, goal, door. Give it another theme later and no cell "
        "changes.",
    ),
    "library": (
        "library of another", "All <b>brushes, tiles and things of another project</b>, without "
        "its rooms.",
    ),
}  # fmt: skip
_SIDES = (8, 16, 24, 32)
_VOXEL_SIZE = (16, 32, 32)  # levels, height, width at first
_FLAT_SIZE = (30, 48)


@dataclass(frozen=True)
class NewProject:
    """What is asked for.  other : whose library it has."""

    beginning: Beginning
    name: str
    folder: Path
    first: FirstRoom
    other: Path | None = None


class BeginCard(QPushButton):
    """A way to begin, as a picture."""

    def __init__(self, which: Beginning) -> None:
        super().__init__()
        self.which = which
        self.setCheckable(True)
        self.setFixedHeight(116)
        self.setMinimumWidth(120)
        words, about = _BEGINNINGS[which]
        self.setAccessibleName(f"Begin with: {words}")
        self.setToolTip(about.replace("<b>", "").replace("</b>", ""))
        self._kit = kit_seen()
        self._kit.made.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(136, 116)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        rect = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        ink = "buoy" if on else "tidal" if self.hasFocus() else "line"
        painter.setPen(QPen(style.ink(ink), 2 if on else 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(rect, 5, 5)
        draw_beginning(painter, rect.adjusted(6, 6, -6, -30), self.which, self._kit.pictures())
        painter.setFont(style.font(13, bold=on))
        painter.setPen(style.ink("ink"))
        foot = QRectF(rect.left() + 8, rect.bottom() - 26, rect.width() - 12, 22)
        painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter, _BEGINNINGS[self.which][0])


class _Bubble(QLabel):
    """What the chosen way means, with a tip towards it."""

    def __init__(self) -> None:
        super().__init__()
        self.tip = 0.5
        self.setWordWrap(True)
        self.setFixedHeight(66)
        self.setContentsMargins(11, 9, 11, 3)
        self.setFont(style.font(12))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.setBrush(style.ink("card"))
        rect = QRectF(self.rect()).adjusted(0.5, 6.5, -0.5, -0.5)
        painter.drawRoundedRect(rect, 4, 4)
        x = self.width() * self.tip
        painter.drawPolygon(QPolygonF([QPointF(x - 7, 7), QPointF(x, 0), QPointF(x + 7, 7)]))
        painter.fillRect(QRectF(x - 6.5, 7, 13, 2), style.ink("card"))
        super().paintEvent(event)


class NewSide(QWidget):
    """Signals: asked(a NewProject); library_asked() when whose library is to be chosen."""

    asked = pyqtSignal(object)

    def __init__(self, kept_in: Path) -> None:
        super().__init__()
        self.kept_in = kept_in
        self.other: Path | None = None
        self.cards: dict[Beginning, BeginCard] = {}
        self.bubble = _Bubble()
        self.name = QLineEdit("Untitled")
        self.name.setAccessibleName("Name of the project")
        self.where = QLabel()
        style.tint(self.where, "soft")
        self.kinds = self._segments("First room", {"flat": "flat", "voxel": "voxel"})
        self.views = self._segments("Seen", {"from the side": "side", "from above": "top"})
        self.sides = self._segments("Cell size in px", {str(n): n for n in _SIDES})
        self.width_field, self.height_field, self.levels = (
            _number(text) for text in ("Cells from west to east", "Cells from north to south",
                                       "Levels"))  # fmt: skip
        self.told = QLabel()
        self.told.setFont(style.font(12))
        style.tint(self.told, "soft")
        self.make = QPushButton("Make it and paint")
        self.make.setObjectName("strong")
        self.make.setFixedHeight(27)
        self.make.setMinimumWidth(160)
        self.make.setToolTip("Make the project and open it (Enter)")
        self.make.clicked.connect(lambda _: self.ask())
        for field in (self.name, self.width_field, self.height_field, self.levels):
            field.textChanged.connect(lambda _: self.refresh())
            field.returnPressed.connect(self.ask)
        self._lay_out()
        self.use("kit")
        self._choose(self.kinds, "flat")
        self._choose(self.views, "side")
        self._choose(self.sides, 16)
        self._show_size(_FLAT_SIZE)

    # --- parts --------------------------------------------------------------------------------

    def _segments(self, label: str, values: dict[str, object]) -> QButtonGroup:
        group = QButtonGroup(self)
        group.setExclusive(True)
        for number, (text, value) in enumerate(values.items()):
            place = "first" if not number else "last" if number == len(values) - 1 else ""
            button = QPushButton(text, self)
            button.setObjectName(f"segment{place}")
            button.setCheckable(True)
            button.setFixedHeight(27)
            button.setProperty("tight", True)
            button.setProperty("value", value)
            button.setAccessibleName(f"{label}: {text}")
            button.setToolTip(f"{label}: {text}")
            group.addButton(button, number)
        group.buttonClicked.connect(lambda button: self._clicked(group))
        return group

    @staticmethod
    def _choose(group: QButtonGroup, value: object) -> None:
        for button in group.buttons():
            if button.property("value") == value:
                button.setChecked(True)

    @staticmethod
    def _value(group: QButtonGroup) -> object:
        button = group.checkedButton()
        return button.property("value") if button is not None else None

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(9)
        title = QLabel("New project")
        title.setFont(style.font(16, bold=True))
        begins = QLabel("begins with")
        style.tint(begins, "soft")
        column.addLayout(_row(title, begins, None))
        cards = QHBoxLayout()
        cards.setSpacing(10)
        for which in _BEGINNINGS:
            card = BeginCard(which)
            card.clicked.connect(lambda _, w=which: self._begin_with(w))
            self.cards[which] = card
            cards.addWidget(card, 1)
        column.addLayout(cards)
        column.addWidget(self.bubble)
        column.addLayout(_labelled("Name", self.name))
        self.elsewhere = QPushButton("elsewhere …")
        self.elsewhere.setObjectName("plain")
        self.elsewhere.setFont(style.font(bold=True))
        style.tint(self.elsewhere, "tidal")
        self.elsewhere.setToolTip("Choose the folder that the project is kept in")
        self.elsewhere.clicked.connect(lambda _: self._ask_place())
        column.addLayout(_labelled("Kept in", self.where, None, self.elsewhere))
        column.addLayout(_labelled("First room", _joined(self.kinds), _joined(self.views), None))
        self.of, self.px, self.times = QLabel("of"), QLabel("px"), QLabel("×")
        column.addLayout(_labelled("Cells", self.width_field, QLabel("×"), self.height_field,
                                   self.times, self.levels, self.of, _joined(self.sides), self.px,
                                   self.told, None))  # fmt: skip
        later = QLabel("<b>Enter</b>&nbsp; you can change all of this later")
        later.setFont(style.font(12))
        style.tint(later, "soft")
        column.addLayout(_row(self.make, later, None))

    # --- shown --------------------------------------------------------------------------------

    def use(self, which: Beginning) -> None:
        """Begin in that way."""
        for known, card in self.cards.items():
            card.setChecked(known == which)
        words = _BEGINNINGS[which][1]
        if which == "library" and self.other is not None:
            words += f" Now <b>{self.other.name.removesuffix(SUFFIX)}</b>."
        self.bubble.setText(words)
        self.bubble.tip = (list(self.cards).index(which) * 2 + 1) / (2 * len(self.cards))
        self.bubble.update()
        self.refresh()

    @property
    def beginning(self) -> Beginning:
        return next(which for which, card in self.cards.items() if card.isChecked())

    def refresh(self) -> None:
        """Show where it will lie, and how large its first room is."""
        self.where.setText(short_path(str(self.folder), str(Path.home())))
        self.where.setToolTip(str(self.folder))
        deep = self._value(self.kinds) == "voxel"
        for button in self.views.buttons():
            button.setVisible(not deep)
        for widget in (self.times, self.levels):
            widget.setVisible(deep)
        px = self._value(self.sides) or 16
        width, height = self._typed(self.width_field), self._typed(self.height_field)
        self.told.setText("" if deep else f"{width * int(px)} × {height * int(px)}")  # type: ignore[call-overload]
        self.make.setEnabled(bool(self.name.text().strip()))

    @property
    def folder(self) -> Path:
        """Where the project will lie."""
        return self.kept_in / f"{stem(self.name.text().strip() or 'Untitled')}{SUFFIX}"

    @staticmethod
    def _typed(field: QLineEdit) -> int:
        return max(1, int(field.text() or 1))

    def _show_size(self, size: tuple[int, ...]) -> None:
        self.width_field.setText(str(size[-1]))
        self.height_field.setText(str(size[-2]))
        self.levels.setText(str(size[0] if len(size) == 3 else _VOXEL_SIZE[0]))
        self.refresh()

    # --- done ---------------------------------------------------------------------------------

    def _clicked(self, group: QButtonGroup) -> None:
        if group is self.kinds:
            self._show_size(_VOXEL_SIZE if self._value(self.kinds) == "voxel" else _FLAT_SIZE)
        self.refresh()

    def _begin_with(self, which: Beginning) -> None:
        before = self.other
        if which == "library":
            folder = QFileDialog.getExistingDirectory(self, "Whose library?", str(self.kept_in))
            if folder:
                self.other = Path(folder)
            if self.other is None:
                which = "kit"
        self.use(which if which != "library" or self.other or before else "kit")

    def _ask_place(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Kept in", str(self.kept_in))
        if folder:
            self.keep_in(Path(folder))

    def keep_in(self, folder: Path) -> None:
        """Keep new projects in that folder."""
        self.kept_in = folder
        self.refresh()

    def wanted(self) -> NewProject:
        """What the fields ask for."""
        size: tuple[int, ...] = self._typed(self.height_field), self._typed(self.width_field)
        if self._value(self.kinds) == "voxel":
            size = (self._typed(self.levels), *size)
        seen: Literal["top", "side"] = "top" if self._value(self.views) == "top" else "side"
        first = FirstRoom("Room 1", size, seen, int(str(self._value(self.sides))))
        other = self.other if self.beginning == "library" else None
        return NewProject(self.beginning, self.name.text().strip(), self.folder, first, other)

    def ask(self) -> None:
        """Make it."""
        if self.make.isEnabled():
            self.asked.emit(self.wanted())


def _number(tip: str) -> QLineEdit:
    field = QLineEdit()
    field.setObjectName("number")
    field.setAlignment(Qt.AlignmentFlag.AlignRight)
    field.setFixedWidth(34)
    field.setValidator(QIntValidator(1, 16_384))
    field.setToolTip(tip)
    field.setAccessibleName(tip)
    field.setFont(style.font(13, bold=True))
    return field


def _joined(group: QButtonGroup) -> QWidget:
    made = QWidget()
    line = QHBoxLayout(made)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(0)
    for button in group.buttons():
        line.addWidget(button)
    return made


def _row(*parts: QWidget | None) -> QHBoxLayout:
    """Parts side by side; None takes what room is left."""
    line = QHBoxLayout()
    line.setSpacing(7)
    for part in parts:
        if part is None:
            line.addStretch(1)
        else:
            line.addWidget(part)
    return line


def _labelled(text: str, *parts: QWidget | None) -> QHBoxLayout:
    label = QLabel(text)
    label.setFixedWidth(70)
    return _row(label, *parts)
