"""Rows of the panel Picked for what fields sow: held things, and what grows in a picked area."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QLabel, QWidget

from topion.edit import sown as edits
from topion.edit.pieces import Pick
from topion.model.edit import Edit
from topion.model.prefab import Thing
from topion.view.panels.fields import choice_button, heading, labelled, narrow_column
from topion.view.session import Session


class SownRows(QWidget):
    """What may be done with the held things that are picked, or with all that is sown in the
    picked area."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.told = QLabel()
        self.hold = choice_button(
            "hold", "They stay where they stand, whatever is rolled or painted"
        )
        self.ban = choice_button("ban", "Nothing of their field stands there any more")
        self.grow = choice_button("let grow", "Held no longer: what the field sows stands again")
        self.plain = choice_button("make plain", "Things like those that are laid one by one")
        self.back = choice_button("give back", "They go, and their field may stand there again")
        whole = narrow_column()
        self.setLayout(whole)
        head = heading("Sown by a field")
        head.setContentsMargins(0, 6, 0, 0)
        whole.addWidget(head)
        whole.addWidget(self.told)
        whole.addWidget(labelled("", self.hold, self.ban, self.grow, self.plain, self.back))
        self.hold.clicked.connect(lambda _: self._hold())
        self.ban.clicked.connect(lambda _: self._of_area(edits.banned))
        self.plain.clicked.connect(lambda _: self._make_plain())
        self.grow.clicked.connect(lambda _: self._do(edits.let_grow, [p for p, _ in self.held()]))
        self.back.clicked.connect(lambda _: self._do(edits.given_back, [
            p for p, _ in self._plain_things()]))  # fmt: skip

    # --- what there is --------------------------------------------------------------------

    def held(self) -> list[tuple[Pick, Thing]]:
        """The held things that are picked."""
        layers = self.session.room.layers if self.session.has_room else {}
        tables = {layer_id: layer.table("held") for layer_id, layer in layers.items()}
        things = self.session.picking.things()
        return [(pick, thing) for pick, thing in things if pick.number in tables[pick.layer]]

    def _plain_things(self) -> list[tuple[Pick, Thing]]:
        """The plain things that are picked and that some field of the room had sown."""
        room = self.session.room
        banned = any(layer.table("bans") for _, layer in room.bottom_up("field"))
        things = self.session.picking.things() if banned else []
        return [(pick, t) for pick, t in things if pick.number in room.layers[pick.layer].things]

    def inside(self) -> dict[str, list[Thing]]:
        """What grows in the picked area, by the id of its layer."""
        session, area = self.session, self.session.picking.area
        if area is None:
            return {}
        found = {}
        for layer_id, layer in session.room.bottom_up("field"):
            ready = session.ahead.has(session.project, layer)
            if layer.info.shown and not layer.info.locked and ready:
                own = edits.sown_inside(session.project, session.room, layer_id, area)
                if own:
                    found[layer_id] = own
        return found

    def refresh(self) -> None:
        """Show them anew."""
        if not self.session.has_room:
            self.setVisible(False)
            return
        held, inside = self.held(), self.inside()
        back = self._plain_things() if not held else []
        count = sum(map(len, inside.values()))
        self.setVisible(bool(held or count or back))
        parts = [f"{len(held)} held"] if held else []
        parts += [f"{count:,} grow in the area"] if count else []
        self.told.setText(" · ".join(parts) or "a field had sown some of these")
        self.hold.setVisible(bool(count))
        self.ban.setVisible(bool(count))
        self.grow.setVisible(bool(held))
        self.plain.setVisible(bool(held or count))
        self.back.setVisible(bool(back) and not count)

    # --- done -----------------------------------------------------------------------------

    def _do(self, plan: Callable[..., Edit], *args: object) -> None:
        self.session.try_(plan, self.session.room_name, *args)

    def _of_area(self, plan: Callable[..., Edit]) -> None:
        for layer_id, things in self.inside().items():
            self._do(plan, layer_id, things)

    def _hold(self) -> None:
        session, picks = self.session, list[Pick]()
        for layer_id, things in self.inside().items():
            edit, own = edits.held(session.project, session.room_name, layer_id, things)
            if session.apply(edit):
                picks += own
        if picks:
            session.picking.pick(picks)

    def _make_plain(self) -> None:
        held: dict[str, list[Thing]] = {}
        for pick, thing in self.held():
            held.setdefault(pick.layer, []).append(thing)
        for layer_id, things in (held or self.inside()).items():
            self._do(edits.made_plain, layer_id, things)
