"""What things do while a room is walked: their own, or that of their prefab."""

from __future__ import annotations

from topion.model.condition import When
from topion.model.prefab import Thing
from topion.model.project import Project
from topion.model.role import Role


def role_of(project: Project, thing: Thing) -> Role | None:
    """The role of a thing: its own, or that of its prefab."""
    prefab = project.prefabs.get(thing.prefab)
    return thing.role if thing.role is not None else prefab.role if prefab is not None else None


def when_of(project: Project, thing: Thing) -> When:
    """When it appears or opens: its own, or that of its prefab."""
    prefab = project.prefabs.get(thing.prefab)
    if thing.when is not None:
        return thing.when
    return prefab.when if prefab is not None else When()


def counts_of(project: Project, thing: Thing) -> bool:
    """Whether it counts for clearing its room."""
    prefab = project.prefabs.get(thing.prefab)
    return bool(prefab is not None and prefab.counts) if thing.counts is None else thing.counts
