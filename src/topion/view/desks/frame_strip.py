"""The frames of a prefab: sets by name, pictures with their times, and how they play."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion.edit.prefabs import with_frames
from topion.errors import TopionError
from topion.model.frames import SETS, STILL, FrameSet, Plays
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.pictures.png import read_png_file
from topion.view import style
from topion.view.desks.parts import Switches, fill
from topion.view.panels.fields import heading
from topion.view.table.compose import pixmap_of

_SIDE, _PITCH, _TIME = 46, 52, 15


class FrameStrip(QWidget):
    """put : called with all sets once one was changed.  failed : with a sentence.

    set_name : of the set that is shown.  chosen : a frame of it.
    """

    def __init__(self) -> None:
        super().__init__()
        self.put: Callable[[tuple[FrameSet, ...]], object] = lambda _: None
        self.failed: Callable[[str], object] = lambda _: None
        self.prefab: Prefab | None = None
        self.set_name, self.chosen = STILL, 0
        self.sets = QComboBox()
        self.sets.setAccessibleName("Set of frames")
        self.sets.setToolTip("Still is shown where nothing else happens; the walk uses the others")
        self.sets.activated.connect(lambda _: self._choose_set())
        self.plays = Switches(
            {"loops": "loops", "there and back": "there and back", "once": "once"}
        )
        self.plays.chosen = self._set_plays
        self.frames = _Frames(self)
        self.time = QLineEdit()
        self.time.setAccessibleName("How long the frame stays, ms")
        self.time.setToolTip("How long the chosen frame stays, in ms")
        self.time.setFixedWidth(52)
        self.time.editingFinished.connect(self._set_time)
        self.add = QPushButton("+ frame…")
        self.add.setToolTip("More frames, each a PNG as large as the picture")
        self.add.clicked.connect(lambda _: self.ask())
        self.gone = QPushButton("×")
        self.gone.setObjectName("plain")
        self.gone.setToolTip("Take the chosen frame away")
        self.gone.clicked.connect(lambda _: self._take_away())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.addWidget(heading("Frames"))
        head.addWidget(self.sets)
        column.addLayout(head)
        column.addWidget(self.frames)
        column.addWidget(self.plays)
        foot = QHBoxLayout()
        for part in (self.add, self.time, self.gone):
            foot.addWidget(part)
        foot.addStretch(1)
        column.addLayout(foot)

    # --- showing --------------------------------------------------------------------------

    def shown(self) -> FrameSet | None:
        """The frames that are shown."""
        return self.prefab.frame_set(self.set_name) if self.prefab is not None else None

    def show_prefab(self, prefab: Prefab) -> None:
        """Show the frames of a prefab."""
        self.prefab = prefab
        own = self.own_sets(prefab)
        fill(self.sets, list(dict.fromkeys((*SETS, *own))), self.set_name)
        found = self.shown()
        self.plays.show_value(found.plays if found else "loops")
        count = len(found.pictures) if found else 0
        self.chosen = max(0, min(self.chosen, count - 1))
        for part in (self.time, self.gone, self.plays, self.frames):
            part.setVisible(bool(found))
        if not (self.time.hasFocus() and self.time.isModified()):
            self.time.setText(str(found.ms[self.chosen]) if found else "")
        self.frames.show_set(found)

    def own_sets(self, prefab: Prefab) -> list[str]:
        """The names of the sets that it has."""
        return [known.name for known in prefab.frames]

    def choose(self, number: int) -> None:
        """Choose a frame."""
        self.chosen = number
        if self.prefab is not None:
            self.show_prefab(self.prefab)

    def _choose_set(self) -> None:
        self.set_name, self.chosen = self.sets.currentText(), 0
        if self.prefab is not None:
            self.show_prefab(self.prefab)

    # --- setting --------------------------------------------------------------------------

    def _put(self, pictures: tuple[Picture, ...], ms: tuple[int, ...],
             plays: Plays = "loops") -> None:  # fmt: skip
        if self.prefab is None:
            return
        try:
            self.put_frames(pictures, ms, plays)
        except TopionError as problem:
            self.failed(str(problem))

    def put_frames(self, pictures: tuple[Picture, ...], ms: tuple[int, ...], plays: Plays) -> None:
        """Other frames in the set that is shown.  Raises BadValue."""
        if self.prefab is not None:
            self.put(with_frames(self.prefab.frames, self.set_name, pictures, ms, plays))

    def add_pictures(self, pictures: list[Picture]) -> None:
        """More frames; of a set that is new the first is the picture itself."""
        found, prefab = self.shown(), self.prefab
        if prefab is None:
            return
        before = found.pictures if found else (prefab.picture,)
        ms = found.ms if found else (160,)
        after = (*before, *pictures)
        self._put(after, (*ms, *[ms[-1]] * len(pictures)), found.plays if found else "loops")

    def ask(self) -> None:
        """Ask for pictures to be added."""
        paths, _ = QFileDialog.getOpenFileNames(self, "Frames", "", "PNG (*.png)")
        try:
            self.add_pictures([read_png_file(Path(path)) for path in paths])
        except TopionError as problem:
            self.failed(str(problem))

    def _set_plays(self, plays: Plays) -> None:
        if (found := self.shown()) is not None:
            self._put(found.pictures, found.ms, plays)

    def _set_time(self) -> None:
        found = self.shown()
        if found is None or not self.time.isModified() or not self.time.text().isdigit():
            return
        self.time.setModified(False)
        ms = list(found.ms)
        ms[self.chosen] = int(self.time.text())
        self._put(found.pictures, tuple(ms), found.plays)

    def _take_away(self) -> None:
        found = self.shown()
        if found is not None:
            left = [n for n in range(len(found.pictures)) if n != self.chosen]
            self._put(tuple(found.pictures[n] for n in left), tuple(found.ms[n] for n in left),
                      found.plays)  # fmt: skip

    def move_frame(self, number: int, to: int) -> None:
        """A frame at another place."""
        found = self.shown()
        if found is None:
            return
        order = [n for n in range(len(found.pictures)) if n != number]
        order.insert(max(0, min(to, len(order))), number)
        self.chosen = order.index(number)
        self._put(tuple(found.pictures[n] for n in order), tuple(found.ms[n] for n in order),
                  found.plays)  # fmt: skip


class _Frames(QWidget):
    """The pictures side by side, with their times; and the set as it plays."""

    def __init__(self, strip: FrameStrip) -> None:
        super().__init__()
        self._strip = strip
        self._set: FrameSet | None = None
        self._pressed: float | None = None
        self._clock = QTimer(self)
        self._clock.setInterval(40)
        self._clock.timeout.connect(self.update)
        self.setFixedHeight(_SIDE + _TIME + 6)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Frames")
        self.setToolTip(
            "Click one to set its time; drag it to another place. The first square plays"
        )

    def show_set(self, frames: FrameSet | None) -> None:
        """Show these."""
        self._set = frames
        if frames is not None and len(frames.pictures) > 1:
            self._clock.start()
        else:
            self._clock.stop()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(6 * _PITCH, _SIDE + _TIME + 6)

    def rect_of(self, number: int) -> QRectF:
        """Where a frame is seen; the first place plays."""
        return QRectF(2 + (number + 1) * _PITCH, 2, _SIDE, _SIDE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, frames = QPainter(self), self._set
        if frames is None:
            return
        now = frames.frame_at(time.monotonic() * 1000)
        self._draw(painter, self.rect_of(-1), frames.pictures[now], "tidal", 2)
        painter.setFont(style.font(11))
        for number, picture in enumerate(frames.pictures):
            chosen = number == self._strip.chosen
            self._draw(painter, self.rect_of(number), picture, "buoy" if chosen else "line",
                       2 if chosen else 1)  # fmt: skip
            painter.setPen(style.ink("ink" if number == now else "soft"))
            below = self.rect_of(number).translated(0, _SIDE + 1)
            painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, f"{frames.ms[number]} ms")

    def _draw(self, painter: QPainter, rect: QRectF, picture: Picture, ink: str, wide: int) -> None:
        painter.fillRect(rect, style.ink("card"))
        pixmap = pixmap_of(picture.rgba)
        size = pixmap.size().scaled(_SIDE - 4, _SIDE - 4, Qt.AspectRatioMode.KeepAspectRatio)
        target = QRectF(0, 0, size.width(), size.height())
        target.moveCenter(rect.center())
        painter.drawPixmap(target, pixmap, QRectF(pixmap.rect()))
        painter.setPen(QPen(style.ink(ink), wide))
        painter.drawRect(rect)

    def _at(self, x: float) -> int:
        count = len(self._set.pictures) if self._set is not None else 0
        number = int((x - 2) // _PITCH) - 1
        return number if 0 <= number < count else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self._at(event.position().x()) if event is not None else -1
        if event is not None and number >= 0:
            self._pressed = event.position().x()
            self._strip.choose(number)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            return
        by = round((event.position().x() - self._pressed) / _PITCH)
        self._pressed = None
        if by:
            self._strip.move_frame(self._strip.chosen, self._strip.chosen + by)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        count = len(self._set.pictures) if self._set is not None else 0
        if event is not None and Qt.Key(event.key()) in step and count:
            self._strip.choose((self._strip.chosen + step[Qt.Key(event.key())]) % count)
        else:
            super().keyPressEvent(event)
