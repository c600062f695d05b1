"""Starting the window: something to see first, everything heavy behind it."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QThread, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QWidget

_PAPER, _SOFT = QColor("#f1ede4"), QColor("#6b7479")


def application() -> QApplication:
    """The one QApplication, named; fonts and style come with the first real window."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    QApplication.setHighDpiScaleFactorRoundingPolicy(
        Qt.HighDpiScaleFactorRoundingPolicy.PassThrough
    )
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Topion")
    return app


class Curtain(QWidget):
    """What is seen until the core is loaded."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.text = text

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), _PAPER)
        painter.setPen(_SOFT)
        font = QFont("Lato")
        font.setPixelSize(15)
        painter.setFont(font)
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text)


class _Loader(QThread):
    """Imports NumPy, SciPy and the core, and reads the project, while the curtain is up."""

    loaded = pyqtSignal(object, str)

    def __init__(self, source: Path | str | None) -> None:
        super().__init__()
        self.source = source

    def run(self) -> None:
        from topion import scripting
        from topion.errors import TopionError

        problem = ""
        handle: Any = None
        try:
            if self.source == "demo":
                from topion.demo.brinehollow import brinehollow

                handle = brinehollow()
            elif self.source is not None:
                handle = scripting.open(self.source)
        except TopionError as found:
            problem = str(found)
        if handle is None:
            handle = scripting.new(None, "Untitled")
            handle.add_room("Room 1")
            handle.history.mark_saved()
        import topion.view.window  # noqa: F401  (so that the GUI thread finds it loaded)

        self.loaded.emit(handle, problem)


class Start:
    """Shows a window at once and fills it when the core has come."""

    def __init__(self, source: Path | str | None) -> None:
        self.window: Any = None
        self.shell = QMainWindow()
        self.shell.setWindowTitle("Topion")
        self.shell.resize(1280, 800)
        self.shell.setCentralWidget(Curtain("Laying out the table…"))
        self.loader = _Loader(source)
        self.loader.loaded.connect(self._fill)
        self.shell.show()
        QTimer.singleShot(0, self.loader.start)

    def _fill(self, handle: Any, problem: str) -> None:
        from topion.view import look
        from topion.view.window import Window

        look.load_fonts()
        look.dress(application())
        self.window = Window(handle)
        self.window.setGeometry(self.shell.geometry())
        self.window.show()
        self.shell.close()
        if problem:
            self.window.say(problem)


def run(source: Path | str | None = None) -> int:
    """Open the window and stay until it is closed; `source` is a folder, "demo" or nothing."""
    app = application()
    start = Start(source)
    app.setQuitOnLastWindowClosed(True)
    code = app.exec()
    start.loader.wait()
    return code
