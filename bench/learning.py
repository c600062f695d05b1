"""Anchor 15: learning rules and echo, against the same algorithms in plain Python, cell by cell.

The plain versions also run as a careful hand would write them: equal surroundings told once, and
tables of what can stand beside what.  Each runs once: it takes long.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench import plain_echo, plain_learn
from bench.ratio import Ratio, Work, compared, timed
from topion.grid.echo import UNKNOWN, echo
from topion.grid.windows import Windows
from topion.model.tileset import TileRef
from topion.weaving.contents import Contents
from topion.weaving.example import Example
from topion.weaving.learn import learn
from topion.weaving.loom import Loom
from topion.weaving.ready import PARTS, rules_for_cases
from topion.weaving.rules import RuleBook, Variant

_NAMES = ("Mud", "Water")
_NINE = ("inside", "n", "s", "w", "e", "nw", "ne", "sw", "se")
_INNER = tuple(f"inner {name}" for name in ("nw", "ne", "sw", "se"))


def patches(seed: int, side: int, count: int) -> np.ndarray:
    """(side, side) cells of the nearest of some points, each of one of `count` values."""
    rng = np.random.default_rng(seed)
    points, value = rng.random((2 * count, 2)) * side, rng.integers(0, count, 2 * count)
    at = np.indices((side, side)).reshape(2, -1).T
    near = ((at[:, None] - points) ** 2).sum(axis=2).argmin(axis=1)
    return value[near].reshape(side, side).astype(np.int32)


def woven(side: int) -> tuple[Example, list[TileRef]]:
    """Mud and water as thirteen tiles lay them, to be learned from."""
    refs = [TileRef("sheet", str(n)) for n in range(14)]
    tiles = {PARTS[name]: (Variant(refs[n]),) for n, name in enumerate((*_NINE, *_INNER))}
    books = {"Mud": RuleBook(rules_for_cases(tiles)), "Water": RuleBook(rules_for_cases(
        {PARTS["inside"]: (Variant(refs[13]),)}))}  # fmt: skip
    loom = Loom(_NAMES, books, {}, {ref: n for n, ref in enumerate(refs, 1)})
    rng = np.random.default_rng(2)
    spots = rng.random((side // 4, 2)) * side
    at = np.indices((side, side)).reshape(2, -1).T
    far = np.sqrt(((at[:, None] - spots) ** 2).sum(axis=2)).min(axis=1).reshape(side, side)
    cells = np.where(far < 4.5 + rng.random((side, side)), 1, 2).astype(np.uint16)
    pictures = list(rng.integers(0, 255, (14, 4, 4, 4), np.uint8) | 1)
    tile = loom.whole(cells).astype(np.intp) - 1
    return Example(cells, tile, Contents(pictures)), refs


def ratios() -> Iterator[Ratio]:
    yield from _learning()
    yield from _echo()


def once(name: str, ours: Work, anchor: Work, target: float) -> Ratio:
    """Ours as the median of five runs, the anchor as one."""
    mine = sorted(timed(ours) for _ in range(5))[2]
    other = timed(anchor)
    return Ratio(name, mine / other, target, mine, other)


def _learning() -> Iterator[Ratio]:
    example, refs = woven(256)
    plain = plain_learn.plain_of(example, 1)
    found = learn(example, refs, _NAMES, 1)
    assert found.reproduced == found.cells == len(plain.cells)

    def ours() -> None:
        learn(example, refs, _NAMES, 1)

    yield once("15 learn 256×256 / the same cell by cell", ours,
               lambda: plain_learn.learned(plain), 1 / 50)  # fmt: skip
    yield once("    the same / equal surroundings told once", ours,
               lambda: plain_learn.learned(plain, once=True), 1 / 3)  # fmt: skip
    small, refs = woven(128)
    yield compared("    learn 256×256 / 128×128", ours,
                   lambda: learn(small, refs, _NAMES, 1), 5, rounds=3)  # fmt: skip


def _echo() -> Iterator[Ratio]:
    sample = patches(3, 32, 10)
    windows = Windows.seen(sample, np.ones(sample.shape, bool), 2)

    def ours(side: int) -> None:
        shape = (side, side)
        echo(windows, np.full(shape, UNKNOWN, np.int32), np.ones(shape, bool), 5)

    def plain(side: int, *, by_cells: bool) -> None:
        known = plain_echo.Sample.of(sample.tolist(), 2, by_cells=by_cells)
        plain_echo.Solver(known, (side, side), 5).filled()

    yield once("15 echo 16×16 of 32×32 / the same cell by cell", lambda: ours(16),
               lambda: plain(16, by_cells=True), 1 / 50)  # fmt: skip
    yield once("    echo 64×64 / with tables", lambda: ours(64),
               lambda: plain(64, by_cells=False), 1 / 3)  # fmt: skip
    yield compared("    echo 64×64 / 32×32", lambda: ours(64), lambda: ours(32), 6, rounds=3)
