"""Ready arrangements: a row, a grid, a circle, a spiral, a cloud, along the picked curve."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

Rows = dict[str, str]


@dataclass(frozen=True)
class About:
    """What an example is made for.  middle : (y, x) in cells.  count : how many there are.
    gap : between two, in cells.  level : of the lowest, in a voxel room.  closed : of a curve that
    is picked."""

    middle: tuple[float, float]
    count: int
    gap: float = 2.0
    level: float | None = None
    closed: bool = False


def _row(about: About) -> Rows:
    half = about.gap * (about.count - 1) / 2
    y, x = about.middle
    return {"x": f"linspace({x - half:g}, {x + half:g})", "y": f"{y:g}"}


def _grid(about: About) -> Rows:
    across = max(1, math.ceil(math.sqrt(about.count)))
    down = math.ceil(about.count / across)
    y, x = about.middle
    left, top = x - about.gap * (across - 1) / 2, y - about.gap * (down - 1) / 2
    return {"x": f"{left:g} + {about.gap:g}*(i % {across})",
            "y": f"{top:g} + {about.gap:g}*(i // {across})"}  # fmt: skip


def _circle(about: About) -> Rows:
    radius = max(about.gap, about.gap * about.count / math.tau)
    y, x = about.middle
    return {"x": f"{x:g} + {radius:.3g}*cos(2*pi*t)", "y": f"{y:g} + {radius:.3g}*sin(2*pi*t)"}


def _spiral(about: About) -> Rows:
    """By the golden angle: each as near to the others as the next."""
    y, x = about.middle
    turn = math.pi * (3 - math.sqrt(5))
    far = about.gap * 0.62
    return {"x": f"{x:g} + {far:.3g}*sqrt(i)*cos({turn:.4f}*i)",
            "y": f"{y:g} + {far:.3g}*sqrt(i)*sin({turn:.4f}*i)"}  # fmt: skip


def _cloud(about: About) -> Rows:
    half = max(about.gap, about.gap * math.sqrt(about.count) * 0.7)
    y, x = about.middle
    rows = {"x": f"uniform({x - half:.3g}, {x + half:.3g})",
            "y": f"uniform({y - half:.3g}, {y + half:.3g})"}  # fmt: skip
    if about.level is not None:
        rows["z"] = f"uniform({about.level:g}, {about.level + half:.3g})"
    return rows


def _along(about: About) -> Rows:
    share = "t" if about.closed else "linspace(0, 1)"
    rows = {"x": f"curve_x({share})", "y": f"curve_y({share})", "turn": f"curve_turn({share})"}
    return {**rows, "z": f"curve_z({share})"} if about.level is not None else rows


ALONG = "along"  # the example that needs a curve to be picked, too
EXAMPLES: dict[str, Callable[[About], Rows]] = {
    "row": _row, "grid": _grid, "circle": _circle, "spiral": _spiral, "cloud": _cloud,
    ALONG: _along,
}  # fmt: skip
