"""From a tile sheet of one's own to a weave that covers every case and a painted room."""

from __future__ import annotations

import topion
from tests.journeys.drawn import tile_sheet
from tests.journeys.newcomer import RIGHT, Newcomer


def test_an_own_tile_sheet_becomes_a_covered_weave_and_a_painted_room(newcomer: Newcomer):
    sheet = tile_sheet(newcomer.home / "mosses.png")
    newcomer.click("from above")
    newcomer.click("or choose a PNG")
    newcomer.answer_file(sheet)
    newcomer.await_words("Tiles of 16 × 16 px, 1 weave")
    newcomer.click("desk ›")
    newcomer.await_words("no cases open")
    newcomer.click("All cases")
    newcomer.click("Done")

    newcomer.key("F")
    newcomer.stroke((10, 10), button=RIGHT)
    newcomer.key("B")
    newcomer.stroke((4, 6), (14, 22))
    newcomer.hold("E")
    newcomer.stroke((8, 10), (9, 14))
    newcomer.let_go_of("E")
    newcomer.key("D")
    newcomer.click("Dark grey", button=RIGHT)
    newcomer.stroke((20, 10), (20, 30), button=RIGHT)
    newcomer.point((4, 6))
    newcomer.await_words("outer corner nw")

    room = topion.open(newcomer.save()).room("Room 1")
    assert room.data.info.view == "top"
    drawn = {room.material(y, x) for y, x in ((0, 0), (29, 47))}, room.material(20, 20)
    assert drawn == ({"Sand"}, "Dark grey")
    assert room.material(4, 6) == room.material(14, 22) == "Green"
    assert room.material(8, 10) != "Green"
    newcomer.key("Ctrl+Z", "Ctrl+Z")
    assert newcomer.ask(lambda: newcomer.window.session.room.info.name) == "Room 1"
