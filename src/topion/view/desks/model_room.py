"""The voxels of a block, built as a small room of colours."""

from __future__ import annotations

from topion.edit.pixels import CLEAR
from topion.edit.voxels import LAYER, carved, cubed, model_project, with_model
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.solid import Block, VoxelModel
from topion.view.desks.colour_room import ColourRoom
from topion.view.session import Session


class ModelRoom(ColourRoom):
    """block_name : the block, which has a model."""

    def __init__(self, main: Session, block: str) -> None:
        super().__init__(main)
        self.block_name = block
        self.begin()

    @property
    def item(self) -> Block | None:
        """The block; None once it was taken away, or its model was."""
        block = self.main.project.blocks.get(self.block_name)
        return block if block is not None and block.model is not None else None

    @property
    def _model(self) -> VoxelModel:
        assert self.item is not None and self.item.model is not None
        return cubed(self.item.model)

    def _state(self) -> VoxelModel | None:
        return self.item.model if self.item is not None else None

    def _project(self) -> Project:
        model = self._model
        self.colours = list(dict.fromkeys((*model.palette, *self.colours)))
        return model_project(model, self.colours)

    def _begun(self) -> tuple[str, str, str]:
        return LAYER, self.colours[0], CLEAR

    def _edit(self, scratch: Project) -> Edit:
        return with_model(self.main.project, self.block_name, carved(self._model, scratch))
