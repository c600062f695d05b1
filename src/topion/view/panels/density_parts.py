"""The layers of a field's density: each a picture of what has come of it, and a sentence."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.errors import TopionError
from topion.pictures.png import read_png_file
from topion.things.densities import (
    DensityKind,
    FromCurve,
    FromField,
    FromMaterial,
    Noise,
)
from topion.things.densities.from_picture import light_of
from topion.view import style
from topion.view.panels.emptied import emptied
from topion.view.panels.fields import choice_button, labelled, narrow_column
from topion.view.panels.sentence import RuleSentence
from topion.view.session import Session
from topion.view.table.compose import pixmap_of

Parts = tuple[Any, ...]
NEW_PARTS: dict[str, Callable[[], DensityKind]] = {
    "noise": Noise,
    "near a material …": FromMaterial,
    "near curves …": FromCurve,
    "as another field …": FromField,
}
_PICTURE = (44, 30)  # px
PICTURE = _PICTURE[::-1]  # rows and columns


class DensityParts(QWidget):
    """put : called with other layers."""

    def __init__(self, session: Session, put: Callable[[Parts], object]) -> None:
        super().__init__()
        self.session, self.put = session, put
        self.parts: Parts = ()
        self.rows: list[tuple[Shade, RuleSentence, QPushButton]] = []
        self.more = choice_button("+ layer ▾", "One more layer over the painted density")
        self.more.clicked.connect(lambda _: self.menu().popup(
            self.more.mapToGlobal(self.more.rect().bottomLeft())))  # fmt: skip
        self._list = narrow_column()
        whole = narrow_column()
        self.setLayout(whole)
        whole.addWidget(labelled("Layers of its density", self.more))
        whole.addLayout(self._list)
        self.painted = Shade("As it was painted")
        self._foot = QWidget()
        line = QHBoxLayout(self._foot)
        line.setContentsMargins(0, 1, 0, 1)
        line.addWidget(self.painted)
        line.addWidget(QLabel("painted"), 1)
        whole.addWidget(self._foot)

    def show_parts(self, parts: Parts) -> None:
        """Show these, the uppermost first; rows stay where they are as they were."""
        if [type(p) for p in parts] != [type(p) for p in self.parts] or len(parts) != len(
            self.rows
        ):  # fmt: skip
            self._lay(parts)
        self.parts = parts
        for number, (_, sentence, eye) in enumerate(self.rows):
            part = parts[number]
            if isinstance(part, DensityKind):
                sentence.show_form(part, "ink" if part.on else "soft")
                eye.setText("on" if part.on else "off")
        self._foot.setVisible(bool(parts))

    def _lay(self, parts: Parts) -> None:
        emptied(self._list)
        self.rows = []
        made = [self._row(number, part) for number, part in enumerate(parts)]
        for row in reversed(made):
            self._list.addWidget(row)

    def _row(self, number: int, part: Any) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 2, 0, 2)
        line.setSpacing(6)
        shade = Shade("What comes of it with this layer")
        sentence = RuleSentence(lambda: self.session.project, partial(self._set, number))
        if not isinstance(part, DensityKind):
            sentence.setText(f"a layer of kind “{part.kind}”, which is not known here")
        eye = choice_button("on", "Whether this layer counts")
        eye.clicked.connect(lambda _: self._toggle(number))
        gone = choice_button("×", "Without this layer")
        gone.clicked.connect(lambda _: self.change(number, ()))
        sides = QVBoxLayout()
        sides.setSpacing(0)
        for button in (eye, gone):
            sides.addWidget(button)
        line.addWidget(shade)
        line.addWidget(sentence, 1)
        line.addLayout(sides)
        self.rows.append((shade, sentence, eye))
        return row

    # --- pictures -------------------------------------------------------------------------

    def draw(self, pictures: list[np.ndarray]) -> None:
        """Show what was painted, and what comes of it with each layer that is on."""
        on = [row[0] for part, row in zip(self.parts, self.rows, strict=True)
              if isinstance(part, DensityKind) and part.on]  # fmt: skip
        for shade, shares in zip((self.painted, *on), pictures, strict=False):
            shade.show_shares(shares)

    # --- changed --------------------------------------------------------------------------

    def menu(self) -> QMenu:
        """The kinds of layers that can be added."""
        menu = QMenu(self)
        for words, make in NEW_PARTS.items():
            menu.addAction(words, lambda m=make: self.put((*self.parts, m())))
        menu.addAction("a picture …", self.ask_picture)
        return menu

    def ask_picture(self) -> None:
        """Ask for a picture whose light is the density."""
        path, _ = QFileDialog.getOpenFileName(self, "A picture: light is dense", "", "PNG (*.png)")
        if path:
            self.add_picture(Path(path))

    def add_picture(self, path: Path) -> None:
        """A layer that is dense where a picture is light."""
        try:
            part = light_of(read_png_file(path), path.stem)
        except TopionError as problem:
            self.session.said.emit(str(problem))
            return
        self.put((*self.parts, part))

    def _toggle(self, number: int) -> None:
        part = self.parts[number]
        if isinstance(part, DensityKind):
            self.change(number, (replace(part, on=not part.on),))

    def _set(self, number: int, field: str, value: Any) -> None:
        values: dict[str, Any] = {field: value}
        try:
            self.change(number, (replace(self.parts[number], **values),))
        except TopionError as problem:
            self.session.said.emit(str(problem))

    def change(self, number: int, new: Parts) -> None:
        """Other parts in place of one."""
        self.put((*self.parts[:number], *new, *self.parts[number + 1 :]))


class Shade(QWidget):
    """A small picture of a density: dark where it is dense."""

    def __init__(self, tip: str) -> None:
        super().__init__()
        self.setFixedSize(QSize(_PICTURE[0] + 2, _PICTURE[1] + 2))
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.shares: np.ndarray | None = None

    def show_shares(self, shares: np.ndarray) -> None:
        """(h, w) from 0 to 1."""
        self.shares = shares
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        frame = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.fillRect(frame, style.ink("panel2"))
        if self.shares is not None:
            ink = style.ink("tidal")
            rgba = np.zeros((*self.shares.shape, 4), np.uint8)
            rgba[..., :3] = (ink.red(), ink.green(), ink.blue())
            rgba[..., 3] = np.round(self.shares * 255)
            painter.drawPixmap(frame.adjusted(0.5, 0.5, -0.5, -0.5),
                               pixmap_of(rgba), QRectF(0, 0, *rgba.shape[1::-1]))  # fmt: skip
        painter.setPen(style.ink("line"))
        painter.drawRect(frame)
