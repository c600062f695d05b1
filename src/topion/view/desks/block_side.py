"""The right column of the block desk: how the block acts, turns and looks in themes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QColorDialog, QHBoxLayout, QPushButton, QWidget

from topion.edit.blocks import block_uses, set_block, with_look
from topion.edit.names import rename_item
from topion.grid.arrays import Rgba
from topion.model.solid import Block
from topion.model.themes import theme_names
from topion.render.portraits import block_portrait
from topion.view import style
from topion.view.desks.parts import Switches, add_row
from topion.view.desks.trait_side import TraitSide
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import heading
from topion.view.session import Session
from topion.view.table.compose import pixmap_of
from topion.view.turns import Turns

_LARGE, _SMALL, _HEAP = 168, 50, 92
_YAW = -40.0  # degrees, until it is turned
_ALLOWED = {"none": (0,), "quarters": (0, 1, 2, 3), "any": (0, 1, 2, 3, 4, 8)}


class BlockSide(TraitSide):
    """theme : in which looks are shown and set; empty for the first.

    Signals of the base class.  renamed : called with the new name.
    """

    def __init__(self, session: Session) -> None:
        self.block_name, self.theme = "", ""
        self.renamed: Callable[[str], object] = lambda _: None
        super().__init__(session)

    def add_preview(self) -> None:
        self.preview = TurnedPreview(self)
        self.column.addWidget(self.preview)

    def add_rows(self) -> None:
        self.turns = Switches({"none": "none", "quarters": "quarters", "any": "any"})
        self.turns.setToolTip("How it may be turned: not at all, about up, or over as well")
        self.turns.chosen = lambda turns: self.set_all(turns=turns)
        add_row(self.grid, "Turns", self.turns)

    def add_more(self) -> None:
        self.column.addWidget(heading("Looks"))
        self._looks = QHBoxLayout()
        self._looks.setSpacing(4)
        self.column.addLayout(self._looks)

    # --- showing --------------------------------------------------------------------------

    def show_block(self, name: str) -> None:
        """Show another block."""
        self.block_name = name
        if self.theme not in theme_names(self.session.project):
            self.theme = ""
        self.refresh()

    @property
    def block(self) -> Block | None:
        """The block that is shown; None once it was taken away."""
        return self.session.project.blocks.get(self.block_name)

    def items(self) -> list[Block]:
        return [self.block] if self.block is not None else []

    def own_name(self) -> str:
        return self.block_name if self.block is not None else ""

    def refresh(self, dirty: object = None) -> None:
        block = self.block
        self.show_traits()
        self.title.setText(f"Block {self.block_name}" if block else "No block")
        self.turns.show_value(block.turns if block else "none")
        self.preview.refresh()
        self._show_looks()
        uses = list(block_uses(self.session.project, self.block_name)) if block else []
        self.show_uses(uses, of_one=block is not None)

    def _show_looks(self) -> None:
        emptied(self._looks)
        block = self.block
        if block is None:
            return
        for theme in ("", *theme_names(self.session.project)):
            own = not theme or theme in block.themes
            button = QPushButton(theme or "first")
            button.setToolTip(f"Show it as it looks in {theme or 'the first theme'}"
                              + ("" if own else "; as in the first so far"))  # fmt: skip
            button.setCheckable(True)
            button.setChecked(theme == self.theme)
            button.clicked.connect(lambda _, t=theme: self.show_theme(t))
            self._looks.addWidget(button)
        colour = QPushButton("colour…")
        colour.setObjectName("plain")
        colour.setToolTip("Its own colour in this look, and from afar")
        colour.clicked.connect(lambda _: self.ask_colour())
        self._looks.addWidget(colour)
        if self.theme in block.themes:
            back = QPushButton("as first")
            back.setObjectName("plain")
            back.setToolTip("Look as in the first theme again")
            back.clicked.connect(lambda _: self.set_all(**with_look(block, self.theme)))
            self._looks.addWidget(back)
        self._looks.addStretch(1)

    def show_theme(self, theme: str) -> None:
        """Show the block as it looks in a theme; colours are set for that."""
        self.theme = theme
        self.refresh()

    # --- setting --------------------------------------------------------------------------

    def set_all(self, **changes: Any) -> None:
        self.session.try_(set_block, self.block_name, **changes)
        self.refresh()

    def set_colour(self, colour: str) -> None:
        """Set its own colour in the look that is shown."""
        if self.block is not None:
            self.set_all(**with_look(self.block, self.theme, colour))

    def ask_colour(self) -> None:
        """Ask for its own colour in the look that is shown."""
        if self.block is not None:
            now = QColor(self.block.worn(self.theme).colour)
            found = QColorDialog.getColor(now, self, f"Colour of {self.block_name}")
            if found.isValid():
                self.set_colour(found.name())

    def rename(self, old: str, new: str) -> None:
        if self.session.try_(rename_item, "blocks", old, new):
            self.block_name = new
            self.renamed(new)


class TurnedPreview(QWidget):
    """The block large, turned by dragging; a heap of it; and each way it may be turned."""

    def __init__(self, side: BlockSide) -> None:
        super().__init__()
        self._side = side
        self._yaw = _YAW
        self._from: QPointF | None = None
        self._made: dict[object, Any] = {}  # by what is seen and from where
        self._turns = Turns(self, self.update)
        self.setFixedHeight(_LARGE + _SMALL + 26)
        self.setAccessibleName("The block, turned")
        self.setToolTip("Drag to turn it")

    def refresh(self) -> None:
        """Draw the block as it is now."""
        self._made.clear()
        self._turns.later()
        self.update()

    def _draw(self, painter: QPainter, at: QRectF, turn: int, side: int, yaw: float) -> None:
        """Draw a picture once it is made; until then as it was seen from elsewhere."""
        key = turn, side, at.width()
        known = self._made.get(key)
        if known is None or known[0] != yaw:
            drawn = self._turns.make(lambda: self._portrait(turn, round(at.width()), side, yaw))
            if drawn is not None:
                known = self._made[key] = yaw, pixmap_of(drawn)
        if known is not None:
            painter.drawPixmap(at, known[1], QRectF())

    def _portrait(self, turn: int, px: int, side: int, yaw: float) -> Rgba:
        shown = self._side
        return block_portrait(shown.session.project, shown.block_name, turn, px, shown.theme,
                              side=side, yaw=yaw)  # fmt: skip

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, block = QPainter(self), self._side.block
        if block is None:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        large = QRectF(0, 0, _LARGE, _LARGE)
        painter.fillRect(QRectF(0, 0, self.width(), _LARGE), style.ink("panel2"))
        self._draw(painter, large, 0, 1, self._yaw)
        heap = QRectF(_LARGE + 6, (_LARGE - _HEAP) / 2, _HEAP, _HEAP)
        self._draw(painter, heap, 0, 3, self._yaw)
        painter.setFont(style.font(11))
        for number, turn in enumerate(_ALLOWED[block.turns]):
            at = QRectF(number * (_SMALL - 4), _LARGE + 6, _SMALL, _SMALL)
            self._draw(painter, at, turn, 1, _YAW)
        painter.setPen(style.ink("soft"))
        words = {"none": "never turned", "quarters": "by quarters", "any": "and over, 24 in all"}
        painter.drawText(QRectF(0, _LARGE + _SMALL + 8, self.width(), 16), words[block.turns])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._from is None:
            return
        self._yaw = round(self._yaw + (event.position().x() - self._from.x()) / 2)
        self._from = event.position()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._from = None
