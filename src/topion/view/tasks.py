"""Long work off the GUI thread, with progress and a stop button."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QEventLoop, Qt, QThread, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from topion.errors import Stopped, TopionError
from topion.logbook import noted
from topion.view import style

Step = Callable[[str], None]  # says what is being done; raises Stopped after a press on Stop
Task = Callable[[Step], Any]
_SHOW_AFTER_MS = 250


class Worker(QThread):
    """Runs `work(step)` on a thread; then `result` or `problem` is set.  Signals: stepped."""

    stepped = pyqtSignal(str)

    def __init__(self, work: Task, title: str) -> None:
        super().__init__()
        self._work, self._title = work, title
        self.stopping = False
        self.result: Any = None
        self.problem = ""

    def run(self) -> None:
        try:
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
        self.stepped.emit(what)


class Progress(QWidget):
    """A small sheet over the window: what is done, a bar, and Stop."""

    def __init__(self, parent: QWidget, title: str) -> None:
        super().__init__(parent)
        self.setObjectName("progress")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(
            f"#progress {{ background: {style.name('card')}; border: 1px solid {style.name('ink')};"
            " border-radius: 6px; }"
        )
        self.label = QLabel(title)
        self.label.setFont(style.font(13, bold=True))
        self.detail = QLabel(" ")
        self.detail.setStyleSheet(f"color: {style.name('soft')}")
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


def run_task(
    window: QWidget,
    title: str,
    work: Task,
    done: Callable[[Any], object],
    failed: Callable[[str], object],
) -> None:
    """Run `work(step)` on a thread and give its result to `done`, or a sentence to `failed`.

    The window is held still but alive meanwhile; `step` raises Stopped after a press on Stop.
    """
    worker = Worker(work, title)
    progress = Progress(window, title)
    loop = QEventLoop()
    shade = _Shade(window)
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
    worker.finished.connect(loop.quit)
    worker.start()
    loop.exec()
    worker.wait()
    timer.stop()
    shade.releaseKeyboard()
    progress.deleteLater()
    shade.deleteLater()
    if worker.problem:
        failed(worker.problem)
    else:
        done(worker.result)
