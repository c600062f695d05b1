"""A person who has never seen the window: finds things by the words on them, and uses the mouse
and the keys.

What they do runs on a thread of its own, so that a menu or a dialog that waits for an answer is one
more thing that is seen, as it is for a person."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QAction, QKeySequence, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QGroupBox,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QTabBar,
    QWidget,
)

LEFT, RIGHT, MIDDLE = (
    Qt.MouseButton.LeftButton,
    Qt.MouseButton.RightButton,
    Qt.MouseButton.MiddleButton,
)
PLAIN = Qt.KeyboardModifier.NoModifier
SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
_PATIENCE_S = 8.0
Cell = tuple[float, ...]


class NotSeen(AssertionError):
    """Nothing in the window bears these words."""


class _Desk(QObject):
    """Lives on the GUI thread and does there what it is handed."""

    handed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.handed.connect(lambda work: work(), Qt.ConnectionType.QueuedConnection)


class Newcomer:
    """home : the folder in which projects are kept."""

    def __init__(self, start: Any, home: Path) -> None:
        self._start, self.home, self._desk = start, home, _Desk()
        self.cut: set[str] = set()  # what could not be read whole
        self._cut_before: set[str] = set()

    # --- the two threads ------------------------------------------------------------------

    def ask(self, question: Callable[[], Any]) -> Any:
        """Answer on the GUI thread, also while a dialog waits there."""
        if threading.current_thread() is threading.main_thread():
            return question()
        done, found = threading.Event(), []

        def work() -> None:
            try:
                found.append((question(), None))
            except BaseException as wrong:
                found.append((None, wrong))
            done.set()

        self._desk.handed.emit(work)
        if not done.wait(30):
            raise AssertionError("the window does not answer")
        answer, wrong = found[0]
        if wrong is not None:
            raise wrong
        return answer

    def do(self, work: Callable[[], Any], ms: int = 60) -> None:
        """Do it on the GUI thread, and go on although it may wait for an answer."""
        wrong: list[BaseException] = []

        def guarded() -> None:
            try:
                work()
            except BaseException as found:
                wrong.append(found)

        self._desk.handed.emit(guarded)
        self.rest(ms)
        if wrong:
            raise wrong[0]

    def rest(self, ms: int = 60) -> None:
        """Let the window live."""
        time.sleep(ms / 1000)
        cut = set(self.ask(_cut))
        self.cut |= cut & self._cut_before  # not what is laid out anew just now
        self._cut_before = cut

    def until(self, holds: Callable[[], Any], what: str = "") -> Any:
        """Wait for something to be seen.  Raises NotSeen if it never is."""
        ends = time.monotonic() + _PATIENCE_S
        while time.monotonic() < ends:
            found = self.ask(holds)
            if found:
                return found
            time.sleep(0.03)
        raise NotSeen(f"waited in vain for {what or holds}; seen: {self.seen()}")

    # --- seeing -----------------------------------------------------------------------------

    @property
    def window(self) -> Any:
        return self._start.window

    @property
    def table(self) -> Any:
        return self.window.table

    def seen(self) -> list[str]:
        """All words that can be read now."""
        return self.ask(lambda: [words for part in _parts() for words in _words(part)[:1]])

    def said(self) -> str:
        """The sentence over the foot of the table; empty if there is none."""
        return self.ask(
            lambda: next(
                (w.text() for w in _parts() if isinstance(w, QLabel) and w.objectName() == "said"),
                "",
            )
        )

    def find(self, words: str, among: str = "", nth: int = 0) -> Any:
        """What bears these words: a widget, or an entry of a menu.  among : only in the part of
        the window that bears those."""
        return self.until(lambda: _found(words, among, nth) or _scrolled_to(words), f"“{words}”")

    def sees(self, words: str) -> bool:
        """Whether these words can be read somewhere."""
        return self.ask(lambda: any(words in said for part in _parts() for said in _words(part)))

    def await_words(self, words: str) -> None:
        """Wait until they can be read."""
        self.until(lambda: any(words in said for part in _parts() for said in _words(part)), words)

    # --- mouse and keys -----------------------------------------------------------------------

    def click(self, words: str, button: Qt.MouseButton = LEFT, among: str = "", nth: int = 0,
              modifier: Qt.KeyboardModifier = PLAIN) -> None:  # fmt: skip
        """Click what bears these words."""
        found = self.find(words, among, nth)
        self.do(lambda: _press(found, button, modifier))

    def click_row(self, name: str, words: str, button: Qt.MouseButton = LEFT) -> None:
        """Click a row of a list."""
        view = self.until(lambda: next((part for part in _parts() if isinstance(
            part, QAbstractItemView) and part.accessibleName() == name), None), name)  # fmt: skip

        def row() -> Any:
            model = view.model()
            told = (model.index(n, 0) for n in range(model.rowCount()))
            return next((at for at in told if str(at.data()).startswith(words)), None)

        self.until(row, f"a row of {words}")

        def press() -> None:
            index = row()
            view.scrollTo(index)
            place = view.visualRect(index).center()
            QTest.mouseClick(view.viewport(), button, PLAIN, place)
            if button == RIGHT:
                view.customContextMenuRequested.emit(place)

        self.do(press)

    def double_click(self, words: str, among: str = "") -> None:
        found = self.find(words, among)

        def work() -> None:
            _press(found, LEFT, PLAIN)
            QTest.mouseDClick(found, LEFT, PLAIN, _middle(found))

        self.do(work)

    def choose(self, choice: str, words: str, among: str = "") -> None:
        """Take an entry of a choice of several."""
        box = self.find(choice, among)
        self.do(lambda: _press(box, LEFT, PLAIN))

        def listed() -> bool:
            return isinstance(box, QComboBox) and box.view().isVisible()

        self.until(listed, f"the entries of {choice}")
        row = self.ask(lambda: box.findText(words, Qt.MatchFlag.MatchStartsWith))
        if row < 0:
            raise NotSeen(
                f"{choice} offers no {words}: "
                f"{self.ask(lambda: [box.itemText(i) for i in range(box.count())])}"
            )

        self.rest(QApplication.doubleClickInterval() + 50)  # before, it counts as the opening click

        def pick() -> None:
            view, index = box.view(), box.model().index(row, box.modelColumn())
            view.scrollTo(index)
            place = view.visualRect(index).center()
            QTest.mouseMove(view.viewport(), place)
            QTest.mouseClick(view.viewport(), LEFT, PLAIN, place)

        self.do(pick)

    def fill_blank(self, sentence: str, blank: int, words: str) -> None:
        """By the keys: go to a blank of a sentence, the first is 0, and choose for it."""
        label = self.find(sentence)
        self.do(lambda: label.setFocus(Qt.FocusReason.TabFocusReason))
        for _ in range(blank + 1):
            self.key("Tab")
        self.key("Return")
        self.click(words)

    def write(self, text: str, into: str = "", among: str = "", enter: bool = False) -> None:
        """Type into a field (all that stood there goes), or where the keys are."""
        if into:
            field = self.find(into, among)

            def take() -> None:
                _press(field, LEFT, PLAIN)
                inner = field.findChild(QLineEdit) if isinstance(field, QAbstractSpinBox) else field
                if isinstance(inner, QLineEdit):
                    inner.selectAll()

            self.do(take)
        self.do(lambda: QTest.keyClicks(_keyed(), text))
        if enter:
            self.key("Return")

    def key(self, *names: str) -> None:
        """Press keys one after the other: `W`, `Ctrl+S`, `Return`."""
        for name in names:
            key, modifier = _key(name)
            self.do(lambda key=key, modifier=modifier: QTest.keyClick(_keyed(), key, modifier))

    def hold(self, name: str) -> None:
        self.do(lambda: QTest.keyPress(_keyed(), _key(name)[0]))

    def let_go_of(self, name: str) -> None:
        self.do(lambda: QTest.keyRelease(_keyed(), _key(name)[0]))

    def point(self, cell: Cell) -> None:
        """Point at a cell of the table."""
        self.do(lambda: _move(self.table, self._at(cell)))

    def stroke(self, *cells: Cell, button: Qt.MouseButton = LEFT,
               modifier: Qt.KeyboardModifier = PLAIN) -> None:  # fmt: skip
        """Press on the first cell, move over the others, let go on the last."""
        over = self.ask(lambda: self.table)  # once all that was clicked is done
        self.drag(over, [lambda cell=cell: self._at(cell) for cell in cells], button, modifier)

    def drag(self, over: QWidget, points: Iterable[Callable[[], QPoint]], button: Qt.MouseButton = LEFT,
             modifier: Qt.KeyboardModifier = PLAIN) -> None:  # fmt: skip
        """The same over points of any part of the window."""
        first, *others = points
        self.do(lambda: _move(over, first()))
        self.do(lambda: QTest.mousePress(over, button, modifier, first()))
        last = first
        for point in others:
            self.do(lambda a=last, b=point: _glide(over, a(), b(), button, modifier), 20)
            last = point
        self.do(lambda: QTest.mouseRelease(over, button, modifier, last()))

    def wheel(self, cell: Cell, turns: int, modifier: Qt.KeyboardModifier = PLAIN) -> None:
        """Turn the wheel over a cell; positive is away from the hand."""

        def work() -> None:
            at = QPointF(self._at(cell))
            place = QPointF(self.table.mapToGlobal(at.toPoint()))
            for _ in range(abs(turns)):
                QApplication.sendEvent(self.table, QWheelEvent(
                    at, place, QPoint(), QPoint(0, 120 if turns > 0 else -120),
                    Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip

        self.do(work)

    def _at(self, cell: Cell) -> QPoint:
        table = self.table
        if len(cell) == 4:
            return table.face_centre(*cell).toPoint()
        return table.cell_centre(*cell).toPoint()

    # --- what people do everywhere ----------------------------------------------------------

    def answer_file(self, path: Path | str) -> None:
        """Name a file or folder in the dialog that asks for one."""
        asks = self.until(lambda: _found("File name:", "", 0) or _found("Directory:", "", 0),
                          "a dialog that asks for a file")  # fmt: skip

        def clear() -> None:
            asks.setFocus()
            asks.selectAll()

        self.do(clear)
        self.write(str(path), enter=True)

    def begin(self, name: str, first: str = "") -> None:
        """From Home: a new project of the kit."""
        self.find("Name of the project")
        if first:
            self.click(first)
        self.write(name, into="Name of the project", enter=True)
        self.until(lambda: not self.window.homing.shown, "the project")
        self.rest(200)

    def new_brush(self, kind: str) -> None:
        """By the keys: one more brush, of a kind, in the left hand."""
        self.key("Ctrl+B")
        for _ in range(20):
            if self.sees(f"<b>{kind}</b>"):
                self.key("Return")
                return
            self.key("Right")
        raise NotSeen(f"no {kind} among {self.seen()}")

    def save(self) -> Path:
        """Save, and where it lies now."""
        self.key("Ctrl+S")
        self.until(lambda: not any(", not saved" in said for part in _parts() for said in _words(part)),
                   "what was saved")  # fmt: skip
        return self.ask(lambda: self.window.session.handle.folder)

    def colours(self, cell: Cell) -> set[str]:
        """What the window shows in a cell."""
        middle = self.ask(lambda: self._at(cell))
        image = self.ask(lambda: self.table.grab().toImage())
        around = range(-4, 5)
        return {
            image.pixelColor(middle.x() + x, middle.y() + y).name() for y in around for x in around
        }

    def shot(self, path: Path | str) -> None:
        """A picture of what is seen."""
        self.rest(150)

        def work() -> None:
            screen, whole = QApplication.primaryScreen(), self.window.frameGeometry()
            screen.grabWindow(0, whole.x(), whole.y(), whole.width(), whole.height()).save(
                str(path)
            )

        self.ask(work)


# --- on the GUI thread ----------------------------------------------------------------------------


def _parts() -> list[Any]:
    """Entries of open menus, then all widgets that can be worked now."""
    popup = QApplication.activePopupWidget()
    if isinstance(popup, QMenu):
        return [action for action in popup.actions() if action.isVisible()]
    top = popup or QApplication.activeModalWidget()
    tops = (
        [top] if top is not None else [w for w in QApplication.topLevelWidgets() if w.isVisible()]
    )
    found: list[Any] = []
    for one in tops:
        found += [
            one,
            *(
                w
                for w in one.findChildren(QWidget)
                if w.isVisible() and not w.visibleRegion().isEmpty()
            ),
        ]
    return found


def _words(part: Any) -> list[str]:
    """What can be read on it, the plainest first."""
    found = []
    if isinstance(part, QAction):
        return [_plain(part.text())]
    if isinstance(part, QAbstractButton | QLabel):
        found.append(part.text())
    if isinstance(part, QComboBox):
        found.append(part.currentText())
    if isinstance(part, QGroupBox):
        found.append(part.title())
    found += [part.accessibleName(), part.accessibleDescription()]
    if isinstance(part, QLineEdit):
        found += [part.placeholderText(), part.text()]
    if part.isWindow():
        found.append(part.windowTitle())
    found.append(part.toolTip().split("\n")[0])
    return [_plain(words) for words in found if words]


def _cut() -> list[str]:
    """What is seen but not whole: words wider than their place, panels wider than what scrolls
    them."""
    found = []
    for part in _parts():
        if isinstance(part, QAction) or part.isWindow():
            continue
        if isinstance(part, QScrollArea) and part.widget() is not None:
            across = part.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff
            least, there = part.widget().minimumSizeHint().width(), part.viewport().width()
            if across and least > there:
                found.append(f"a panel of {least} px in {there}: {_words(part.widget())}")
        elif isinstance(part, QLabel | QPushButton) and part.text() and not _gives_way(part):
            wide = part.sizeHint().width()
            if wide > part.width() + 1:
                found.append(f"{part.text()!r} of {wide} px in {part.width()}")
    return found


def _gives_way(part: QWidget) -> bool:
    """Whether it tells by dots that there is more, or takes several lines."""
    return (
        isinstance(part, QLabel)
        and (part.wordWrap() or part.minimumWidth() == part.maximumWidth() == 0)
    ) or type(part).__name__ in ("ElidedButton", "_Facts")


def _plain(words: str) -> str:
    return words.replace("&", "").strip()


def _found(words: str, among: str, nth: int) -> Any:
    parts = _parts()
    if among:
        inside = [p for p in parts if isinstance(p, QWidget) and among in _words(p)]
        parts = [p for p in parts if any(i is not p and i.isAncestorOf(p) for i in inside)]
    for fits in (words.__eq__, lambda said: said.startswith(words), lambda said: words in said):
        found = [part for part in parts if any(fits(said) for said in _words(part))]
        found = [_worked(part) for part in found]
        found = [p for i, p in enumerate(found) if p not in found[:i]]
        if len(found) > nth:
            return found[nth]
    return None


def _scrolled_to(words: str) -> None:
    """Scroll to what bears these words, if it is in a part that scrolls; seen a moment later."""
    for area in (
        QApplication.activeWindow().findChildren(QScrollArea) if QApplication.activeWindow() else ()
    ):
        inner = area.widget()
        for part in inner.findChildren(QWidget) if area.isVisible() and inner is not None else ():
            if part.isVisibleTo(inner) and any(said.startswith(words) for said in _words(part)):
                area.ensureWidgetVisible(part, 0, 40)
                return


def _worked(part: Any) -> Any:
    """What a label names, where it stands beside a field."""
    buddy = part.buddy() if isinstance(part, QLabel) else None
    return buddy if buddy is not None else part


def _middle(part: QWidget) -> QPoint:
    return part.visibleRegion().boundingRect().center()


def _press(found: Any, button: Qt.MouseButton, modifier: Qt.KeyboardModifier) -> None:
    if isinstance(found, QAction):
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu) and found.isEnabled(), f"{found.text()} cannot be chosen"
        place = menu.actionGeometry(found).center()
        QTest.mouseMove(menu, place)
        QTest.mouseClick(menu, LEFT, PLAIN, place)
        return
    assert found.isEnabled(), f"{_words(found)[:1]} cannot be used"
    place = _middle(found)
    over = QApplication.widgetAt(found.mapToGlobal(place))
    if over is not None and over is not found and not found.isAncestorOf(over):
        raise AssertionError(f"{_words(found)[:1]} lies under {_words(over)[:1]} {over}")
    target = over if over is not None else found
    QTest.mouseMove(target, target.mapFromGlobal(found.mapToGlobal(place)))
    QTest.mouseClick(target, button, modifier, target.mapFromGlobal(found.mapToGlobal(place)))


def _move(over: QWidget, place: QPoint) -> None:
    assert over.rect().contains(place), f"{place} is outside of what is seen of the table"
    QTest.mouseMove(over, place)


def _glide(over: QWidget, begin: QPoint, end: QPoint, button: Qt.MouseButton,
           modifier: Qt.KeyboardModifier) -> None:  # fmt: skip
    """Move with a button held, as a hand does: by way of the places between."""
    from PyQt6.QtGui import QMouseEvent

    steps = max(1, (end - begin).manhattanLength() // 40)
    for step in range(1, steps + 1):
        at = QPointF(begin) + QPointF(end - begin) * (step / steps)
        QApplication.sendEvent(over, QMouseEvent(
            QEvent.Type.MouseMove, at, QPointF(over.mapToGlobal(at.toPoint())),
            Qt.MouseButton.NoButton, button, modifier))  # fmt: skip


def _key(name: str) -> tuple[Qt.Key, Qt.KeyboardModifier]:
    found = QKeySequence(name)[0]
    return found.key(), found.keyboardModifiers()


def _keyed() -> QWidget:
    """Where keys go now."""
    popup = QApplication.activePopupWidget()
    found = (popup.focusWidget() or popup) if popup is not None else QApplication.focusWidget()
    if found is None:  # without a window manager nobody gives the keys back when a dialog is gone
        top = QApplication.activeModalWidget() or next(
            one for one in QApplication.topLevelWidgets() if one.isVisible()
        )
        top.activateWindow()
        found = top.focusWidget() or top
    return found


__all__ = ["ALT", "CTRL", "LEFT", "MIDDLE", "RIGHT", "SHIFT", "Newcomer", "NotSeen", "QTabBar"]
