"""How a sheet may be cut, likeliest first: evenly, or by islands of opaque pixels.

Where tiles meet, what is drawn does not go on.  `_ties` measures line by line how much of what is
drawn goes on from the line before; a cut explains a sheet as far as its lines are those where
little does (the point-biserial correlation of both).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from topion.formats.sheet_islands import islands_cut
from topion.grid.arrays import CellMask, Rgba
from topion.model.tileset import LONGEST_TILE_PX, Cut, cut_pixels

_MOST_SPACING = 8
_MOST_MARGIN = 8
_SMALLEST_PX = 4
_LOOKED_AT_PX = 1024  # of each line
_SEEN_PX = 1024  # each way, to see whether tiles repeat
_FAINT = 16  # alpha below is nothing drawn
_ALIKE = 48.0  # steps of a channel; colours farther apart do not go on
_LEAST_SCORE = 0.12
_CHANCE = 4.2  # over the root of the lines: what noise reaches
_MOST_KEPT = 0.7  # of drawings, that an even cut leaves whole
_SURE = 0.85  # a score that leaves no doubt
_LEAST_PEAK = 0.1
_LONGEST_STRIP = 3  # times as long as wide: no tile is longer
_USUAL = {8: 1.02, 16: 1.06, 24: 1.02, 32: 1.06, 48: 1.03, 64: 1.04, 96: 1.02, 128: 1.03}


@dataclass(frozen=True)
class Proposal:
    """A cut and how well it explains the sheet, 0 to about 1."""

    cut: Cut
    score: float


def proposals(rgba: Rgba, most: int = 6) -> list[Proposal]:
    """The likeliest cuts of a sheet, best first; none where nothing repeats."""
    drawn = drawn_on(rgba)
    if not drawn.any():
        return []
    even = list(_even_cuts(rgba, drawn))
    even.sort(key=lambda found: -found.score)
    kept: list[Proposal] = []
    chance = _CHANCE / np.sqrt(sum(drawn.shape))
    for found in even:
        worth = 0.5 * kept[0].score if kept else 0.0
        if found.score < max(_LEAST_SCORE, chance, worth) or len(kept) == most:
            break
        if not any(_is_like(found.cut, other.cut) for other in kept):
            kept.append(found)
    islands = islands_cut(drawn)
    if islands is not None:
        loose = Proposal(
            islands, _score_of_islands(islands, kept[0] if kept else None, drawn.shape)
        )
        kept = sorted([*kept[: max(1, most - 1)], loose], key=lambda found: -found.score)
    return kept[:most]


def _is_like(cut: Cut, other: Cut) -> bool:
    """Whether tiles of two cuts follow on each other at nearly the same distance, one being no
    more than another place for the lines."""
    near = all(
        abs(a + cut.spacing - b - other.spacing) <= max(1, b // 16)
        for a, b in zip(cut.tile, other.tile, strict=True)
    )
    return near and (cut.margin > 0 or cut.spacing > 0 or cut.tile != other.tile)


# --- what is drawn ------------------------------------------------------------------------


def drawn_on(rgba: Rgba) -> CellMask:
    """(h, w): pixels that are neither clear nor of the colour of whole lines between tiles."""
    drawn = rgba[..., 3] >= _FAINT
    words = np.ascontiguousarray(rgba).view(np.uint32)[..., 0]
    rows = words[(words == words[:, :1]).all(axis=1), 0]
    columns = words[0, (words == words[:1]).all(axis=0)]
    colours, counts = np.unique(np.concatenate([rows, columns]), return_counts=True)
    if drawn.all() and len(colours) and counts.max() >= 2:
        return drawn & (words != colours[counts.argmax()])
    return drawn


def _ties(rgba: Rgba, drawn: CellMask) -> NDArray[np.float64]:
    """(h - 1,): of what is drawn on two neighbouring lines, the share that goes on."""
    step = max(1, rgba.shape[1] // _LOOKED_AT_PX)
    ink = drawn[:, ::step]
    found = np.zeros(len(rgba) - 1)
    rows = max(1, (1 << 20) // max(1, ink.shape[1]))
    for first in range(0, len(found), rows):
        part = rgba[first : first + rows + 1, ::step].astype(np.int16)
        apart = np.abs(np.diff(part, axis=0)).max(axis=2)
        here = ink[first : first + rows + 1]
        both = here[1:] & here[:-1]
        goes_on = (both * (1 - apart / _ALIKE).clip(0)).sum(axis=1)
        most = np.maximum(here[1:].sum(axis=1), here[:-1].sum(axis=1))
        found[first : first + rows] = goes_on / (most + 0.02 * ink.shape[1])
    return found


# --- even cuts ----------------------------------------------------------------------------


class _Axis:
    """One axis of a sheet, line by line.  ties : what goes on to the next.  ink : the share that
    is drawn on."""

    def __init__(self, rgba: Rgba, drawn: CellMask) -> None:
        self.length = len(rgba)
        self._ties = _ties(rgba, drawn)
        self._ink = drawn.mean(axis=1)
        self.blank = self._ink == 0
        inked = np.flatnonzero(~self.blank)
        # lines before and behind all that is drawn say nothing
        self._first = max(0, int(inked[0]) - 1)
        self._last = min(len(self._ties) - 1, int(inked[-1]))
        seen = self._ties[self._first : self._last + 1]
        self._lines, self._total = len(seen), float(seen.sum())
        self._spread = float(seen.std()) if len(seen) else 0.0
        gap = np.flatnonzero(~(self.blank[1:] | self.blank[:-1]))
        number = np.arange(len(self._ties))
        known = np.concatenate([[-1], gap, [len(self._ties)]])
        place = np.searchsorted(known, number)
        # of each line the nearest before and behind that parts something; itself, if it does
        self._before = known[np.where(known[place] == number, place, place - 1)]
        self._behind = known[place]

    def fits(self, side: int, margin: int, spacing: int) -> bool:
        return self._count(side, margin, spacing) >= 1

    def _count(self, side: int, margin: int, spacing: int) -> int:
        return (self.length - margin + spacing) // (side + spacing)

    def left(self, side: int, margin: int, spacing: int) -> int:
        """px behind the last tile."""
        count = self._count(side, margin, spacing)
        return self.length - margin - count * (side + spacing) + spacing

    def score(self, side: int, margin: int, spacing: int) -> float | None:
        """How well the lines of a cut are those where little goes on; None if no tile fits or
        something is drawn between them, 0 if there is one tile and so no line."""
        count = self._count(side, margin, spacing)
        left = self.left(side, margin, spacing)
        if count < 1 or left < 0 or (count == 1 and left > margin):
            return None
        pitch = side + spacing
        starts = margin + np.arange(count) * pitch
        if spacing:
            ends = (starts[:, None] + side + np.arange(spacing)).reshape(-1)
            if not (self.blank[ends[ends < self.length]].all() and self.blank[:margin].all()):
                return None
        # line i parts the pixels i and i + 1
        at = (starts[:, None] - 1 - np.arange(spacing + 1)).reshape(-1)
        end = starts[-1] + side - 1 + np.arange(spacing + 1)
        at = np.unique(np.concatenate([at, end, np.arange(margin)]))
        at = at[(at >= self._first) & (at <= self._last)]
        count = len(at) + (0 if spacing else self._free(at, side // 2))
        if not len(at) or count >= self._lines or self._spread < 1e-9:
            return 0.0
        on = float(self._ties[at].sum())
        off = (self._total - on) / (self._lines - count)
        share = count / self._lines
        found = (off - on / count) / self._spread * float(np.sqrt(share * (1 - share)))
        if margin and not spacing:
            return found * (0.85 if left == margin and self.blank[:margin].all() else 0.65)
        return found if left in (0, margin, spacing) else 0.8 * found

    def _free(self, at: NDArray[np.intp], most: int) -> int:
        """How many lines beside those at `at` lie in the same gaps, no farther than `most`."""
        first = np.maximum(self._before[at] + 1, at - most).clip(self._first, at)
        last = np.minimum(self._behind[at] - 1, at + most).clip(at, self._last)
        # `at` rises, so what two of them share lies between them
        shared = (last[:-1] - first[1:] + 1).clip(0).sum()
        return int((last - first + 1).sum() - shared) - len(at)

    def rim(self, side: int, margin: int, spacing: int) -> float:
        """How much is drawn on the first and last lines of tiles, beside all their lines."""
        starts = margin + np.arange(self._count(side, margin, spacing)) * (side + spacing)
        edges = np.concatenate([self._ink[starts], self._ink[starts + side - 1]])
        return float(edges.mean() / max(1e-9, self._ink[~self.blank].mean()))


Axes = tuple[_Axis, _Axis]


def _even_cuts(rgba: Rgba, drawn: CellMask) -> Iterator[Proposal]:
    axes = (_Axis(rgba, drawn), _Axis(rgba.transpose(1, 0, 2), drawn.T))
    gutters = any(axis.blank.any() for axis in axes)
    for spacing in range(_MOST_SPACING + 1 if gutters else 1):
        for margin in range(_MOST_MARGIN + 1):
            yield from _of_gaps(rgba, axes, margin, spacing)


def _of_gaps(rgba: Rgba, axes: Axes, margin: int, spacing: int) -> Iterator[Proposal]:
    """The best cuts of a margin and a spacing."""
    found: list[dict[int, float]] = []
    for axis in axes:
        sides = range(_SMALLEST_PX, min(axis.length, LONGEST_TILE_PX) + 1)
        scores = {side: axis.score(side, margin, spacing) for side in sides}
        found.append({side: score for side, score in scores.items() if score is not None})
    if not all(found):
        return
    pairs = {(side, side) for side in found[0] if side in found[1]}
    best = sorted(pairs, key=lambda pair: -_both(axes, pair, found))[:6]
    several = [
        [side for side in scores if 2 * side <= axis.length] or list(scores)
        for axis, scores in zip(axes, found, strict=True)
    ]
    tall, wide = (max(sides, key=scores.__getitem__)
                  for sides, scores in zip(several, found, strict=True))  # fmt: skip
    others = ((tall, wide), (max(found[0]), wide), (tall, max(found[1])))
    best += [pair for pair in others if max(pair) <= _LONGEST_STRIP * min(pair)]
    thirds = _thirds(rgba, best[:1], margin, spacing)
    for pair in dict.fromkeys([*best, *thirds]):
        score = 1.01 * _both(axes, thirds[pair], found) if pair in thirds else 0.0
        score = max(score, _both(axes, pair, found))
        score *= _usual(*pair) * _care(axes, pair, margin, spacing)
        if score >= _LEAST_SCORE:
            cut = Cut(pair, margin, spacing)
            yield Proposal(cut, score + 0.15 * _repeats(rgba, cut))


def _both(axes: Axes, pair: tuple[int, int], found: list[dict[int, float]]) -> float:
    """The scores of both axes in one; an axis of one tile says nothing."""
    several = [found[k][side] for k, side in enumerate(pair) if 2 * side <= axes[k].length]
    if not several:
        return 0.0
    alone = 0.9 if pair[0] == pair[1] else 0.85
    return float(np.mean(several)) * (1.0 if len(several) == 2 else alone)


def _thirds(
    rgba: Rgba, pairs: list[tuple[int, int]], margin: int, spacing: int
) -> dict[tuple[int, int], tuple[int, int]]:
    """Tiles a third as large, where patches of three by three tiles are drawn as one and their
    ground repeats from tile to tile; and the patch of each."""
    found = {}
    for pair in pairs:
        third = (pair[0] // 3, pair[1] // 3)
        sound = third[0] * 3 == pair[0] and third[1] * 3 == pair[1] and min(third) >= 8
        if sound and not (margin or spacing) and third[0] in _USUAL:
            peaks = [_comes_again(part, side) for part, side in
                     ((rgba, third[0]), (rgba.transpose(1, 0, 2), third[1]))]  # fmt: skip
            if min(peaks) > _LEAST_PEAK:
                found[third] = pair
    return found


def _comes_again(rgba: Rgba, lag: int) -> float:
    """The share of busy pixels that are the same `lag` lines on, beyond those a little less or
    more."""
    step = max(1, rgba.shape[1] // _LOOKED_AT_PX)
    words = np.ascontiguousarray(rgba[:, ::step]).view(np.uint32)[..., 0]
    busy = np.zeros(words.shape, bool)
    busy[1:] = (words[1:] != words[:-1]) & (rgba[1:, ::step, 3] >= _FAINT)

    def same(by: int) -> float:
        both = busy[:-by] & busy[by:]
        return float((both & (words[:-by] == words[by:])).sum() / max(1, busy[:-by].sum()))

    return same(lag) - max(same(lag + off) for off in (-3, -2, 2, 3))


def _care(axes: Axes, pair: tuple[int, int], margin: int, spacing: int) -> float:
    """Below 1 for gaps that the sheet can do without.

    Drawings that leave a rim of their tile free look as if they had gaps between them.  Where the
    sheet is whole without gaps, those must have tiles that are drawn up to their edges.
    """
    if not spacing:
        return 1.0
    whole = all(axis.length % (side + spacing) == 0 or axis.length <= side + spacing + 2 * margin
                for axis, side in zip(axes, pair, strict=True))  # fmt: skip
    if not whole:
        return 1.05
    rim = min(axis.rim(side, margin, spacing) for axis, side in zip(axes, pair, strict=True))
    return 1.05 if rim > 0.5 else 0.4


def _usual(height: int, width: int) -> float:
    """Square tiles of the usual sizes are likelier, as long as little else speaks."""
    if height != width:
        return float(0.9 * np.sqrt(_USUAL.get(height, 1.0) * _USUAL.get(width, 1.0)))
    return _USUAL.get(height, 1.01 if height % 8 == 0 else 1.0)


def _repeats(rgba: Rgba, cut: Cut) -> float:
    """The share of tiles that are drawn more than once, beyond those of the same cut moved by
    half a tile; tiles of one colour do not count."""
    rgba = rgba[:_SEEN_PX, :_SEEN_PX]
    moved = rgba[cut.tile[0] // 2 :, cut.tile[1] // 2 :]
    return max(0.0, _equal_share(rgba, cut) - _equal_share(moved, cut))


def _equal_share(rgba: Rgba, cut: Cut) -> float:
    if not all(cut.grid_of((rgba.shape[0], rgba.shape[1]))):
        return 0.0
    tiles = cut_pixels(rgba, cut)
    flat = np.ascontiguousarray(tiles).reshape(-1, cut.tile[0] * cut.tile[1] * 4).view(np.uint32)
    busy = flat[(flat != flat[:, :1]).any(axis=1)]
    if len(busy) < 4:
        return 0.0
    factors = np.arange(1, busy.shape[1] + 1, dtype=np.uint32) * np.uint32(2654435761)
    keys = (busy * factors).sum(axis=1, dtype=np.uint64)
    return 1.0 - len(np.unique(keys)) / len(keys)


# --- loose drawings -----------------------------------------------------------------------


def _score_of_islands(islands: Cut, best: Proposal | None, size_px: tuple[int, ...]) -> float:
    """Drawings are taken as they lie where the best even cut does not come out even, or goes
    through most of them and the tiles that they reach into are not theirs alone, as those of a
    drawing of many tiles are."""
    if best is None:
        return 1.0
    starts = np.array([rect[:2] for rect in islands.rects]) - best.cut.margin
    sizes = np.array([rect[2:] for rect in islands.rects])
    pitch = np.array(best.cut.tile) + best.cut.spacing
    first = (starts // pitch).clip(0)
    last = ((starts + sizes - 1) // pitch).clip(0)
    taken = np.zeros(last.max(axis=0) + 1, np.intp)
    for lo, hi in zip(first, last, strict=True):
        taken[lo[0] : hi[0] + 1, lo[1] : hi[1] + 1] += 1
    kept = 0
    for lo, hi in zip(first, last, strict=True):
        alone = (taken[lo[0] : hi[0] + 1, lo[1] : hi[1] + 1] == 1).mean() > 0.7
        kept += bool((lo == hi).all() or alone)
    left = (np.array(size_px) - best.cut.margin + best.cut.spacing) % pitch
    even = bool(np.isin(left, (0, best.cut.margin, best.cut.spacing)).all())
    loose = best.score < _SURE and (not even or kept < _MOST_KEPT * len(sizes))
    return best.score * (1.1 if loose else 0.5)
