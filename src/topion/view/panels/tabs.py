"""The tabs at the top of the right column: what is picked, and the two hands."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from topion.view import style
from topion.view.hands import HANDS, Hand
from topion.view.session import Session
from topion.view.table.overlay import hand_colour


class Tabs(QWidget):
    """One row of tabs; the panel that belongs to one is shown below.  `picked` says which."""

    def __init__(self) -> None:
        super().__init__()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        self.picked = self._tab("Show what is picked")
        line.addWidget(self.picked)
        self.hands: dict[Hand, QPushButton] = {}
        for hand in HANDS:
            tab = self._tab(f"Show what the {hand} button lays (H changes)")
            tab.setText(f"{hand.capitalize()} hand")
            tab.setAccessibleName(f"Show the {hand} hand")
            self.hands[hand] = tab
            line.addWidget(tab)
        line.addStretch(1)

    def _tab(self, tip: str) -> QPushButton:
        tab = QPushButton()
        tab.setObjectName("tab")
        tab.setToolTip(tip)
        tab.setAccessibleName(tip)
        return tab

    def refresh(self, session: Session, shows_picked: bool) -> None:
        """Show which of them is in front."""
        picks = session.picking.picks()
        count = len(picks.entries)
        self.picked.setVisible(bool(picks) or session.gestures.picking)
        self.picked.setText(f"Picked {count}" if count or not picks else "Picked")
        style.tint(self.picked, "buoy" if shows_picked else "soft")
        for hand, tab in self.hands.items():
            front = hand == session.hands.shown and not shows_picked
            style.tint(tab, hand_colour(hand) if front else "soft")
