"""A room as it would be after an Edit that is not on yet; what the ghost is drawn from."""

from __future__ import annotations

from topion.model.edit import Edit
from topion.model.project import Project
from topion.model.room import Room


class Shadow:
    """A scratch project on which one Edit after the other is put on and taken off again.

    Its layers share their arrays with the real room until an Edit writes into them.
    """

    def __init__(self, project: Project, room_name: str) -> None:
        rooms = project.rooms.copy()
        rooms[room_name] = project.room(room_name).frozen()
        self.project = project.scratch(rooms)
        self._room_name = room_name
        self._on: Edit | None = None

    @property
    def room(self) -> Room:
        return self.project.room(self._room_name)

    def show(self, edit: Edit) -> None:
        """Let `project` and `room` stand as if `edit` had been put on, and no other."""
        if self._on is not None:
            _write(self.project, self._on.inverted())
        self._on = None
        here = tuple(r for r in edit.records if r.dirty().room in ("", self._room_name))
        self._on = Edit(edit.label, here)
        _write(self.project, self._on)


def _write(project: Project, edit: Edit) -> None:
    for record in edit.records:
        record.write(project)
