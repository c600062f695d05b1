"""Findings that count, and those that were accepted with a word."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from topion.grid.hashing import seed_of
from topion.model.project import Project
from topion.survey.finding import Finding


class Judged(NamedTuple):
    """A finding, and why it is all right; no word where it counts."""

    finding: Finding
    word: str = ""


def code_of(finding: Finding) -> str:
    """Equal for the same finding at other times: it depends on where it is and which rule it is,
    not on what was measured."""
    where: object = finding.cell
    if finding.thing is not None:
        where = f"thing {finding.thing}"
    elif finding.piece is not None:
        where = f"piece {finding.piece}"
    elif finding.cell is None:
        where = finding.sentence
    text = "\n".join((finding.check, finding.room, finding.layer, str(where)))
    return f"{seed_of(text):016x}"


def judged(project: Project, findings: Iterable[Finding]) -> list[Judged]:
    """Each with the word it was accepted with."""
    accepted = project.shelf("accepted")
    if not accepted:
        return [Judged(finding) for finding in findings]
    found = []
    for finding in findings:
        known = accepted.get(code_of(finding))
        found.append(Judged(finding, known.word if known is not None else ""))
    return found


def counting(project: Project, findings: Iterable[Finding]) -> list[Finding]:
    """Those that were not accepted."""
    return [one.finding for one in judged(project, findings) if not one.word]
