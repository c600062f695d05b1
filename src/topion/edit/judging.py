"""Edits of what is decided about the survey: findings accepted, checks switched off and on."""

from __future__ import annotations

from dataclasses import replace

from topion.edit.library import put_item
from topion.errors import BadValue
from topion.model.edit import Edit
from topion.model.judged import Accepted, Unasked
from topion.model.project import Project
from topion.model.records import taken_away

LONGEST_WORD = 400  # letters


def accept_finding(project: Project, code: str, about: str, word: str) -> Edit:
    """Let a finding stay, with a word why.  Raises BadValue without a word."""
    edit = put_item(project, "accepted", Accepted(code, about, _said("the word why", word)))
    return replace(edit, label=f"Accept: {about[:60]}") if edit else edit


def take_back_acceptance(project: Project, code: str) -> Edit:
    """Let an accepted finding count again.  Raises UnknownName."""
    about = project.named("accepted", code).about
    return Edit(f"Not accepted: {about[:60]}", (taken_away(project, ("accepted", code)),))


def switch_check_off(project: Project, check: str, reason: str) -> Edit:
    """Ask a check no longer, for a reason.  Raises BadValue without one."""
    edit = put_item(project, "unasked", Unasked(check, _said("the reason", reason)))
    return replace(edit, label=f"Check off: {check}") if edit else edit


def switch_check_on(project: Project, check: str) -> Edit:
    """Ask a check again.  Raises UnknownName where it is asked."""
    project.named("unasked", check)
    return Edit(f"Check on: {check}", (taken_away(project, ("unasked", check)),))


def _said(what: str, text: str) -> str:
    text = text.strip()
    if not text or len(text) > LONGEST_WORD:
        raise BadValue(what, text, f"1 to {LONGEST_WORD} letters")
    return text
