"""Long work off the GUI thread, with progress and a stop button."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PyQt6.QtCore import (
    QAbstractEventDispatcher,
    QAbstractNativeEventFilter,
    QEventLoop,
    QObject,
    Qt,
    QThread,
    QTimer,
    pyqtSignal,
)
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from topion import progress
from topion.errors import Stopped, TopionError
from topion.logbook import noted
from topion.view import style

Step = Callable[[str], None]  # says what is being done; raises Stopped after a press on Stop
Task = Callable[[Step], Any]
_SHOW_AFTER_MS = 250
_TOLD_EVERY_S = 0.05
_WAITS_S = 0.1  # so that work goes on where the window draws and draws
_QUIET = threading.Event()
_QUIET.set()


class _Stirs(QAbstractNativeEventFilter):
    """Hears of keys and the mouse before anything is done about them."""

    def nativeEventFilter(self, kind: object, message: object) -> tuple[bool, Any]:
        _QUIET.clear()
        return False, 0


_STIRS = _Stirs()


def give_way() -> None:
    """From now on threads wait at their next step while the window has anything to do: each time
    it comes back from Qt to Python, one that counts would hold it up for a millisecond."""
    app, dispatcher = QApplication.instance(), QAbstractEventDispatcher.instance()
    if app is not None and dispatcher is not None:
        app.installNativeEventFilter(_STIRS)
        dispatcher.awake.connect(_QUIET.clear)
        dispatcher.aboutToBlock.connect(_QUIET.set)


class Worker(QThread):
    """Runs `work(step)` on a thread; then `result` or `problem` is set.  Signals: stepped,
    asked(a call for the GUI thread).

    Its work reads frozen projects, or what nobody else has: the window goes on meanwhile.
    """

    stepped = pyqtSignal(str)
    asked = pyqtSignal(object)

    def __init__(self, work: Task, title: str) -> None:
        super().__init__()
        self._work, self._title, self._told = work, title, 0.0
        self.stopping = False
        self.result: Any = None
        self.problem = ""

        self.finished.connect(self._forget)

    def begin(self) -> None:
        """Start; it is kept until it ends, whoever forgets it: a thread must not be destroyed
        while it runs."""
        _RUNNING.add(self)
        self.start()

    def _forget(self) -> None:
        _RUNNING.discard(self)

    def let_go(self) -> None:
        """Nobody waits for it any longer: it stops when it can, and tells nobody."""
        self.stopping = True
        self.finished.disconnect()
        self.finished.connect(self._forget)
        if not self.isRunning():
            self._forget()

    def run(self) -> None:
        try:
            with progress.heard_by(self._step):
                self.result = self._work(self._step)
        except TopionError as problem:
            self.problem = str(problem)
        except OSError as problem:
            self.problem = f"{problem.filename or self._title}: {problem.strerror or problem}"
        except MemoryError:
            self.problem = f"{self._title}: there is not enough memory"
        except Exception as problem:  # nobody foresaw it; nothing was changed
            self.problem = noted(problem, self._title)

    def _step(self, what: str) -> None:
        if self.stopping:
            raise Stopped(self._title)
        _QUIET.wait(_WAITS_S)
        now = time.monotonic()
        if now - self._told >= _TOLD_EVERY_S:
            self._told = now
            self.stepped.emit(what)

    def on_gui(self, call: Callable[[], object]) -> None:
        """Let the GUI thread do something, and wait for it; raises what that raises."""
        problems: list[Exception] = []

        def guarded() -> None:
            try:
                call()
            except Exception as problem:  # the thread that asked has to hear of it
                problems.append(problem)

        self.asked.emit(guarded)
        if problems:
            raise problems[0]


_RUNNING: set[Worker] = set()


def wait_for_all() -> None:
    """Stop what is under way and wait for it: the program ends."""
    for worker in list(_RUNNING):
        worker.stopping = True
        worker.wait()
    _RUNNING.clear()


class Progress(QWidget):
    """A small sheet over the window: what is done, a bar, and Stop."""

    def __init__(self, parent: QWidget, title: str) -> None:
        super().__init__(parent)
        self.setObjectName("progress")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.label = QLabel(title)
        self.label.setFont(style.font(13, bold=True))
        self.detail = QLabel(" ")
        style.tint(self.detail, "soft")
        bar = QProgressBar()
        bar.setRange(0, 0)
        bar.setTextVisible(False)
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Stop this work; nothing is changed (Esc)")
        row = QHBoxLayout()
        row.addWidget(self.detail, 1)
        row.addWidget(self.stop)
        layout = QVBoxLayout(self)
        layout.addWidget(self.label)
        layout.addWidget(bar)
        layout.addLayout(row)
        self.resize(380, 96)
        self.move((parent.width() - 380) // 2, 80)


class _Shade(QWidget):
    """Takes clicks and keys, so that the project cannot change under the work.  Signals:
    escaped()."""

    escaped = pyqtSignal()

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setGeometry(window.rect())
        self.show()
        self.grabKeyboard()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.escaped.emit()


class _Carrier(QObject):
    """Lives on the GUI thread, so that what is asked of it is done there."""

    def carry_out(self, call: Callable[[], object]) -> None:
        call()


def run_task(
    window: QWidget,
    title: str,
    work: Task,
    done: Callable[[Any], object],
    failed: Callable[[str], object],
    with_worker: Callable[[Worker], object] | None = None,
) -> None:
    """Run `work(step)` on a thread and give its result to `done`, or a sentence to `failed`.

    with_worker : is given the worker before it starts, for work that asks the GUI thread.

    The window is held still but alive meanwhile; `step` raises Stopped after a press on Stop.
    """
    worker = Worker(work, title)
    if with_worker is not None:
        with_worker(worker)
    progress = Progress(window, title)
    loop = QEventLoop()
    shade = _Shade(window)
    others = [w for w in QApplication.topLevelWidgets()
              if isinstance(w, QDialog) and w.isVisible() and w.isEnabled()]  # fmt: skip
    for other in others:  # dialogs stay open beside the window: they wait too
        other.setEnabled(False)
    timer = QTimer()
    timer.setSingleShot(True)
    timer.timeout.connect(progress.show)
    timer.start(_SHOW_AFTER_MS)

    def stop() -> None:
        worker.stopping = True
        progress.detail.setText("stopping…")

    progress.stop.clicked.connect(stop)
    shade.escaped.connect(stop)
    worker.stepped.connect(progress.detail.setText)
    carrier = _Carrier()
    blocking = Qt.ConnectionType.BlockingQueuedConnection
    worker.asked.connect(carrier.carry_out, blocking)  # type: ignore[call-arg]
    worker.finished.connect(loop.quit)
    worker.begin()
    try:
        loop.exec()
        worker.wait()
    finally:
        timer.stop()
        shade.releaseKeyboard()
        progress.deleteLater()
        shade.deleteLater()
        for other in others:
            with suppress(RuntimeError):  # closed meanwhile
                other.setEnabled(True)
    if worker.problem:
        failed(worker.problem)
    else:
        done(worker.result)
