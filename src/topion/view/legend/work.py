"""What the legend desk works on: files as they were read, and a legend in the making."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from topion.brushes.kind import all_brushes
from topion.brushes.marks import Place
from topion.edit.symbols import (
    Wanted,
    drafted,
    drafted_meaning,
    lacking,
    rooms_from_symbols,
    unmapped,
)
from topion.errors import TopionError
from topion.formats.symbols.batch import PICTURE_SUFFIX, Batch, read_batch
from topion.formats.symbols.legend_files import Fit, fits, keep_legend
from topion.grid.arrays import Rgba
from topion.grid.symbols import Count, SymbolGrid, counted
from topion.model.edit import Edit, written
from topion.model.legend import MOST_SYMBOLS, Legend, Meaning, Reading
from topion.model.project import Project
from topion.render.overview import overview
from topion.view.session import Session
from topion.view.tasks import Worker
from topion.weaving.looms import Weaves

_LOOK_AFTER_MS = 120
_MOST_LOOKED_AT = 1 << 20  # cells of a room that is drawn as it will be
_LOOK_PX = 1024
FITS_WELL = 0.6  # of a legend that is taken without being asked for


@dataclass(frozen=True, eq=False)
class Read:
    """What a thread found in the files."""

    batch: Batch
    counts: dict[str, Count]
    fits: list[Fit]


def read_files(project: Project, paths: Sequence[Path], reading: Reading) -> Read:
    """Slow for many files.  Raises BadFile."""
    batch = read_batch(paths, reading)
    counts = counted(batch.grids)
    return Read(batch, counts, fits(project, counts))


class LegendWork(QObject):
    """Signals: changed() when files were read anew; legend_changed(); shown_changed() for another
    room; look_made() when it was drawn as it will be; lit_changed() for another symbol."""

    changed = pyqtSignal()
    legend_changed = pyqtSignal()
    shown_changed = pyqtSignal()
    look_made = pyqtSignal()
    lit_changed = pyqtSignal()

    def __init__(self, session: Session, paths: Sequence[Path], read: Read,
                 reading: Reading) -> None:  # fmt: skip
        super().__init__()
        self.session, self.paths, self.reading = session, list(paths), reading
        self.batch, self.counts, self.fits = read.batch, read.counts, read.fits
        self.wanted = Wanted(make=True)
        self.shown = 0
        self.lit = ""
        self.look: Rgba | None = None
        self.look_problem = ""
        self._worker: Worker | None = None
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.timeout.connect(self._begin_look)
        self.legend = self._first_legend()
        self._wish_look()

    @property
    def of_pictures(self) -> bool:
        """Whether colours are mapped rather than signs."""
        return any(path.suffix.lower() == PICTURE_SUFFIX for path in self.paths) or any(
            grid.file.lower().endswith(PICTURE_SUFFIX) for grid in self.batch.grids[:1]
        )

    @property
    def grid(self) -> SymbolGrid | None:
        """The room that is shown."""
        grids = self.batch.grids
        return grids[self.shown] if self.shown < len(grids) else None

    def _first_legend(self) -> Legend:
        """The one that fits best, else one in which nothing is a material yet but what can be
        told: each symbol a material of its own."""
        best = next(iter(self.fits), None)
        if best is not None and best.share >= FITS_WELL:
            return self._completed(best.legend)
        return drafted(
            self.paths[0].stem if self.paths else "Legend", self.counts, None, self.session.project
        )

    def _completed(self, legend: Legend) -> Legend:
        """With a line for each symbol that it does not know: it stands for nothing."""
        return self._with(legend, map(Meaning, unmapped(legend, self.counts)))

    def _with(self, legend: Legend, more: Iterable[Meaning]) -> Legend:
        """With more meanings; where those are too many, without what stands nowhere."""
        meanings = (*legend.meanings, *more)
        if len(meanings) > MOST_SYMBOLS:
            meanings = tuple(m for m in meanings if m.symbol in self.counts)
        return replace(legend, meanings=meanings)

    # --- read again -----------------------------------------------------------------------

    def take(self, read: Read, reading: Reading) -> None:
        """The files were read anew, in another way."""
        self.batch, self.counts, self.fits = read.batch, read.counts, read.fits
        self.reading = reading
        self.shown = min(self.shown, max(0, len(self.batch.grids) - 1))
        project = self.session.project
        new = [drafted_meaning(symbol, project) for symbol in unmapped(self.legend, self.counts)]
        self.legend = replace(self._with(self.legend, new), reading=reading)
        self.changed.emit()
        self._wish_look()

    def show(self, number: int) -> None:
        """Show another room."""
        if number != self.shown and 0 <= number < len(self.batch.grids):
            self.shown = number
            self.look = None
            self.shown_changed.emit()
            self._wish_look()

    def light(self, symbol: str) -> None:
        """Light up where a symbol stands; nothing for no symbol."""
        if symbol != self.lit:
            self.lit = symbol
            self.lit_changed.emit()

    # --- the legend -----------------------------------------------------------------------

    def mean(self, symbols: Iterable[str], **parts: str) -> None:
        """Some symbols stand for other parts: material, prefab, tint."""
        asked = set(symbols)
        meanings = tuple(replace(m, **parts) if m.symbol in asked else m
                         for m in self.legend.meanings)  # fmt: skip
        self._use(replace(self.legend, meanings=meanings))

    def use_legend(self, legend: Legend) -> None:
        """Take another legend; what it does not know stands for nothing."""
        self._use(self._completed(legend))

    def each_its_own(self) -> None:
        """Every symbol without a meaning becomes a material of its own."""
        meanings = tuple(m if any(m.parts) else drafted_meaning(m.symbol, self.session.project)
                         for m in self.legend.meanings)  # fmt: skip
        self._use(replace(self.legend, meanings=meanings))

    def call(self, name: str) -> None:
        """Give the legend another name; one that is none is refused and said."""
        try:
            self.legend = replace(self.legend, name=name)
        except TopionError as problem:
            self.session.said.emit(str(problem))
        self.legend_changed.emit()

    def want(self, **values: Any) -> None:
        """Rooms of another kind."""
        self.wanted = replace(self.wanted, **values)
        self.legend_changed.emit()
        self._wish_look()

    def _use(self, legend: Legend) -> None:
        if legend != self.legend:
            self.legend = legend
            self.legend_changed.emit()
            self._wish_look()

    def meaning(self, symbol: str) -> Meaning:
        """What a symbol stands for."""
        return self.legend.by_symbol.get(symbol) or Meaning(symbol)

    def materials(self) -> list[str]:
        """Those of the project that show where cells are of them."""
        brushes = all_brushes(self.session.project).values()
        return list(dict.fromkeys(
            brush.material for brush in brushes
            if isinstance(brush, Weaves) and brush.material and not brush.lays_blocks()
        ))  # fmt: skip

    def made(self) -> dict[str, list[str]]:
        """What will be made plainly, as the project lacks it."""
        return lacking(self.session.project, self._used())

    def _used(self) -> Legend:
        """The legend with the symbols that stand anywhere, read as the files were."""
        meanings = tuple(m for m in self.legend.meanings if m.symbol in self.counts)
        return replace(self.legend, meanings=meanings)

    def kept(self) -> Legend:
        """The legend as it is kept: with all it knew before."""
        return replace(self.legend, reading=self.reading)

    # --- as it will be --------------------------------------------------------------------

    def _wish_look(self) -> None:
        self._again.start(_LOOK_AFTER_MS)

    def _begin_look(self) -> None:
        grid = self.grid
        if grid is None or grid.cells.size > _MOST_LOOKED_AT:
            self.look = None
            self.look_problem = "too large to be shown as it will be" if grid is not None else ""
            self.look_made.emit()
            return
        if self._worker is not None:
            self._worker.let_go()
        project, legend, wanted = self.session.project.frozen(), self._used(), self.wanted
        worker = Worker(lambda _: look_of(project, grid, legend, wanted), "Drawing")
        worker.finished.connect(lambda: self._take_look(worker))
        self._worker = worker
        worker.begin()

    def _take_look(self, worker: Worker) -> None:
        if worker is not self._worker:
            return
        self._worker = None
        self.look, self.look_problem = worker.result, worker.problem
        self.look_made.emit()

    def stop(self) -> None:
        """Nobody looks any longer."""
        self._again.stop()
        if self._worker is not None:
            self._worker.let_go()
            self._worker = None

    # --- brought in -----------------------------------------------------------------------

    def plan(self) -> Callable[[Place], Edit]:
        """What brings all rooms in, to be called on a thread."""
        grids, legend, wanted = tuple(self.batch.grids), self.kept(), self.wanted
        used = replace(self._used(), reading=self.reading)

        def planned(place: Place) -> Edit:
            from topion.progress import step

            edit = rooms_from_symbols(place.project, grids, used, wanted, step)
            keep_legend(legend)
            return edit

        return planned


def look_of(project: Project, grid: SymbolGrid, legend: Legend, wanted: Wanted) -> Rgba:
    """(h, w, 4) a room as it will be."""
    scratch = project.scratch()
    list(written(scratch, [rooms_from_symbols(scratch, [grid], legend, wanted)]))
    name = next(reversed(list(scratch.rooms)))
    return overview(scratch, scratch.room(name), _LOOK_PX)
