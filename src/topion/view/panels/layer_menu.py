"""What can be done to a layer, for the menus of the stack and of the levels."""

from __future__ import annotations

from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from topion.edit.layers import (
    attach,
    duplicate_layer,
    group_layers,
    groups_of,
    layer_below,
    merge_down,
    show_group,
)
from topion.edit.rooms import clear_layer, remove_layer
from topion.view.session import Session


def fill_layer_menu(menu: QMenu, session: Session, layer_id: str, over: QWidget) -> None:
    """Duplicate, merge, attach, group, clear, remove."""
    room, name = session.room, session.room_name
    menu.addAction("Duplicate", lambda: session.try_(duplicate_layer, name, layer_id))
    below = layer_below(room, layer_id)
    if below:
        text = f"Merge into {room.layers[below].info.name}"
        menu.addAction(text, lambda: session.try_(merge_down, name, layer_id))
    menu.addAction("Move what lies in it: hold Z and drag",
                   lambda: session.picked.work_on(layer_id))  # fmt: skip
    _fill_attach(menu, session, layer_id)
    _fill_groups(menu, session, layer_id, over)
    menu.addSeparator()
    menu.addAction("Clear layer", lambda: session.try_(clear_layer, name, layer_id))
    menu.addAction("Remove layer", lambda: session.try_(remove_layer, name, layer_id))


def _fill_attach(menu: QMenu, session: Session, layer_id: str) -> None:
    room, name = session.room, session.room_name
    info = room.layers[layer_id].info
    if info.kind not in ("things", "field"):
        return
    part = menu.addMenu("Move along with")
    if part is None:
        return
    if info.attached:
        part.addAction("Nothing: by itself", lambda: session.try_(attach, name, layer_id))
    for other, layer in reversed(room.drawn()):
        if other != layer_id:
            action = part.addAction(
                layer.info.name, lambda to=other: session.try_(attach, name, layer_id, to)
            )
            if action is not None:
                action.setCheckable(True)
                action.setChecked(other == info.attached)


def _fill_groups(menu: QMenu, session: Session, layer_id: str, over: QWidget) -> None:
    room, name = session.room, session.room_name
    info, part = room.layers[layer_id].info, menu.addMenu("Group")
    if part is None:
        return

    def put(group: str) -> None:
        session.try_(group_layers, name, [layer_id], group)

    def ask() -> None:
        text, ok = QInputDialog.getText(over, "Group of layers", "Name", text=info.name)
        if ok and text.strip():
            put(text.strip())

    part.addAction("New group…", ask)
    for group, ids in groups_of(room).items():
        if group != info.group:
            part.addAction(f"Into {group}", lambda g=group: put(g))
        shown = any(room.layers[i].info.shown for i in ids)
        part.addAction(
            f"{'Hide' if shown else 'Show'} {group}",
            lambda g=group, s=shown: session.try_(show_group, name, g, not s),
        )
    if info.group:
        part.addAction(f"Out of {info.group}", lambda: put(""))
