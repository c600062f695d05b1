"""The ribbon: marks, pictures of edits, a filter, slices, thousands of edits."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog

from tests.looks import with_palette
from tests.rooms import small_room
from tests.voxel_rooms import isle
from topion.brushes import TintBrush
from topion.edit.journal import marks_of
from topion.model.edit import Edit
from topion.render.edit_pictures import edit_picture
from topion.view.panels.ribbon_chips import Chips, Filter

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def painter(designer):
    """A designer who laid three strokes."""
    for brush, row in (("Water", 4), ("Stones", 8), ("Water", 12)):
        designer.session.hands.take("left", brush)
        designer.stroke((row, 4), (row, 9))
    return designer


def name_mark(designer, monkeypatch, name):
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **named: (name, True))


def click(designer, rect):
    at = rect.center().toPoint()
    designer.qtbot.mouseClick(designer.window.ribbon, LEFT, pos=at)
    designer.settle()


def test_a_named_mark_brings_the_playhead_back_to_its_moment(painter, monkeypatch):
    history, ribbon = painter.handle.history, painter.window.ribbon
    name_mark(painter, monkeypatch, "before the flood")
    painter.key(Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    assert history.marks == {history.at: "before the flood"}
    marked = history.at
    painter.stroke((15, 4), (15, 9))
    history.jump(marked - 2)
    click(painter, ribbon.flag_rect(marked))
    assert history.at == marked
    ribbon.mark(marked, "")
    assert ribbon.flag_rect(marked) is None


def test_a_mark_goes_with_the_edits_it_stood_behind(painter):
    history = painter.handle.history
    history.mark(history.at, "end")
    history.mark(history.at - 1, "before")
    painter.session.undo()
    painter.stroke((15, 4), (15, 9))
    assert list(history.marks.values()) == ["before"]


def test_a_filter_shows_the_edits_of_one_brush_or_room(painter):
    ribbon, history = painter.window.ribbon, painter.handle.history
    ribbon.show_only(Filter(label="Water"))
    shown = [n for n in range(len(history.edits)) if ribbon.chip_rect(n) is not None]
    assert [history.edits[n].label for n in shown] == ["Water"] * len(shown)
    assert len(shown) == 2
    click(painter, ribbon.chip_rect(shown[0]))
    assert history.at == shown[0] + 1
    ribbon.show_only(Filter(room="Elsewhere"))
    assert all(ribbon.chip_rect(n) is None for n in range(len(history.edits)))
    ribbon.show_only(Filter())
    assert ribbon.chip_rect(0) is not None


def test_hovering_a_chip_shows_a_picture_of_what_it_changed(painter):
    ribbon, history = painter.window.ribbon, painter.handle.history
    rect = ribbon.chip_rect(len(history.edits) - 2)
    painter.qtbot.mouseMove(ribbon, rect.center().toPoint())
    painter.qtbot.waitUntil(ribbon.peek.isVisible, timeout=3000)
    assert not ribbon.peek.picture.pixmap().isNull()
    ribbon.leaveEvent(None)
    assert not ribbon.peek.isVisible()


def test_slices_are_chosen_at_the_ribbon_and_remembered(painter):
    painter.window.ribbon.slice_by(0.5)
    assert painter.session.slice_s == 0.5
    painter.window.use(painter.handle)
    assert painter.window.session.slice_s == 0.5


def test_ten_thousand_edits_stay_smooth(designer):
    """Laying the chips out and painting them take a part of a frame, however many there are."""
    history, ribbon = designer.handle.history, designer.window.ribbon
    edit = history.edits[-1]
    history.edits[:] = [replace(edit, label=f"Stroke {n % 37}") for n in range(10_000)]
    history.at = 10_000
    ribbon.follow()
    start = time.perf_counter()
    ribbon.follow()
    ribbon.grab()
    took = time.perf_counter() - start
    assert ribbon.chip_rect(9_999).right() <= ribbon.width()
    assert len(ribbon.chips.seen(ribbon.scrolled, ribbon.scrolled + 1280)) < 60
    assert took < 0.1  # of a frame that nobody feels


def test_chips_lie_in_order_with_flags_and_playhead_between_them():
    edits = [Edit(f"E{n}") for n in range(50)]
    chips = Chips.laid_out(edits, 20, {10: "ten", 20: "now", 50: "end"}, lambda t: 6.0 * len(t),
                           Filter())  # fmt: skip
    assert (chips.left[1:] >= chips.right[:-1]).all()
    for at, left, wide, _ in chips.flags:
        before = chips.right[at - 1]
        after = chips.left[at] if at < 50 else chips.total
        assert before <= left and left + wide <= after + 0.1
    assert chips.right[19] <= chips.playhead <= chips.left[20]


# --- pictures of edits --------------------------------------------------------------------

SIZE = (60, 90)


def picture(room):
    data = room.project.data
    return edit_picture(data, room.project.history.edits[-1], SIZE)


def test_the_picture_of_a_stroke_shows_what_it_laid_whatever_came_since():
    room = small_room()
    room.lay("Water", box=((3, 3), (8, 9)))
    edit = room.project.history.edits[-1]
    first = edit_picture(room.project.data, edit, SIZE)
    room.lay("Stones", box=((0, 0), (23, 31)))
    second = edit_picture(room.project.data, edit, SIZE)
    middle = (slice(first.shape[0] // 2 - 2, first.shape[0] // 2 + 2),) * 2
    assert np.array_equal(first[middle], second[middle])
    assert not np.array_equal(first, second)  # what lies round it is as it is now


@pytest.mark.parametrize("brush", ["Lamp", "Reeds", "Stones"])
def test_every_stroke_has_a_picture(brush):
    room = small_room()
    room.lay(brush, cells=[(5, 5), (9, 9)])
    found = picture(room)
    assert found is not None and found[..., 3].all()


def test_lifted_cells_tints_and_brushes_have_one_too():
    room = small_room()
    room.lift(cells=[(5, 5)])
    lifted = picture(room)
    assert (lifted[..., 0].astype(int) > lifted[..., 2]).any()
    with_palette(room.project)
    room.lay(TintBrush("T", 2, 1, both=True), box=((3, 3), (6, 6)))
    assert picture(room) is not None
    room.project.add_brush(room.project.data.brush("Water").changed(nib=3))
    assert picture(room) is not None


def test_a_voxel_stroke_has_a_picture():
    room = isle()
    room.lay("Stones", box=((3, 3, 3), (4, 5, 5)))
    assert picture(room).shape == (*SIZE, 4)


def test_marks_out_of_a_damaged_log_are_left_out():
    room = small_room()
    history = room.project.history
    assert marks_of("nonsense", history) == {}
    assert marks_of('[[1, "a"], [9999, "b"], ["x", "c"], [0, 5]]', history) == {1: "a"}


def test_a_point_on_the_ribbon_is_the_chip_that_is_drawn_there(painter):
    ribbon = painter.window.ribbon
    for number in range(len(painter.handle.history.edits)):
        rect = ribbon.chip_rect(number)
        at = QPoint(int(rect.center().x()), 15)
        if 64 < at.x() < ribbon.edge:
            assert ribbon.number_at(rect.center()) == number
