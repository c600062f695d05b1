"""Chunks: drawn once, kept, drawn anew only where something changed, at every zoom."""

import numpy as np
import pytest
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPainter

from tests.rooms import SIDE, small_room
from topion.brushes import Stamp
from topion.demo.brinehollow import ROOM, brinehollow
from topion.grid.boxes import Box
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.view.table import chunks as chunks_module
from topion.view.table.camera import STEPS, Camera
from topion.view.table.chunks import Chunks, cells_of
from topion.view.table.compose import composed

VIEW = QRectF(0, 0, 600, 400)


def frame(chunks, camera):
    """One painted frame as an array; frames are repeated until none is missing."""
    image = QImage(600, 400, QImage.Format.Format_RGB32)
    for _ in range(200):
        image.fill(0)
        painter = QPainter(image)
        done = chunks.paint(painter, camera, VIEW)
        painter.end()
        if done:
            break
    return np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint32).reshape(
        400, 600
    )


@pytest.fixture
def yard(qapp):
    room = brinehollow().room(ROOM)
    return room, Chunks(room.project.data, room.data)


@pytest.mark.parametrize("zoom", STEPS)
def test_every_zoom_shows_the_room_without_holes(yard, zoom):
    _room, chunks = yard
    camera = Camera(step=STEPS.index(zoom))
    picture = frame(chunks, camera)
    height, width = (min(limit, int(side * camera.px)) for limit, side in ((400, 64), (600, 96)))
    assert (picture[: max(1, height - 1), : max(1, width - 1)] & 0xFFFFFF).min() > 0
    if height < 398:
        assert not (picture[height + 2 :] & 0xFFFFFF).any()


def test_a_panned_frame_shows_what_a_fresh_one_shows(yard):
    room, chunks = yard
    camera = Camera(step=STEPS.index(1.0))
    frame(chunks, camera)
    camera.left, camera.top = -333, -205
    assert np.array_equal(
        frame(chunks, camera), frame(Chunks(room.project.data, room.data), camera)
    )


def test_only_chunks_that_show_a_change_are_drawn_anew(yard):
    _room, chunks = yard
    frame(chunks, Camera(step=STEPS.index(0.5)))
    frame(chunks, Camera(step=STEPS.index(1.0)))
    before = dict(chunks.kept)
    chunks.forget(Box((2, 2), (3, 3)))
    stale = (before.keys() - chunks.kept.keys()) | chunks.stale.keys()
    assert stale and all(row == 0 and column == 0 for _, row, column in stale)
    assert len(chunks.kept) > 0
    chunks.forget(None)
    assert not chunks.kept


@pytest.mark.parametrize("zoom", [0.25, 0.5, 1.0, 2.0])
def test_a_chunk_that_is_mended_is_as_one_that_is_drawn_whole(yard, zoom):
    room, chunks = yard
    camera = Camera(step=STEPS.index(zoom))
    frame(chunks, camera)
    room.lay("Lantern post", cells=[(4, 6)])
    room.lay("Reed bed", line=((10, 4), (12, 9)))
    room.lay("Water", cells=[(3, 12), (11, 14)])
    for dirty in ((Box((4, 6), (5, 7))), Box((5, 0), (18, 15)), Box((3, 12), (12, 15))):
        chunks.forget(dirty)
    fresh = frame(Chunks(room.project.data, room.data), camera)
    assert np.array_equal(frame(chunks, camera), fresh)
    assert not chunks.stale.keys() & {key for key in chunks.kept if key[0] == camera.px}


def test_old_chunks_are_let_go(yard, monkeypatch):
    _room, chunks = yard
    monkeypatch.setattr(chunks_module, "_MOST_CHUNKS", 2)
    frame(chunks, Camera(step=STEPS.index(1.0)))
    assert len(chunks.kept) <= 6


def test_until_a_chunk_is_drawn_a_kept_one_of_another_size_stands_in(yard, monkeypatch):
    _room, chunks = yard
    frame(chunks, Camera(step=STEPS.index(0.25)))
    monkeypatch.setattr(chunks_module, "_BUDGET_S", -1.0)
    image = QImage(600, 400, QImage.Format.Format_RGB32)
    image.fill(0)
    painter = QPainter(image)
    done = chunks.paint(painter, Camera(step=STEPS.index(1.0)), VIEW)
    painter.end()
    assert done is False and image.pixelColor(300, 200).lightness() > 0


def test_cells_of_a_chunk_fill_512_px():
    assert [cells_of(s) for s in (16, 1, 0.5, 24, 512, 600)] == [32, 512, 1024, 21, 1, 1]


def test_animated_tiles_move_on_and_still_ones_stay(qapp):
    room = small_room((8, 8))
    sheet = room.project.data.tilesets["sheet"].sheet
    slots = {"wave": Slot((0, 0), frames=((1, 1),), frame_ms=100)}
    room.project.add_tileset(TileSet("sea", sheet, Cut((SIDE, SIDE)), slots))
    room.project.add_brush(Stamp("Wave", ((TileRef("sea", "wave"),),)))
    room.lay("Wave", cells=[(2, 2)])
    chunks = Chunks(room.project.data, room.data)
    camera = Camera(step=STEPS.index(1.0), cell_px=SIDE)
    chunks.show_time(0, camera)
    first = frame(chunks, camera)
    assert chunks.show_time(50, camera) is False
    assert chunks.show_time(150, camera) is True
    second = frame(chunks, camera)
    moved = np.argwhere(first != second) // SIDE
    assert {tuple(c) for c in moved.tolist()} == {(2, 2)}


def test_an_opaque_layer_hides_those_below_without_a_trace(qapp):
    room = small_room((16, 16))
    room.add_layer("Upper", "tiles")
    room.lay("Stones", box=((0, 0), (15, 15)), layer="Upper")
    box = room.data.box
    hidden = composed(room.project.data, room.data, box, SIDE)
    room.set_layer("Ground", shown=False)
    assert composed(room.project.data, room.data, box, SIDE) == hidden
    room.set_layer("Upper", opacity=0.5)
    assert composed(room.project.data, room.data, box, SIDE) != hidden


def test_moving_water_never_keeps_a_missing_chunk_from_being_drawn(yard, monkeypatch):
    """Also on a machine so slow that a frame has time for one chunk only."""
    _, chunks = yard
    camera = Camera(step=STEPS.index(1.0))
    monkeypatch.setattr(chunks_module, "_BUDGET_OLD_S", -1.0)
    image = QImage(600, 400, QImage.Format.Format_RGB32)
    drawn = []
    real = chunks.draw
    monkeypatch.setattr(chunks, "draw", lambda key, cells: drawn.append(key) or real(key, cells))
    frame(chunks, camera)
    first = len(drawn)
    assert chunks.show_time(10_000, camera) or chunks.show_time(10_500, camera)
    painter = QPainter(image)
    done = chunks.paint(painter, camera, VIEW)
    painter.end()
    assert done is False and len(drawn) == first
    monkeypatch.setattr(chunks_module, "_BUDGET_OLD_S", 10.0)
    frame(chunks, camera)
    assert len(drawn) > first
