"""Recordings of walks that no longer end as they did."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from topion import progress
from topion.edit.walks import keep_recording
from topion.errors import TopionError
from topion.model.derived import Kept
from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.recording import Recording
from topion.survey.check import WorldCheck
from topion.survey.finding import Finding
from topion.walk.replay import begun, difference, end_of, played, recorded

_HEARD_EVERY = 256  # ticks
_TOLD: Kept[dict[Recording, tuple[object, str]]] = Kept()


class RecordingsDiffer(WorldCheck):
    """One finding a recording."""

    name: ClassVar[str] = "recording differs"
    about: ClassVar[str] = "recordings that no longer end as they did"
    reads: ClassVar[tuple[str, ...]] = ("recordings", "prefabs", "tilesets", "blocks")
    slow: ClassVar[bool] = True
    fixing: ClassVar[str] = "record anew"

    def findings(self, project: Project) -> Iterator[Finding]:
        for name, recording in project.shelf("recordings").items():
            progress.step(name)
            told = _told(project, recording)
            if told:
                yield Finding(self.name, f"{name} {told}", recording.room, measured=told)

    def fix(self, project: Project, finding: Finding, choice: str = "") -> Edit | None:
        for name, recording in project.shelf("recordings").items():
            if finding.sentence.startswith(f"{name} ") and finding.room == recording.room:
                try:
                    start, keys = begun(project, recording), list(recording.held())
                except TopionError:
                    return None
                return keep_recording(project, recorded(name, start, recording.at, keys))
        return None


def _told(project: Project, recording: Recording) -> str:
    """How it differs; played again only if a room or the library changed."""
    known = _TOLD.of(project, None, dict)
    stamp = (tuple((name, project.rooms.revision(name)) for name in project.rooms),
             project.stamp("prefabs", "tilesets", "blocks"))  # fmt: skip
    kept = known.get(recording)
    if kept is None or kept[0] != stamp:
        kept = known[recording] = (stamp, _played(project, recording))
    return kept[1]


def _played(project: Project, recording: Recording) -> str:
    try:
        state = begun(project, recording)
        for number, state in enumerate(played(project, recording)):  # noqa: B007
            if number % _HEARD_EVERY == 0:
                progress.step(recording.name)
        return difference(recording.end, end_of(state))
    except TopionError as problem:
        return str(problem)
