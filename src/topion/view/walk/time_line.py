"""The time line of a walk: play, pause, steps, speed, and the keys by tick."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from topion.view import style
from topion.view.desks.parts import Switches
from topion.view.walk.run import SPEEDS, WalkRun
from topion.walk import ACT, DOWN, JUMP, LEFT, RIGHT, TURN, UP
from topion.walk.scale import TICKS

_LANES = (("left, right", {LEFT: "left", RIGHT: "right"}), ("up, down", {UP: "up", DOWN: "down"}),
          ("jump", {JUMP: ""}), ("act, turn", {ACT: "", TURN: "turn"}))  # fmt: skip
_LEFT, _TOP, _LANE = 78, 40, 20
_LEAST_TICKS = 15 * TICKS


class TimeLine(QWidget):
    """Buttons at the left, lanes at the right."""

    def __init__(self, run: WalkRun) -> None:
        super().__init__()
        self.run = run
        self.setFixedHeight(148)
        self.first = self._button("|◂", "Back to the start (Home)", lambda: run.seek(0))
        self.back = self._button("◂", "A step back (,)", lambda: run.step_by(-1))
        self.plays = self._button("▸", "Play, or stand still (P)", lambda: run.play(not run.plays))
        self.on = self._button("▸|", "A step on (.)", lambda: run.step_by(1))
        self.record = QPushButton("● Record from here")
        self.record.setToolTip("What follows is walked anew, with the keyboard (R)")
        self.record.clicked.connect(lambda _: run.record_from_here())
        self.speed = Switches({f"{speed:g}×": speed for speed in SPEEDS})
        self.speed.setToolTip("How fast time goes")
        self.speed.chosen = run.set_speed
        self.told = QLabel()
        style.tint(self.told, "soft")
        self.lanes = Lanes(run)
        self._lay_out()
        run.stepped.connect(self.refresh)
        run.changed.connect(self.refresh)
        self.refresh()

    def _button(self, text: str, tip: str, does: Callable[[], object]) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda _: does())
        return button

    def _lay_out(self) -> None:
        side = QWidget()
        side.setFixedWidth(220)
        column = QVBoxLayout(side)
        column.setContentsMargins(12, 10, 8, 6)
        column.setSpacing(6)
        line = QHBoxLayout()
        line.setSpacing(4)
        for button in (self.first, self.back, self.plays, self.on):
            line.addWidget(button)
        column.addLayout(line)
        column.addWidget(self.record)
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.addWidget(QLabel("Speed"), 0, 0)
        grid.addWidget(self.speed, 0, 1)
        column.addLayout(grid)
        column.addWidget(self.told)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(side)
        row.addWidget(self.lanes, 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), style.ink("panel2"))
        painter.setPen(style.ink("line"))
        painter.drawLine(0, 0, self.width(), 0)

    def refresh(self) -> None:
        """Show where time is."""
        run = self.run
        self.plays.setText("▮▮" if run.plays else "▸")
        self.speed.show_value(run.speed)
        missed = f" · {run.missed} missed" if run.missed else ""
        self.told.setText(f"tick {run.at} of {len(run.keys)}{missed}")
        self.lanes.update()


class Lanes(QWidget):
    """Keys by tick, what happened above them, and the playhead; a click or drag puts it there."""

    def __init__(self, run: WalkRun) -> None:
        super().__init__()
        self.run = run
        self.setAccessibleName("Keys by time")
        self.setToolTip("Click or drag to go there in time")

    def sizeHint(self) -> QSize:
        return QSize(800, 148)

    def _wide(self) -> float:
        return max(60.0, self.width() - _LEFT - 22)

    def _shown(self) -> int:
        """Ticks from edge to edge."""
        return max(_LEAST_TICKS, len(self.run.keys) + TICKS)

    def x_of(self, tick: float) -> float:
        """Where a tick is seen."""
        return _LEFT + self._wide() * tick / self._shown()

    def _runs(self, bits: dict[int, str]) -> Iterator[tuple[int, int, str]]:
        """(first, end, word) of each time a key of a lane was held."""
        keys, start, held = self.run.keys, 0, 0
        mask = sum(bits)
        for tick in range(len(keys) + 1):
            now = keys[tick] & mask if tick < len(keys) else 0
            if now != held:
                if held:
                    yield start, tick, next((word for bit, word in bits.items() if held & bit), "")
                start, held = tick, now

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(_LEFT, 6, self._wide(), self.height() - 14)
        painter.setPen(QPen(style.ink("line"), 1))
        painter.setBrush(style.ink("card"))
        painter.drawRoundedRect(frame, 4, 4)
        painter.setFont(style.font(11))
        self._draw_seconds(painter, frame)
        for number, (words, bits) in enumerate(_LANES):
            top = _TOP + number * _LANE
            painter.setPen(style.ink("soft"))
            painter.drawText(QRectF(0, top, _LEFT - 8, _LANE), Qt.AlignmentFlag.AlignRight
                             | Qt.AlignmentFlag.AlignVCenter, words)  # fmt: skip
            for first, end, word in self._runs(bits):
                self._draw_run(painter, top, first, end, word)
        self._draw_news(painter)
        self._draw_head(painter, frame)

    def _draw_seconds(self, painter: QPainter, frame: QRectF) -> None:
        seconds = self._shown() / TICKS
        every = next(n for n in (1, 2, 5, 10, 30, 60, 300, 3600) if seconds / n <= 16)
        for second in range(0, int(seconds) + 1, every):
            x = self.x_of(second * TICKS)
            painter.setPen(style.ink("line"))
            painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
            painter.setPen(style.ink("soft"))
            if x + 30 < frame.right():
                painter.drawText(QPointF(x + 3, _TOP - 6), f"{second} s")

    def _draw_run(self, painter: QPainter, top: float, first: int, end: int, word: str) -> None:
        left, right = self.x_of(first), max(self.x_of(end), self.x_of(first) + 2)
        box = QRectF(left, top + 4, right - left, _LANE - 8)
        past = first < self.run.at
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("ink" if past else "rail"))
        painter.drawRoundedRect(box, 3, 3)
        if word and box.width() > 34:
            painter.setPen(style.ink("card"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)

    def _draw_news(self, painter: QPainter) -> None:
        """A mark for each moment, with its words where they end before the next mark."""
        news = [state for state in self.run.states[1:] if state.news]
        places = [self.x_of(state.tick) for state in news]
        ends = [*places, float(self.width())][1:]
        for state, x, end in zip(news, places, ends, strict=True):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(style.ink("tidal"))
            painter.save()
            painter.translate(x, 16)
            painter.rotate(45)
            painter.drawRect(QRectF(-3.4, -3.4, 6.8, 6.8))
            painter.restore()
            words = state.news[0]
            if x + painter.fontMetrics().horizontalAdvance(words) + 16 < end:
                painter.setPen(style.ink("ink"))
                painter.drawText(QPointF(x + 8, 20), words)

    def _draw_head(self, painter: QPainter, frame: QRectF) -> None:
        x = self.x_of(self.run.at)
        painter.setPen(QPen(style.ink("buoy"), 2.4))
        painter.drawLine(QPointF(x, 4), QPointF(x, self.height() - 4))
        words = f"{self.run.seconds:.1f} s"
        painter.setFont(style.font(11, bold=True))
        box = QRectF(
            x + 3, frame.bottom() - 17, painter.fontMetrics().horizontalAdvance(words) + 10, 15
        )
        if box.right() > self.width():
            box.moveRight(x - 3)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(style.ink("buoy"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(style.ink("card"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _go(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.run.play(False)
            share = (event.position().x() - _LEFT) / self._wide()
            self.run.seek(round(share * self._shown()))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._go(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons():
            self._go(event)
