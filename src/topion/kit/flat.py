"""The brushes of the kit for flat rooms."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.brushes import Mosaic, Panel, Ramp, Run, Trail, Weave
from topion.brushes.kind import BrushKind
from topion.grid.neighbours import E, N, S, W, case_of, cases_47
from topion.kit.art import INSIDE, LOOKS, RUNS, SIDES_16, faces, pictures
from topion.kit.palette import COLOURS
from topion.model.picture import Picture
from topion.model.tileset import Cut, Slot, TileRef, TileSet
from topion.pictures.png import png_bytes
from topion.weaving.ready import rules_for_cases
from topion.weaving.rules import ANY, OPEN, Rule, RuleBook, Variant

SHEET = "Kit"
BACK, GROUND, BUILT, WAYS = "Back", "Ground", "Built", "Ways"
WATER, THINGS = "Water", "Things"
_COLUMNS = 24
_SIDES = (("n", N), ("e", E), ("s", S), ("w", W))
_SOLID = ("ground", "wall", "platform", "slope", "under")
_NAMES = {"ground": "Ground", "floor": "Floor", "wall": "Wall"}
RAMPS = tuple(f"Ramp {run} : 1" for run in RUNS)


def tileset(px: int) -> TileSet:
    """The sheet of the kit for cells of so many px."""
    found = [*pictures(), *faces()]
    sheet = np.zeros((-(-len(found) // _COLUMNS) * px, _COLUMNS * px, 4), np.uint8)
    slots = {}
    for number, (name, draw) in enumerate(found):
        at = divmod(number, _COLUMNS)
        y, x = (v * px for v in at)
        sheet[y : y + px, x : x + px] = draw(px)
        slots[name] = _slot(name, at)
    return TileSet(SHEET, Picture(sheet, png_bytes(sheet)), Cut((px, px)), slots, two_tone=True)


def _slot(name: str, at: tuple[int, int]) -> Slot:
    look, _, rest = name.partition(" ")
    heights: tuple[float, ...] = ()
    if look == "slope":
        run, part = map(int, rest.split())
        heights = (part - 1) / run, part / run
    return Slot(
        at, tags=(look,), solid=look in _SOLID, climbable=look == "ladder",
        carries=look == "plank", walkable=look in ("floor", "back", "plank", "ladder"),
        heights=heights,
    )  # fmt: skip


def ref(name: str) -> TileRef:
    """The tile of a slot."""
    return TileRef(SHEET, name)


def _woven(look: str) -> RuleBook:
    tiles: dict[int, tuple[Variant, ...]] = {
        mask: (Variant(ref(f"{look} {mask}")),) for mask in cases_47()
    }
    tiles[INSIDE] = (Variant(ref(f"{look} {INSIDE}"), 30.0), Variant(ref(f"{look} marked"), 1.0))
    joins = RAMPS if look == "ground" else ()
    return RuleBook(rules_for_cases(tiles), joins=joins)


def _water() -> RuleBook:
    open_above = ((ANY, OPEN, ANY), (ANY,) * 3, (ANY,) * 3)
    return RuleBook((
        Rule("surface", open_above, (Variant(ref("water surface")),)),
        Rule("below", ((ANY,) * 3,) * 3, (Variant(ref("water")),)),
    ))  # fmt: skip


def _panel_parts() -> dict[str, TileRef]:
    """Tiles by their place in a rectangle."""
    rows, columns = {"n": S, "m": N | S, "s": N, "a": 0}, {"w": E, "m": W | E, "e": W, "a": 0}
    return {row + column: ref(f"platform {up | along}")
            for row, up in rows.items() for column, along in columns.items()}  # fmt: skip


def _trail_parts() -> dict[str, TileRef]:
    """Tiles by the sides on which a way goes on."""
    return {"".join(name for name, bit in _SIDES if mask & bit) or "alone": ref(f"plank {mask}")
            for mask in SIDES_16}  # fmt: skip


def _ramp(run: int, name: str) -> Ramp:
    parts = {f"slope {part}": ref(f"slope {run} {part}") for part in range(1, run + 1)}
    parts |= {f"under {part}": ref(f"under {run} {part}") for part in range(1, run + 1)}
    parts |= {"fill": ref(f"ground {INSIDE}"), "head": ref(f"ground {case_of(INSIDE & ~N)}")}
    return Ramp(name, parts, 1, run, GROUND, COLOURS["ground light"])


def brushes() -> Iterator[tuple[str, BrushKind]]:
    """(bay, brush) in the order of the rack."""
    for look in LOOKS:
        book = _woven(look)
        yield "Ground", Weave(_NAMES[look], book, GROUND, COLOURS[look], 1)
    yield "Ground", Weave("Water", RuleBook(_water().rules), WATER, COLOURS["water"])
    paper = (Variant(ref("back"), 40.0), Variant(ref("back marked"), 1.0))
    yield "Ground", Mosaic("Back wall", paper, BACK, COLOURS["back mark"], 2)
    inside = (Variant(ref(f"platform {N | E | S | W}")),)
    yield "Built", Panel("Platform", _panel_parts(), inside, (), BUILT, COLOURS["platform"])
    yield "Built", Trail("Plank", _trail_parts(), WAYS, COLOURS["plank"])
    for run, name in zip(RUNS, RAMPS, strict=True):
        yield "Built", _ramp(run, name)
    rungs = {"top": ref(f"ladder {S}"), "upright": ref(f"ladder {N | S}"),
             "bottom": ref(f"ladder {N | S}"), "single": ref(f"ladder {S}")}  # fmt: skip
    yield "Built", Run("Ladder", rungs, (), WAYS, COLOURS["plank dark"])
