"""Starting the window: something to see first, everything heavy behind it."""

from __future__ import annotations

import gc
import os
import sys
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QSize, QThread, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QWidget

from topion.view import settings, unforeseen

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path  # not loaded before something is seen

_SETTLED_MS = 1500
_GIVES_WAY_S = 0.001  # threads let the window go on after so long; 5 ms would add up to a jerk
APP_ID = "org.topion.Topion"  # of the desktop entry, the icon and the metainfo
_PAPER = QImage(b"\xe4\xed\xf1\xff", 1, 1, QImage.Format.Format_RGB32)
_SIGN = os.path.join(os.path.dirname(__file__), "sign.png")


def application() -> QApplication:
    """The one QApplication, named; fonts and style come with the first real window."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    times = settings.scale()
    if times != 1.0:
        os.environ.setdefault("QT_SCALE_FACTOR", f"{times:g}")
    sys.setswitchinterval(_GIVES_WAY_S)
    os.environ.setdefault("QT_NO_GLIB", "1")  # its loop does not tell when it has nothing to do
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Topion")
    return app


def dress_for_desktop() -> None:
    """Tell the desktop which of its entries this is, and show our icon; after the first paint, as
    a picture of curves takes its time.  Dialogs of the desktop would run a loop of their own."""
    from importlib.resources import files

    from PyQt6.QtCore import Qt
    from PyQt6.QtGui import QIcon

    QApplication.setAttribute(Qt.ApplicationAttribute.AA_DontUseNativeDialogs)
    QApplication.setDesktopFileName(APP_ID)
    QApplication.setWindowIcon(QIcon(str(files("topion.desktop") / f"{APP_ID}.svg")))


class Curtain(QWidget):
    """What is seen until the core is loaded: paper and our sign, no text, since the first
    text would wait for all fonts of the machine.  Signals: painted(), once."""

    painted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Laying out the table")
        self._seen = False
        with open(_SIGN, "rb") as file:
            self._sign = QImage.fromData(file.read(), "PNG")
        self._sign.setDevicePixelRatio(2.0)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Of pictures alone: the first colour or pen would wait for all names of Qt."""
        painter = QPainter(self)
        painter.drawImage(self.rect(), _PAPER)
        painter.drawImage((self.width() - 64) // 2, (self.height() - 64) // 2, self._sign)
        if not self._seen:
            self._seen = True
            QTimer.singleShot(0, self.painted.emit)


class _Loader(QThread):
    """Imports NumPy, SciPy and the core, and reads the project, while the curtain is up.

    Signals: named() when the names of Qt are known, which takes a twentieth of a second;
    loaded(an Opened).
    """

    named, loaded = pyqtSignal(), pyqtSignal(object)

    def __init__(self, source: Path | str | None, window: QSize) -> None:
        super().__init__()
        self.source, self._window = source, window

    def run(self) -> None:
        QColor("white")
        self.named.emit()
        import topion.view.window  # noqa: F401  (so that the GUI thread finds it loaded)
        from topion.extending import load_extensions

        load_extensions()
        self.loaded.emit(self._opened())

    def _opened(self) -> Any:
        """What was asked for; else what was never saved, or a new project."""
        from pathlib import Path

        from topion.edit.journals import unsaved
        from topion.errors import TopionError
        from topion.logbook import noted
        from topion.view.keeper import Keeper
        from topion.view.opening import Opened, blank, brought_back, opened, warmed

        problem = ""
        try:
            if self.source == "demo":
                from topion.demo.kept import kept_demo

                demo = kept_demo()
                warmed(demo, demo.rooms()[0], self._window)
                return Opened(demo, Keeper(demo))
            if self.source is not None:
                return opened(Path(self.source), lambda _: None, self._window)
            for left in unsaved():
                return brought_back(left.kept, self._window)
            return Opened(blank(), home=True)
        except TopionError as found:
            problem = str(found)
        except OSError as found:
            problem = f"{found.filename or self.source}: {found.strerror or found}"
        except Exception as found:  # an error nobody foresaw still shows a window
            problem = noted(found, "Opening failed")
        return Opened(blank(), wrong=problem)


class _Rest(QThread):
    """Loads what nobody has needed yet."""

    def run(self) -> None:
        from topion.view.ahead import load_parts

        load_parts()


class Start:
    """Shows a window at once and fills it when the core has come."""

    def __init__(self, source: Path | str | None, *, alone: bool = False) -> None:
        """alone : the process is for this window only, whose loop of events is never polled."""
        self._alone = alone
        gc.disable()  # all that is made while starting stays; looking through it costs a sixth
        self.window: Any = None
        self.shell = QMainWindow()
        self.shell.setWindowTitle("Topion")
        settings.place_window(self.shell)
        curtain = Curtain()
        self.shell.setCentralWidget(curtain)
        self._rest = _Rest()
        self._rest.finished.connect(self._settle)
        self.loader = _Loader(source, self.shell.size())
        self.loader.loaded.connect(self._fill)
        self.loader.named.connect(unforeseen.install)
        curtain.painted.connect(self.loader.start)
        self.shell.show()

    def _fill(self, opened: Any) -> None:
        """The core has come: build the window, a part in each turn of the event loop."""
        dress_for_desktop()
        self._steps = self._filling(opened)
        self._turn = QTimer()
        self._turn.timeout.connect(self._fill_on)
        self._turn.start(0)

    def _fill_on(self) -> None:
        try:
            if next(self._steps, None) is None:
                self._turn.stop()
        except BaseException:  # it is told as any other; half a window is not built on
            self._turn.stop()
            raise

    def _filling(self, opened: Any) -> Iterator[str]:
        from topion.view import style
        from topion.view.tasks import give_way
        from topion.view.window import Window

        if self._alone:
            give_way()
        style.use_dark(settings.is_dark())
        style.load_fonts()
        yield "fonts"
        style.dress(application())
        yield "style"
        window = Window(opened.handle, opened.keeper, at_once=False)
        while window.build_next():
            yield "part"
        unforeseen.watch(window)
        window.setGeometry(self.shell.geometry())
        window.setWindowState(self.shell.windowState())
        yield "window"
        for widget in window.findChildren(QWidget):
            widget.ensurePolished()
        yield "polish"
        panels = window.panels()
        if opened.home:  # nothing of the table is seen before it
            panels = window.homing.page().panels()
            yield "page"
            window.homing.turn_to()
            yield "home"
        for panel in panels:  # each is painted in a turn of its own
            panel.setUpdatesEnabled(False)
        window.show()
        self.shell.close()
        for panel in panels:
            yield "paint"
            panel.setUpdatesEnabled(True)
        if opened.wrong:
            window.say(opened.wrong)
        self.window = window  # all of it is there
        QTimer.singleShot(_SETTLED_MS, self._rest.start)

    def wait(self) -> None:
        """Until its threads have ended."""
        self.loader.wait()
        self._rest.wait()

    def _settle(self) -> None:
        """What was made by now is not looked through again."""
        gc.freeze()
        gc.enable()


def run(source: Path | str | None = None) -> int:
    """Open the window and stay until it is closed; `source` is a folder, "demo" or nothing."""
    app = application()
    start = Start(source, alone=True)
    app.setQuitOnLastWindowClosed(True)
    code = app.exec()
    start.wait()
    return code
