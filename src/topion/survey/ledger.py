"""What the checks found, kept by check and room revision: a stroke asks only what it touched."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from topion import progress
from topion.errors import Stopped, TopionError, UnknownName
from topion.model.project import Project
from topion.survey.check import Check, LibraryCheck, RoomCheck
from topion.survey.finding import Finding

CHECKS: list[Check] = []
_UNREAD = "room cannot be read"
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
        return self._stale_rooms(project, _stamps(project))

    def _stale_rooms(self, project: Project, stamps: tuple[object, ...]) -> list[str]:
        rooms = project.rooms
        asked = self.asked if self.stamps == stamps else {}
        return [name for name in rooms if asked.get(name) != rooms.revision(name)]

    def bring_up_to_date(self, project: Project, *, slow: bool = True) -> None:
        """Ask all checks whose answer may be another one; rooms not in use are read in passing.

        Whoever hears its steps may raise to stop; what was found stays.  Without `slow`, what
        those that take long said before holds until they are asked.
        """
        stamps = _stamps(project)
        stale = self._stale_rooms(project, stamps)
        if self.stamps != stamps:
            self.stamps, self.asked = stamps, {}
        for late in (False, True) if slow else (False,):
            for check in CHECKS:
                if isinstance(check, LibraryCheck) and check.slow == late:
                    self._ask_library(project, check)
            for name in stale:
                self._ask_about(project, name, late)
        if slow:
            self.asked.update((name, project.rooms.revision(name)) for name in stale)

    def _ask_library(self, project: Project, check: LibraryCheck) -> None:
        off = check.is_off(project)
        known, stamp = self.library.get(_key(check)), None if off else check.stamp(project)
        if known is None or known[0] != stamp:
            progress.step(check.name)
            found = () if off else _named(check, check.findings(project))
            self.library[_key(check)] = (stamp, found)

    def _ask_about(self, project: Project, name: str, slow: bool) -> None:
        """Ask those that are quick, or those that are slow."""
        revision = project.rooms.revision(name)
        found = dict(self.rooms.get(name, {}))
        stale: list[tuple[RoomCheck, tuple[object, int]]] = []
        for check, own in zip(CHECKS, self.stamps, strict=True):
            if isinstance(check, RoomCheck) and check.slow == slow:
                known, stamp = found.get(_key(check)), (own, revision)
                if known is None or known[0] != stamp:
                    stale.append((check, stamp))
        self.rooms[name] = found | _answers(project, name, stale, slow=slow)

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
    """Of the checks that look at rooms, None for the others; False for those switched off."""
    return tuple(
        not c.is_off(project) and c.stamp(project) if isinstance(c, RoomCheck) else None
        for c in CHECKS
    )


def _named(check: Check, found: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(replace(finding, by=check.name) for finding in found)


def known_check(name: str, *, in_room: bool = True) -> Check | None:
    """The check of a name; None for what is no check, such as that a room cannot be read.

    in_room : where one looks at rooms and one at the library, the first of them.
    """
    known = [check for check in CHECKS if check.name == name]
    suited = (check for check in known if isinstance(check, RoomCheck) == in_room)
    return next(suited, known[0] if known else None)


def check_named(name: str) -> Check:
    """The same.  Raises UnknownName."""
    found = known_check(name)
    if found is None:
        raise UnknownName("check", name, [check.name for check in CHECKS])
    return found


def _key(check: Check) -> str:
    return type(check).__qualname__


def _answers(
    project: Project, name: str, stale: list[tuple[RoomCheck, tuple[object, int]]], *, slow: bool
) -> dict[str, _Answer]:
    """What checks say of a room now; one that cannot be read is a finding itself."""
    if not stale:
        return {}
    try:
        room = project.rooms.passing(name)
        found: dict[str, _Answer] = {}
        for check, stamp in stale:
            progress.step(name)
            said = () if stamp[0] is False else _named(check, check.findings(project, room))
            found[_key(check)] = (stamp, said)
        return found
    except Stopped:
        raise
    except TopionError as problem:
        unsound = (Finding("room cannot be read", str(problem), name, by=_UNREAD),)
        if slow:  # the quick ones told already
            return {_key(c): (stamp, ()) for c, stamp in stale}
        first, *rest = stale
        return {_key(first[0]): (first[1], unsound), **{_key(c): (stamp, ()) for c, stamp in rest}}


def survey(project: Project) -> list[Finding]:
    """All findings of all checks, room by room in the order of the project."""
    ledger = Ledger()
    ledger.bring_up_to_date(project)
    return ledger.findings(project)
