"""Extensions that are installed but switched off, since what they made is not as it should be."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion.extending.extension import EXTENSIONS
from topion.model.project import Project
from topion.survey.check import LibraryCheck
from topion.survey.finding import Finding


class ExtensionsOff(LibraryCheck):
    """One finding for each."""

    name: ClassVar[str] = "extension off"
    about: ClassVar[str] = "extensions that failed and were switched off"

    def stamp(self, project: Project) -> object:
        return tuple((one.name, one.off) for one in EXTENSIONS.values())

    def findings(self, project: Project) -> Iterator[Finding]:
        for one in EXTENSIONS.values():
            if one.off:
                told = f"extension {one.name} is switched off: {one.off}; what it made is kept"
                yield Finding(self.name, told)
