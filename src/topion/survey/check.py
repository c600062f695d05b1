"""What every check of the survey answers."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from typing import ClassVar

from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Room
from topion.survey.finding import Finding


class Check(ABC):
    """One kind of finding.

    reads : the shelves and tables whose contents it looks at.  about : what it asks, in a line.
    slow : it takes long, so that others are asked first.  fixing : what its fix does, in two or
    three words, where it has one.  choices : the ways in which it can mend a finding, a word each,
    where there are several.
    """

    name: ClassVar[str]
    about: ClassVar[str] = ""
    reads: ClassVar[tuple[str, ...]] = ()
    slow: ClassVar[bool] = False
    fixing: ClassVar[str] = ""
    choices: ClassVar[tuple[str, ...]] = ()

    def stamp(self, project: Project) -> object:
        """Equal as long as the library gives no room another answer."""
        return project.stamp(*self.reads)

    def is_off(self, project: Project) -> bool:
        """Whether the project has it switched off."""
        return self.name in project.shelf("unasked")

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        """One Edit after which the finding is gone; None where there is none for it.

        choice : one of its `choices`.
        """
        return None


class RoomCheck(Check):
    """Looks at one room at a time; its findings hold until that room or what it reads changes."""

    @abstractmethod
    def findings(self, project: Project, room: Room) -> Iterator[Finding]: ...


class LibraryCheck(Check):
    """Looks at the library alone."""

    @abstractmethod
    def findings(self, project: Project) -> Iterator[Finding]: ...


class WorldCheck(LibraryCheck):
    """Looks at how all rooms belong together; its findings hold until one of them changes."""

    def stamp(self, project: Project) -> object:
        rooms = project.rooms
        return super().stamp(project), tuple((name, rooms.revision(name)) for name in rooms)
