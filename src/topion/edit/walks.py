"""Edits of what rooms are walked with: figures and recordings."""

from __future__ import annotations

from dataclasses import replace

from topion.edit.library import put_item
from topion.model.edit import Edit
from topion.model.figure import Figure
from topion.model.project import Project
from topion.model.recording import Recording
from topion.model.records import taken_away


def set_figure(project: Project, figure: Figure) -> Edit:
    """Put a figure in the library, or set it otherwise."""
    edit = put_item(project, "figures", figure)
    return replace(edit, label=f"Figure {figure.name}") if edit else edit


def keep_recording(project: Project, recording: Recording) -> Edit:
    """Put a recording in the project, in the place of one of its name."""
    edit = put_item(project, "recordings", recording)
    return replace(edit, label=f"Recording {recording.name}") if edit else edit


def remove_recording(project: Project, name: str) -> Edit:
    """Take a recording away.  Raises UnknownName."""
    project.named("recordings", name)
    return Edit(f"Remove recording {name}", (taken_away(project, ("recordings", name)),))
