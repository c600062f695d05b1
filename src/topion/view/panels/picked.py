"""Picked: the pieces that are picked, with size, place, order and turn to be typed."""

from __future__ import annotations

import functools
from collections.abc import Callable

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from topion.brushes.boxed import BoxShape
from topion.brushes.kind import Seeded, brush_or_none
from topion.brushes.shape import ShapeKind
from topion.edit import pieces as edits
from topion.edit.pieces import Pick, rank_of, shape_of
from topion.grid.told import cell_told
from topion.model.curve import Curve
from topion.model.piece import Piece
from topion.render.portraits import ref_picture
from topion.view import style
from topion.view.panels.alike_rows import AlikeRows
from topion.view.panels.curve_rows import CurveRows, RiderRows
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import bold, choice_button, heading, labelled, number_field
from topion.view.panels.picked_rows import AreaRows, ThingRows
from topion.view.panels.rows import Dice
from topion.view.panels.sown_rows import SownRows
from topion.view.panels.tabs import Tabs
from topion.view.pieces import OUTLINES, PickedPieces
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

_MOST_LISTED = 6


class PickedPanel(QWidget):
    """Rows for the piece that was picked first, and the others below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName("Picked")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 6, 12, 4)
        whole.setSpacing(2)
        self.tabs = Tabs()
        whole.addWidget(self.tabs)
        self._title = QLabel()
        self._title.setFont(style.font(16, bold=True))
        self.what = QLabel()
        style.tint(self.what, "soft")
        self.what.setWordWrap(True)
        self.what.setContentsMargins(0, 0, 0, 6)
        self.desk = QPushButton("desk ›")
        self.desk.setObjectName("plain")
        self.desk.setAccessibleName("Open the desk of what is picked")
        self.desk.setToolTip("The desk of the brush that laid it (F3)")
        self.desk.clicked.connect(lambda _: self.session.ask_desk_of_picked())
        head = QHBoxLayout()
        head.addWidget(self._title, 1)
        head.addWidget(self.desk)
        whole.addLayout(head)
        whole.addWidget(self.what)
        self.sizes = [number_field(f"Size {axis}") for axis in ("width", "height", "levels")]
        self.places = [number_field(f"At {axis}") for axis in ("x", "y", "z")]
        self.order = number_field("Order, 1 is the nearest")
        self._of = QLabel()
        self.turns = {q: choice_button(f"{q * 90}°", f"Turned {q * 90}°") for q in range(4)}
        self.mirror = choice_button("no", "Mirrored: west and east change places (M)")
        self.seed = number_field("Roll: which parts fall where")
        self.dice = Dice()
        self._pieces = QWidget()
        self._piece_rows(self._pieces)
        self.things, self.area = ThingRows(session), AreaRows(session)
        self.curves, self.riders = CurveRows(session), RiderRows(session)
        self.sown, self.alike = SownRows(session), AlikeRows(session)
        self._rest = QVBoxLayout()
        self._rest.setSpacing(2)
        for part in (self._pieces, self.curves, self.riders, self.sown, self.alike,
                     self.things, self.area):  # fmt: skip
            whole.addWidget(part)
        whole.addLayout(self._rest)
        whole.addStretch(1)
        self.outlines = {
            name: choice_button(name, f"Outlines of pieces: {name}") for name in OUTLINES
        }
        self._outline_rows(whole)
        self._connect()
        self.use(session)

    def _piece_rows(self, body: QWidget) -> None:
        """The rows for the piece that was picked first."""
        whole = QVBoxLayout(body)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(2)
        self._turn_row = labelled("Turn", *self.turns.values())
        self._mirror_row = labelled("Mirrored", self.mirror)
        self._seed_row = labelled("Inside", self.seed, self.dice)
        for row in (labelled("Size", *_between(self.sizes, "×"), QLabel("c")),
                    labelled("At", *_between(self.places, ",")),
                    labelled("Order", self.order, self._of),
                    self._turn_row, self._mirror_row, self._seed_row):  # fmt: skip
            whole.addWidget(row)

    def _outline_rows(self, whole: QVBoxLayout) -> None:
        whole.addWidget(heading("Outlines of pieces"))
        line = QHBoxLayout()
        line.setSpacing(4)
        for button in self.outlines.values():
            line.addWidget(button)
        line.addStretch(1)
        hint = QLabel("hold V hides")
        hint.setFont(style.font(11))
        style.tint(hint, "soft")
        line.addWidget(hint)
        whole.addLayout(line)

    def _connect(self) -> None:
        for n, edit in enumerate(self.sizes):
            edit.editingFinished.connect(lambda n=n: self._type_size(n))
        for n, edit in enumerate(self.places):
            edit.editingFinished.connect(lambda n=n: self._type_at(n))
        self.order.editingFinished.connect(self._type_order)
        self.seed.editingFinished.connect(self._type_seed)
        self.dice.clicked.connect(self._roll)
        self.mirror.clicked.connect(lambda: self.pieces.mirror())
        for quarters, button in self.turns.items():
            button.clicked.connect(lambda _, q=quarters: self._turn_to(q))
        for name, button in self.outlines.items():
            button.clicked.connect(lambda _, n=name: self.pieces.show_outlines(n))

    def use(self, session: Session) -> None:
        """Work on another session."""
        self.session = self.things.session = self.area.session = session
        self.curves.session = self.riders.session = self.sown.session = session
        self.alike.session = session
        session.curves.changed.connect(self.refresh)
        session.picking.changed.connect(self.refresh)
        session.gestures.changed.connect(self.refresh)
        session.hands.changed.connect(self.refresh)
        session.changed.connect(lambda _: self.refresh())
        self.refresh()

    @property
    def pieces(self) -> PickedPieces:
        """What is picked."""
        return self.session.pieces

    # --- shown ----------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the pieces anew."""
        self.tabs.refresh(self.session, shows_picked=True)
        for name, button in self.outlines.items():
            bold(button, name == self.pieces.outlines)
        for rows in (self.curves, self.riders, self.sown, self.alike, self.things, self.area):
            rows.refresh()
        picked = bool(self.session.picking.things() or self.session.picked.brush())
        self.desk.setVisible(picked)
        there = self.pieces.there()
        self._pieces.setVisible(bool(there))
        if not there:
            self._show_no_piece()
            return
        (pick, piece), *others = there
        brush = shape_of(self.session.project, piece)
        layer = self.session.room.layers[pick.layer]
        self._title.setText(piece.brush)
        self.what.setText(f"{self.pieces.words(piece)} · on {layer.info.name}")
        box, axes = piece.box, len(piece.points[0])
        for n, (size, at) in enumerate(zip(self.sizes, self.places, strict=True)):
            for edit in (size, at):
                edit.setVisible(n < axes)
                if isinstance(sign := edit.property("sign"), QLabel):
                    sign.setVisible(n < axes)
            if n < axes:
                _show(size, box.shape[-1 - n])
                _show(at, box.lo[-1 - n])
        rank, count = rank_of(layer, pick.number)
        _show(self.order, rank)
        self._of.setText(f"of {count}")
        self._turn_row.setVisible(isinstance(brush, BoxShape))
        self._mirror_row.setVisible(isinstance(brush, BoxShape) and axes == 2)
        for quarters, button in self.turns.items():
            bold(button, quarters == piece.turn)
        self.mirror.setText("yes" if piece.mirrored else "no")
        self._seed_row.setVisible(_falls_by_chance(brush))
        _show(self.seed, piece.seed)
        self._show_others(others, pick, piece)

    def _show_no_piece(self) -> None:
        """The head where things or cells are picked, or nothing is."""
        things, picking = self.session.picking.things(), self.session.picking
        title, what = "Nothing picked", "Press on a thing or a piece, or draw round some cells"
        curves = self.session.curves.there()
        if curves:
            title, what = _curve_words(curves, self.session)
        elif things:
            (pick, thing), layers = things[0], self.session.room.layers
            names = dict.fromkeys(other.prefab for _, other in things)
            title = thing.prefab if len(names) == 1 else f"{len(things)} things"
            groups = " · grouped" if any(other.groups for _, other in things) else ""
            number = f"thing {pick.number}" if len(things) == 1 else f"{len(things)} things"
            number = number if len(names) == 1 else ", ".join(names)
            what = f"{number} · on {layers[pick.layer].info.name}{groups}"
        elif picking.area is not None:
            layer_names = [self.session.room.layers[i].info.name for i in picking.layers()]
            title, what = "Area of cells", f"of {', '.join(layer_names) or 'no layer'}"
        self._title.setText(title)
        self.what.setText(what)
        self._clear_rest()

    def _clear_rest(self) -> None:
        emptied(self._rest)

    def _show_others(self, others: list[tuple[Pick, Piece]], pick: Pick, piece: Piece) -> None:
        self._clear_rest()
        if others:
            self._head("Picked with it")
            for other, its in others[:_MOST_LISTED]:
                self._list(
                    its, "×", functools.partial(self.session.picking.take, [other], None, "less")
                )
            if len(others) > _MOST_LISTED:
                self._rest.addWidget(QLabel(f"and {len(others) - _MOST_LISTED} more"))
        cell = self.session.cursor
        here = self.pieces.here(cell) if cell is not None else []
        if len(here) > 1:
            self._head(f"Pieces here · {cell_told(cell or ())}")
            for other, its in here[:_MOST_LISTED]:
                self._list(its, "picked" if other == pick else "",
                           functools.partial(self.pieces.pick, [other]))  # fmt: skip

    def _list(self, piece: Piece, sign: str, does: Callable[[], object]) -> None:
        self._rest.addWidget(PieceRow(self.session, piece, does, sign))

    def _head(self, text: str) -> None:
        head = heading(text)
        head.setContentsMargins(0, 8, 0, 0)
        self._rest.addWidget(head)

    # --- typed ----------------------------------------------------------------------------

    def _typed(self, edit: QLineEdit, before: int) -> int | None:
        """The number that was typed, if it is another one."""
        try:
            number = int(edit.text())
        except ValueError:
            edit.setText(str(before))
            return None
        return number if number != before else None

    def _type_size(self, n: int) -> None:
        first = self.pieces.first()
        if first is None or n >= len(first[1].box.shape):
            return
        shape = list(first[1].box.shape)
        number = self._typed(self.sizes[n], shape[-1 - n])
        if number is not None:
            shape[-1 - n] = number
            self._put(edits.resized, tuple(shape))

    def _type_at(self, n: int) -> None:
        first = self.pieces.first()
        if first is None or n >= len(first[1].box.lo):
            return
        lo = list(first[1].box.lo)
        number = self._typed(self.places[n], lo[-1 - n])
        if number is not None:
            lo[-1 - n] = number
            self._put(edits.placed, tuple(lo))

    def _type_order(self) -> None:
        first = self.pieces.first()
        if first is None:
            return
        pick, _ = first
        number = self._typed(
            self.order, rank_of(self.session.room.layers[pick.layer], pick.number)[0]
        )
        if number is not None:
            self._put(edits.ordered, number)

    def _type_seed(self) -> None:
        first = self.pieces.first()
        number = self._typed(self.seed, first[1].seed) if first else None
        if number is not None:
            self.pieces.do(edits.reseeded, number % (1 << 31))

    def _roll(self) -> None:
        first = self.pieces.first()
        if first is not None:
            self.pieces.do(edits.reseeded, (first[1].seed * 1103515245 + 12345) % 10_000)

    def _turn_to(self, quarters: int) -> None:
        first = self.pieces.first()
        if first is not None:
            self.pieces.do(edits.turned, (quarters - first[1].turn) % 4)

    def _put(self, plan: Callable[..., object], *args: object) -> None:
        if not self.pieces.put(plan, *args):  # type: ignore[arg-type]
            self.refresh()


def _curve_words(curves: list[tuple[Pick, Curve]], session: Session) -> tuple[str, str]:
    """What is said of picked curves: a title, and a line."""
    (pick, curve), *others = curves
    title = f"{len(curves)} curves" if others else curve.brush or "Curve"
    form = "closed" if curve.closed else "open"
    layer = session.room.layers[pick.layer].info.name
    return title, (f"curve {pick.number} · {curve.length:.1f} c · {len(curve.points)} points · "
                   f"{form} · on {layer}")  # fmt: skip


class PieceRow(QPushButton):
    """A piece in a list: its picture, name and words.  A click does what it is given."""

    def __init__(
        self, session: Session, piece: Piece, does: Callable[[], object], sign: str
    ) -> None:
        super().__init__()
        self._piece, self._sign = piece, sign
        self._words = session.pieces.words(piece)
        brush = brush_or_none(session.project, piece.brush)
        used = brush.tiles_used() if brush is not None else ()
        self._picture = pixmap_of(ref_picture(session.project, used[0])) if used else None
        self.setFixedHeight(40)
        self.setToolTip(f"{piece.brush}: {self._words}")
        self.setAccessibleName(self.toolTip())
        self.clicked.connect(lambda: does())

    def sizeHint(self) -> QSize:
        return QSize(240, 40)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self._sign == "picked" or self.underMouse():
            painter.fillRect(self.rect(), style.ink("card"))
        if self._sign == "picked":
            painter.fillRect(QRectF(0, 0, 3, self.height()), style.ink("buoy"))
        frame = QRectF(8, 5, 30, 30)
        painter.fillRect(frame, style.ink("panel2"))
        if self._picture is not None:
            painter.drawPixmap(frame, self._picture, QRectF(self._picture.rect()))
        painter.setPen(style.ink("line"))
        painter.drawRect(frame)
        painter.setPen(style.ink("ink"))
        painter.setFont(style.font(13, bold=True))
        painter.drawText(QRectF(46, 4, self.width() - 60, 17), self._piece.brush)
        painter.setPen(style.ink("soft"))
        painter.setFont(style.font(12))
        painter.drawText(QRectF(46, 20, self.width() - 60, 16), self._words)
        if self._sign == "×":
            painter.drawText(QRectF(self.width() - 20, 4, 14, 17), "×")


def _between(edits_: list[QLineEdit], sign: str) -> list[QWidget]:
    parts: list[QWidget] = []
    for n, edit in enumerate(edits_):
        if n:
            parts.append(QLabel(sign))
            edit.setProperty("sign", parts[-1])
        parts.append(edit)
    return parts


def _show(edit: QLineEdit, value: int) -> None:
    if not edit.hasFocus() or not edit.isModified():
        edit.setText(str(value))


def _falls_by_chance(brush: ShapeKind | None) -> bool:
    return isinstance(brush, Seeded) and any(s.form == "seed" for s in brush.settings())
