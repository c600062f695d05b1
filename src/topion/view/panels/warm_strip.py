"""The strip that says the last stroke is still warm, and by which brush it may be laid instead."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QWidget

from topion.view import style
from topion.view.panels.fields import choice_button
from topion.view.session import Session


class WarmStrip(QWidget):
    """Shown in In hand while the stroke of that hand is warm."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName("Still warm")
        self.setToolTip(
            "What you set now of this brush or gesture lays the last stroke again in place"
        )
        policy = self.sizePolicy()
        policy.setRetainSizeWhenHidden(True)  # rows below stay where they are
        self.setSizePolicy(policy)
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 2, 0, 4)
        line.setSpacing(6)
        self._dot = QLabel("●")
        self._words = QLabel("still warm")
        self._words.setFont(style.font(12, bold=True))
        self.brush = choice_button("lay with ▾", "Lay the stroke with another brush")
        self.keep = choice_button("keep", "Keep it as it is (Enter)")
        self.again = choice_button("again", "Lay it once more where you point (,)")
        line.addWidget(self._dot)
        line.addWidget(self._words)
        line.addStretch(1)
        for button in (self.brush, self.again, self.keep):
            line.addWidget(button)
        self.brush.clicked.connect(self._choose_brush)
        self.keep.clicked.connect(lambda: self.session.warm.cool())
        self.again.clicked.connect(lambda: self.session.lay_again_elsewhere())
        self.refresh()

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = session
        session.warm.changed.connect(self.refresh)
        session.hands.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show it while it is so."""
        warm, hands = self.session.warm, self.session.hands
        now, held = warm.now, hands[warm.hand]
        self.setVisible(now is not None and warm.hand == hands.shown)
        if now is not None:
            same = held == now.brush
            self._words.setText("still warm" if same else f"{now.brush} warm")
            self.brush.setText("lay with ▾" if same else "lay with this")
            self.again.setVisible(same)
        for label in (self._dot, self._words):
            style.tint(label, "ochre")

    def _choose_brush(self) -> None:
        """The brush that was taken in the hand since; else one from a menu."""
        session, now = self.session, self.session.warm.now
        held = session.hands[session.warm.hand]
        if now is not None and held != now.brush:
            session.warm.use_brush(held)
            return
        menu = QMenu(self)
        for bay in session.project.bays:
            names = [name for name in bay.brushes if session.hands.can_take(name)]
            part = menu.addMenu(bay.name) if names else None
            for name in names if part is not None else ():
                part.addAction(name, lambda n=name: session.warm.use_brush(n))  # type: ignore[union-attr]
        menu.popup(self.brush.mapToGlobal(self.brush.rect().bottomLeft()))
