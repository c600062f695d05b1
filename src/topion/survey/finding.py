"""One finding of the survey."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Finding:
    """check : the rule that found it.  cell : (y, x) to jump to, where there is one."""

    check: str
    sentence: str
    room: str = ""
    layer: str = ""
    cell: tuple[int, int] | None = None
    thing: int | None = None

    def text(self) -> str:
        where = f"{self.room} at {self.cell[0]}, {self.cell[1]}" if self.cell else self.room
        return f"{where or 'project'}: {self.sentence} ({self.check})"
