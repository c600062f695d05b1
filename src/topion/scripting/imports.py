"""What scripts bring into a project from files."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Literal

from topion.brushes import BrushKind
from topion.brushes.kind import brush_named
from topion.edit.clips import conflicts, taken_in
from topion.edit.history import History as History
from topion.edit.wear import put_theme_sheet, set_palette
from topion.errors import NameTaken
from topion.formats.meshes.read import Up
from topion.formats.meshes.voxels import model_from_file
from topion.formats.palettes import read_gpl
from topion.formats.stamps_in import clip_of_file, clip_of_room
from topion.formats.themes_in import theme_sheet_from_file
from topion.model.calls import checks_calls
from topion.model.project import Project
from topion.model.shelves import SHELVES
from topion.model.solid import VoxelModel
from topion.scripting.strokes import plan_model


@checks_calls
class Imports:
    """Mixed into an open project."""

    data: Project
    history: History

    def import_mesh(
        self,
        path: str | Path,
        name: str,
        size: int,
        into: Literal["prefab", "block", "room"] = "prefab",
        *,
        room: str = "",
        corner: tuple[int, int, int] = (0, 0, 0),
        up: Up | None = None,
        step: Callable[[str], object] = lambda _: None,
    ) -> VoxelModel:
        """Bring in a mesh as voxels, `size` along its longest side, as one Edit.

        into : a prefab of 16 voxels a cell with a brush that places it; a block; or cells of
        the voxel room `room` from `corner` on, or of a new room of its own.
        Raises BadFile, BadValue, NameTaken.
        """
        model = model_from_file(Path(path), size, up=up, step=step)
        self.history.apply(plan_model(self.data, name, model, into, room, corner))
        return model

    def import_stamp(
        self,
        path: str | Path,
        name: str,
        *,
        size: int = 32,
        levels: int = 16,
        up: Up | None = None,
        material: str = "",
        room: str = "",
        step: Callable[[str], object] = lambda _: None,
    ) -> BrushKind:
        """Bring something in as a stamp, as one Edit: a mesh, `size` cells along its longest side;
        an `.npy` array; a folder of PNG slices; a grey PNG as heights, white being `levels`; or,
        with `room`, a room of the project at `path`.

        material : all cells are of it; else each colour comes as a block with its brush.
        Raises BadFile, BadValue, NameTaken, UnknownName.
        """
        if name in self.data.brushes:
            raise NameTaken("brush", name)
        if material:
            self.data.material_id(material)
        if room:
            clip = clip_of_room(Path(path), room)
        else:
            clip = clip_of_file(Path(path), name, size=size, levels=levels, up=up,
                                material=material, step=step)  # fmt: skip
        different = conflicts(self.data, clip)
        if different:
            raise NameTaken(SHELVES[different[0][0]].word, different[0][1])
        self.history.apply(taken_in(self.data, clip, "ours", name))
        return brush_named(self.data, name)

    def import_palette(self, path: str | Path) -> int:
        """Bring in the colours of a GPL file, behind those that are there; how many came.

        Raises BadFile."""
        before = len(self.data.palette)
        palette = read_gpl(Path(path), self.data.palette)
        self.history.apply(set_palette(self.data, palette, f"Colours of {Path(path).stem}"))
        return len(palette) - before

    def import_theme(self, tileset: str, path: str | Path, theme: str) -> list[str]:
        """Bring in another sheet for a tile set; the slots that it does not have.

        Raises BadFile, BadValue and UnknownName."""
        sheet = theme_sheet_from_file(self.data.tileset(tileset), Path(path), theme)
        self.history.apply(put_theme_sheet(self.data, sheet))
        return sheet.missing(self.data.tileset(tileset))
