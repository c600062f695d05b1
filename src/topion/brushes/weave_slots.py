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
_APART = 0.75  # share of what differs that two groups must explain to be two
_ALIKE, _FAR = 12.0, 24.0  # colours that count as one, and that are no longer the middle's
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
    """The case that each of (n, h, w, 4) tiles shows, by their rims.

    At each side the tiles fall into two groups, if they differ there at all; those that look more
    like the middles of tiles go on into a neighbour that is the same.  So do corners, among the
    tiles that go on at both sides of it.
    """
    rims, middle = _rims(pixels)
    bits = dict(zip(NAMES_8, (1 << np.arange(8)).tolist(), strict=True))
    at = {name: n for n, name in enumerate(NAMES_8)}
    every = np.ones(len(pixels), bool)
    same = {name: _goes_on(rims[:, at[name]], middle, every) for name in "nsew"}
    masks = sum(same[name] * bits[name] for name in "nsew")
    for name in (name for name in NAMES_8 if len(name) == 2):
        both = same[name[0]] & same[name[1]]
        inner = [rims[same[side], at[side]] for side in name]
        like = np.concatenate(inner).mean(axis=0) if both.any() else middle
        masks = masks + _goes_on(rims[:, at[name]], like, both) * bits[name]
    return [case_of(int(mask)) for mask in masks]


def _goes_on(
    rim: NDArray[np.float64], inside: NDArray[np.float64], asked: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """(n,) which of the asked tiles look at one place of their rim as tiles do inside.

    rim : (n, 4) mean colours there.  inside : (4,) how that is.
    """
    there = np.flatnonzero(asked)
    if not len(there):
        return asked.copy()
    away = rim[there] - rim[there].mean(axis=0)
    along = away @ np.linalg.svd(away, full_matrices=False)[2][0]
    cut = _parted(along)
    out = asked.copy()
    if cut is None:
        return out & bool(np.abs(rim[there].mean(axis=0) - inside).mean() < _FAR)
    high = along > cut
    means = [rim[there[side]].mean(axis=0) for side in (~high, high)]
    near = int(np.argmin([np.abs(mean - inside).mean() for mean in means]))
    out[there] = high == bool(near)
    return out


def _parted(values: NDArray[np.float64]) -> float | None:
    """The value that parts (n,) into two groups best (Otsu 1979); None where they are one."""
    order = np.sort(values)
    count = len(order)
    if count < 2:
        return None
    below = np.arange(1, count)
    sums = np.cumsum(order)[:-1]
    total = order.sum()
    apart = below * (count - below) * (sums / below - (total - sums) / (count - below)) ** 2
    best = int(apart.argmax())
    whole = count * count * order.var()
    between = (total - sums[best]) / (count - below[best]) - sums[best] / below[best]
    if between < _ALIKE or apart[best] < _APART * whole:
        return None
    return float((order[best] + order[best + 1]) / 2)


def _rims(pixels: NDArray[np.uint8]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, 8, 4) the mean premultiplied colour of each tile at its eight neighbours, and (4,) the
    median one of the middles."""
    wide = pixels.astype(float)
    wide[..., :3] *= wide[..., 3:] / 255
    height, width = pixels.shape[1:3]
    thick = max(1, min(height, width) // 8)
    parts = {"n": slice(0, thick), "s": slice(height - thick, None)}
    across = {"w": slice(0, thick), "e": slice(width - thick, None)}
    parts[""] = slice(height // 3, max(height // 3 + 1, height - height // 3))
    across[""] = slice(width // 3, max(width // 3 + 1, width - width // 3))
    found = []
    for name in NAMES_8:
        down = parts["n" if "n" in name else "s" if "s" in name else ""]
        right = across["w" if "w" in name else "e" if "e" in name else ""]
        found.append(wide[:, down, right].mean(axis=(1, 2)))
    middle = np.median(wide[:, parts[""], across[""]].mean(axis=(1, 2)), axis=0)
    return np.stack(found, axis=1), middle


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
