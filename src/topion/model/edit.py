"""Edits as data: labelled, invertible, serialisable, with the boxes they touch.

An Edit is a row of records; `topion.model.records` has a module for each kind.  A record writes,
inverts, folds, seals and serialises itself: nothing else asks for its class.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, ClassVar, NamedTuple, Protocol, Self

from topion.errors import TopionError
from topion.grid.boxes import Box
from topion.model.plain import JsonRecord
from topion.model.project import Project


class DoesNotFit(TopionError):
    """A record is to be written into a project that it was not planned on."""


class Dirty(NamedTuple):
    """A part of the project that changed: a box of a layer, a whole room, or the library.

    shelf, name : of an item outside the rooms, such as "brushes", "Mud".
    cells : whether cells of the box changed, not what stands there.
    """

    room: str = ""
    layer: str = ""
    box: Box | None = None
    shelf: str = ""
    name: str = ""
    cells: bool = False


class EntryChange(NamedTuple):
    """One entry of a numbered table of a layer; None where it is not there."""

    room: str
    layer: str
    table: str
    number: int
    before: Any
    after: Any


class Record(Protocol):
    """kind : its name in journals.  target : what it is about, the same for all that fold.

    ordered : whether other records may stand only on one side of it, as they need what it makes.
    """

    kind: ClassVar[str]

    @property
    def target(self) -> tuple[str, ...]: ...
    @property
    def ordered(self) -> bool: ...
    @property
    def cells_written(self) -> int: ...

    def write(self, project: Project) -> None:
        """Make the change; the project must stand as it did when the record was planned."""

    def check(self, project: Project) -> None:
        """Raises DoesNotFit unless the project stands as it did when the record was planned, and
        may hold what it writes: for records that come out of a file."""

    def onto(self, project: Project) -> Record | None:
        """The record that makes the same there, whatever stands there now; None where it cannot
        be made."""

    def inverted(self) -> Record: ...

    def dirty(self) -> Dirty: ...

    def entries(self) -> Iterable[EntryChange]:
        """The entries of tables that come, go or change."""

    def sealed(self) -> Record:
        """The same, packed small; what a history keeps."""

    def unpacked(self) -> Record:
        """The opposite of `sealed`: the same, quick to write."""

    def folded(self, later: Any) -> tuple[Record, ...]:
        """One record for this and a later one of the same target; none if they undo each other,
        and both if they cannot be one."""

    def plain(self) -> JsonRecord:
        """JSON values that `from_plain` reads."""

    @classmethod
    def from_plain(cls, plain: JsonRecord) -> Self:
        """Raises BadPlain, KeyError, TypeError or ValueError for what is none."""


@dataclass(frozen=True)
class Edit:
    """One change as the designer sees it: a label and its records, written in order.

    colour : `#rrggbb` for the strokes ribbon.  refused : places a stroke left out, with reasons.
    notes : what the ghost says of it, such as what it lays beneath.  part : which slice of how
    many it is of a stroke that was kept in slices.
    """

    label: str
    records: tuple[Record, ...] = ()
    colour: str = "#6b7479"
    refused: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    part: tuple[int, int] = (1, 1)

    def __bool__(self) -> bool:
        return bool(self.records)

    def inverted(self) -> Edit:
        return replace(self, records=tuple(r.inverted() for r in reversed(self.records)))

    def sealed(self) -> Edit:
        """With its cells packed; what a history keeps."""
        return replace(self, records=tuple(record.sealed() for record in self.records))

    def unpacked(self) -> Edit:
        """With its cells loose, so that writing it takes no time for that."""
        return replace(self, records=tuple(record.unpacked() for record in self.records))

    def dirty(self) -> tuple[Dirty, ...]:
        return tuple(record.dirty() for record in self.records)

    @property
    def cells_written(self) -> int:
        return sum(record.cells_written for record in self.records)

    def followed_by(self, later: Edit) -> Edit:
        """One Edit for this and the next one, under the later label."""
        return Edit(later.label, folded((*self.records, *later.records)), later.colour)


def joined(label: str, edits: Iterable[Edit], colour: str = "") -> Edit:
    """One Edit that makes the changes of several, planned one upon the other."""
    parts = list(edits)
    records = tuple(record for edit in parts for record in edit.records)
    return Edit(label, records, colour or (parts[0].colour if parts else "#6b7479"))


def written(project: Project, edits: Iterable[Edit]) -> Iterator[Edit]:
    """The Edits one by one, each put on `project` before the next is asked for: for scratch
    projects on which further Edits are planned."""
    for edit in edits:
        for record in edit.records:
            record.write(project)
        yield edit


def folded(records: tuple[Record, ...]) -> tuple[Record, ...]:
    """The same change in fewer records: those of one target become one, unless something they
    need stands between them."""
    kept: list[Record] = []
    for record in records:
        at = _place_to_fold(kept, record)
        found = (record, record) if at is None else kept[at].folded(record)
        if len(found) == 2 or at is None:
            kept.append(record)
        else:
            kept[at : at + 1] = found
    return tuple(kept)


def _place_to_fold(kept: list[Record], record: Record) -> int | None:
    for at in range(len(kept) - 1, -1, -1):
        if kept[at].target == record.target:
            return at
        if record.ordered or kept[at].ordered:
            return None
    return None
