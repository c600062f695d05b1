"""What is shown of a field over the table, and what is done to all that it sows."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from topion.edit import sown as edits
from topion.view import style
from topion.view.panels.fields import bold, choice_button, labelled, narrow_column
from topion.view.session import Session
from topion.view.table.field_marks import SHOWS, Shows, field_layers

_TIPS: dict[Shows, str] = {
    "nothing": "Only what it sows",
    "refused": "Each spot that is refused, by reason; banned places and held things",
    "density": "How dense it is, all layers together",
    "size": "Where what it sows is larger or smaller",
}


class FieldShows(QWidget):
    """Words to click, for the field whose brush is in hand.  all_of_it : a row for all it sows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.words = {name: choice_button(name, _TIPS[name]) for name in SHOWS}
        for name, button in self.words.items():
            button.clicked.connect(partial(self.show_on_table, name))
        self.plain = choice_button("make plain", "All that it sows becomes plain things")
        self.lift = choice_button("lift bans", "It may stand again wherever that was banned")
        self.plain.clicked.connect(lambda _: self._make_plain())
        self.lift.clicked.connect(lambda _: self._lift())
        self.all_of_it = labelled("All of it", self.plain, self.lift)
        whole = narrow_column()
        self.setLayout(whole)
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 2)
        line.setSpacing(4)
        told = QLabel("show")
        style.tint(told, "soft")
        for part in (told, *self.words.values()):
            line.addWidget(part)
        line.addStretch(1)
        whole.addWidget(row)

    def refresh(self) -> None:
        """Show what is chosen."""
        for name, button in self.words.items():
            bold(button, name == self.session.field_shows)
        layers = field_layers(self.session)
        self.plain.setEnabled(bool(layers))
        self.lift.setEnabled(any(layer.table("bans") for _, layer in layers))

    def show_on_table(self, name: Shows, _: bool = False) -> None:
        """Show that over the table."""
        self.session.field_shows = name
        self.refresh()
        self.session.previewed.emit()

    def _make_plain(self) -> None:
        session = self.session
        for layer_id, layer in field_layers(session):
            things = edits.sown_inside(session.project, session.room, layer_id)
            every = [*things, *layer.table("held").values()]
            if every:
                session.try_(edits.made_plain, session.room_name, layer_id, every)

    def _lift(self) -> None:
        for layer_id, _ in field_layers(self.session):
            self.session.try_(edits.bans_lifted, self.session.room_name, layer_id)
