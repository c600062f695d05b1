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
from topion.model.model_frames import FrameAt, set_of
from topion.model.project import Project
from topion.model.solid import VoxelModel
from topion.view.desks.colour_room import ColourRoom
from topion.view.session import Session


class ModelRoom(ColourRoom):
    """name : of the block or prefab, which has a model.  shelf : where that is.

    The model of a block is built in the whole of its cell.  frame : of the model of a prefab, that
    is shown; None where it has no frames.
    """

    def __init__(
        self, main: Session, name: str, shelf: Literal["blocks", "prefabs"] = "blocks"
    ) -> None:
        super().__init__(main)
        self.name, self.shelf = name, shelf
        self.frame: FrameAt | None = None
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
        if self.shelf == "blocks":
            return cubed(model)
        return self.frame_model(0) or model

    def frame_model(self, by: int) -> VoxelModel | None:
        """The model of the frame that is so many after the shown one, round and round; None
        without frames."""
        known = set_of(self.item.model_frames, self.frame.set_name) if self.frame else None
        if known is None or self.frame is None:
            return None
        return known.models[(self.frame.number + by) % len(known.models)]

    def show_frame(self, frame: FrameAt | None) -> None:
        """Build another frame."""
        if frame != self.frame:
            self.frame = frame
            self.renew()
            self.painted.emit()

    def _state(self) -> VoxelModel | None:
        return self.model if self.item is not None else None

    def _project(self) -> Project:
        model = self.model
        self.colours = list(dict.fromkeys((*model.palette, *self.colours)))
        return model_project(model, self.colours)

    def _begun(self) -> tuple[str, str, str]:
        return LAYER, self.colours[0], CLEAR

    def _edit(self, scratch: Project) -> Edit:
        model = carved(self.model, scratch)
        if self.shelf == "blocks":
            return with_model(self.main.project, self.name, model)
        return with_prefab_model(self.main.project, self.name, model, frame=self.frame)
