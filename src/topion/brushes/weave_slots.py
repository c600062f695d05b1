"""A weave from marked slots: which case each shows, by how they lie and by their pixels.

A layout tells the case of a slot by its place.  Else the pixels do: a slot whose rim looks, at a
side, as the rim of the inside does, has its like there.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.brushes.slots import colour_of, free_in, ref_at
from topion.brushes.weave import Weave
from topion.errors import BadValue
from topion.grid.boxes import Box
from topion.grid.neighbours import NAMES_8, case_of
from topion.model.tileset import TileSet
from topion.weaving.ready import ALL, PARTS, case_name, rules_for_cases
from topion.weaving.rules import RuleBook, Variant

Place = tuple[int, int]
MOST_SLOTS = 512  # that are compared with each other
# shares of slots whose pixels speak for a layout, and of different cases worth a word
_AGREES, _HARDLY, _VARIED = 0.6, 0.1, 0.25
_FEW = 6  # tiles that are turned to show all cases


@dataclass(frozen=True)
class WeaveLayout:
    """What the marked slots are taken for.

    words : for a choice.  cases : by (row, column) in the sheet, the case it shows.
    turned : whether each also stands for its quarter turns.  agrees : share of slots, 0 to 1,
    whose pixels look so.
    """

    words: str
    cases: Mapping[Place, int]
    turned: bool
    agrees: float

    def tiles(self, tileset: TileSet) -> dict[int, tuple[Variant, ...]]:
        """The variants of each case that has any."""
        found: dict[int, list[Variant]] = {}
        for at, mask in self.cases.items():
            ref = ref_at(tileset, at)
            if ref is not None:
                found.setdefault(mask, []).append(Variant(ref))
        return {mask: tuple(variants) for mask, variants in found.items()}

    def named(self) -> Iterator[tuple[Place, str]]:
        """Each slot with its case in words."""
        for at, mask in self.cases.items():
            yield at, case_name(mask)


def _rows(*rows: str) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(name.strip().replace("_", " ") for name in row.split()) for row in rows)


_NINE = ("nw n ne", "w inside e", "sw s se")
LAYOUTS: tuple[tuple[str, tuple[tuple[str, ...], ...], bool], ...] = (
    ("one tile everywhere", _rows("inside"), False),
    ("nine: corners, edges, middle", _rows(*_NINE), False),
    ("fifteen: nine, inner corners, diagonals",
     _rows(f"{_NINE[0]} inner_se inner_sw", f"{_NINE[1]} inner_ne inner_nw",
           f"{_NINE[2]} inner_nw_se inner_ne_sw"), False),
    ("sixteen: nine and thin forms",
     _rows(f"{_NINE[0]} end_n", f"{_NINE[1]} strip_n_s", f"{_NINE[2]} end_s",
           "end_w strip_w_e end_e alone"), False),
    *((f"five, turned{way}", rows, True) for way, rows in (
        ("", _rows("inside n nw inner_se alone")),
        (" (upright)", _rows("inside", "n", "nw", "inner_se", "alone")))),
    *((f"six, turned{way}", rows, True) for way, rows in (
        ("", _rows("inside n nw inner_se strip_w_e alone")),
        (" (2 rows)", _rows("inside n nw", "inner_se strip_w_e alone")),
        (" (2 columns)", _rows("inside n", "nw inner_se", "strip_w_e alone")))),
)  # fmt: skip


def weave_layouts(tileset: TileSet, box: Box) -> list[WeaveLayout]:
    """What the marked slots may be, likeliest first; none where all are empty."""
    places = [at for at in map(tuple, box.cells().tolist()) if tileset.filled[at]]
    if not places or len(places) > MOST_SLOTS:
        return []
    seen = cases_by_pixels(np.stack([tileset.pixels(at) for at in places]))
    shown = dict(zip(places, seen, strict=True))
    found = [
        _layout(words, names, turned, box, shown)
        for words, names, turned in LAYOUTS
        if (len(names), len(names[0])) == box.shape
    ]
    distinct = len(set(seen))
    if len(places) > 1:
        words = f"by their pixels: {distinct} of the 47 cases"
        found.append(WeaveLayout(words, shown, 1 < len(places) <= _FEW, distinct / len(places)))
    found.sort(key=lambda layout: (layout.cases is shown, -layout.agrees))
    if len(found) < 2:
        return found
    lying, seen_so = found[0].agrees, found[-1].agrees
    if lying < _AGREES and (seen_so >= _AGREES or (lying < _HARDLY and seen_so >= _VARIED)):
        found.insert(0, found.pop())
    return found


def _layout(
    words: str,
    names: tuple[tuple[str, ...], ...],
    turned: bool,
    box: Box,
    shown: Mapping[Place, int],
) -> WeaveLayout:
    cases = {
        (box.lo[0] + y, box.lo[1] + x): PARTS[name]
        for y, row in enumerate(names)
        for x, name in enumerate(row)
        if (box.lo[0] + y, box.lo[1] + x) in shown
    }
    same = sum(shown[at] == mask for at, mask in cases.items())
    return WeaveLayout(words, cases, turned, same / len(cases) if cases else 0.0)


def cases_by_pixels(pixels: NDArray[np.uint8]) -> list[int]:
    """The case that each of (n, h, w, 4) tiles shows, by comparing their rims with that of the
    one taken for the inside: where they are alike, a neighbour is the same.

    The inside is the tile with which the most different cases come out, and with which no corner
    looks the same beside a side that does not.
    """
    rims = _rims(pixels)
    away = np.abs(rims[:, None] - rims[None]).mean(axis=3)  # tile, inside, neighbour
    near = away <= _between(away)
    weights = 1 << np.arange(8)
    raw = (near * weights).sum(axis=2)
    settled = np.array([case_of(mask) for mask in range(256)])[raw]
    sound = (raw == settled).mean(axis=0)
    spread = np.array([len(set(column)) for column in settled.T.tolist()])
    # where all is equal the one that is most like the others is the inside
    likeness = -away.mean(axis=(0, 2)) / (1 + away.max())
    inside = int(np.argmax(spread * sound + 0.5 * likeness))
    masks: list[int] = settled[:, inside].tolist()
    return masks


def _rims(pixels: NDArray[np.uint8]) -> NDArray[np.float64]:
    """(n, 8, 4) the mean premultiplied colour of each tile at its eight neighbours."""
    wide = pixels.astype(float)
    wide[..., :3] *= wide[..., 3:] / 255
    height, width = pixels.shape[1:3]
    thick = max(1, min(height, width) // 8)
    parts = {"n": slice(0, thick), "": slice(None), "s": slice(height - thick, None)}
    across = {"w": slice(0, thick), "": slice(None), "e": slice(width - thick, None)}
    parts[""] = slice(height // 3, max(height // 3 + 1, height - height // 3))
    across[""] = slice(width // 3, max(width // 3 + 1, width - width // 3))
    found = []
    for name in NAMES_8:
        down = parts["n" if "n" in name else "s" if "s" in name else ""]
        right = across["w" if "w" in name else "e" if "e" in name else ""]
        found.append(wide[:, down, right].mean(axis=(1, 2)))
    return np.stack(found, axis=1)


def _between(values: NDArray[np.float64]) -> float:
    """The value that parts small ones from large ones best (Otsu 1979, over 64 steps)."""
    top = float(values.max())
    if top <= 0:
        return 0.0
    counts, edges = np.histogram(values, bins=64, range=(0, top))
    below = np.cumsum(counts)[:-1].astype(float)
    total = np.cumsum(counts * (edges[:-1] + edges[1:]) / 2)
    above = counts.sum() - below
    with np.errstate(divide="ignore", invalid="ignore"):
        apart = below * above * (total[:-1] / below - (total[-1] - total[:-1]) / above) ** 2
    return float(edges[1:][int(np.nanargmax(apart))])


def weave_of(
    tileset: TileSet, box: Box, taken: set[str], layout: WeaveLayout | None = None
) -> Weave:
    """Ready rules that cover all 47 cases.  layout : the likeliest unless given.

    Raises BadValue where all slots are empty.
    """
    layout = layout or next(iter(weave_layouts(tileset, box)), None)
    tiles = layout.tiles(tileset) if layout else {}
    if layout is None or not tiles:
        raise BadValue(
            "the marked slots", box.shape, f"some that are not empty, up to {MOST_SLOTS}"
        )
    name = free_in(f"{tileset.name} weave", taken)
    book = RuleBook(rules_for_cases(tiles, turned=layout.turned))
    inside = next((at for at, mask in layout.cases.items() if mask == ALL), box.lo)
    at = (inside[0], inside[1])
    return Weave(name, book, colour=colour_of(tileset, Box(at, (at[0] + 1, at[1] + 1))))
