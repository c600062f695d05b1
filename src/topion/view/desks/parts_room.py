"""The parts of a composite prefab, painted as a small room with all brushes of the project."""

from __future__ import annotations

from topion.brushes.kind import all_brushes
from topion.brushes.parts import parts_project
from topion.edit.composites import parts_set, scrap_of_parts
from topion.errors import TopionError
from topion.grid.told import several
from topion.model.edit import Edit
from topion.model.prefab import Prefab
from topion.model.project import Project
from topion.model.scrap import Scrap
from topion.render.composites import composite_look
from topion.view.desks.colour_room import ColourRoom
from topion.view.session import Session

_CELL_PX = 16  # where no flat room is open


class PartsRoom(ColourRoom):
    """name : of the prefab.  Raises BadValue for one that has no parts."""

    def __init__(self, main: Session, name: str) -> None:
        super().__init__(main)
        self.name = name
        self.deep = scrap_of_parts(main.project, name).axes == 3
        flat = main.has_room and main.room.info.axes == 2
        self.cell_px = main.room.info.cell_px if flat else _CELL_PX
        self.begin()

    @property
    def item(self) -> Prefab | None:
        """The prefab; None once it, or its parts, were taken away."""
        found = self.main.project.prefabs.get(self.name)
        return found if found is not None and self._state() is not None else None

    def _state(self) -> Scrap | None:
        try:
            return scrap_of_parts(self.main.project, self.name)
        except TopionError:
            return None

    def _project(self) -> Project:
        scrap = scrap_of_parts(self.main.project, self.name)
        return parts_project(self.main.project, scrap, self.cell_px)

    def _begun(self) -> tuple[str, str, str]:
        held = self.main.hands.names()
        fits = [name for name, brush in all_brushes(self.main.project).items()
                if (brush.lays_blocks() is not False if self.deep else not brush.lays_blocks())
                ]  # fmt: skip
        left, right = (name if name in fits else fits[0]
                       for name in (held["left"], held["right"]))  # fmt: skip
        return "", left, right

    def _edit(self, scratch: Project) -> Edit:
        return parts_set(self.main.project, self.name, scratch, composite_look)

    def size_words(self) -> str:
        """How large the parts are, and how many things are among them."""
        scrap = self._state()
        if scrap is None:
            return ""
        sides = " × ".join(map(str, scrap.size[::-1]))
        things = sum(len(layer.things) for layer in scrap.layers)
        return f"{sides} cells · {several(things, 'thing')}"
