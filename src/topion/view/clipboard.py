"""Copy, cut, paste: what is picked goes through the system clipboard as JSON with a picture."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QClipboard, QGuiApplication
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from topion.edit.clips import (
    PASTED,
    Clip,
    Prefers,
    clip_of,
    conflicts,
    room_of_clip,
    stamp_of,
    taken_in,
    usual_anchor,
)
from topion.edit.composites import composite_made
from topion.edit.library import free_name
from topion.formats.clips import MEDIA_TYPE, clip_text, read_clip
from topion.formats.files import INDEX
from topion.formats.meshes.read import SUFFIXES
from topion.formats.stamps_in import rooms_of
from topion.grid.arrays import Rgba
from topion.model.shelves import SHELVES
from topion.render.cards import card_picture
from topion.render.composites import composite_look
from topion.view.dialogs.stamp_in import StampIn
from topion.view.host import Host
from topion.view.table.compose import image_of
from topion.view.tasks import Step, run_task

_MOST_NAMED = 4  # of things that are there by the same name


class Clipboard:
    """Long work runs off the GUI thread; what is refused is said."""

    def __init__(self, window: QWidget, host: Host) -> None:
        self.window, self.host = window, host

    @property
    def _system(self) -> QClipboard:
        found = QGuiApplication.clipboard()
        assert found is not None
        return found

    def _clip(self) -> Clip | None:
        """What is picked, with all it needs; None where nothing is."""
        session = self.host.session
        scrap = session.picking.scrap()
        if scrap is None:
            return None
        anchor = usual_anchor(scrap, session.room.info.view)
        return clip_of(session.project, scrap, anchor=anchor)

    def copy(self) -> bool:
        """Put what is picked on the clipboard; False where nothing is."""
        clip = self._clip()
        if clip is None:
            return False
        project = self.host.session.project.frozen()

        def work(step: Step) -> tuple[str, Rgba]:
            step("writing")
            text = clip_text(clip)
            step("drawing")
            return text, card_picture(project, stamp_of(clip, PASTED))

        def done(found: tuple[str, Rgba]) -> None:
            text, picture = found
            data = QMimeData()
            data.setData(MEDIA_TYPE, text.encode())
            data.setText(text)
            data.setImageData(image_of(picture))
            self._system.setMimeData(data)
            self.host.say(f"Copied {clip.scrap.holds()}")
            copied.append(text)

        copied: list[str] = []
        run_task(self.window, "Copying", work, done, self.host.fail)
        return bool(copied)

    def cut(self) -> None:
        """The same, and take it away."""
        if self.copy():
            self.host.session.picking.remove()

    def paste(self) -> None:
        """Take in hand what the clipboard holds, as a card."""
        data = self._system.mimeData()
        if data is None or not (data.hasFormat(MEDIA_TYPE) or data.hasText()):
            self.host.fail("The clipboard holds nothing that was copied in Topion")
            return
        own = data.hasFormat(MEDIA_TYPE)
        raw = data.data(MEDIA_TYPE).data() if own else data.text().encode("utf-8", "replace")
        run_task(self.window, "Pasting", lambda _: read_clip(raw), self.take, self.host.fail)

    def take(self, clip: Clip, card: str = PASTED, as_room: bool = False) -> None:
        """Put it on the rack as a card and in the left hand, or make a room of it."""
        session = self.host.session
        different = conflicts(session.project, clip)
        prefers = self._asked(different) if different else "ours"
        if prefers is None:
            return
        if as_room:
            plan = lambda place: room_of_clip(place.project, clip, prefers, card)  # noqa: E731
            if session.has_room:
                session.do_aside(f"Bringing in {card}", plan)
            else:
                session.try_(room_of_clip, clip, prefers, card)
            if card in session.project.rooms:
                session.open_room(card)
            return
        if not session.try_(taken_in, clip, prefers, card) and card not in session.project.brushes:
            return
        session.gestures.use("drag")
        session.hands.take("left", card)
        self.host.show_bay("Stamps")
        axes = session.room.info.axes if session.has_room else clip.scrap.axes
        if axes != clip.scrap.axes:
            kind = "voxel" if clip.scrap.axes == 3 else "flat"
            self.host.say(f"{card} is a card now; it is laid in {kind} rooms")

    def _asked(self, different: list[tuple[str, str]]) -> Prefers | None:
        """Whose is used of what is there by the same name; None to paste nothing."""
        words = [f"{SHELVES[shelf].word} {name}" for shelf, name in different]
        more = len(words) - _MOST_NAMED
        named = ", ".join(words[:_MOST_NAMED]) + (f" and {more} more" if more > 0 else "")
        box = QMessageBox(self.window)
        box.setWindowTitle("Paste")
        box.setText(f"This project has another {named}.")
        box.setInformativeText("Use what is here, or bring theirs along under other names?")
        ours = box.addButton("Use what is here", QMessageBox.ButtonRole.AcceptRole)
        theirs = box.addButton("Bring theirs too", QMessageBox.ButtonRole.ActionRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        answers: dict[object, Prefers] = {ours: "ours", theirs: "theirs"}
        return answers.get(box.clickedButton())

    def keep_as_card(self) -> None:
        """What is picked becomes a card of the rack, under a name that is asked for."""
        clip = self._clip()
        if clip is None:
            return
        project = self.host.session.project
        first = free_name("Stamp", project.brushes)
        name, ok = QInputDialog.getText(self.window, "Keep as a card", "Name", text=first)
        name = name.strip()
        if not ok or not name:
            return
        if name in project.brushes:
            self.host.fail(f"There is a brush {name} already: the card needs another name")
            return
        self.take(clip, name)

    def keep_as_prefab(self) -> None:
        """What is picked becomes a prefab of parts, under a name that is asked for; its desk
        opens."""
        session = self.host.session
        picks = session.picking.picks()
        if not picks:
            return
        taken = (session.project.prefabs, session.project.brushes)
        first = free_name("Thing", *taken)
        name, ok = QInputDialog.getText(self.window, "Make one thing of it", "Name", text=first)
        name = name.strip()
        if ok and name and session.try_(composite_made, session.room_name, picks, name,
                                        composite_look):  # fmt: skip
            session.prefab_asked.emit(name)

    def ask_stamp_file(self) -> None:
        """Ask for a file of cells, and bring it in as a stamp."""
        kinds = " ".join(f"*{suffix}" for suffix in (*SUFFIXES, ".npy", ".png"))
        path, _ = QFileDialog.getOpenFileName(
            self.window, "Bring in as a stamp", "", f"Meshes, arrays, heights ({kinds})"
        )
        if path:
            self.stamp_dialog(Path(path))

    def ask_stamp_folder(self) -> None:
        """Ask for a folder of slices or another project, and bring it in as a stamp."""
        folder = QFileDialog.getExistingDirectory(
            self.window, "A folder of PNG slices, or another project"
        )
        if folder:
            self.stamp_dialog(Path(folder))

    def stamp_dialog(self, path: Path) -> StampIn | None:
        """Ask how it comes in; None for a project that cannot be read."""
        rooms: list[str] | None = None
        if (path / INDEX).is_file():
            found: list[list[str]] = []
            run_task(self.window, f"Reading {path.name}", lambda _: rooms_of(path), found.append,
                     self.host.fail)  # fmt: skip
            if not found:
                return None
            rooms = found[0]
        dialog = StampIn(self.window, self.host, path, self.take, rooms)
        dialog.open()
        return dialog
