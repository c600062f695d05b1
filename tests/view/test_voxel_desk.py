"""The voxels of a prefab on their desk: frames, the ghost of a neighbour, points, picking, stamps."""

from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt

from tests.view.modeller import Modeller
from topion.edit.voxels import with_prefab_model
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.model.model_frames import FrameAt
from topion.model.solid import VoxelModel
from topion.render.sprites import set_time
from topion.render.volume import shape_of
from topion.view.desks.voxel_desk import VoxelDesk

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def built(designer):
    cells = np.zeros((8, 8, 8), np.uint8)
    cells[:4, 2:6, 2:6] = 1
    model = VoxelModel(cells, ("#a5533b", "#e8d9b0"))
    project = designer.session.project
    designer.session.apply(with_prefab_model(project, "Lamp", model))
    designer.window.desks.open_voxels("Lamp")
    designer.settle(60)
    desk = designer.window.desks.desk
    assert isinstance(desk, VoxelDesk)
    designer.qtbot.waitUntil(desk.tables.shown.settled, timeout=5000)
    return desk


def lamp(designer):
    return designer.handle.data.prefab("Lamp")


def click(designer, desk, face, *cell):
    table = desk.tables.shown
    at = table.face_centre(face, *cell).toPoint()
    designer.qtbot.mouseMove(table, at)
    designer.qtbot.mouseClick(table, LEFT, pos=at)
    designer.settle(60)


def test_a_frame_is_added_and_built_while_the_other_stays(designer, built):
    designer.qtbot.mouseClick(built.frames.add, LEFT)
    designer.settle(80)
    (still,) = lamp(designer).model_frames
    assert len(still.models) == 2 and built.ground.frame == FrameAt("still", 1)
    click(designer, built, 0, 3, 3, 3)
    (still,) = lamp(designer).model_frames
    assert still.models[1].cells[4, 3, 3] == 1 and still.models[0].cells[4, 3, 3] == 0
    assert lamp(designer).model.cells[4, 3, 3] == 0, "its model is the first still frame"
    designer.session.undo()
    assert not np.array_equal(still.models[1].cells, lamp(designer).model_frames[0].models[1].cells)


def test_the_first_still_frame_is_the_model(designer, built):
    designer.qtbot.mouseClick(built.frames.add, LEFT)
    built.frames.choose(0)
    designer.settle(80)
    click(designer, built, 0, 3, 3, 3)
    assert lamp(designer).model.cells[4, 3, 3] == 1
    assert lamp(designer).model == lamp(designer).model_frames[0].models[0]


def test_the_neighbouring_frame_is_seen_faintly(designer, built):
    designer.qtbot.mouseClick(built.frames.add, LEFT)
    designer.settle(80)
    prefab = lamp(designer)
    cells = prefab.model.cells.copy()
    cells[:4, :, :4] = 0  # its western half is gone in the second frame
    designer.session.apply(with_prefab_model(
        designer.session.project, "Lamp", replace(prefab.model, cells=cells), frame=FrameAt("still", 1)
    ))  # fmt: skip
    designer.settle(120)
    table = built.tables.shown
    at = table.face_centre(0, 3, 3, 2).toPoint()

    def colour():
        designer.settle(150)
        return table.grab().toImage().pixelColor(at).getRgb()

    designer.qtbot.mouseClick(built.ghosted.buttons[0], LEFT)
    bare = colour()
    designer.qtbot.mouseClick(built.ghosted.buttons[-1], LEFT)
    assert colour() != bare
    assert built.marks.neighbour is lamp(designer).model_frames[0].models[0]


def test_all_frames_keep_one_size(designer, built):
    designer.qtbot.mouseClick(built.frames.add, LEFT)
    built.sizes["levels"].setValue(12)
    built.sizes["levels"].editingFinished.emit()
    designer.settle(60)
    prefab = lamp(designer)
    sizes = {model.size for model in prefab.model_frames[0].models}
    assert sizes == {(12, 8, 8)} == {prefab.model.size}


def test_frames_play_where_the_thing_stands(designer, built):
    designer.qtbot.mouseClick(built.frames.add, LEFT)
    designer.settle(80)
    click(designer, built, 0, 3, 3, 3)
    project, prefab = designer.session.project, lamp(designer)
    still = prefab.model_frames[0]
    set_time(project, 10)
    assert shape_of(project, prefab) is still.models[0]
    assert "Lamp" in set_time(project, still.ms[0] + 10)
    assert shape_of(project, prefab) is still.models[1]


def test_a_named_point_is_put_by_a_click_typed_renamed_and_taken_away(designer, built):
    designer.qtbot.mouseClick(built.points.add, LEFT)
    click(designer, built, 0, 3, 4, 5)
    assert lamp(designer).model_points == {"point": (3, 4, 5)}
    assert lamp(designer).model.cells[4, 4, 5] == 0, "the click lays nothing"
    row = built.points.rows["point"]
    row["z"].setText("7")
    row["z"].editingFinished.emit()
    row = built.points.rows["point"]
    row["name"].setText("flame")
    row["name"].editingFinished.emit()
    assert lamp(designer).model_points == {"flame": (7, 4, 5)}
    designer.qtbot.mouseClick(built.points.rows["flame"]["×"], LEFT)
    assert lamp(designer).model_points == {}
    designer.session.undo()
    assert lamp(designer).model_points == {"flame": (7, 4, 5)}


def test_a_click_beside_the_model_puts_no_point(designer, built):
    said = []
    designer.session.said.connect(said.append)
    designer.qtbot.mouseClick(built.points.add, LEFT)
    table = built.tables.shown
    designer.qtbot.mouseClick(table, LEFT, pos=QPoint(3, 3))
    assert lamp(designer).model_points == {} and "No voxel lies there" in said[-1]


def test_voxels_are_picked_copied_and_stamped_beside(designer, built):
    session = built.ground.session
    session.gestures.use("lasso")
    session.picking.pick([], Area.of_box(Box((0, 2, 2), (4, 3, 6))))
    designer.settle(60)
    before = int((lamp(designer).model.cells > 0).sum())
    inner = Modeller.__new__(Modeller)
    inner.window, inner.qtbot, inner.table = designer.window, designer.qtbot, built.tables.shown
    inner.session, inner.handle = session, session.handle
    inner.table.setFocus()
    inner.key(Qt.Key.Key_Delete)
    designer.settle(60)
    assert int((lamp(designer).model.cells > 0).sum()) == before - 16
    designer.session.undo()
    assert int((lamp(designer).model.cells > 0).sum()) == before
