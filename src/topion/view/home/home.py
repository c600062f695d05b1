"""Home: recent projects, a new one, a sheet to begin with, and the demo."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from topion.edit.journals import Unsaved, unsaved
from topion.formats.recents import forget, moved, recents
from topion.view import style
from topion.view.home.drop_box import DropBox
from topion.view.home.foot import Foot
from topion.view.home.looking import Looking
from topion.view.home.new_side import NewSide
from topion.view.home.recent_cards import Card, RecentCards
from topion.view.panels.fields import bold, choice_button
from topion.view.panels.top_bar import Mark, paint_bar

_ORDERS = ("last used", "by name")


class HomeBar(QWidget):
    """The top line."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(46)
        line = QHBoxLayout(self)
        line.setContentsMargins(10, 0, 12, 0)
        line.setSpacing(9)
        name = QLabel("Topion")
        name.setFont(style.font(16, bold=True))
        none = QLabel("no project open")
        style.tint(none, "soft")
        self.open = QPushButton("Open a folder  Ctrl O")
        self.open.setToolTip("Open a project that lies anywhere (Ctrl+O)")
        self.settings = QPushButton("Settings")
        self.theme = QPushButton("◐")
        self.theme.setAccessibleName("Paper or dark")
        self.theme.setFixedWidth(34)
        self.theme.setStyleSheet("padding: 4px 0;")
        for part in (Mark(), name, none):
            line.addWidget(part)
        line.addStretch(1)
        for button in (self.open, self.settings, self.theme):
            line.addWidget(button)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_bar(self)


class Home(QWidget):
    """Signals: opened(path), brought(a kept journal), made(a NewProject), sheet_chosen(path),
    demo_asked()."""

    opened = pyqtSignal(str)
    brought = pyqtSignal(object)
    made = pyqtSignal(object)
    sheet_chosen = pyqtSignal(object)
    demo_asked = pyqtSignal()
    key_area = "home"

    def __init__(self, kept_in: Path) -> None:
        super().__init__()
        self._order = _ORDERS[0]
        self.bar, self.foot = HomeBar(), Foot()
        self.looking = Looking()
        self.cards = RecentCards(self.looking)
        self.new = NewSide(kept_in)
        self.drop = DropBox()
        self.search = QLineEdit()
        self.search.setObjectName("find")
        self.search.setPlaceholderText("⌕ find")
        self.search.setFixedWidth(110)
        self.search.setAccessibleName("Find a project by letters")
        self.search.textChanged.connect(lambda _: self.refresh())
        self.orders: dict[str, QPushButton] = {}
        self.none = QLabel("Nothing yet. What you make or open is found here the next time.")
        style.tint(self.none, "soft")
        self._lay_out()
        self.cards.opened.connect(self.opened.emit)
        self.cards.brought.connect(self.brought.emit)
        self.cards.forgotten.connect(self._forget)
        self.cards.shown_where.connect(self._ask_where)
        self.new.asked.connect(self.made.emit)
        self.drop.asked.connect(self._ask_sheet)
        self.foot.demo_asked.connect(self.demo_asked.emit)

    def _lay_out(self) -> None:
        title = QLabel("Go on with")
        title.setFont(style.font(16, bold=True))
        head = QHBoxLayout()
        head.setSpacing(4)
        head.addWidget(title)
        head.addStretch(1)
        for order in _ORDERS:
            button = choice_button(order, f"Show projects {order}")
            button.clicked.connect(lambda _, o=order: self._order_by(o))
            self.orders[order] = button
            head.addWidget(button)
        head.addWidget(self.search)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.cards)
        self.cards.setObjectName("cards")
        area.setStyleSheet("QScrollArea, #cards { background: transparent; }")
        left = QVBoxLayout()
        left.setContentsMargins(24, 10, 10, 0)
        left.setSpacing(8)
        left.addLayout(head)
        left.addWidget(self.none)
        left.addWidget(area, 1)
        right = QVBoxLayout()
        right.setContentsMargins(14, 10, 24, 14)
        right.setSpacing(12)
        right.addWidget(self.new)
        right.addWidget(self.drop, 1)
        self._side = QWidget()
        self._side.setFixedWidth(466)
        self._side.setLayout(right)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addLayout(left, 1)
        middle.addWidget(self._side)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bar)
        column.addLayout(middle, 1)
        column.addWidget(self.foot)

    def panels(self) -> list[QWidget]:
        """What it is made of, in the order in which it is looked at."""
        return [self.bar, self.cards, self.new, self.drop, self.foot]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel"))
        painter.setPen(style.ink("line"))
        x = self._side.x()
        painter.drawLine(x, self.bar.height(), x, self.foot.y())

    # --- shown --------------------------------------------------------------------------------

    def showEvent(self, event: object) -> None:
        self.refresh()
        self.looking.look_at(recents())

    def refresh(self) -> None:
        """Show what is remembered now."""
        letters = self.search.text().strip().lower()
        found: list[Card] = [*self._never_saved(), *recents()]
        found = [card for card in found if letters in card.name.lower()]
        if self._order == "by name":
            found.sort(key=lambda card: card.name.lower())
        for order, button in self.orders.items():
            bold(button, order == self._order)
        self.none.setVisible(not found)
        self.cards.show_cards(found)

    @staticmethod
    def _never_saved() -> list[Unsaved]:
        return [one for one in unsaved() if one.strokes]

    def _order_by(self, order: str) -> None:
        self._order = order
        self.refresh()

    # --- done ---------------------------------------------------------------------------------

    def _forget(self, path: str) -> None:
        forget(path)
        self.refresh()

    def _ask_where(self, path: str) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Where it is now", str(Path.home()))
        if folder:
            moved(path, Path(folder))
            self.refresh()
            known = [replace(one) for one in recents() if one.path == str(Path(folder).resolve())]
            self.looking.look_at(known)

    def _ask_sheet(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self, "A tile sheet to begin with", str(self.new.kept_in), "PNG (*.png)"
        )
        if path:
            self.sheet_chosen.emit(Path(path))

    def stop(self) -> None:
        """Nobody looks at it any longer."""
        self.looking.stop()
