"""What scripts bring into a project from files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Literal

from topion.brushes import BrushKind
from topion.brushes.kind import brush_named
from topion.edit.clips import Clip, conflicts, room_of_clip, taken_in
from topion.edit.history import History as History
from topion.edit.symbols import Wanted, drafted, rooms_from_symbols, unmapped
from topion.edit.wear import put_theme_sheet, set_palette
from topion.errors import NameTaken
from topion.formats.meshes.read import Up
from topion.formats.meshes.voxels import model_from_file
from topion.formats.palettes import read_gpl
from topion.formats.stamps_in import clip_of_file, clip_of_room
from topion.formats.symbols.batch import Batch, read_batch
from topion.formats.symbols.legend_files import fits
from topion.formats.themes_in import theme_sheet_from_file
from topion.grid.symbols import counted
from topion.model.calls import checks_calls
from topion.model.legend import Legend, Reading
from topion.model.project import Project
from topion.model.shelves import SHELVES
from topion.model.solid import VoxelModel
from topion.scripting.strokes import plan_model

FITS_WELL = 0.6  # of a legend that is taken without being asked for


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
        clip = self._clip(Path(path), name, size, levels, up, material, room, step)
        self.history.apply(taken_in(self.data, clip, "ours", name))
        return brush_named(self.data, name)

    def import_room(
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
    ) -> str:
        """Bring the same in as a room of its own; what it holds, in words."""
        clip = self._clip(Path(path), name, size, levels, up, material, room, step)
        self.history.apply(room_of_clip(self.data, clip, "ours", name))
        return clip.scrap.holds()

    def _clip(
        self, path: Path, name: str, size: int, levels: int, up: Up | None, material: str,
        room: str, step: Callable[[str], object],
    ) -> Clip:  # fmt: skip
        """What a file holds; raises NameTaken for an item of it that is another one here."""
        if material:
            self.data.material_id(material)
        if room:
            clip = clip_of_room(path, room)
        else:
            clip = clip_of_file(path, name, size=size, levels=levels, up=up, material=material,
                                step=step)  # fmt: skip
        different = conflicts(self.data, clip)
        if different:
            raise NameTaken(SHELVES[different[0][0]].word, different[0][1])
        return clip

    def import_symbols(
        self,
        paths: Sequence[str | Path],
        legend: Legend | None = None,
        *,
        reading: Reading | None = None,
        cell_px: int = 16,
        seen: Literal["top", "side"] = "top",
        make: bool = False,
    ) -> tuple[Batch, Legend]:
        """Bring in rooms from texts, CSV and pictures, as one Edit; what was read, and by which
        legend.  What cannot be read is left out, and told.

        legend : what symbols stand for; those it does not know are open cells.  Without one, the
        legend that fits best, and what is called like the symbol for each that has none: a
        material or prefab of the project, else a plain material of its own.
        reading : how files are read; as the legend says, where nothing is said.
        make : plain tiles and prefabs for names that the project lacks.
        Raises BadFile for files that are missing, and UnknownName.
        """
        told = reading or (legend.reading if legend is not None else Reading())
        batch = read_batch([Path(path) for path in paths], told)
        if not batch.grids:
            return batch, legend or Legend("Nothing")
        if legend is None:
            legend, make = self._proposed(batch, Path(paths[0]).stem), True
            legend = replace(legend, reading=told)
        wanted = Wanted(cell_px, seen, make)
        self.history.apply(rooms_from_symbols(self.data, batch.grids, legend, wanted))
        return batch, legend

    def _proposed(self, batch: Batch, name: str) -> Legend:
        """The legend that fits best, with what it lacks drafted."""
        counts = counted(batch.grids)
        best = next(iter(fits(self.data, counts)), None)
        known = best.legend if best is not None and best.share >= FITS_WELL else None
        if known is not None and not unmapped(known, counts):
            return known
        return drafted(known.name if known is not None else name, counts, known, self.data)

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
