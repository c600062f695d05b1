"""What dialogs and file work may ask of the window they stand in."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from topion.scripting import ProjectHandle
from topion.view.keeper import Keeper
from topion.view.session import Session
from topion.view.sheet_sources import SheetSources


class Host(Protocol):
    """The window, as far as dialogs need it."""

    session: Session
    sources: SheetSources

    def say(self, text: str) -> None:
        """Show a sentence over the foot of the table for a few seconds."""

    def fail(self, sentence: str) -> None:
        """Something could not be done: say it where it cannot be missed."""

    def use(self, handle: ProjectHandle, keeper: Keeper | None = None) -> None:
        """Show another project; its keeper is begun here unless it was already."""

    def last_folder(self) -> Path:
        """Where files were opened or saved last."""

    def remember_folder(self, folder: Path) -> None:
        """Begin there the next time."""

    def show_bay(self, name: str) -> None:
        """Put a bay of the rack in front."""

    def to_table(self) -> None:
        """Give the keys back to the table."""

    def centre_on(self, cell: tuple[int, ...]) -> None:
        """Bring a cell of the room to the middle of the table."""

    def show_sheets(self) -> None:
        """Open the sheets, or bring one in where there is none."""
