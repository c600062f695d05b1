"""Looks that are not there: themes that rooms wear, colours that tint maps speak of."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from topion.model.layer import Layer
from topion.model.project import Project
from topion.model.room import Room
from topion.model.themes import theme_names
from topion.survey.check import RoomCheck
from topion.survey.finding import Finding


class LostLooks(RoomCheck):
    """One finding a theme, and one a colour of a tint map."""

    name: ClassVar[str] = "unknown look"
    about: ClassVar[str] = "themes and tint maps that are not there"
    reads: ClassVar[tuple[str, ...]] = ("themes", "blocks", "palette")

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        theme, name = room.info.theme, room.info.name
        if theme and theme not in theme_names(project):
            told = f"{name} wears the theme {theme}, which is not there"
            yield Finding(self.name, told, name)
        known = {0, *(tint.number for tint in project.palette)}
        for layer_id, layer in room.tint_maps():
            used = {int(n) for p in ("fore", "back") for n in np.unique(layer.plane(p))}
            for number in sorted(used - known):
                told = f"tint map {layer.info.name} speaks of colour {number}, which is not there"
                yield Finding(self.name, told, name, layer_id, _first(layer, number))


def _first(layer: Layer, number: int) -> tuple[int, ...] | None:
    """The first cell that has a colour."""
    for name in ("fore", "back"):
        cells = np.argwhere(layer.plane(name) == number)
        if len(cells):
            return tuple(cells[0].tolist())
    return None
