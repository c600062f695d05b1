"""Saving the open project, and leaving it with work that is not saved."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from topion.edit.lock import InUse
from topion.formats.files import INDEX
from topion.formats.outside import Outside, take_in
from topion.formats.store import SUFFIX, put_store
from topion.formats.writing import ChangedOutside
from topion.scripting import Saving
from topion.view.host import Host
from topion.view.tasks import Step, run_task

_Box = QMessageBox.StandardButton


class Saves:
    """The work is done off the GUI thread, on the project as it was when it began.

    discards : the last answer to `may_leave` was that unsaved work is not wanted.
    """

    def __init__(self, window: QWidget, host: Host) -> None:
        self.window, self.host = window, host
        self.discards = False

    def save(self) -> bool:
        """Save to the folder of the project, or ask for one; False if it was not."""
        handle, keeper = self.host.session.handle, self.host.session.keeper
        if handle.history.refusal is not None:
            self.host.fail(f"{handle.history.refusal}; save it under another name")
            return False
        if handle.folder is None:
            return self.save_as()
        place = keeper.follow_folder()
        if place is None:
            self.host.fail(f"{handle.folder} is not there any longer; choose where to save")
            return self.save_as()
        return self.save_to(place)

    def save_as(self) -> bool:
        """Ask for a folder and save there; False if it was not."""
        handle = self.host.session.handle
        near = handle.folder.parent if handle.folder is not None else self.host.last_folder()
        start = str(near / f"{handle.name}{SUFFIX}")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the project as", start)
        return self.save_to(Path(chosen)) if chosen else False

    def save_to(self, folder: Path, *, over: bool = False) -> bool:
        """Save to a folder; False if it was not.  over : whatever others changed there."""
        session = self.host.session
        if not session.keeper.may_write(folder):
            self.host.fail(str(InUse(folder)))
            return False
        saving = session.handle.saving(folder, over=over)
        promise = session.keeper.begin_saving(folder)
        done: list[Saving | ChangedOutside] = []

        def work(step: Step) -> Saving | ChangedOutside:
            try:
                return saving.write(step, promise)
            except ChangedOutside as found:
                return found

        run_task(self.window, f"Saving {folder.name}", work, done.append, self.host.fail)
        if done and isinstance(done[0], ChangedOutside):
            return self._mix(folder)
        if done:
            session.saved(saving)
            self.host.remember_folder(folder.parent)
            self.host.say(f"Saved {folder}")
        return bool(done)

    # --- what others changed --------------------------------------------------------------

    def _mix(self, folder: Path) -> bool:
        """Take in what others changed in the folder, ask about what both did, and save."""
        session = self.host.session
        if not (folder / INDEX).exists():
            self.host.fail(f"{folder} is no project any longer; choose where to save")
            return self.save_as()
        project = session.project.frozen()
        found: list[Outside] = []
        failed: list[str] = []
        run_task(
            self.window,
            f"Comparing with {folder.name}",
            lambda step: take_in(project, step),
            found.append,
            failed.append,
        )
        if failed:
            return self._ask_over(folder, failed[0])
        outside = found[0]
        answer = self._ask_both(outside) if outside.both else _Box.Yes
        if answer in (_Box.Cancel, _Box.SaveAll):
            return self.save_as() if answer == _Box.SaveAll else False
        session.apply(outside.taken)
        if answer == _Box.Open:
            session.apply(outside.theirs)
        if outside.mixes:
            outside.drop(session.project)
            put_store(session.project, outside.store)
            session.changed.emit(())
        if not self.save_to(folder, over=not outside.mixes):
            return False
        if outside.taken:
            self.host.say(f"What was changed elsewhere in {folder.name} was taken in; all is saved")
        return True

    def _ask_both(self, outside: Outside) -> QMessageBox.StandardButton:
        """Yes keeps ours, Open takes theirs, SaveAll saves elsewhere."""
        box = QMessageBox(self.window)
        some = ", ".join(outside.both[:4]) + (" and more" if len(outside.both) > 4 else "")
        box.setText(f"Here and elsewhere, both changed {some}.")
        box.setInformativeText(
            "What only one of you changed is kept in any case."
            if outside.mixes
            else "The two give other numbers to the same names, so they cannot be joined."
        )
        return _asked(box, mine="Keep mine", theirs="Take theirs" if outside.mixes else "")

    def _ask_over(self, folder: Path, sentence: str) -> bool:
        """The files there cannot be read any longer: save over them, elsewhere, or not."""
        box = QMessageBox(self.window)
        box.setText(f"{folder.name} was changed elsewhere and cannot be read: {sentence}.")
        answer = _asked(box, mine="Save over it", theirs="")
        if answer == _Box.Yes:
            return self.save_to(folder, over=True)
        return self.save_as() if answer == _Box.SaveAll else False

    # --- leaving --------------------------------------------------------------------------

    def may_leave(self) -> bool:
        """Ask what becomes of changes that are not saved; False to stay."""
        self.discards = False
        if not self.host.session.handle.history.changed:
            return True
        box = QMessageBox(self.window)
        box.setText(f"{self.host.session.handle.name} has changes that are not saved.")
        box.setStandardButtons(_Box.Save | _Box.Discard | _Box.Cancel)
        answer = box.exec()
        if answer == _Box.Save:
            return self.save()
        self.discards = answer == _Box.Discard
        return self.discards

    def leave(self) -> None:
        """The project is left now, as was answered."""
        if self.discards:
            self.host.session.keeper.discard()
        self.discards = False


def _asked(box: QMessageBox, mine: str, theirs: str) -> QMessageBox.StandardButton:
    """Show a box with these buttons, one to save elsewhere, and Cancel."""
    buttons = _Box.Yes | _Box.SaveAll | _Box.Cancel
    box.setStandardButtons(buttons | _Box.Open if theirs else buttons)
    for button, text in (
        (_Box.Yes, mine), (_Box.Open, theirs), (_Box.SaveAll, "Save elsewhere…"),
    ):  # fmt: skip
        shown = box.button(button)
        if shown is not None:
            shown.setText(text)
    return _Box(box.exec())
