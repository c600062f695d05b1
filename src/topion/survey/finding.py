"""One finding of the survey."""

from __future__ import annotations

from dataclasses import dataclass

from topion.grid.told import cell_told


@dataclass(frozen=True)
class Finding:
    """check : the rule that found it.  cell : to jump to, in array order, where there is one.
    measured, wanted : of a broken rule.  by : the name of the check that asked.
    """

    check: str
    sentence: str
    room: str = ""
    layer: str = ""
    cell: tuple[int, ...] | None = None
    thing: int | None = None
    piece: int | None = None
    measured: str = ""
    wanted: str = ""
    by: str = ""

    def text(self) -> str:
        where = f"{self.room} at {cell_told(self.cell)}" if self.cell else self.room
        return f"{where or 'project'}: {self.sentence} ({self.check})"
