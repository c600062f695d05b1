"""What is known of the picked rooms, and set: where they lie, what they are worn in."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from topion.edit.places import begin_at, wear_there
from topion.edit.rooms import rename_room
from topion.model.themes import theme_names
from topion.plan.sheet import Spot
from topion.view import style
from topion.view.panels.fields import choice_button, labelled, number_field
from topion.view.plan.room_rows import counted
from topion.view.plan.sheet_drawing import facts_of
from topion.view.plan.work import PlanWork


class PlaceSide(QWidget):
    """Shows one placed room, or how many are picked; see `show_places`."""

    def __init__(self, work: PlanWork) -> None:
        super().__init__()
        self.work = work
        self.spot: Spot | None = None
        self.name = QLineEdit()
        self.name.setObjectName("find")
        self.name.setFont(style.font(15, bold=True))
        self.name.setStyleSheet("padding: 0;")
        self.name.setAccessibleName("Name of the room")
        self.name.setToolTip("Another name for the room; doors go on leading there")
        self.name.editingFinished.connect(self._rename)
        self.told = QLabel()
        style.tint(self.told, "soft")
        self.there = choice_button("enter ›", "Open the room (Enter, or a double click)")
        style.tint(self.there, "tidal")
        self.there.clicked.connect(lambda _: self._enter())
        self.east, self.south = (
            number_field("East, in cells", 46),
            number_field("South, in cells", 46),
        )
        for field in (self.east, self.south):
            field.editingFinished.connect(self._move)
        self.tint = choice_button("", "The tint map that it is worn in here")
        self.tint.clicked.connect(lambda _: self._show_menu(self.tint_menu(), self.tint))
        self.theme = choice_button("", "The theme that it is worn in here")
        self.theme.clicked.connect(lambda _: self._show_menu(self.theme_menu(), self.theme))
        self.begin = choice_button("", "The world starts where this room has its start")
        self.begin.clicked.connect(lambda _: self._begin())
        self.again = QPushButton("Place again")
        self.again.setToolTip("The same room once more, perhaps worn otherwise (Ctrl+D)")
        self.again.clicked.connect(lambda _: self._again())
        self.off = QPushButton("Off the plan")
        self.off.setToolTip("The room stays in the project (Del)")
        self.off.clicked.connect(lambda _: work.take_off())
        self._lay_out()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(self.name, 1)
        head.addWidget(self.there)
        column.addLayout(head)
        column.addWidget(self.told)
        self.single = [labelled("Place", QLabel("x"), self.east, QLabel("y"), self.south),
                       labelled("Theme", self.theme), labelled("Tint map", self.tint),
                       labelled("World starts", self.begin)]  # fmt: skip
        for row in self.single:
            column.addWidget(row)
        buttons = QHBoxLayout()
        buttons.setContentsMargins(0, 4, 0, 0)
        for button in (self.again, self.off):
            buttons.addWidget(button, 1)
        column.addLayout(buttons)

    @staticmethod
    def _show_menu(menu: QMenu, below: QWidget) -> None:
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

    # --- shown ----------------------------------------------------------------------------

    def show_places(self) -> None:
        """Show what is picked."""
        work = self.work
        several = len(work.places) > 1
        self.spot = None if several else work.spots[next(iter(work.places))]
        for widget in (*self.single, self.again, self.there):
            widget.setVisible(not several)
        self.name.setReadOnly(several)
        if self.spot is None:
            self.name.setText(f"{len(work.places)} rooms")
            rooms = {work.spots[name].room for name in work.places}
            self.told.setText(f"{len(rooms)} different · arrows nudge, Shift by eight")
            return
        self._show_one(self.spot)

    def _show_one(self, spot: Spot) -> None:
        known = self.work.outlines.known.get(spot.room)
        doors = f" · {counted(known)}" if known is not None else ""
        self.name.setText(spot.room)
        again = " · again" if spot.title != spot.room else ""
        self.told.setText(f"{facts_of(spot)}{doors}{again}")
        self.east.setText(f"{spot.rect.left:g}")
        self.south.setText(f"{spot.rect.top:g}")
        as_room = "as the room ▾"
        tint, theme = spot.place.tint, spot.place.theme
        self.tint.setText(as_room if tint is None else f"{tint or 'colours as they are'} ▾")
        self.theme.setText(as_room if theme is None else f"{theme or 'first sheets'} ▾")
        has_start = known is not None and bool(known.starts)
        self.begin.setText("here" if spot.room == self.work.begins else
                           "start here" if has_start else "it has no start")  # fmt: skip
        self.begin.setEnabled(has_start and not spot.place.begins)

    def tint_menu(self) -> QMenu:
        """The tint maps of the room."""
        spot, menu = self.spot, QMenu(self)
        if spot is None:
            return menu
        known = self.work.outlines.known.get(spot.room)
        names = known.tints if known is not None else ()
        for words, tint in (("As the room", None), ("Colours as they are", ""),
                            *((name, name) for name in names)):  # fmt: skip
            menu.addAction(words, partial(self._wear, spot.place.theme, tint))
        return menu

    def theme_menu(self) -> QMenu:
        """The themes of the project."""
        spot, menu = self.spot, QMenu(self)
        if spot is None:
            return menu
        names = theme_names(self.work.session.project)
        for words, theme in (("As the room", None), ("First sheets", ""),
                             *((name, name) for name in names)):  # fmt: skip
            menu.addAction(words, partial(self._wear, theme, spot.place.tint))
        return menu

    def _enter(self) -> None:
        if self.spot is not None:
            self.work.enter(self.spot.room)

    def _again(self) -> None:
        if self.spot is not None:
            self.work.place(self.spot.room)

    # --- set ------------------------------------------------------------------------------

    def _wear(self, theme: str | None, tint: str | None) -> None:
        if self.spot is not None:
            self.work.session.try_(wear_there, self.spot.name, theme, tint)

    def _begin(self) -> None:
        if self.spot is not None:
            self.work.session.try_(begin_at, self.spot.name)

    def _rename(self) -> None:
        if self.spot is None or self.name.text().strip() in ("", self.spot.room):
            return
        session = self.work.session
        if not session.reads_room(self.spot.room) or not session.try_(
            rename_room, self.spot.room, self.name.text().strip()
        ):
            self.name.setText(self.spot.room)

    def _move(self) -> None:
        if self.spot is None:
            return
        try:
            at = float(self.south.text()), float(self.east.text())
        except ValueError:
            self.work.session.said.emit("The place of a room is told by two numbers, in cells")
            self._show_one(self.spot)
            return
        if at != (self.spot.rect.top, self.spot.rect.left):
            self.work.move({self.spot.name: at})
