"""The right column: In hand or Picked, and At cursor below."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from topion.view.hands import Hand
from topion.view.panels.at_cursor import AtCursor
from topion.view.panels.in_hand import InHand
from topion.view.panels.picked import PickedPanel
from topion.view.panels.tabs import Tabs
from topion.view.session import Session

_WIDE = 280
_BELOW = {False: 196, True: 118}  # px that At cursor has, below In hand and below Picked


class Right(QFrame):
    """Shows Picked with the lasso and while anything is picked, else In hand."""

    key_area = "hand"

    def __init__(self, in_hand: InHand, at_cursor: AtCursor, session: Session) -> None:
        super().__init__()
        self.setObjectName("right")
        self.setFixedWidth(_WIDE)
        self.in_hand = in_hand
        self._picked: PickedPanel | None = None
        whole = QVBoxLayout(self)  # from the outside inwards: what is put in is dressed once
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self._stack, page = QStackedWidget(), QWidget()
        whole.addWidget(self._stack, 1)
        self._stack.addWidget(page)
        lines = QVBoxLayout(page)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(0)
        lines.addWidget(in_hand.head)
        area = _area()
        lines.addWidget(area, 1)
        _put_in(area, in_hand)
        whole.addWidget(at_cursor)
        self._at_cursor = at_cursor
        self._hear(in_hand.tabs)
        self.use(session)

    @property
    def picked(self) -> PickedPanel:
        """The panel Picked, made when something is picked for the first time."""
        if self._picked is None:
            self._picked = PickedPanel(self.session)
            area = _area()
            self._stack.addWidget(area)
            _put_in(area, self._picked)
            self._hear(self._picked.tabs)
        return self._picked

    def _hear(self, tabs: Tabs) -> None:
        tabs.picked.clicked.connect(lambda: self.show_picked(True))
        for hand, tab in tabs.hands.items():
            tab.clicked.connect(lambda _, h=hand: self._show_hand(h))

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        if self._picked is not None:
            self._picked.use(session)
        session.picking.changed.connect(lambda: self.show_picked(self._shows_picked()))
        session.gestures.changed.connect(lambda: self.show_picked(self._shows_picked()))
        session.hands.changed.connect(lambda: self.show_picked(False))
        session.changed.connect(lambda _: self._leave_if_gone())
        self.show_picked(False)

    def _leave_if_gone(self) -> None:
        if not self._shows_picked():
            self.show_picked(False)

    def _shows_picked(self) -> bool:
        return bool(self.session.picking) or self.session.gestures.picking

    def show_picked(self, picked: bool) -> None:
        """Put the one or the other in front."""
        if picked:
            self.picked.refresh()
        self._stack.setCurrentIndex(1 if picked else 0)
        self._at_cursor.setFixedHeight(_BELOW[picked])

    def _show_hand(self, hand: Hand) -> None:
        self.session.hands.show(hand)
        self.show_picked(False)


def _area() -> QScrollArea:
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area


def _put_in(area: QScrollArea, panel: QWidget) -> None:
    area.setWidget(panel)
    area.viewport().setAutoFillBackground(False)  # type: ignore[union-attr]
    panel.setAutoFillBackground(False)
