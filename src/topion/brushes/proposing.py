"""Brushes that a sheet is likely made for: weaves, mosaics and stamps, found by its pixels.

Nine-part blocks and other known layouts are found where tiles meet inside and not outside; runs of
tiles of one look that show many cases are weaves by their pixels; tiles that go on into themselves
are mosaics; tiles that go on only into each other are pictures larger than a tile.
"""

from __future__ import annotations

import colorsys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import partial
from itertools import islice

import numpy as np
import scipy  # its parts are loaded at first use
from numpy.typing import NDArray

from topion.brushes.kind import BrushKind
from topion.brushes.mosaic import Mosaic
from topion.brushes.slots import colour_of, free_in, ref_at, stamp_of
from topion.brushes.weave import Weave
from topion.brushes.weave_slots import (
    LAYOUTS,
    WeaveLayout,
    cases_by_pixels,
    weave_layouts,
)
from topion.grid.boxes import Box
from topion.model.tileset import TileSet
from topion.weaving.ready import ALL, rules_for_cases
from topion.weaving.rules import RuleBook, Variant

Place = tuple[int, int]
MOST_SLOTS = 4096  # of a sheet that is looked through
MOST_BRUSHES = 24
_AGREES = 0.7  # share of the slots of a layout whose pixels must speak for it
_MEETS, _STEP = 34.0, 18.0  # mean difference of two rims that go on into each other; of looks
_SOLID = 0.98  # share of a tile that is opaque, of ground
_FEWEST_CASES, _VARIED, _MANY = 9, 0.34, 20  # of a run that is a weave
_MOST_VARIANTS = 12
_LARGEST_STAMP = 8  # slots a side


@dataclass
class _Sheet:
    """What is known of the slots.  free : those that no brush was made of."""

    tileset: TileSet
    pixels: NDArray[np.float32]  # (rows, columns, h, w, 4) premultiplied
    free: NDArray[np.bool_]
    taken: set[str]
    found: list[tuple[str, BrushKind]] = field(default_factory=list)

    @property
    def shape(self) -> Place:
        return self.free.shape[0], self.free.shape[1]


def proposed_brushes(tileset: TileSet, taken: set[str]) -> list[tuple[str, BrushKind]]:
    """(bay, brush) likely wanted of a sheet, ground first; at most MOST_BRUSHES."""
    rows, columns = tileset.grid_shape
    if rows * columns > MOST_SLOTS or tileset.cut.rects:
        return _loose(tileset, taken)
    pixels = tileset.all_pixels().astype(np.float32)
    pixels = np.concatenate([pixels[..., :3] * pixels[..., 3:] / 255, pixels[..., 3:]], axis=-1)
    sheet = _Sheet(tileset, pixels, tileset.filled.copy(), set(taken))
    _take_layouts(sheet)
    _take_runs(sheet)
    _take_grounds(sheet)
    _take_pictures(sheet)
    return sheet.found[:MOST_BRUSHES]


def _loose(tileset: TileSet, taken: set[str]) -> list[tuple[str, BrushKind]]:
    """Of a sheet of single drawings: a stamp of each, as far as there is room on the rack."""
    found: list[tuple[str, BrushKind]] = []
    used = set(taken)
    for at in islice(_places(tileset.filled), MOST_BRUSHES):
        brush = stamp_of(tileset, Box(at, (at[0] + 1, at[1] + 1)), used)
        used.add(brush.name)
        found.append(("Stamps", brush))
    return found


# --- rims ---------------------------------------------------------------------------------


def _rim(sheet: _Sheet, at: Place, side: str) -> NDArray[np.float32]:
    """(n, 4) the pixels of a slot at one side."""
    where: dict[str, tuple[slice | int, slice | int]] = {
        "n": (0, slice(None)), "s": (-1, slice(None)), "w": (slice(None), 0),
        "e": (slice(None), -1),
    }  # fmt: skip
    rim: NDArray[np.float32] = sheet.pixels[at][where[side]]
    return rim


def _meet(a: NDArray[np.float32], b: NDArray[np.float32]) -> bool:
    """Whether two rims go on into each other, and something is seen there."""
    seen = max(float(a[:, 3].mean()), float(b[:, 3].mean())) > 24
    return seen and float(np.abs(a - b).mean()) < _MEETS


def _goes_on(sheet: _Sheet, at: Place) -> bool:
    """Whether a slot goes on into itself on all sides."""
    return _meet(_rim(sheet, at, "w"), _rim(sheet, at, "e")) and _meet(
        _rim(sheet, at, "n"), _rim(sheet, at, "s")
    )


def _inner_seams(sheet: _Sheet, box: Box) -> float:
    """The share of seams inside a box at which its slots meet."""
    met = count = 0
    for y in range(box.lo[0], box.hi[0]):
        for x in range(box.lo[1], box.hi[1]):
            for dy, dx, sides in ((0, 1, "ew"), (1, 0, "sn")):
                if y + dy < box.hi[0] and x + dx < box.hi[1]:
                    count += 1
                    there = (y + dy, x + dx)
                    met += _meet(_rim(sheet, (y, x), sides[0]), _rim(sheet, there, sides[1]))
    return met / count if count else 0.0


# --- weaves by how tiles lie --------------------------------------------------------------


def _take_layouts(sheet: _Sheet) -> None:
    """Blocks that lie as one of the known layouts does, the largest first."""
    shapes = sorted({(len(names), len(names[0])) for _, names, turned in LAYOUTS
                     if not turned and len(names) > 2}, key=lambda s: -s[0] * s[1])  # fmt: skip
    for shape in shapes:
        for box in _windows(sheet, shape):
            _take_layout(sheet, box)


def _windows(sheet: _Sheet, shape: Place) -> Iterator[Box]:
    for y in range(sheet.shape[0] - shape[0] + 1):
        for x in range(sheet.shape[1] - shape[1] + 1):
            box = Box((y, x), (y + shape[0], x + shape[1]))
            if sheet.free[box.slices].all():
                yield box


def _take_layout(sheet: _Sheet, box: Box) -> None:
    if not sheet.free[box.slices].all():  # one of it went into another brush meanwhile
        return
    core = Box(box.lo, (box.lo[0] + 3, box.lo[1] + 3))  # all begin with nine parts
    middle = (core.lo[0] + 1, core.lo[1] + 1)
    if not _goes_on(sheet, middle) or _inner_seams(sheet, core) < 1.0 or _is_even(sheet, core):
        return
    layout = next(iter(weave_layouts(sheet.tileset, box)), None)
    if layout is None or layout.agrees < _AGREES or "pixels" in layout.words:
        return
    _add_weave(sheet, layout, middle)


def _is_even(sheet: _Sheet, core: Box) -> bool:
    """Whether the rims of nine slots look as their middle does: they are no shape then."""
    y, x = core.lo
    middle = (y + 1, x + 1)
    outer = (((y, x + 1), "n"), ((y + 2, x + 1), "s"), ((y + 1, x), "w"), ((y + 1, x + 2), "e"))
    like = sum(float(np.abs(_rim(sheet, at, side) - _rim(sheet, middle, side)).mean()) < _STEP
               for at, side in outer)  # fmt: skip
    return like > 2


def _add_weave(sheet: _Sheet, layout: WeaveLayout, inside: Place) -> None:
    tiles = layout.tiles(sheet.tileset)
    book = RuleBook(rules_for_cases(tiles, turned=layout.turned))
    colour = colour_of(sheet.tileset, Box(inside, (inside[0] + 1, inside[1] + 1)))
    _add(sheet, "Ground", lambda name: Weave(name, book, colour=colour), colour, layout.cases)


def _add(
    sheet: _Sheet, bay: str, make: Callable[[str], BrushKind], colour: str, slots: Iterable[Place]
) -> None:
    name = free_in(colour_word(colour), sheet.taken)
    sheet.taken.add(name)
    sheet.found.append((bay, make(name)))
    for at in slots:
        sheet.free[at] = False


# --- weaves and mosaics by looks ----------------------------------------------------------


def _looks(sheet: _Sheet) -> NDArray[np.float32]:
    """(rows, columns, 4) the mean colour of the middle of each slot."""
    height, width = sheet.pixels.shape[2:4]
    y, x = height // 4, width // 4
    middle = sheet.pixels[:, :, y : max(y + 1, height - y), x : max(x + 1, width - x)]
    looks: NDArray[np.float32] = middle.mean(axis=(2, 3))
    return looks


def _runs(sheet: _Sheet, most: float) -> Iterator[list[Place]]:
    """Free slots that follow each other in reading order and look alike in the middle."""
    looks, run = _looks(sheet), list[Place]()
    mean = np.zeros(4, np.float32)
    for at in _places(sheet.tileset.filled):
        if not sheet.free[at] or (run and float(np.abs(looks[at] - mean).mean()) > most):
            if run:
                yield run
            run = []
        if sheet.free[at]:
            run.append(at)
            mean = np.mean([looks[one] for one in run[-8:]], axis=0)
    if run:
        yield run


def _take_runs(sheet: _Sheet) -> None:
    """Long runs that show many different cases."""
    for run in list(_runs(sheet, _STEP)):
        if len(run) < _FEWEST_CASES:
            continue
        cases = cases_by_pixels(np.stack([sheet.tileset.pixels(at) for at in run[:512]]))
        shown = dict(zip(run, cases, strict=False))
        distinct = len(set(cases))
        varied = distinct >= _MANY or distinct / len(run) >= _VARIED
        if distinct >= _FEWEST_CASES and varied and ALL in cases:
            layout = WeaveLayout("by their pixels", shown, False, distinct / len(run))
            inside = next(at for at, mask in shown.items() if mask == ALL)
            _add_weave(sheet, layout, inside)


def _take_grounds(sheet: _Sheet) -> None:
    """Opaque tiles that go on into themselves, those that look alike together."""
    solid = sheet.pixels[..., 3].mean(axis=(2, 3)) >= _SOLID * 255
    apart = sheet.free & ~(solid & _self_joined(sheet))
    kept, sheet.free = sheet.free, sheet.free & ~apart
    alike = _alike(sheet, list(_runs(sheet, _STEP)))
    sheet.free = kept
    for run in sorted(alike, key=len, reverse=True)[:MOST_BRUSHES]:
        chosen = run[:_MOST_VARIANTS]
        refs = [ref for at in chosen if (ref := ref_at(sheet.tileset, at)) is not None]
        at = chosen[0]
        colour = colour_of(sheet.tileset, Box(at, (at[0] + 1, at[1] + 1)))
        variants = tuple(Variant(ref) for ref in refs)
        _add(sheet, "Ground", partial(_mosaic, variants, colour), colour, run)


def _mosaic(variants: tuple[Variant, ...], colour: str, name: str) -> Mosaic:
    return Mosaic(name, variants, colour=colour)


def _places(mask: NDArray[np.bool_]) -> Iterator[Place]:
    """The slots of a mask in reading order."""
    yield from map(tuple, np.argwhere(mask).tolist())


def _alike(sheet: _Sheet, runs: list[list[Place]]) -> list[list[Place]]:
    """Runs of one look joined, wherever they lie."""
    looks = _looks(sheet)
    groups: list[tuple[NDArray[np.float32], list[Place]]] = []
    for run in runs:
        mean = np.mean([looks[at] for at in run], axis=0)
        near = next((g for known, g in groups if np.abs(known - mean).mean() <= _STEP / 2), None)
        if near is None:
            groups.append((mean, list(run)))
        else:
            near += run
    return [group for _, group in groups]


def _self_joined(sheet: _Sheet) -> NDArray[np.bool_]:
    found = np.zeros(sheet.free.shape, bool)
    for at in _places(sheet.free):
        found[at] = _goes_on(sheet, at)
    return found


# --- pictures of several tiles ------------------------------------------------------------


def _take_pictures(sheet: _Sheet) -> None:
    """What is left: tiles that go on into each other, as stamps; the largest first."""
    for box, own in sorted(_connected(sheet), key=lambda part: -int(part[1].sum())):
        if len(sheet.found) >= MOST_BRUSHES:
            return
        brush = stamp_of(sheet.tileset, box, sheet.taken, own)
        sheet.taken.add(brush.name)
        sheet.found.append(("Stamps", brush))


def _connected(sheet: _Sheet) -> Iterator[tuple[Box, NDArray[np.bool_]]]:
    """Boxes round free slots that hang together by their seams, and which of theirs do."""
    rows, columns = sheet.shape
    joined = np.zeros((rows * 2 - 1, columns * 2 - 1), bool)  # slots and the seams between them
    joined[::2, ::2] = sheet.free
    for y, x in _places(sheet.free):
        for dy, dx, sides in ((0, 1, "ew"), (1, 0, "sn")):
            there = (y + dy, x + dx)
            if there[0] < rows and there[1] < columns and sheet.free[there]:
                a, b = _rim(sheet, (y, x), sides[0]), _rim(sheet, there, sides[1])
                joined[2 * y + dy, 2 * x + dx] = _meet(a, b)
    labels, _ = scipy.ndimage.label(joined)
    for number, part in enumerate(scipy.ndimage.find_objects(labels), 1):
        lo = part[0].start // 2, part[1].start // 2
        hi = (part[0].stop + 1) // 2, (part[1].stop + 1) // 2
        if max(hi[0] - lo[0], hi[1] - lo[1]) <= _LARGEST_STAMP:
            box = Box(lo, hi)
            yield box, labels[::2, ::2][box.slices] == number


# --- names --------------------------------------------------------------------------------


def colour_word(colour: str) -> str:
    """A plain word for a colour, for the name of a brush."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    hue, light, strong = colorsys.rgb_to_hls(red, green, blue)
    if light < 0.12:
        return "Black"
    if light > 0.92:
        return "White"
    if strong < 0.13:
        return "Pale grey" if light > 0.68 else "Dark grey" if light < 0.34 else "Grey"
    degrees = hue * 360
    if 15 <= degrees < 50 and (light < 0.5 or strong < 0.5):
        return "Sand" if light > 0.6 else "Dark brown" if light < 0.25 else "Brown"
    for limit, word in ((15, "Red"), (40, "Orange"), (68, "Yellow"), (165, "Green"),
                        (200, "Teal"), (255, "Blue"), (290, "Violet"), (340, "Pink"),
                        (361, "Red")):  # fmt: skip
        if degrees < limit:
            return f"Dark {word.lower()}" if light < 0.28 else word
    return "Grey"
