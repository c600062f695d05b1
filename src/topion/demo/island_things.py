"""The things of Lamp Island: small voxel models, and what they ask of their place."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.demo.island_art import shape
from topion.grid.hashing import seed_of, unit
from topion.model.prefab import PlacementRule, Prefab, Turns
from topion.model.solid import VoxelModel
from topion.render.portraits import model_prefab
from topion.things.rules import ClearOf, Headroom, KeepsCells, LevelFooting, NotOn, On

GROUND = ("Tidal mud", "Shore turf")


def _reeds(name: str, stalks: int, height: int, heads: bool) -> VoxelModel:
    """A tuft: stalks of different height, some bent at the tip."""
    model = shape((height + 4, 16, 16), ("reed", (0, 0, 0, 1, 1, 1)), ("reed light", (0,) * 6),
                  ("reed dark", (0,) * 6), ("reed head", (0,) * 6))  # fmt: skip
    cells = np.zeros(model.size, np.uint8)
    seed = seed_of(name)
    for i in range(stalks):
        y, x = (3 + int(unit(seed, i, axis) * 10) for axis in (0, 1))
        top = int(height * (0.55 + 0.45 * float(unit(seed, i, 2))))
        cells[:top, y, x] = 1 + int(unit(seed, i, 3) * 3)
        lean = 1 if unit(seed, i, 4) < 0.5 else -1
        if heads and i % 2 == 0:
            cells[top : top + 4, y, x] = 4
        else:
            cells[top - 1, y, x] = 0
            cells[top - 1 : top + 1, y, min(15, max(0, x + lean))] = 2
    return VoxelModel(cells, model.palette, 16)


def _lantern() -> VoxelModel:
    return shape(
        (28, 8, 8),
        ("wood deep", (0, 2, 2, 2, 6, 6)), ("wood dark", (2, 3, 3, 18, 5, 5)),
        ("iron", (18, 1, 1, 19, 7, 7)), ("lamp", (19, 2, 2, 24, 6, 6)),
        ("lamp light", (20, 2, 3, 23, 6, 5)), ("lamp light", (20, 3, 2, 23, 5, 6)),
        ("iron", (24, 1, 1, 25, 7, 7)), ("ink", (25, 2, 2, 26, 6, 6)),
        ("ink", (26, 3, 3, 28, 5, 5)),
    )  # fmt: skip


def _gull() -> VoxelModel:
    return shape(
        (9, 12, 7),
        ("lamp", (0, 5, 2, 2, 6, 3)), ("lamp", (0, 5, 4, 2, 6, 5)),
        ("brine light", (2, 2, 1, 5, 10, 6)), ("stone", (4, 1, 1, 5, 8, 2)),
        ("stone", (4, 1, 5, 5, 8, 6)), ("stone light", (5, 2, 2, 6, 8, 5)),
        ("ink", (3, 0, 2, 4, 2, 5)), ("brine light", (5, 8, 2, 8, 11, 5)),
        ("ink", (6, 10, 2, 7, 11, 3)), ("ink", (6, 10, 4, 7, 11, 5)),
        ("lamp", (6, 11, 3, 7, 12, 4)),
    )  # fmt: skip


def _boat() -> VoxelModel:
    """A rowing boat two cells long, its bow to the east."""
    model = shape((8, 14, 32), ("wood dark", (0,) * 6), ("wood", (0,) * 6),
                  ("wood light", (0,) * 6), ("wood deep", (0,) * 6))  # fmt: skip
    cells = np.zeros(model.size, np.uint8)
    for x in range(32):
        half = 6.5 * (1 - max(0.0, (x - 18) / 14) ** 2) if x > 18 else 6.5 - max(0, 4 - x) * 0.4
        lo, hi = int(np.ceil(7 - half)), int(np.floor(7 + half))
        if hi - lo < 1:
            lo, hi = 6, 8
        cells[0, lo + 1 : max(lo + 2, hi - 1), x] = 4
        cells[1, lo:hi, x] = 1
        for z in range(2, 6):
            cells[z, lo, x] = cells[z, hi - 1, x] = 2
        cells[6, lo, x] = cells[6, hi - 1, x] = 3
    cells[1:6, 2:12, 0] = 2
    for x in (8, 18):
        cells[4, 3:11, x : x + 3] = 3
    return VoxelModel(cells, model.palette, 16)


def _bucket() -> VoxelModel:
    return shape(
        (9, 8, 8),
        ("wood dark", (0, 1, 1, 7, 7, 7)), ("iron", (2, 1, 1, 3, 7, 7)),
        ("iron", (6, 1, 1, 7, 7, 7)),
        ("brine light", (6, 2, 2, 8, 6, 6)), ("brine", (7, 3, 3, 9, 5, 5)),
    )  # fmt: skip


def _cone() -> VoxelModel:
    model = shape((14, 16, 16), ("brine light", (0,) * 6), ("brine", (0,) * 6),
                  ("brine dark", (0,) * 6))  # fmt: skip
    zs, ys, xs = np.indices(model.size)
    radius = 7.4 * (1 - zs / 14)
    inside = np.hypot(ys - 7.5, xs - 7.5) < radius
    shade = 1 + (ys > 8) + (xs > 8)
    return VoxelModel(np.where(inside, shade, 0).astype(np.uint8), model.palette, 16)


def _cask() -> VoxelModel:
    model = shape((15, 14, 14), ("wood", (0,) * 6), ("wood dark", (0,) * 6), ("iron", (0,) * 6),
                  ("wood light", (0,) * 6))  # fmt: skip
    zs, ys, xs = np.indices(model.size)
    radius = 5.4 + 1.3 * (1 - ((zs - 7) / 7.5) ** 2)
    inside = np.hypot(ys - 6.5, xs - 6.5) < radius
    colour_ = np.where(xs + ys > 14, 2, 1)
    colour_[[2, 3, 11, 12]] = 3
    colour_[14] = 4
    return VoxelModel(np.where(inside, colour_, 0).astype(np.uint8), model.palette, 16)


_RULES: dict[str, tuple[PlacementRule, ...]] = {
    "Lamp post": (ClearOf(3.0), LevelFooting(), Headroom(3), KeepsCells()),
    "Herring gull": (ClearOf(1.5), Headroom(2)),
    "Skiff": (On(("Sea",)), KeepsCells()),
    "Salt bucket": (NotOn(("Sea",)), KeepsCells()),
    "Salt heap": (NotOn(("Sea",)), LevelFooting()),
    "Cask": (NotOn(("Sea",)), LevelFooting(), KeepsCells()),
}


def prefabs() -> Iterator[Prefab]:
    """All things of the island, drawn from their models."""
    made = {
        "Reed": (_reeds("reed", 6, 20, False), "reeds"),
        "Low reed": (_reeds("low reed", 5, 12, False), "reeds"),
        "Reed mace": (_reeds("reed mace", 5, 21, True), "reeds"),
        "Lamp post": (_lantern(), "lights"),
        "Herring gull": (_gull(), ""),
        "Skiff": (_boat(), ""),
        "Salt bucket": (_bucket(), ""),
        "Salt heap": (_cone(), ""),
        "Cask": (_cask(), ""),
    }
    for name, (model, class_name) in made.items():
        turns: Turns = "any" if class_name == "reeds" or "gull" in name else "quarters"
        rules = _RULES.get(name, ())
        yield model_prefab(name, model, class_name=class_name, turns=turns, rules=rules)
