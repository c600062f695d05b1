"""What the window does with files: projects, exports, sheets, and leaving unsaved work."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from topion.brushes.marks import Place
from topion.edit.curves import from_picture
from topion.edit.pieces import Pick
from topion.edit.resume import Kept
from topion.errors import TopionError
from topion.formats.exports import EXPORTS, export_all, export_files
from topion.formats.files import INDEX
from topion.formats.meshes.read import SUFFIXES
from topion.formats.out import Contents, write_out
from topion.formats.packing import pack, unpack
from topion.formats.stems import stem
from topion.grid.told import several
from topion.parsing import pair
from topion.pictures.png import read_png_file
from topion.render.solid_scene import bands_of_eye
from topion.view.dialogs.mesh import MeshDialog
from topion.view.dialogs.room import RoomDialog, ShiftDialog
from topion.view.dialogs.sheet import SheetDialog
from topion.view.host import Host
from topion.view.opening import Opened, blank, brought_back, opened
from topion.view.saves import Saves
from topion.view.tables import SpaceView
from topion.view.tasks import Step, run_task


def stoppable(contents: Contents, step: Step, name: str) -> Contents:
    """The same contents; a stop is obeyed between two parts."""
    if isinstance(contents, bytes):
        return contents

    def parts() -> Iterator[bytes]:
        for part in contents:
            step(name)
            yield part

    return parts()


class Files:
    """Long work runs off the GUI thread; what fails is said in the window."""

    def __init__(
        self, window: QWidget, host: Host, saves: Saves, space: Callable[[], SpaceView | None]
    ) -> None:
        self.window, self.host, self.saves, self._space = window, host, saves, space

    def new_project(self) -> None:
        """Begin a project with one empty room."""
        if self.saves.may_leave():
            self.host.use(blank())

    def ask_open(self) -> None:
        """Ask for a folder and open it."""
        if not self.saves.may_leave():
            return
        start = str(self.host.last_folder())
        folder = QFileDialog.getExistingDirectory(self.window, "Open a project folder", start)
        if folder:
            self.open(Path(folder))

    def open(self, folder: Path) -> None:
        """Open a project off the GUI thread; a folder that is not sound is said."""
        again, size = self._is_open(folder), self.window.size()

        def done(found: Opened) -> None:
            self.host.remember_folder(folder.absolute().parent)
            self.host.use(found.handle, found.keeper)
            if found.wrong:
                self.host.fail(found.wrong)

        run_task(
            self.window,
            f"Opening {folder.name}",
            lambda step: opened(folder, step, size, keep=not again),  # the lock is held here as yet
            done,
            self.host.fail,
        )

    def _is_open(self, folder: Path) -> bool:
        """Whether this window has that folder open."""
        locked = self.host.session.handle.locked
        try:
            return locked is not None and locked == folder.resolve()
        except (OSError, RuntimeError):
            return False

    def bring_back(self, kept: Kept) -> None:
        """Open a project that was never saved."""
        if not self.saves.may_leave():
            return

        def done(found: Opened) -> None:
            self.host.use(found.handle, found.keeper)

        title = f"Bringing back {kept.about.get('name', '')}"
        run_task(self.window, title, lambda _: brought_back(kept), done, self.host.fail)

    def ask_export(self, kind: str, scale: float = 1.0) -> None:
        """Ask for a folder and export there."""
        folder = QFileDialog.getExistingDirectory(self.window, "Export to a folder")
        if folder:
            self.export_to(kind, Path(folder), scale)

    def export_to(self, kind: str, folder: Path, scale: float = 1.0) -> None:
        """Write the room (png, csv) or the project (json) into a folder."""
        project = self.host.session.project.frozen()
        whole = EXPORTS[kind].whole
        rooms = tuple(project.rooms) if whole else (self.host.session.room_name,)
        self._write(export_files(project, rooms, kind, scale), folder)

    def ask_export_all(self) -> None:
        """Ask for a folder, and write every format into one of its own there."""
        folder = QFileDialog.getExistingDirectory(self.window, "Export everything to a folder")
        if folder:
            self.export_all_to(Path(folder))

    def export_all_to(self, folder: Path) -> None:
        """Write all rooms and the project in all formats that suit."""
        project = self.host.session.project.frozen()
        self._write(export_all(project, tuple(project.rooms)), folder)

    def _write(self, files: Iterator[tuple[str, Contents]], folder: Path) -> None:
        """Write files off the GUI thread and say how many."""

        def work(step: Step) -> int:
            count = 0
            for name, data in files:
                step(name)
                path = folder / name
                path.parent.mkdir(parents=True, exist_ok=True)
                write_out(path, stoppable(data, step, name))
                count += 1
            return count

        def done(count: int) -> None:
            self.host.say(f"Wrote {several(count, 'file')} to {folder}")

        title = f"Exporting {stem(self.host.session.project.name)}"
        run_task(self.window, title, work, done, self.host.fail)

    def ask_pack(self) -> None:
        """Ask where the project shall lie as one packed file."""
        folder = self.host.session.handle.folder
        if folder is None or self.host.session.handle.history.changed:
            self.host.fail("Save the project first (Ctrl+S): what is packed is its folder")
            return
        name = str(folder.with_name(f"{folder.name}.zip"))
        path, _ = QFileDialog.getSaveFileName(self.window, "Pack as one file", name, "Zip (*.zip)")
        if path:
            self.pack_to(Path(path))

    def pack_to(self, path: Path) -> None:
        """Write the saved project as one packed file."""
        folder = self.host.session.handle.folder
        if folder is not None:
            run_task(self.window, f"Packing {folder.name}", lambda _: pack(folder, path),
                     lambda _: self.host.say(f"Packed {folder.name} into {path}"),
                     self.host.fail)  # fmt: skip

    def ask_version(self) -> Path | None:
        """Ask for another version of the project: its folder, or a packed file."""
        folder = str(self.host.last_folder())
        name, _ = QFileDialog.getOpenFileName(
            self.window, "Another version of the project", folder,
            f"Projects and packed files ({INDEX} *.zip *.json);;All files (*)",
        )  # fmt: skip
        if not name:
            return None
        path = Path(name)
        return path.parent if path.name == INDEX else path

    def ask_unpack(self) -> None:
        """Ask for a packed file or a bundle, and open the project it becomes."""
        if not self.saves.may_leave():
            return
        start = str(self.host.last_folder())
        path, _ = QFileDialog.getOpenFileName(
            self.window, "Unpack and open", start, "Packed project or bundle (*.zip *.json)"
        )
        if path:
            self.unpack_from(Path(path))

    def unpack_from(self, path: Path) -> None:
        """Make a project folder of it, beside it, and open that."""
        run_task(self.window, f"Unpacking {path.name}", lambda _: unpack(path), self.open,
                 self.host.fail)  # fmt: skip

    def ask_outline(self) -> None:
        """Ask for a picture and lay curves round what is seen in it."""
        path, _ = QFileDialog.getOpenFileName(
            self.window, "A picture to go round", "", "PNG (*.png)"
        )
        if path:
            self.outline_from(Path(path))

    def outline_from(self, path: Path) -> None:
        """Curves round what is seen in a picture, in the middle of the room or at the cursor."""
        session = self.host.session
        plan = session.room.info.plan
        cell = session.cursor or (0,) * (session.room.info.axes - 2) + tuple(n // 2 for n in plan)
        place = Place(session.project, session.room_name, session.layer_id)
        try:
            picture = read_png_file(path)
            edit = from_picture(session.project, place, picture, tuple(map(float, cell)))
        except TopionError as problem:
            self.host.fail(str(problem))
            return
        if session.apply(edit):
            numbers = [change.number for record in edit.records for change in record.entries()
                       if change.table == "curves"]  # fmt: skip
            layer = next(change.layer for r in edit.records for change in r.entries())
            session.gestures.use("lasso")
            session.picking.pick([Pick(layer, n) for n in numbers[:1]])

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
            picture = bands_of_eye(project, project.room(room), eye)
            write_out(path, stoppable(picture.png(), step, "drawing"))
            return 1

        def done(_: int) -> None:
            self.host.say(f"Wrote {path}")

        run_task(self.window, f"Drawing {path.name}", work, done, self.host.fail)

    def room_properties(self) -> None:
        """Show what can be set of the room."""
        if self.host.session.has_room:
            RoomDialog(self.window, self.host, self.host.session.room.info).open()

    def shift_room(self) -> None:
        """Ask how far all of the room is shifted."""
        if self.host.session.has_room:
            ShiftDialog(self.window, self.host).open()

    def new_room(self) -> RoomDialog:
        """Ask for name, kind and size of a new room."""
        dialog = RoomDialog(self.window, self.host)
        dialog.open()
        return dialog
