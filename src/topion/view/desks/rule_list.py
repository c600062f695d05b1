"""The rules of a weave, one below the other in the order in which they are tried."""

from __future__ import annotations

from PyQt6.QtCore import QMimeData, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu, QScrollArea, QVBoxLayout, QWidget

from topion.model.tileset import TileRef
from topion.render.portraits import ref_picture
from topion.view import style
from topion.view.desks.mark_card import draw_card, mark_at
from topion.view.desks.weave_work import WeaveWork
from topion.view.table.compose import pixmap_of
from topion.weaving import rule_edits
from topion.weaving.rule_edits import LEVELS, Level, card_of, turns_in_words
from topion.weaving.rules import ANY, NAMED, OPEN, SAME, Rule

SLOT_MIME = "application/x-topion-slot"
_ROW, _CARD, _TILE = 88, 62, 40
_CARD_LEFT, _GAP = 40, 8


def slot_of(data: QMimeData | None) -> TileRef | None:
    """The tile that is dragged from a strip; None for anything else."""
    if data is None or not data.hasFormat(SLOT_MIME):
        return None
    tileset, slot = data.data(SLOT_MIME).data().decode().split("\n")
    return TileRef(tileset, slot)


def mime_of(ref: TileRef) -> QMimeData:
    """A tile to be dragged."""
    data = QMimeData()
    data.setData(SLOT_MIME, f"{ref.tileset}\n{ref.slot}".encode())
    return data


class RuleRow(QWidget):
    """One rule: its marks are clicked, its tiles chosen, weighed and dropped upon, and the row is
    dragged by its number to another place."""

    def __init__(self, rules: RuleList, number: int) -> None:
        super().__init__()
        self.rules, self.work, self.number = rules, rules.work, number
        self.setFixedHeight(_ROW)
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self._pressed: QPointF | None = None
        self.setToolTip("Click marks: same, open, a named material, nothing. Drag the number to "
                        "another place; the wheel over a tile weighs it")  # fmt: skip

    @property
    def rule(self) -> Rule:
        """The rule it shows."""
        return self.work.book.rules[self.number - 1]

    # --- where things are -----------------------------------------------------------------

    def card_rects(self) -> dict[Level, QRectF]:
        """The cards: one, or three levels of blocks from below."""
        if not self.work.deep:
            return {"marks": QRectF(_CARD_LEFT, 13, _CARD, _CARD)}
        side = 44
        return {level: QRectF(_CARD_LEFT + n * (side + 5), 22, side, side)
                for n, level in enumerate(LEVELS)}  # fmt: skip

    def _text_left(self) -> float:
        return max(rect.right() for rect in self.card_rects().values()) + 14

    def tile_rect(self, place: int) -> QRectF:
        """A variant; one behind the last is the place for another."""
        left = self._text_left() + (108 if self.work.deep else 138)
        return QRectF(left + place * (_TILE + _GAP), 16, _TILE, _TILE)

    def _tiles_shown(self) -> int:
        room = self.width() - 80 - self.tile_rect(0).left()
        return max(1, int(room // (_TILE + _GAP)) - 1)

    # --- drawing --------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        work, rule = self.work, self.rule
        chosen = work.rule == self.number
        if chosen:
            painter.fillRect(self.rect(), style.ink("card"))
        fires = work.why is not None and work.why.number == self.number and (
            work.why.book == work.material)  # fmt: skip
        lit = work.lit == self.number
        if chosen or fires or lit:
            painter.fillRect(QRectF(0, 0, 5, _ROW - 1), style.ink("buoy" if fires else "ink"))
        if not rule.on:
            painter.setOpacity(0.42)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        painter.drawText(QRectF(12, 0, 26, _ROW), Qt.AlignmentFlag.AlignVCenter, str(self.number))
        self._paint_cards(painter, rule)
        self._paint_words(painter, rule)
        self._paint_tiles(painter, rule)
        self._paint_count(painter)
        painter.setOpacity(1)
        painter.setPen(style.ink("line"))
        painter.drawLine(0, _ROW - 1, self.width(), _ROW - 1)

    def _paint_cards(self, painter: QPainter, rule: Rule) -> None:
        failed = self._failed()
        for level, rect in self.card_rects().items():
            own = tuple((y - 3 * LEVELS.index(level), x) for y, x in failed) if (
                self.work.deep) else failed  # fmt: skip
            card = card_of(rule, level)
            if not self.work.deep and len(card) == 3:
                own = tuple((y - 1, x - 1) for y, x in own)
            middle = level == "marks"
            draw_card(painter, rect, card, self.work.project, self.work.material, own, middle)
            if self.work.deep:
                painter.setPen(style.ink("soft"))
                painter.setFont(style.font(10))
                words = "level" if level == "marks" else level
                painter.drawText(QRectF(rect.left(), 7, rect.width(), 13), words)

    def _failed(self) -> tuple[tuple[int, int], ...]:
        """The marks that did not fit where the pointer is, if the rule came close as drawn."""
        for near in self.work.near:
            if near.number == self.number and near.book == self.work.material:
                return near.failed if near.orientation == (0, False) else ()
        return ()

    def _paint_words(self, painter: QPainter, rule: Rule) -> None:
        left, wide = self._text_left(), 126
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(13, bold=True))
        elide = Qt.TextElideMode.ElideRight
        name = painter.fontMetrics().elidedText(rule.name, elide, wide)
        painter.drawText(QRectF(left, 24, wide, 18), name)
        painter.setFont(style.font(12))
        told, colour = self.told(rule)
        painter.setPen(style.ink(colour))
        flags = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(left, 42, wide, 34), int(flags), told)

    def told(self, rule: Rule) -> tuple[str, str]:
        """How it holds, or why it cannot fire, or how near it came."""
        if not rule.on:
            return "off", "soft"
        by = self.rules.hidden.get(self.number)
        if by is not None:
            names = ", ".join(map(str, by))
            return (f"never fires: hidden by {names}" if by else "never fires: it asks for what "
                    "is nowhere"), "buoy"  # fmt: skip
        for near in self.work.near:
            if near.number == self.number and near.book == self.work.material:
                if near.behind:
                    return "fits here, but behind", "ochre"
                return f"close, but for {_counted(len(near.failed), 'mark')}", "ochre"
        return turns_in_words(rule), "soft"

    def _paint_tiles(self, painter: QPainter, rule: Rule) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        most = max(v.weight for v in rule.variants)
        shown = min(len(rule.variants), self._tiles_shown())
        fires = self.work.why if self.work.why and self.work.why.number == self.number else None
        for place, variant in enumerate(rule.variants[:shown]):
            rect = self.tile_rect(place)
            painter.drawPixmap(rect.toRect(), self.rules.picture(variant.tile))
            chosen = self.work.rule == self.number and self.rules.variant == place
            laid = fires is not None and fires.variant == place
            painter.setPen(QPen(style.ink("buoy" if laid else "ink" if chosen else "line"),
                                2 if chosen or laid else 1))  # fmt: skip
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect)
            bar = QRectF(rect.left(), rect.bottom() + 4, rect.width() * variant.weight / most, 3)
            painter.fillRect(bar, style.ink("ink"))
            painter.setPen(style.ink("soft"))
            painter.setFont(style.font(10))
            below = QRectF(rect.left() - 6, rect.bottom() + 8, rect.width() + 12, 13)
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, f"×{variant.weight:g}")
        self._paint_plus(painter, shown, len(rule.variants) - shown)

    def _paint_plus(self, painter: QPainter, shown: int, more: int) -> None:
        rect = self.tile_rect(shown)
        pen = QPen(style.ink("line"), 1, Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(15 if not more else 11))
        text = "+" if not more else f"{more} more"
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_count(self, painter: QPainter) -> None:
        count = self.work.cells_of(self.number)
        painter.setPen(style.ink("soft" if count else "line"))
        painter.setFont(style.font(12))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(self.width() - 90, 0, 78, _ROW), right, _counted(count, "cell"))

    # --- the pointer ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        self.rules.setFocus()
        self._pressed = at if at.x() < _CARD_LEFT - 4 else None
        place = self._variant_at(at)
        self.rules.variant = place if place < len(self.rule.variants) else -1
        self.work.choose(self.number)
        for level, rect in self.card_rects().items():
            mark = mark_at(rect, len(card_of(self.rule, level)), at)
            if mark is not None:
                self._click_mark(level, mark, event)
        self.rules.repaint_rows()

    def _click_mark(self, level: Level, at: tuple[int, int], event: QMouseEvent) -> None:
        card = card_of(self.rule, level)
        if level == "marks" and at == (len(card) // 2,) * 2:
            return
        if event.button() == Qt.MouseButton.RightButton:
            self._mark_menu(level, at, event)
            return
        mark = rule_edits.next_mark(card[at[0]][at[1]], self.work.named)
        self._set_mark(level, at, mark)

    def _set_mark(self, level: Level, at: tuple[int, int], mark: str) -> None:
        if mark.startswith(NAMED):
            self.work.named = mark[len(NAMED) :]
        self.work.choose(self.number)
        rule = rule_edits.with_mark(self.rule, at, mark, level)
        self.work.set_rule(rule, f"a mark of {rule.name}")

    def _mark_menu(self, level: Level, at: tuple[int, int], event: QMouseEvent) -> None:
        menu = QMenu(self)
        for text, mark in (("Same", SAME), ("Open", OPEN), ("Nothing", ANY)):
            menu.addAction(text, lambda m=mark: self._set_mark(level, at, m))
        menu.addSeparator()
        for name in self.work.others():
            menu.addAction(name, lambda n=name: self._set_mark(level, at, NAMED + n))
        menu.popup(event.globalPosition().toPoint())

    def _variant_at(self, at: QPointF) -> int:
        shown = min(len(self.rule.variants), self._tiles_shown())
        return next((n for n in range(shown) if self.tile_rect(n).contains(at)), 10**6)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed is not None:
            self.rules.drag(self.number, self.mapToParent(event.position().toPoint()).y())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._pressed is not None:
            self._pressed = None
            self.rules.drop()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        place = self._variant_at(event.position())
        if place >= len(self.rule.variants):
            event.ignore()
            return
        self.work.choose(self.number)
        weight = self.rule.variants[place].weight + (1 if event.angleDelta().y() > 0 else -1)
        if weight >= 1:
            self.rules.weigh(place, weight)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and slot_of(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        ref = slot_of(event.mimeData()) if event is not None else None
        if event is None or ref is None:
            return
        place = self._variant_at(event.position())
        self.work.choose(self.number)
        self.rules.lay(ref, place if place < len(self.rule.variants) else -1)
        event.acceptProposedAction()


def _counted(count: int, word: str) -> str:
    return f"{count:,} {word}{'' if count == 1 else 's'}"


class RuleList(QScrollArea):
    """All rules.  variant : the chosen tile of the chosen rule, -1 for none."""

    def __init__(self, work: WeaveWork) -> None:
        super().__init__()
        self.work = work
        self.variant = -1
        self.hidden: dict[int, tuple[int, ...]] = {}
        self.rows: list[RuleRow] = []
        self._pictures: dict[TileRef, QPixmap] = {}
        self._stamp: object = None
        self._drag: tuple[int, int] | None = None  # a rule and the place it would come to
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Rules, the first that fits lays its tile")
        self._body = _Body()
        self._column = QVBoxLayout(self._body)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addStretch(1)
        self.setWidget(self._body)
        work.changed.connect(self.refresh)
        work.chosen.connect(self._show_chosen)
        work.counted.connect(self.repaint_rows)
        work.pointed.connect(self._show_fired)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(560, 500)

    def picture(self, ref: TileRef) -> QPixmap:
        """The tile as it looks."""
        stamp = self.work.project.stamp("tilesets", "blocks")
        if stamp != self._stamp:
            self._pictures.clear()
            self._stamp = stamp
        if ref not in self._pictures:
            self._pictures[ref] = pixmap_of(ref_picture(self.work.project, ref))
        return self._pictures[ref]

    def refresh(self) -> None:
        """Show the rules as they are now."""
        self.hidden = {hidden.number: hidden.by for hidden in self.work.hidden()}
        count = len(self.work.book.rules)
        while len(self.rows) > count:
            row = self.rows.pop()
            row.hide()
            self._column.removeWidget(row)
            row.deleteLater()
        while len(self.rows) < count:
            row = RuleRow(self, len(self.rows) + 1)
            self.rows.append(row)
            self._column.insertWidget(len(self.rows) - 1, row)
        for row in self.rows:
            rule = row.rule
            row.setAccessibleName(f"Rule {row.number}: {rule.name}, {turns_in_words(rule)}")
        self.repaint_rows()

    def repaint_rows(self) -> None:
        """Draw all of them anew."""
        for row in self.rows:
            row.update()
        self._body.update()

    def _show_fired(self) -> None:
        """Bring the rule that fires where one points into view."""
        why, lit = self.work.why, self.work.lit
        number = lit or (why.number if why is not None and why.book == self.work.material else 0)
        if 0 < number <= len(self.rows):
            self.ensureWidgetVisible(self.rows[number - 1], 0, 0)
        self.repaint_rows()

    def _show_chosen(self) -> None:
        if 0 < self.work.rule <= len(self.rows):
            self.ensureWidgetVisible(self.rows[self.work.rule - 1], 0, 0)
        self.variant = -1
        self.repaint_rows()

    # --- tiles ----------------------------------------------------------------------------

    def lay(self, ref: TileRef, place: int = -1) -> None:
        """Give the chosen rule one more tile, or another one at a place."""
        self.work.try_rule(
            lambda rule: rule_edits.with_variant(rule, ref, place), f"lays {ref.slot}, too"
        )

    def weigh(self, place: int, weight: float) -> None:
        """Give a tile of the chosen rule another weight; steps of the wheel are one Edit."""
        key = ("weight", self.work.material, self.work.rule, place)
        self.work.try_rule(lambda rule: rule_edits.with_weight(rule, place, weight), "weights", key)

    # --- order ----------------------------------------------------------------------------

    def drag(self, number: int, y: int) -> None:
        """A rule is dragged by its number."""
        to = max(0, min(len(self.rows), round(y / _ROW)))
        self._drag = number, to
        self._body.line = to * _ROW
        self._body.raise_line()

    def drop(self) -> None:
        """It is let go."""
        if self._drag is not None:
            number, to = self._drag
            self._drag, self._body.line = None, -1
            self._body.raise_line()
            self.work.move(number, to + 1 if to < number else to)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, control = Qt.Key(event.key()), event.modifiers() & Qt.KeyboardModifier.ControlModifier
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key)
        work = self.work
        if step is not None and control:
            work.move(work.rule, work.rule + step)
        elif step is not None:
            work.choose(max(1, min(len(self.rows), work.rule + step)))
        elif key == Qt.Key.Key_Delete and self.variant >= 0:
            place = self.variant
            work.try_rule(lambda rule: rule_edits.without_variant(rule, place), "without a tile")
        elif key == Qt.Key.Key_Delete:
            work.remove()
        elif key == Qt.Key.Key_D and control:
            work.duplicate()
        else:
            event.ignore()


class _Body(QWidget):
    """Holds the rows, and the line at which a dragged one would come to lie."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rules")
        self.setStyleSheet("#rules { background: transparent; }")
        self.line = -1
        self._mark = QWidget(self)
        self._mark.setObjectName("dropline")
        self._mark.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._mark.hide()

    def raise_line(self) -> None:
        """Show the line above the rows, or no line."""
        self._mark.setVisible(self.line >= 0)
        self._mark.setGeometry(0, max(0, self.line - 1), self.width(), 3)
        self._mark.raise_()
