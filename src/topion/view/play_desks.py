"""Scenes of the desks: a weave and its cover, what is learned, a tile set, pixels, a block."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QPointF

from topion.demo.brinehollow import ROOM
from topion.demo.island import ROOM as ISLAND
from topion.grid.areas import Area
from topion.grid.boxes import Box
from topion.view.desks.block_desk import BlockDesk
from topion.view.desks.prefab_desk import PrefabDesk
from topion.view.desks.tileset_desk import TileSetDesk
from topion.view.desks.voxel_desk import VoxelDesk
from topion.view.desks.weave_desk import WeaveDesk
from topion.view.player import Player, Shot
from topion.weaving import rule_edits

_SET, _MUD = "Saltworks", Box((0, 0), (2, 24))
_LEARNED = Box((14, 2), (58, 70))


def weave(hand: Player, shot: Shot) -> None:
    """The weave desk of mud, with the pointer on its scrap; then with two of its rules gone."""
    window, session = hand.window, hand.window.session
    session.open_room(ROOM)
    window.open_desk("Mud")
    hand.settle(500)
    desk = window.desks.desk
    if not isinstance(desk, WeaveDesk):
        return
    desk.shapes["Islands"].click()
    hand.settle(200)
    hand.point(desk.tables.shown.cell_centre(4, 5))
    hand.settle(300)
    shot("weave-desk")
    book = desk.work.book
    less = rule_edits.removed(rule_edits.removed(book, 8), 2)
    desk.work.set_book(less, "two rules less")
    desk.work.choose(5)
    hand.point(QPointF(10, 4))
    hand.settle(400)
    shot("weave-cover")
    while desk.work.book != book:
        session.undo()
    window.desks.close_desk()


def learn(hand: Player, shot: Shot) -> None:
    """Rules of mud are learned from what is painted in the yard."""
    window, session = hand.window, hand.window.session
    session.open_room(ROOM)
    ground = next(i for i, layer in session.room.cell_layers() if layer.info.name == "Ground")
    session.picked.work_on(ground)
    session.picking.pick(area=Area.of_box(_LEARNED))
    window.open_desk("Mud")
    hand.settle(300)
    desk = window.desks.desk
    if isinstance(desk, WeaveDesk):
        desk.learning.learn_picked()
        hand.settle(1500)
        shot("weave-learned")
    window.desks.close_desk()
    session.picking.pick()


def tile_set(hand: Player, shot: Shot, sheet: Path) -> None:
    """A sheet with its cut, slots that are marked, and the pixels of one of them."""
    window = hand.window
    dialog = window.files.cut_sheet(sheet)
    if dialog is not None:
        hand.settle(400)
        shot("sheet-cut", dialog)
        dialog.reject()
    window.show_sheets()
    desk = window.desks.desk
    hand.settle(200)
    if not isinstance(desk, TileSetDesk):
        return
    desk.show_set(_SET)
    desk.view.select(_MUD)
    hand.settle(200)
    shot("tile-set-desk")
    window.desks.open_pixels((0, 0))
    hand.settle(400)
    shot("slot-pixels")
    window.desks.close_desk()


def prefab(hand: Player, shot: Shot) -> None:
    """The desk of the lantern post: its rules, and where it may stand in the yard."""
    window, session = hand.window, hand.window.session
    session.open_room(ROOM)
    window.desks.open_prefab("Lantern post")
    hand.settle(1200)
    desk = window.desks.desk
    if isinstance(desk, PrefabDesk):
        while desk.map.asking is not None and desk.map.asking.isRunning():
            hand.settle(50)
        desk.map.pointed.emit((17, 46))
        hand.settle(200)
        shot("prefab-desk")
    window.desks.close_desk()


def voxels(hand: Player, shot: Shot) -> None:
    """The model of the lamp post of Lamp Island, built voxel by voxel."""
    window, session = hand.window, hand.window.session
    session.open_room(ISLAND)
    hand.settle(600)
    window.desks.open_voxels("Lamp post")
    hand.settle(900)
    if isinstance(window.desks.desk, VoxelDesk):
        window.desks.desk.tables.fit()
        hand.settle(500)
        shot("prefab-voxels")
    window.desks.close_desk()


def block(hand: Player, shot: Shot) -> None:
    """A block of Lamp Island whose voxels are built."""
    window, session = hand.window, hand.window.session
    session.open_room(ISLAND)
    hand.settle(600)
    window.desks.open_blocks("Stair")
    hand.settle(900)
    if isinstance(window.desks.desk, BlockDesk):
        shot("block-desk")
    window.desks.close_desk()
