"""Rooms as text rows by a legend: a symbol a cell."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.errors import BadValue
from topion.formats.exports.kind import ExportKind
from topion.formats.out import Contents
from topion.formats.stems import stem
from topion.formats.symbols.legend_files import legend_text
from topion.formats.symbols.text_out import fitting_legend, room_text
from topion.model.project import Project


class TextExport(ExportKind):
    """A text for each flat room, and the legend by which it reads back the same: one on the shelf
    that says all of it, else one made for it."""

    kind: ClassVar[str] = "text"
    text: ClassVar[str] = "Text of symbols with its legend"

    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        count = 0
        for name in rooms:
            room = project.rooms.passing(name)
            if room.info.axes == 2:
                count += 1
                made = room_text(project, room, fitting_legend(project, [room]))
                yield f"{stem(name)}.txt", made.text.encode()
                yield f"{stem(name)}.legend.json", legend_text(made.legend).encode()
        if not count:
            raise BadValue("the rooms for text", ", ".join(rooms), "flat rooms")

    def suits(self, project: Project, room: str) -> bool:
        return project.room(room).info.axes == 2
