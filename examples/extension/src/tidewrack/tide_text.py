"""A format: how far each cell of a flat room is from the water, as text."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

import numpy as np

from tidewrack.shore import cells_of, distance_to
from topion.formats.exports import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.model.project import Project


class TideText(ExportKind):
    """One digit a cell, 9 for as far or farther, `.` where there is no water at all."""

    kind: ClassVar[str] = "tide"
    text: ClassVar[str] = "Distances from the water"

    def suits(self, project: Project, room: str) -> bool:
        return project.rooms.info(room).axes == 2

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        for name in rooms:
            far = distance_to(cells_of(project, project.rooms.passing(name), "Water"))
            digits = np.where(np.isinf(far), -1, np.minimum(far, 9)).astype(int)
            lines = ("".join("." if d < 0 else str(d) for d in row) for row in digits.tolist())
            yield f"{stem(name)}.tide.txt", ("\n".join(lines) + "\n").encode()
