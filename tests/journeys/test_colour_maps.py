"""One room worn in three tint maps, exported as rows, and read back by the example."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import topion
from tests.journeys.newcomer import LEFT, RIGHT, Newcomer

READER = Path(__file__).resolve().parents[2] / "examples" / "read_rows.py"
PALETTE = """GIMP Palette
Name: Tide
#
 30  40  60 night
240 220 150 lamp
120 170 150 tide
"""


def test_a_room_in_three_tint_maps_is_written_as_rows_and_read_back(newcomer: Newcomer):
    palette = newcomer.home / "tide.gpl"
    palette.write_text(PALETTE)
    newcomer.begin("Hues")
    newcomer.key("B")
    newcomer.stroke((20, 5), (26, 20))
    before = newcomer.colours((22, 10))
    newcomer.key("F5")
    newcomer.click("import GPL")
    newcomer.answer_file(palette)
    newcomer.await_words("night")
    newcomer.click("+ new")
    newcomer.key("F5")
    newcomer.new_brush("Tint")
    newcomer.stroke((20, 5), (26, 20), button=RIGHT)
    newcomer.until(lambda: newcomer.colours((22, 10)) != before)
    for button, box in ((LEFT, ((27, 0), (29, 47))), (RIGHT, ((0, 0), (9, 47)))):
        newcomer.key("F5")
        newcomer.click("+ new")
        newcomer.key("F5")
        newcomer.stroke(*box, button=button)
    out = newcomer.home / "out"
    out.mkdir()
    folder = newcomer.save()
    newcomer.key("Ctrl+E")
    newcomer.click("Text rows of tiles")
    newcomer.answer_file(out)
    newcomer.await_words("Wrote 8 files")

    room = topion.open(folder).room("Room 1").data
    maps = [layer for layer in room.layers.values() if layer.info.kind == "tints"]
    assert len(maps) == 3
    found = [_read(path) for path in out.glob("*.tints.txt")]
    assert sorted(found, key=str) == [{"..02-": 7 * 16}, {"..02-": 10 * 48}, {"01..-": 3 * 48}]


def _read(path: Path) -> dict[str, int]:
    """How many cells have each code but the open one, by what the example says."""
    done = subprocess.run(
        [sys.executable, "-I", str(READER), str(path)], capture_output=True, text=True, check=True
    )
    counts = (line.split()[:2] for line in done.stdout.splitlines()[1:])
    return {code: int(count) for count, code in counts if code != "....-"}
