"""What the window tells of its journal: what came back, what was left, what cannot be kept."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QMessageBox, QPushButton, QWidget

from topion.edit.journals import Unsaved, strokes, unsaved
from topion.edit.resume import Resumed
from topion.model.edit import Edit
from topion.view.host import Host
from topion.view.session import Session
from topion.view.tasks import Step, Worker, run_task

_Box = QMessageBox.StandardButton
_FLUSH_AFTER_MS = 1000  # of quiet


class Trust(QObject):
    """Speaks for the keeper of the session that is shown.

    care : the mark that stays while strokes are not kept.  others : projects that were never
    saved and that no window has open.
    """

    def __init__(self, window: QWidget, host: Host, care: QPushButton) -> None:
        super().__init__(window)
        self._window, self._host, self._care = window, host, care
        self._session: Session | None = None
        self._looking: Worker | None = None
        self.others: list[Unsaved] = []
        self._flush_soon = QTimer(self)
        self._flush_soon.setSingleShot(True)
        self._flush_soon.setInterval(_FLUSH_AFTER_MS)
        self._flush_soon.timeout.connect(self._flush)
        care.clicked.connect(lambda _: host.say(care.toolTip()))

    def use(self, session: Session) -> None:
        """Speak for another session."""
        self._session = session
        session.keeper.hear_problems(self._show_problem)
        self._show_problem(session.keeper.problem)
        QTimer.singleShot(0, self._tell)
        self._look_for_others()
        session.changed.connect(lambda _: self._flush_soon.start())

    def _flush(self) -> None:
        """Strokes that are safe from a crash become safe from a power cut too."""
        if self._session is not None:
            keeper = self._session.keeper
            Worker(lambda step: keeper.flush(), "Flushing").begin()

    def _show_problem(self, problem: str) -> None:
        refusal = self._session.handle.history.refusal if self._session is not None else None
        self._care.setText("Only looking" if refusal is not None else "Not kept safe")
        self._care.setVisible(bool(problem) or refusal is not None)
        self._care.setToolTip(problem or str(refusal or ""))
        if problem:
            QTimer.singleShot(0, lambda: self._host.say(problem))

    def _tell(self) -> None:
        session = self._session
        if session is None:
            return
        refusal, keeper = session.handle.history.refusal, session.keeper
        if refusal is not None:
            self._host.say(str(refusal))
        elif keeper.left is not None:
            self._ask_left(session)
        elif keeper.resumed.strokes or keeper.resumed.lost or keeper.resumed.damaged:
            self._host.say(told(keeper.resumed))

    def _ask_left(self, session: Session) -> None:
        """The files were changed elsewhere since strokes were laid that were not saved."""
        keeper = session.keeper
        assert keeper.left is not None
        kept, _ = keeper.left
        box = QMessageBox(self._window)
        box.setText(
            f"The files of {session.handle.name} were changed elsewhere since"
            f" {strokes(kept.unsaved())} were laid that had not been saved."
        )
        box.setInformativeText("They can be laid on the project as it is now, or left out.")
        box.setStandardButtons(_Box.Yes | _Box.No)
        for button, text in ((_Box.Yes, "Lay them on it"), (_Box.No, "Leave them out")):
            shown = box.button(button)
            if shown is not None:
                shown.setText(text)
        if box.exec() == _Box.Yes:
            workers: list[Worker] = []

            def lay(edit: Edit) -> None:
                workers[0].on_gui(lambda: session.handle.history.apply(edit))

            run_task(self._window, "Laying strokes", lambda _: keeper.lay_left(lay),
                     lambda found: self._host.say(told(found)), self._host.fail,
                     workers.append)  # fmt: skip
        else:
            self._host.say(f"They were left out; they are kept in {keeper.leave_out()}")

    # --- projects that were never saved ----------------------------------------------------

    def _look_for_others(self) -> None:
        if self._looking is not None and self._looking.isRunning():
            return

        def work(step: Step) -> list[Unsaved]:
            return unsaved()

        self._looking = Worker(work, "Looking for unsaved projects")
        self._looking.finished.connect(self._take_others)
        self._looking.begin()

    def _take_others(self) -> None:
        found = self._looking.result if self._looking is not None else None
        self.others = list(found) if isinstance(found, list) else []

    def stop(self) -> None:
        """Look and flush no longer."""
        self._flush_soon.stop()
        if self._looking is not None:
            self._looking.let_go()


def told(resumed: Resumed) -> str:
    """What came back, in a sentence."""
    text = f"{strokes(resumed.strokes)} that had not been saved came back; Ctrl+S keeps them"
    if resumed.lost or resumed.damaged:
        lost = f"{strokes(resumed.lost)} could" if resumed.lost else "the end of it could"
        text += f". The journal is damaged: {lost} not be read and is kept aside"
    return text
