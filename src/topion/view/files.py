"""What the window does with files: projects, exports, sheets, and leaving unsaved work."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from topion import scripting
from topion.errors import BadFile, TopionError
from topion.formats.exports import export_files
from topion.formats.folder import SUFFIX
from topion.formats.items import stem
from topion.formats.mesh_in import SUFFIXES
from topion.parsing import pair
from topion.pictures.png import png_bytes
from topion.render.solid_scene import picture_of_eye
from topion.view.dialogs.mesh import MeshDialog
from topion.view.dialogs.new_room import NewRoom
from topion.view.dialogs.sheet import SheetDialog
from topion.view.host import Host
from topion.view.tables import SpaceView
from topion.view.tasks import Step, run_task


class Files:
    """Long work runs off the GUI thread; what fails is said in the window."""

    def __init__(self, window: QWidget, host: Host, space: Callable[[], SpaceView | None]) -> None:
        self.window, self.host, self._space = window, host, space

    def new_project(self) -> None:
        """Begin a project with one empty room."""
        if self.may_leave():
            handle = scripting.new(None, "Untitled")
            handle.add_room("Room 1")
            self.host.use(handle)

    def ask_open(self) -> None:
        """Ask for a folder and open it."""
        if not self.may_leave():
            return
        folder = QFileDialog.getExistingDirectory(self.window, "Open a project folder")
        if folder:
            self.open(Path(folder))

    def open(self, folder: Path) -> None:
        """Open a project off the GUI thread; a folder that is not sound is said."""

        def done(found: tuple[scripting.ProjectHandle, str]) -> None:
            handle, wrong = found
            self.host.use(handle)
            if wrong:
                self.host.fail(wrong)

        run_task(
            self.window,
            f"Opening {folder.name}",
            lambda step: opened(folder, step),
            done,
            self.host.fail,
        )

    def save(self) -> bool:
        """Save to the folder of the project, or ask for one; False if it was not."""
        handle = self.host.session.handle
        if handle.history.refusal is not None:
            self.host.fail(f"{handle.history.refusal}; save it under another name")
            return False
        if handle.folder is None:
            return self.save_as()
        return self._save_to(handle.folder)

    def save_as(self) -> bool:
        """Ask for a folder and save there; False if it was not."""
        start = str(Path.home() / f"{self.host.session.handle.name}{SUFFIX}")
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the project as", start)
        return self._save_to(Path(chosen)) if chosen else False

    def _save_to(self, folder: Path) -> bool:
        done: list[Path] = []
        handle = self.host.session.handle
        run_task(
            self.window,
            f"Saving {folder.name}",
            lambda step: handle.save(folder, step),
            done.append,
            self.host.fail,
        )
        if done:
            self.host.session.saved()
            self.host.say(f"Saved {done[0]}")
        return bool(done)

    def ask_export(self, kind: str, scale: float = 1.0) -> None:
        """Ask for a folder and export there."""
        folder = QFileDialog.getExistingDirectory(self.window, "Export to a folder")
        if folder:
            self.export_to(kind, Path(folder), scale)

    def export_to(self, kind: str, folder: Path, scale: float = 1.0) -> None:
        """Write the room (png, csv) or the project (json) into a folder."""
        project = self.host.session.project
        rooms = tuple(project.rooms) if kind == "json" else (self.host.session.room_name,)

        def work(step: Step) -> int:
            count = 0
            for name, data in export_files(project, rooms, kind, scale):
                step(name)
                (folder / name).write_bytes(data)
                count += 1
            return count

        def done(count: int) -> None:
            self.host.say(f"Wrote {count} file{'s' if count != 1 else ''} to {folder}")

        run_task(self.window, f"Exporting {stem(project.name)}", work, done, self.host.fail)

    def bring_in_sheet(self) -> None:
        """Ask for a tile sheet and show its cut."""
        path, _ = QFileDialog.getOpenFileName(
            self.window, "Bring in a tile sheet", "", "PNG (*.png)"
        )
        if path:
            self.cut_sheet(Path(path))

    def cut_sheet(self, path: Path) -> SheetDialog | None:
        """Show the cut of a sheet; the tile set is made when it is confirmed."""
        found: list[Any] = []
        run_task(
            self.window,
            f"Reading {path.name}",
            lambda step: SheetDialog.read(path),
            found.append,
            self.host.fail,
        )
        if not found:
            return None
        dialog = SheetDialog(self.window, self.host, path, *found[0])
        dialog.open()
        return dialog

    def ask_mesh(self) -> None:
        """Ask for a mesh and what becomes of it."""
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        path, _ = QFileDialog.getOpenFileName(
            self.window, "Bring in a mesh", "", f"Meshes ({kinds})"
        )
        if path:
            self.mesh_dialog(Path(path))

    def mesh_dialog(self, path: Path) -> MeshDialog:
        """Ask what shall become of a mesh."""
        dialog = MeshDialog(self.window, self.host, path)
        dialog.open()
        return dialog

    def ask_view_picture(self) -> None:
        """A PNG of the voxel room as it is seen now, at a size of its own."""
        space = self._space()
        if space is None:
            return
        words = f"{space.eye.width * 2}x{space.eye.height * 2}"
        text, ok = QInputDialog.getText(
            self.window, "PNG of the view", "Width × height in px", text=words
        )
        if not ok:
            return
        path, _ = QFileDialog.getSaveFileName(self.window, "PNG of the view", "", "PNG (*.png)")
        if path:
            self.view_picture(Path(path), text)

    def view_picture(self, path: Path, size: str) -> None:
        """Draw what the eye sees, without the window's marks, off the GUI thread."""
        session = self.host.session
        project, room = session.project.frozen(), session.room_name
        try:
            height, width = pair(size, "the size of the picture")
        except TopionError as problem:
            self.host.fail(str(problem))
            return
        space = self._space()
        if space is None:
            return
        eye = space.eye.scaled(height, width)

        def work(step: Step) -> int:
            step("drawing")
            path.write_bytes(png_bytes(picture_of_eye(project, project.room(room), eye)))
            return 1

        def done(_: int) -> None:
            self.host.say(f"Wrote {path}")

        run_task(self.window, f"Drawing {path.name}", work, done, self.host.fail)

    def new_room(self) -> None:
        """Ask for name, kind and size of a new room."""
        NewRoom(self.window, self.host).open()

    def may_leave(self) -> bool:
        """Ask what becomes of changes that are not saved; False to stay."""
        if not self.host.session.handle.history.changed:
            return True
        box = QMessageBox(self.window)
        box.setText(f"{self.host.session.handle.name} has changes that are not saved.")
        box.setStandardButtons(
            QMessageBox.StandardButton.Save
            | QMessageBox.StandardButton.Discard
            | QMessageBox.StandardButton.Cancel
        )
        answer = box.exec()
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return bool(answer == QMessageBox.StandardButton.Discard)


def opened(folder: Path, step: Callable[[str], None]) -> tuple[scripting.ProjectHandle, str]:
    """Open a project and read the first of its rooms that is sound; slow for large rooms.

    Also returns what is wrong with a room before it, or "".  Raises BadFile where none is sound.
    """
    handle = scripting.open(folder, step)
    wrong: BadFile | None = None
    for name in handle.rooms():
        try:
            handle.ready_room(name)
        except BadFile as problem:
            wrong = wrong or problem
        else:
            return handle, str(wrong or "")
    if wrong:
        raise wrong
    return handle, ""
