"""Edits of what rooms are walked with: figures and recordings."""

from __future__ import annotations

from dataclasses import replace

from topion.edit.library import free_name, put_item
from topion.model.edit import Edit
from topion.model.figure import Figure
from topion.model.project import Project
from topion.model.recording import Recording
from topion.model.records import ItemRecord, taken_away


def set_figure(project: Project, figure: Figure) -> Edit:
    """Put a figure in the library, or set it otherwise."""
    edit = put_item(project, "figures", figure)
    return replace(edit, label=f"Figure {figure.name}") if edit else edit


def choose_figure(project: Project, name: str) -> Edit:
    """Walk with another figure: it becomes the first.  Raises UnknownName."""
    figure = project.named("figures", name)
    if next(iter(project.shelf("figures"))) == name:
        return Edit(f"Figure {name}")
    at = ("figures", name)
    return Edit(f"Figure {name}", (taken_away(project, at), ItemRecord(at, None, figure, 0)))


def add_figure(project: Project, figure: Figure) -> Edit:
    """A new figure like another one, with a name of its own, which is walked with."""
    new = replace(figure, name=free_name(figure.name, project.shelf("figures")))
    return Edit(f"New figure {new.name}", (ItemRecord(("figures", new.name), None, new, 0),))


def keep_recording(project: Project, recording: Recording) -> Edit:
    """Put a recording in the project, in the place of one of its name."""
    edit = put_item(project, "recordings", recording)
    return replace(edit, label=f"Recording {recording.name}") if edit else edit


def remove_recording(project: Project, name: str) -> Edit:
    """Take a recording away.  Raises UnknownName."""
    project.named("recordings", name)
    return Edit(f"Remove recording {name}", (taken_away(project, ("recordings", name)),))
