"""A side-view room of shapes that stay editable, put in another order, in another theme."""

from __future__ import annotations

import topion
from tests.journeys.drawn import recoloured
from tests.journeys.newcomer import Newcomer


def test_a_side_view_room_of_shapes_is_restacked_and_worn_in_another_theme(newcomer: Newcomer):
    newcomer.begin("Quay")
    newcomer.click("Platform, panel")
    newcomer.key("B")
    newcomer.stroke((18, 8), (22, 16))
    newcomer.stroke((16, 13), (24, 20))
    newcomer.click("Ramp 1 : 1")
    newcomer.stroke((26, 21), (23, 26))
    newcomer.click("Ladder, run")
    newcomer.stroke((12, 30), (26, 30))
    newcomer.key("D")
    newcomer.click("Plank, trail")
    newcomer.stroke((14, 24), (14, 34), (20, 34), (20, 40))

    newcomer.key("S")
    newcomer.stroke((17, 19))
    newcomer.await_words("panel 8 × 9 · on Built")
    newcomer.click("farther", among="What is picked")
    newcomer.write("7", into="Size width", enter=True)
    newcomer.await_words("panel 7 × 9 · on Built")
    newcomer.key("Esc", "D")
    folder = newcomer.save()
    room = topion.open(folder).room("Room 1")
    pieces = [piece for layer in room.data.layers.values() for piece in layer.pieces.values()]
    assert sorted(piece.brush for piece in pieces) == [
        "Ladder", "Plank", "Platform", "Platform", "Ramp 1 : 1"]  # fmt: skip
    first, second = (
        room.data.layers["built"].pieces[n] for n in sorted(room.data.layers["built"].pieces)
    )
    assert (second.box.shape, second.order < first.order) == ((9, 7), True)

    before = newcomer.colours((20, 14))
    night = recoloured(folder / "tilesets" / "Kit.png", newcomer.home / "night.png")
    newcomer.key("F5")
    newcomer.click("+ sheet")
    newcomer.click("PNG for Kit")
    newcomer.answer_file(night)
    newcomer.find("Name of the theme")
    newcomer.key("Return")
    newcomer.await_words("Night")
    newcomer.key("F5")
    worn = topion.open(newcomer.save()).room("Room 1").data
    assert worn.info.theme == "Night"
    assert worn.layers["built"].pieces == room.data.layers["built"].pieces
    newcomer.until(lambda: newcomer.colours((20, 14)) != before)
