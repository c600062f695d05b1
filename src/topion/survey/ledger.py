"""What the checks found, kept by check and room revision: a stroke asks only what it touched."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from topion.errors import TopionError
from topion.model.project import Project
from topion.survey.check import Check, LibraryCheck, RoomCheck
from topion.survey.finding import Finding

CHECKS: list[Check] = []
Step = Callable[[str], None]
_Answer = tuple[object, tuple[Finding, ...]]  # a stamp of all it depends on, and what was found


def add_check(check: Check) -> None:
    """Let the survey ask another check."""
    CHECKS.append(check)


@dataclass
class Ledger:
    """Findings of rooms by check, each with the stamp of all that it depends on.

    library : those of the library.  asked : by room, its revision when all checks knew it, as
    long as their own stamps are `stamps`.
    """

    rooms: dict[str, dict[str, _Answer]] = field(default_factory=dict)
    library: dict[str, _Answer] = field(default_factory=dict)
    asked: dict[str, int] = field(default_factory=dict)
    stamps: tuple[object, ...] = ()

    def stale_rooms(self, project: Project) -> list[str]:
        """The rooms about which some check has to be asked again."""
        rooms = project.rooms
        asked = self.asked if self.stamps == _stamps(project) else {}
        return [name for name in rooms if asked.get(name) != rooms.revision(name)]

    def bring_up_to_date(self, project: Project, step: Step | None = None) -> None:
        """Ask all checks whose answer may be another one; rooms not in use are read in passing.

        `step` hears the name of each room and may raise to stop; what was found stays.
        """
        stamps = _stamps(project)
        for check in (check for check in CHECKS if isinstance(check, LibraryCheck)):
            known, stamp = self.library.get(_key(check)), check.stamp(project)
            if known is None or known[0] != stamp:
                self.library[_key(check)] = (stamp, tuple(check.findings(project)))
        stale = self.stale_rooms(project)
        if self.stamps != stamps:
            self.stamps, self.asked = stamps, {}
        for name in stale:
            if step is not None:
                step(name)
            self._ask_about(project, name)

    def _ask_about(self, project: Project, name: str) -> None:
        revision = project.rooms.revision(name)
        kept = self.rooms.get(name, {})
        found: dict[str, _Answer] = {}
        stale: list[tuple[RoomCheck, object]] = []
        for check, own in zip(CHECKS, self.stamps, strict=True):
            if not isinstance(check, RoomCheck):
                continue
            known, stamp = kept.get(_key(check)), (own, revision)
            if known is not None and known[0] == stamp:
                found[_key(check)] = known
            else:
                stale.append((check, stamp))
        self.rooms[name] = found | _answers(project, name, stale)
        self.asked[name] = revision

    def findings(self, project: Project) -> list[Finding]:
        """What is known now: of the library, then room by room in the order of the project."""
        order = [_key(check) for check in CHECKS]
        parts = [self.library, *(self.rooms.get(name, {}) for name in project.rooms)]
        return [
            finding for part in parts for key in order if key in part for finding in part[key][1]
        ]

    def copy(self) -> Ledger:
        """One that learns alone."""
        return Ledger(dict(self.rooms), dict(self.library), dict(self.asked), self.stamps)


def _stamps(project: Project) -> tuple[object, ...]:
    """Of the checks that look at rooms, None for the others."""
    return tuple(c.stamp(project) if isinstance(c, RoomCheck) else None for c in CHECKS)


def _key(check: Check) -> str:
    return type(check).__qualname__


def _answers(
    project: Project, name: str, stale: list[tuple[RoomCheck, object]]
) -> dict[str, _Answer]:
    """What checks say of a room now; one that cannot be read is a finding itself."""
    if not stale:
        return {}
    try:
        room = project.rooms.passing(name)
        return {_key(c): (stamp, tuple(c.findings(project, room))) for c, stamp in stale}
    except TopionError as problem:
        unsound = (Finding("room cannot be read", str(problem), name),)
        first, *rest = stale
        return {_key(first[0]): (first[1], unsound), **{_key(c): (stamp, ()) for c, stamp in rest}}


def survey(project: Project, step: Step | None = None) -> list[Finding]:
    """All findings of all checks, room by room in the order of the project."""
    ledger = Ledger()
    ledger.bring_up_to_date(project, step)
    return ledger.findings(project)
