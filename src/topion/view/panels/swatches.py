"""What a brush can lay, as small pictures: tiles of its rules, or prefabs with their weight."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt
from PyQt6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QToolTip, QWidget

from topion.brushes.kind import BrushKind
from topion.grid.arrays import Rgba
from topion.model.project import Project
from topion.render.portraits import ref_picture
from topion.things.field import Sows
from topion.things.rules.kind import rules_of
from topion.view import style
from topion.view.table.compose import pixmap_of
from topion.view.turns import Turns
from topion.weaving.looms import Weaves

_PITCH, _SIDE, _TOP = 31, 27, 24
_MOST = 40
_SHELVES = ("tilesets", "blocks", "prefabs", "themes")  # that are seen here


@dataclass(frozen=True)
class Swatch:
    """One picture, and what is told of it."""

    draw: Callable[[], Rgba]
    tip: str


def swatches_of(project: Project, brush: BrushKind, theme: str = "") -> list[Swatch]:
    """Up to forty of them, each picture once, as they look in a theme."""
    found: dict[object, Swatch] = {}
    if isinstance(brush, Weaves):
        for number, rule in enumerate(brush.book().rules, 1):
            for variant in rule.variants:
                if variant.tile not in found and len(found) < _MOST:
                    tip = f"rule {number}, {rule.name} · slot {variant.tile.slot}"
                    tip += f" · weight {variant.weight:g}"
                    draw = partial(ref_picture, project, variant.tile, theme)
                    found[variant.tile] = Swatch(draw, tip)
    elif not brush.lays_blocks():
        for ref in brush.swatches()[:_MOST]:
            found[ref] = Swatch(partial(ref_picture, project, ref, theme), f"slot {ref.slot}")
        for name, weight in brush.places().items():
            if name in project.prefabs:
                tip = f"{name} · weight {weight:g}" if isinstance(brush, Sows) else name
                rules = rules_of(project, project.prefabs[name])
                tip += "".join(f"\n{rule.sentence()}" for rule in rules)
                picture = project.prefabs[name].picture
                found[name] = Swatch(partial(getattr, picture, "rgba"), tip)
    return list(found.values())


class Swatches(QWidget):
    """A grid of pictures with a heading; hovering tells which rule lays them."""

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[Swatch] = []
        self._stamp: object = None
        self._pictures: dict[int, QPixmap] = {}
        self._turns = Turns(self, self.update)
        self.setAccessibleName("What it lays")

    def show_brush(self, project: Project, brush: BrushKind, theme: str = "") -> None:
        """Show what a brush lays."""
        stamp = brush, theme, project.stamp(*_SHELVES)
        if stamp == self._stamp:
            return
        self._stamp = stamp
        self.shown = swatches_of(project, brush, theme)
        self._pictures.clear()
        self.setVisible(bool(self.shown))
        self.setFixedHeight(_TOP + _PITCH * -(-len(self.shown) // self._columns()) + 6)
        self.setAccessibleDescription("; ".join(s.tip.split("\n")[0] for s in self.shown))
        self.update()

    def _columns(self) -> int:
        return 8

    def sizeHint(self) -> QSize:
        return QSize(8 * _PITCH, self.height())

    def _rect(self, number: int) -> QRectF:
        row, column = divmod(number, self._columns())
        return QRectF(0.5 + column * _PITCH, _TOP + row * _PITCH, _SIDE, _SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.heading())
        painter.drawText(QRectF(0, 4, self.width(), 16), "What it lays")
        for number, swatch in enumerate(self.shown):
            rect = self._rect(number)
            painter.fillRect(rect, style.ink("panel2"))
            if (picture := self._picture(number, swatch)) is not None:
                size = picture.size().scaled(_SIDE, _SIDE, Qt.AspectRatioMode.KeepAspectRatio)
                target = QRectF(0, 0, size.width(), size.height())
                target.moveCenter(rect.center())
                painter.drawPixmap(target, picture, QRectF(picture.rect()))
            painter.setPen(QPen(style.ink("line")))
            painter.drawRect(rect)

    def _picture(self, number: int, swatch: Swatch) -> QPixmap | None:
        """None while others are drawn."""
        if number not in self._pictures:
            drawn = self._turns.make(swatch.draw)
            if drawn is None:
                return None
            self._pictures[number] = pixmap_of(drawn)
        return self._pictures[number]

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            for number, swatch in enumerate(self.shown):
                if self._rect(number).contains(event.pos().toPointF()):
                    QToolTip.showText(event.globalPos(), swatch.tip, self)
                    return True
        return super().event(event)
