"""What is dropped on the window, from a file manager or from anywhere else."""

from __future__ import annotations

import pytest
import trimesh
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QMessageBox

from tests.rooms import sheet_picture, small_project
from topion.view.dialogs.mesh import MeshDialog
from topion.view.dialogs.sheet import SheetDialog

LEFT = Qt.MouseButton.LeftButton


def files(*paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return data


def drop(designer, data, over=None):
    """Drag something over a part of the window, and let it go there."""
    target = over or designer.window.table
    at, action = QPointF(30, 30), Qt.DropAction.CopyAction
    none = Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(at.toPoint(), action, data, LEFT, none)
    QApplication.sendEvent(target, enter)
    assert enter.isAccepted()
    hint = designer.window.said.text()
    QApplication.sendEvent(designer.window, QDropEvent(at, action, data, LEFT, none))
    return hint


def open_dialog(designer, kind):
    found = [d for d in designer.window.findChildren(kind) if d.isVisible()]
    assert len(found) == 1
    return found[0]


@pytest.fixture
def sheet(tmp_path):
    path = tmp_path / "tiles.PNG"
    path.write_bytes(sheet_picture(side=16).png)
    return path


@pytest.fixture
def mesh(tmp_path):
    path = tmp_path / "ball.stl"
    trimesh.creation.icosphere(1).export(path)
    return path


def test_a_sheet_is_cut(designer, sheet):
    assert "cut tiles.PNG into tiles" in drop(designer, files(sheet))
    dialog = open_dialog(designer, SheetDialog)
    designer.qtbot.mouseClick(dialog.make, LEFT)
    assert "tiles" in designer.session.project.tilesets


def test_a_mesh_is_brought_in_over_any_part_of_the_window(designer, mesh):
    assert "the mesh ball.stl" in drop(designer, files(mesh), designer.window.rack.search)
    open_dialog(designer, MeshDialog).reject()


def test_several_files_come_one_after_the_other(designer, sheet, mesh):
    drop(designer, files(sheet, mesh))
    first = open_dialog(designer, SheetDialog)
    assert not [d for d in designer.window.findChildren(MeshDialog) if d.isVisible()]
    first.reject()
    open_dialog(designer, MeshDialog).reject()


@pytest.mark.parametrize("inner", ["", "project.json"])
def test_a_project_folder_is_opened(designer, tmp_path, inner):
    folder = small_project().save(tmp_path / "Other.topion")
    drop(designer, files(folder / inner if inner else folder))
    designer.qtbot.waitUntil(lambda: designer.window.session.handle.folder == folder.resolve())


def test_a_project_is_not_opened_over_unsaved_work_without_a_word(designer, tmp_path, monkeypatch):
    folder = small_project().save(tmp_path / "Other.topion")
    designer.room.lay("Water", cells=[(3, 3)])
    asked = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()) or 0)
    before = designer.window.session
    drop(designer, files(folder))
    assert asked and designer.window.session is before


def other(tmp_path, name):
    path = tmp_path / name
    path.mkdir() if name == "folder" else path.write_text("something else")
    return path


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("notes.pdf", "notes.pdf is nothing that can be brought in"),
        ("photo.jpg", "photo.jpg: pictures come in as PNG"),
        ("folder", "folder is no project folder"),
    ],
)
def test_anything_else_is_answered_with_what_can_be_dropped(designer, tmp_path, name, words):
    drop(designer, files(other(tmp_path, name)))
    said = designer.window.said.text()
    assert (
        words in said and "a mesh, texts of rooms or a project folder can be dropped here" in said
    )


def test_text_and_files_of_elsewhere_are_answered_too(designer):
    text, away = QMimeData(), QMimeData()
    text.setText("mud")
    away.setUrls([QUrl("https://example.org/tiles.png")])
    for data in (text, away):
        drop(designer, data)
        assert "can be dropped here" in designer.window.said.text()


def test_a_broken_sheet_is_said_and_the_next_file_still_comes(designer, tmp_path, mesh):
    broken = tmp_path / "broken.png"
    broken.write_bytes(b"\x89PNG\r\n")
    drop(designer, files(broken, mesh))
    assert "broken.png" in designer.window.said.text()
    open_dialog(designer, MeshDialog).reject()
