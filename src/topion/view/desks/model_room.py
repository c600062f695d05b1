"""The voxels of a block or a prefab, built as a small room of colours."""

from __future__ import annotations

from typing import Any, Literal

from topion.edit.pixels import CLEAR
from topion.edit.voxels import (
    LAYER,
    carved,
    cubed,
    model_project,
    with_model,
    with_prefab_model,
)
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.solid import VoxelModel
from topion.view.desks.colour_room import ColourRoom
from topion.view.session import Session


class ModelRoom(ColourRoom):
    """name : of the block or prefab, which has a model.  shelf : where that is.

    The model of a block is built in the whole of its cell.
    """

    def __init__(
        self, main: Session, name: str, shelf: Literal["blocks", "prefabs"] = "blocks"
    ) -> None:
        super().__init__(main)
        self.name, self.shelf = name, shelf
        self.begin()

    @property
    def item(self) -> Any:
        """The block or prefab; None once it was taken away, or its model was."""
        found: Any = self.main.project.shelf(self.shelf).get(self.name)
        return found if found is not None and found.model is not None else None

    @property
    def model(self) -> VoxelModel:
        """What is built, as large as it can be built."""
        model: VoxelModel = self.item.model
        return cubed(model) if self.shelf == "blocks" else model

    def _state(self) -> VoxelModel | None:
        return self.item.model if self.item is not None else None

    def _project(self) -> Project:
        model = self.model
        self.colours = list(dict.fromkeys((*model.palette, *self.colours)))
        return model_project(model, self.colours)

    def _begun(self) -> tuple[str, str, str]:
        return LAYER, self.colours[0], CLEAR

    def _edit(self, scratch: Project) -> Edit:
        put = with_model if self.shelf == "blocks" else with_prefab_model
        return put(self.main.project, self.name, carved(self.model, scratch))
