"""Anchors 1 to 3: weaving whole rooms, dabs, and long lists of general rules."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy import ndimage

from bench.ratio import Ratio, compared, timed
from topion.model.tileset import TileRef
from topion.weaving.loom import Loom, neighbours
from topion.weaving.ready import ready_rules
from topion.weaving.rules import Rule, RuleBook, Variant

_KERNEL = np.ones((3, 3))


def islands(side: int, materials: int = 4) -> np.ndarray:
    """(side, side) material ids in patches, as a designer would lay them."""
    rng = np.random.default_rng(1)
    coarse = rng.random((side // 32 + 2, side // 32 + 2))
    smooth = ndimage.zoom(coarse, 34, order=1)[:side, :side]
    return (1 + (smooth * materials).astype(np.uint16)).astype(np.uint16)


def plain_loom(materials: int = 4) -> Loom:
    refs = [TileRef("sheet", str(i)) for i in range(60)]
    names = tuple(f"m{i}" for i in range(materials))
    block = {
        name: (Variant(refs[i], 3), Variant(refs[i + 20]))
        for i, name in enumerate(["nw", "n", "ne", "w", "inside", "e", "sw", "s", "se"])
    }
    block |= {
        f"inner {c}": (Variant(refs[45 + i]),) for i, c in enumerate(("nw", "ne", "sw", "se"))
    }
    books = {name: RuleBook(ready_rules(block)) for name in names}
    return Loom(names, books, {}, {ref: n for n, ref in enumerate(refs, 1)})


def general_loom(rules: int) -> Loom:
    """Rules of 3×3 and 5×5 marks with all turns and mirrors, one of them naming a material."""
    rng = np.random.default_rng(rules)
    made = []
    for number in range(rules):
        side = 3 if number % 2 else 5
        marks = rng.choice(["any", "same", "open", "is m1"], (side, side), p=[0.5, 0.3, 0.17, 0.03])
        variants = (Variant(TileRef("sheet", str(number))),)
        rows = tuple(tuple(str(m) for m in row) for row in marks)
        made.append(
            Rule(f"r{number}", rows, variants, turned=True, mirrored=True, turns_tile=False)
        )
    books = {"m0": RuleBook(tuple(made))}
    ids = {TileRef("sheet", str(n)): n + 1 for n in range(rules)}
    return Loom(("m0", "m1"), books, {}, ids)


def ratios() -> Iterator[Ratio]:
    room, loom = islands(4096), plain_loom()
    one = room == 1
    yield compared(
        "1   weave a whole 4096² room / correlate 3×3",
        lambda: loom.whole(room),
        lambda: ndimage.correlate(one, _KERNEL),
        0.25,
        rounds=5,
    )
    for name, side, target in (("2   one cell", 3, 1.2), ("2   a 5×5 dab", 7, 1.3)):
        window = np.ascontiguousarray(room[2000 : 2004 + side, 2000 : 2004 + side])
        same = np.ascontiguousarray(window[2:-2, 2:-2] == 1)
        yield compared(
            f"{name}, woven again / correlate of the same window",
            lambda w=window: loom.padded(w, (2002, 2002), rim=False),
            lambda s=same: ndimage.correlate(s, _KERNEL),
            target,
            rounds=31,
            times=100,
        )
    at = {n: np.array([[n // 2, n // 2]]) for n in (1024, 8192)}
    big = {n: islands(n) for n in at}

    def again(n: int) -> np.ndarray:
        return loom.around(neighbours(big[n], at[n], loom.offsets), at[n])

    yield compared(
        "2   one cell of 8192² / of 1024²",
        lambda: again(8192),
        lambda: again(1024),
        1.25,
        rounds=31,
        times=100,
    )
    yield from _general()


def _general() -> Iterator[Ratio]:
    room = np.ones((1024, 1024), np.uint16)
    room[islands(1024) > 2] = 2
    looms = {n: general_loom(n) for n in (10, 40, 160)}
    one = room == 1
    yield compared(
        "3   40 general rules over 1024² / 40 correlates",
        lambda: looms[40].whole(room),
        lambda: [ndimage.correlate(one, _KERNEL) for _ in range(40)],
        0.04,
        rounds=3,
    )
    for n in (10, 160):
        looms[n].whole(room)
    many = min(timed(lambda: looms[160].whole(room)) for _ in range(3))
    few = min(timed(lambda: looms[10].whole(room)) for _ in range(3))
    yield Ratio("3   160 general rules / 10", many / few, 1.6, many, few)
