"""The things of the kit: start, goal, door, pickup, hazard and figure, as pictures and models."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.grid.arrays import Rgba
from topion.kit.palette import COLOURS, fill, rgba
from topion.model.picture import Picture
from topion.model.prefab import Prefab
from topion.model.role import Role
from topion.model.solid import VoxelModel
from topion.pictures.png import png_bytes
from topion.roles import Door, Goal, Hazard, Pickup, Start
from topion.things.rules import AtMost, KeepsCells

FIGURE = "Figure"
Boxes = tuple[tuple[str, tuple[int, int, int, int, int, int]], ...]


def prefabs(px: int) -> Iterator[Prefab]:
    """All of them, drawn for cells of so many px."""
    roles: dict[str, tuple[Role | None, tuple[object, ...], int]] = {
        "Start": (Start(), (AtMost(1),), 2),
        "Goal": (Goal(), (KeepsCells(),), 1),
        "Door": (Door(by="acting on it"), (KeepsCells(),), 2),
        "Pickup": (Pickup(), (KeepsCells(),), 1),
        "Hazard": (Hazard(), (KeepsCells(),), 1),
        FIGURE: (None, (), 2),
    }
    for name, (role, rules, high) in roles.items():
        picture = _DRAWN[name](px)
        cells = ("#",) * high
        yield Prefab(
            name, Picture(picture, png_bytes(picture)), (picture.shape[0], picture.shape[1] // 2),
            cells, rules=rules, height=high, model=_model(_MODELS[name]), role=role,  # type: ignore[arg-type]
            class_name="pickups" if name == "Pickup" else "",
            turns="quarters" if name == "Door" else "none", mirrors=True,
        )  # fmt: skip


# --- pictures -----------------------------------------------------------------------------


def _blank(px: int, high: float, wide: float = 1.0) -> Rgba:
    return np.zeros((round(px * high), round(px * wide), 4), np.uint8)


def _start(px: int) -> Rgba:
    """A flag on a pole."""
    picture = _blank(px, 2)
    fill(picture, (0.06, 0.2, 1.0, 0.3), "ink")
    fill(picture, (0.06, 0.3, 0.34, 0.95), "tidal")
    fill(picture, (0.06, 0.3, 0.12, 0.95), "tidal light")
    fill(picture, (0.95, 0.08, 1.0, 0.46), "ink")
    return picture


def _goal(px: int) -> Rgba:
    """Rings, as of a target."""
    picture = _blank(px, 1)
    middle = (px - 1) / 2
    y, x = np.ogrid[:px, :px]
    far = np.hypot(y - middle, x - middle) / px
    for radius, name in ((0.5, "buoy dark"), (0.46, "buoy"), (0.33, "card"), (0.19, "buoy")):
        picture[far <= radius] = rgba(name)
    return picture


def _door(px: int) -> Rgba:
    """A frame with a leaf and a handle."""
    picture = _blank(px, 2)
    fill(picture, (0.0, 0.0, 1.0, 1.0), "ink")
    fill(picture, (0.05, 0.12, 1.0, 0.88), "plank")
    fill(picture, (0.05, 0.12, 1.0, 0.22), "plank light")
    for y in (0.12, 0.56):
        fill(picture, (y, 0.3, y + 0.32, 0.76), "plank dark")
    fill(picture, (0.5, 0.72, 0.55, 0.84), "ochre light")
    return picture


def _pickup(px: int) -> Rgba:
    """A gem that stands on its point."""
    picture = _blank(px, 1)
    middle = (px - 1) / 2
    y, x = np.ogrid[:px, :px]
    far = (np.abs(y - middle) + np.abs(x - middle) * 1.25) / px
    picture[far <= 0.46] = rgba("ochre dark")
    picture[far <= 0.39] = rgba("ochre")
    picture[(far <= 0.39) & (x < middle) & (y < middle)] = rgba("ochre light")
    return picture


def _hazard(px: int) -> Rgba:
    """Spikes on a bar."""
    picture = _blank(px, 1)
    y, x = np.indices((px, px)) + 0.5
    third = px / 3
    from_tip = np.abs(x % third - third / 2)
    spike = y > px * 0.28 + from_tip * 3.4
    picture[spike] = rgba("buoy")
    picture[spike & (x % third > third / 2)] = rgba("buoy dark")
    fill(picture, (0.86, 0.0, 1.0, 1.0), "ink")
    return picture


def _figure(px: int) -> Rgba:
    """A small person in a coat."""
    picture = _blank(px, 1.75, 0.8)
    fill(picture, (0.0, 0.24, 0.28, 0.82), "skin")
    fill(picture, (0.0, 0.2, 0.1, 0.86), "ink")
    fill(picture, (0.14, 0.62, 0.19, 0.72), "ink")
    fill(picture, (0.28, 0.12, 0.72, 0.9), "tidal")
    fill(picture, (0.28, 0.12, 0.34, 0.9), "tidal light")
    fill(picture, (0.4, 0.0, 0.66, 0.14), "tidal")
    fill(picture, (0.72, 0.2, 1.0, 0.42), "ink")
    fill(picture, (0.72, 0.56, 1.0, 0.8), "ink")
    return picture


_DRAWN = {"Start": _start, "Goal": _goal, "Door": _door, "Pickup": _pickup, "Hazard": _hazard,
          FIGURE: _figure}  # fmt: skip


# --- models: boxes (colour, (z, y, x, z, y, x)) of sixteenths of a cell -------------------

_MODELS: dict[str, Boxes] = {
    "Start": (
        ("ink", (0, 4, 4, 1, 12, 12)), ("ink", (1, 7, 7, 30, 9, 9)),
        ("tidal", (19, 7, 9, 30, 9, 16)), ("tidal light", (28, 7, 9, 30, 9, 16)),
    ),
    "Goal": (
        ("ink", (0, 3, 3, 1, 13, 13)), ("buoy dark", (1, 4, 4, 3, 12, 12)),
        ("buoy", (3, 7, 3, 14, 9, 13)), ("card", (5, 6, 5, 12, 10, 11)),
        ("buoy", (7, 5, 7, 10, 11, 9)),
    ),
    "Door": (
        ("ink", (0, 5, 0, 31, 11, 2)), ("ink", (0, 5, 14, 31, 11, 16)),
        ("ink", (29, 5, 0, 32, 11, 16)), ("plank", (0, 7, 2, 29, 9, 14)),
        ("plank dark", (4, 6, 4, 13, 10, 12)), ("plank dark", (16, 6, 4, 26, 10, 12)),
        ("ochre light", (14, 5, 11, 16, 11, 13)),
    ),
    "Pickup": (
        ("ochre dark", (2, 7, 7, 4, 9, 9)), ("ochre", (4, 6, 6, 6, 10, 10)),
        ("ochre light", (6, 5, 5, 9, 11, 11)), ("ochre", (9, 6, 6, 11, 10, 10)),
        ("ochre dark", (11, 7, 7, 13, 9, 9)),
    ),
    "Hazard": (
        ("ink", (0, 1, 1, 2, 15, 15)),
        *(("buoy dark" if n % 2 else "buoy", (2 + 3 * step, y + step, x + step,
                                             5 + 3 * step, y + 5 - step, x + 5 - step))
          for n, (y, x) in enumerate(((2, 2), (2, 9), (9, 2), (9, 9))) for step in range(3)),
    ),
    FIGURE: (
        ("ink", (0, 5, 4, 7, 10, 7)), ("ink", (0, 5, 9, 7, 10, 12)),
        ("tidal", (7, 4, 3, 18, 11, 13)), ("tidal light", (16, 4, 3, 18, 11, 13)),
        ("tidal", (9, 5, 1, 17, 10, 3)), ("tidal", (9, 5, 13, 17, 10, 15)),
        ("skin", (18, 4, 4, 25, 11, 12)), ("ink", (23, 4, 4, 26, 11, 12)),
        ("ink", (20, 10, 5, 22, 11, 7)), ("ink", (20, 10, 9, 22, 11, 11)),
    ),
}  # fmt: skip


def _model(boxes: Boxes) -> VoxelModel:
    """A model of boxes, later ones over earlier."""
    names = list(dict.fromkeys(name for name, _ in boxes))
    size = tuple(max(box[3 + axis] for _, box in boxes) for axis in range(3))
    cells = np.zeros((size[0], 16, 16), np.uint8)
    for name, (z0, y0, x0, z1, y1, x1) in boxes:
        cells[z0:z1, y0:y1, x0:x1] = names.index(name) + 1
    return VoxelModel(cells, tuple(COLOURS[name] for name in names), 16)
