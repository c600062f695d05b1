"""The survey: findings of all checks, one module a check.

A check is a function from a project to findings; to add one, write its module and name it in
`CHECKS`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from topion.model.project import Project
from topion.survey.broken_rules import broken_rules
from topion.survey.finding import Finding
from topion.survey.not_for_use import not_for_use
from topion.survey.open_cases import open_cases
from topion.survey.outside import outside
from topion.survey.thin_fields import thin_fields
from topion.survey.unknown_names import unknown_names

CHECKS: tuple[Callable[[Project], Iterator[Finding]], ...] = (
    unknown_names,
    broken_rules,
    open_cases,
    not_for_use,
    outside,
    thin_fields,
)


def survey(project: Project) -> list[Finding]:
    """All findings of all checks, room by room in the order of the project."""
    found = [finding for check in CHECKS for finding in check(project)]
    rooms = list(project.rooms)
    return sorted(found, key=lambda f: rooms.index(f.room) if f.room in rooms else -1)


__all__ = ["CHECKS", "Finding", "survey"]
