"""Plays a scripted session through the real window: real mouse events, pictures, exports."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from topion.brushes.kind import brush_named
from topion.demo.art import drawn_sheet
from topion.demo.brinehollow import ROOM, brinehollow
from topion.demo.cellar import ROOM as CELLAR
from topion.demo.island import ROOM as ISLAND
from topion.demo.marsh import ROOM as MARSH
from topion.edit.pieces import Pick
from topion.grid.orient import UP
from topion.pictures.png import png_bytes
from topion.view import style
from topion.view.app import application
from topion.view.play_desks import block, learn, prefab, tile_set, voxels, weave
from topion.view.play_looks import compare, dusk, keep_warm
from topion.view.play_many import arrange, fence, field_layers, size_mask
from topion.view.play_stamps import grow, hold_stamp, light
from topion.view.play_walk import conditions, plan, survey, walk_side
from topion.view.player import Cell, Player, Shot, wait
from topion.view.session import Session
from topion.view.window import Window


def play(window: Window, out: Path, said: Callable[[str], object] = print) -> list[Path]:
    """The session, scene by scene; returns the pictures it took."""
    hand = Player(window)
    shots: list[Path] = []

    def shot(name: str, widget: QWidget | None = None) -> None:
        shots.append(hand.shot(out / f"{name}.png", widget))
        said(f"picture {shots[-1].name}")

    window.table.look_at((24, 40), 1.0)
    hand.settle(300)
    scenes = [_paint, _place, _build, fence, arrange, field_layers, size_mask, light, grow,
              keep_warm, _pull, compare, _look_round, weave, learn, prefab, conditions,
              walk_side, survey, plan]  # fmt: skip
    if window.tables.has_opengl:
        scenes += [_model, dusk, hold_stamp, _way, _shape, block, voxels]
    else:
        said("no pictures of Lamp Island: this display has no OpenGL")
    for scene in scenes:
        scene(hand, shot)
    window.session.open_room(ROOM)
    tile_set(hand, shot, sheet_file(out))
    return shots


def _paint(hand: Player, shot: Shot) -> None:
    """A stroke of grass in progress, with its ghost."""
    session = hand.window.session
    session.hands.take("right", "Water")
    session.hands.take("left", "Salt grass")
    session.hands.set_field(brush_named(session.project, "Salt grass"), "nib", 3)
    hand.press([(20, 42), (22, 46), (21, 50), (24, 54), (26, 57)])
    shot("stroke")
    hand.let_go()


def _place(hand: Player, shot: Shot) -> None:
    """A refused lantern, and a field in hand."""
    session = hand.window.session
    session.hands.take("left", "Lantern post")
    hand.hover((17, 46))
    shot("refused-lantern")
    hand.window.rack.show_bay("Fields")
    session.hands.take("left", "Reed bed")
    hand.stroke((20, 38), (23, 40), (26, 37))
    hand.hover((25, 42))
    shot("field")
    hand.window.rack.show_bay("Ground")


def _build(hand: Player, shot: Shot) -> None:
    """Box, line, lift, undo and redo."""
    session = hand.window.session
    session.hands.take("left", "Brine pan")
    hand.tap(Qt.Key.Key_B)
    hand.stroke((19, 50), (23, 57))
    hand.tap(Qt.Key.Key_L)
    session.hands.take("left", "Boardwalk")
    hand.stroke((24, 44), (24, 60))
    hand.tap(Qt.Key.Key_D)
    hand.key(Qt.Key.Key_E)
    hand.stroke((24, 50), (24, 52))
    hand.key(Qt.Key.Key_E, down=False)
    shot("brushes")
    session.undo()
    session.undo()
    session.redo()
    shot("ribbon")


def _pull(hand: Player, shot: Shot) -> None:
    """Pump Cellar whole, then two of its pieces picked, and one of them pulled."""
    window, session = hand.window, hand.window.session
    session.open_room(CELLAR)
    window.rack.show_bay("Built")
    session.hands.take("right", "Cellar water")
    session.hands.take("left", "Clay wall")
    window.table.fit()
    hand.hover((3, 22))
    hand.settle(400)
    shot("cellar")
    window.table.look_at((15, 22), 2.0)
    session.gestures.use("lasso")
    session.pieces.pick([pick for cell in ((14, 22), (21, 17)) for pick in _here(session, cell)])
    _pull_handle(hand, 1, (1.0, 2.0))
    shot("pieces")
    hand.let_go()
    session.undo()
    session.gestures.use("drag")


def _here(session: Session, cell: tuple[int, ...]) -> list[Pick]:
    """The uppermost piece in a cell."""
    return [pick for pick, _ in session.pieces.here(cell)[:1]]


def _pull_handle(hand: Player, side: int, by: Cell) -> None:
    """Drag the last handle of what was picked first so many cells on, or another one."""
    table: Any = hand.window.table
    first = hand.window.session.pieces.first()
    if first is None:
        return
    handles = table.piece_marks.handles(first[1])
    handle = handles[side] if handles[0].point >= 0 else handles[-1]
    to = tuple(a + b for a, b in zip(handle.at, by, strict=True))
    hand.press_at([table.piece_marks.point(handle.at), table.piece_marks.point(to)])
    hand.settle(400)


def _way(hand: Player, shot: Shot) -> None:
    """Lamp Island: a point of the plank way is pulled over the water."""
    window, session = hand.window, hand.window.session
    table: Any = window.table
    session.gestures.use("lasso")
    pieces = session.room.cell_layers()[0][1].pieces
    layer_id = session.room.cell_layers()[0][0]
    ways = [number for number, piece in pieces.items() if piece.brush == "Plank way"]
    session.pieces.pick([Pick(layer_id, number) for number in ways[:1]])
    table.zoom(3)
    table.centre_on((4, 33, 27))
    hand.settle(900)
    _pull_handle(hand, 1, (0.0, 1.0, 3.0))
    hand.settle(600)
    shot("island-way")
    window.escape()
    window.escape()
    session.gestures.use("drag")
    table.zoom(-3)
    table.fit()


def _look_round(hand: Player, shot: Shot) -> None:
    """The marsh from afar, and the yard in the dark."""
    window = hand.window
    window.session.open_room(MARSH)
    window.table.look_at((40, 64), 1 / 8)
    hand.hover((34, 50))
    hand.settle(400)
    shot("eighth")
    window.session.open_room(ROOM)
    window.table.look_at((36, 40), 1.0)
    window.toggle_dark()
    window.session.hands.take("left", "Cobbles")
    hand.hover((36, 50))
    hand.settle(300)
    shot("dark")
    window.toggle_dark()


def _model(hand: Player, shot: Shot) -> None:
    """Lamp Island: a crate on the work plane, and levels that are ghosted above it."""
    window, session = hand.window, hand.window.session
    session.open_room(ISLAND)
    hand.settle(1200)
    window.rack.show_bay("Built")
    session.hands.take("left", "Salt block")
    session.planes.set(aim="plane", level=9)
    session.gestures.use("box")
    hand.press([(9, 26, 20), (9, 27, 22), (9, 28, 24)])
    hand.let_go()
    hand.hover((11, 28, 24))
    shot("island-crate")
    window.escape()
    session.gestures.use("drag")
    session.planes.set(aim="face", level=7, above="ghosted")
    window.rack.show_bay("Ground")
    session.hands.take("left", "Tower brick")
    hand.point(window.table.face_centre(UP, 3, 31, 16))
    shot("island-levels")
    session.planes.set(above="shown")


def _shape(hand: Player, shot: Shot) -> None:
    """The ground sculpted in perspective, and reeds on the terraces."""
    window, session = hand.window, hand.window.session
    table: Any = window.table
    table.toggle_perspective()
    table.turn_to(-32.0, 36.0)
    table.zoom(3)
    table.centre_on((6, 26, 24))
    session.hands.take("left", "Raise")
    hand.press_at([table.face_centre(UP, 3, y, x) for y, x in ((29, 31), (31, 31), (32, 30))])
    shot("island-sculpt")
    hand.let_go()
    session.undo()
    window.rack.show_bay("Fields")
    session.hands.take("left", "Reed fringe")
    hand.press_at([table.face_centre(UP, 3, y, x) for y, x in ((30, 12), (31, 15), (30, 18))])
    hand.let_go()
    hand.point(table.face_centre(UP, 4, 28, 12))
    shot("island-field")
    table.toggle_perspective()
    window.rack.show_bay("Things")
    session.hands.take("left", "Lamp post")
    table.centre_on((9, 21, 21))
    hand.point(table.face_centre(UP, 8, 22, 22))
    shot("island-refused")


def sheet_file(out: Path) -> Path:
    """A sheet as others would deliver it: the demo's tiles with a margin and spacing."""
    side, columns = 16, 16
    tiles = drawn_sheet().reshape(-1, side, 24, side, 4).transpose(0, 2, 1, 3, 4)
    tiles = tiles.reshape(-1, side, side, 4)[: 12 * columns]
    sheet = np.zeros((2 + 12 * 18 - 2, 2 + columns * 18 - 2, 4), np.uint8)
    for number, tile in enumerate(tiles):
        y, x = (1 + 18 * v for v in divmod(number, columns))
        sheet[y : y + side, x : x + side] = tile
    path = out / "coast tiles.png"
    path.write_bytes(png_bytes(sheet))
    return path


def play_demo(out: Path) -> int:
    """Play, then save the project and export it; 0 when all is written."""
    out.mkdir(parents=True, exist_ok=True)
    app = application()
    style.load_fonts()
    style.dress(app)
    window = Window(brinehollow())
    window.show()
    wait(400)
    while window.session.ahead.busy:
        wait(100)
    wait(600)
    play(window, out)
    handle = window.session.handle
    folder = out / "Brinehollow.topion"
    window.saves.save_to(folder, over=True)
    for kind in ("png", "csv", "json"):
        (out / kind).mkdir(exist_ok=True)
        window.files.export_to(kind, out / kind)
    if window.tables.has_opengl:
        window.session.open_room(ISLAND)
        for kind in ("gltf", "csv", "png"):
            (out / kind).mkdir(exist_ok=True)
            window.files.export_to(kind, out / kind)
    room = handle.room(ROOM)
    (out / "room.png").write_bytes(png_bytes(np.ascontiguousarray(room.render(1.0))))
    tally = room.tally("Reed bed")
    print(f"reeds: {tally.placed} of {tally.wanted} placed")
    print(f"project {folder}, exports and pictures are in {out}")
    window.session.handle.history.mark_saved()
    window.close()
    return 0
