"""The colours of Brinehollow: few, warm above the water, cool below it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray

COLOURS = {
    # mud
    "mud": "#94744e", "mud light": "#9e7e57", "mud dark": "#886845", "mud deep": "#6b4f33",
    "mud face": "#573e29", "sand": "#c2a473", "sand light": "#d3b988",
    # grass of the salt meadow
    "grass": "#7f8a4a", "grass light": "#939c57", "grass dark": "#6a763d", "grass deep": "#556231",
    # water
    "water": "#3b7f88", "water light": "#4c919a", "water glint": "#7fb8b7", "foam": "#b9d8cf",
    "deep": "#2a6070", "deep light": "#336d7c", "deep glint": "#5790a0",
    # brine and salt
    "brine": "#e4dccb", "brine light": "#f3eee2", "brine dark": "#cfc4ae", "brine rose": "#dcc6b8",
    # wood
    "wood": "#b88d55", "wood light": "#cda46b", "wood dark": "#97703f", "wood deep": "#6a4c2c",
    # brick and slate
    "brick": "#a5533b", "brick light": "#b86750", "brick dark": "#8b412d", "mortar": "#73382a",
    "brick cap": "#c98368", "brick deep": "#552519",
    "slate": "#5e6b75", "slate light": "#71808a", "slate dark": "#4d5862", "slate deep": "#3a434c",
    # stone
    "stone": "#9a978b", "stone light": "#aeab9e", "stone dark": "#85827a", "joint": "#66645f",
    # the cellar below the pump house
    "vault": "#4d423f", "vault light": "#5a4d48", "vault dark": "#433937", "vault joint": "#352d2c",
    "vault deep": "#2b2525",
    "block": "#8b8b84", "block light": "#a3a39a", "block dark": "#767670", "block joint": "#5c5c58",
    "block cap": "#bdbcb0", "block deep": "#484846",
    "clay": "#9a4632", "clay light": "#ae5740", "clay dark": "#843726", "clay joint": "#64281c",
    "clay cap": "#c27a5e", "clay deep": "#4c1e16",
    "steel": "#56798b", "steel light": "#82a4b3", "steel dark": "#3d5a6a", "steel deep": "#273d49",
    "steel glint": "#b5cdd6", "moss": "#66763f", "moss light": "#82944f", "moss dark": "#49572e",
    # small things
    "ink": "#22303a", "lamp": "#f4c64e", "lamp light": "#ffe9a3", "iron": "#4a5259",
    "reed": "#6f8a3c", "reed light": "#8fa653", "reed dark": "#516a2d", "reed head": "#6b4526",
    "shade": "#1c2a30",
}  # fmt: skip


_OTHERS: dict[str, str] = {}  # of the theme that is being drawn


@contextmanager
def drawn_in(others: Mapping[str, str]) -> Iterator[None]:
    """What is drawn meanwhile has other colours of some names."""
    _OTHERS.update(others)
    try:
        yield
    finally:
        _OTHERS.clear()


def colour(name: str, alpha: int = 255) -> NDArray[np.uint8]:
    """(4,) RGBA of a named colour."""
    code = _OTHERS.get(name, COLOURS[name])
    return np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)] + [alpha], np.uint8)
