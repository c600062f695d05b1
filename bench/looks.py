"""Tinted pictures against plain ones; a warm stroke against laying it; a ribbon of 10,000 Edits."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from bench.ratio import Ratio, compared
from topion.brushes.drawn import Drawn
from topion.brushes.gestures import Gesture
from topion.demo.brinehollow import library
from topion.demo.cellar import ROOM, add_cellar
from topion.demo.cellar_looks import LAMPLIGHT
from topion.edit.warm import Warm, laid_again, plan_drawn
from topion.grid.boxes import Box
from topion.model.edit import Edit
from topion.render.scene import render_box
from topion.render.wear import worn
from topion.scripting import ProjectHandle, RoomHandle
from topion.view.app import application
from topion.view.panels.ribbon_chips import Chips, Filter

_BOX = Box((0, 0), (30, 32))  # of a chunk of 512 px, nearly


def ratios() -> Iterator[Ratio]:
    application()
    project = library()
    add_cellar(project)
    room = project.room(ROOM)
    yield from _tinted(project, room)
    yield from _warm(project, room)
    yield from _ribbon()


def _tinted(project: ProjectHandle, room: RoomHandle) -> Iterator[Ratio]:
    plain = worn(project.data, room.data, theme="", tint="")
    lit = worn(project.data, room.data, theme="", tint=LAMPLIGHT)
    for side, name in ((16, "a chunk in tints"), (4, "the same at 4 px a cell")):
        yield compared(
            f"    {name} / without",
            lambda s=side: render_box(project.data, lit, _BOX, s),
            lambda s=side: render_box(project.data, plain, _BOX, s),
            4,
        )


def _warm(project: ProjectHandle, room: RoomHandle) -> Iterator[Ratio]:
    history = project.history
    way = np.array([(5.0, 4.0), (8.0, 20.0), (20.0, 40.0)])
    for brush in ("Cellar stone", "Lamp glow"):
        warm = Warm(history.at, (), ROOM, "", brush, Drawn(way, Gesture()))
        found = project.data.brush(brush)
        state = [warm, found]

        def again(state: list[object] = state) -> None:
            nib = 5 - int(state[1].nib)  # type: ignore[attr-defined]
            state[1] = state[1].changed(nib=max(1, nib))  # type: ignore[attr-defined]
            state[0] = laid_again(history, state[0], state[1])  # type: ignore[arg-type]

        def anew(warm: Warm = warm) -> None:
            history.jump(warm.at)
            history.apply(plan_drawn(history, warm))

        yield compared(f"    laid again warm, {brush} / undone and laid", again, anew, 3)


def _ribbon() -> Iterator[Ratio]:
    edits = [replace(Edit("Stroke"), label=f"Stroke {n % 40}") for n in range(10_000)]
    widths = {"mark": 30.0, **{edit.label: 60.0 for edit in edits}}

    def laid_out(count: int) -> None:
        Chips.laid_out(edits[:count], count, {count // 2: "mark"}, widths.__getitem__, Filter())

    name = "    ribbon of 10,000 Edits laid out / of 1,000"
    yield compared(name, lambda: laid_out(10_000), lambda: laid_out(1_000), 12)
