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
_Key = tuple[type[Check], str]  # of a check and a room, or no room


def add_check(check: Check) -> None:
    """Let the survey ask another check."""
    CHECKS.append(check)


@dataclass
class Ledger:
    """Findings by check and room, each with the stamp of all that it depends on."""

    kept: dict[_Key, tuple[object, tuple[Finding, ...]]] = field(default_factory=dict)

    def stale_rooms(self, project: Project) -> list[str]:
        """The rooms about which some check has to be asked again."""
        stamps = self._stamps(project)
        return [
            name
            for name in project.rooms
            if any(self._is_stale((type(c), name), (stamps[c], project.rooms.revision(name)))
                   for c in stamps if isinstance(c, RoomCheck))
        ]  # fmt: skip

    def _stamps(self, project: Project) -> dict[Check, object]:
        return {check: check.stamp(project) for check in CHECKS}

    def _is_stale(self, key: _Key, stamp: object) -> bool:
        known = self.kept.get(key)
        return known is None or known[0] != stamp

    def bring_up_to_date(self, project: Project, step: Step | None = None) -> None:
        """Ask all checks whose answer may be another one; rooms not in use are read in passing."""
        stamps = self._stamps(project)
        for check, stamp in stamps.items():
            key = (type(check), "")
            if isinstance(check, LibraryCheck) and self._is_stale(key, stamp):
                self.kept[key] = (stamp, tuple(check.findings(project)))
        checks = [(check, stamp) for check, stamp in stamps.items() if isinstance(check, RoomCheck)]
        for name in list(project.rooms):
            if step is not None:
                step(name)
            self._ask_about(project, name, checks)

    def _ask_about(
        self, project: Project, name: str, checks: list[tuple[RoomCheck, object]]
    ) -> None:
        revision = project.rooms.revision(name)
        stale = [(check, (stamp, revision)) for check, stamp in checks
                 if self._is_stale((type(check), name), (stamp, revision))]  # fmt: skip
        if not stale:
            return
        try:
            room = project.rooms.passing(name)
            found = [(check, stamp, tuple(check.findings(project, room))) for check, stamp in stale]
        except TopionError as problem:
            unsound = (Finding("room cannot be read", str(problem), name),)
            found = [(check, stamp, unsound if n == 0 else ()) for n, (check, stamp)
                     in enumerate(stale)]  # fmt: skip
        for check, stamp, findings in found:
            self.kept[type(check), name] = (stamp, findings)

    def findings(self, project: Project) -> list[Finding]:
        """What is known now, room by room in the order of the project."""
        places = {"": -1, **{name: number for number, name in enumerate(project.rooms)}}
        order = {type(check): number for number, check in enumerate(CHECKS)}
        keys = [key for key in self.kept if key[1] in places and key[0] in order]
        keys.sort(key=lambda key: (places[key[1]], order[key[0]]))
        return [finding for key in keys for finding in self.kept[key][1]]

    def copy(self) -> Ledger:
        return Ledger(dict(self.kept))


def survey(project: Project, step: Step | None = None) -> list[Finding]:
    """All findings of all checks, room by room in the order of the project."""
    ledger = Ledger()
    ledger.bring_up_to_date(project, step)
    return ledger.findings(project)
