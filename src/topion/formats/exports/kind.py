"""What every export format answers."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from typing import ClassVar

from topion.formats.out import Contents
from topion.model.project import Project


class ExportKind(ABC):
    """A format that rooms are written in.

    kind : its word on the command line.  text : of its entry in the menu.
    whole : it writes the project rather than the room that is seen.
    scales : the sizes the menu offers, 1 being the room's own; none where it has no size.
    """

    kind: ClassVar[str]
    text: ClassVar[str]
    whole: ClassVar[bool] = False
    scales: ClassVar[tuple[float, ...]] = ()

    @abstractmethod
    def files(
        self, project: Project, rooms: tuple[str, ...], scale: float
    ) -> Iterator[tuple[str, Contents]]:
        """(file name, contents).  Raises BadValue for rooms it cannot write."""

    def suits(self, project: Project, room: str) -> bool:
        """Whether that room can be written."""
        return True

    def ready(self, project: Project) -> bool:
        """Whether the project has what it writes at all."""
        return True
