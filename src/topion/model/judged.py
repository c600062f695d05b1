"""What was decided about the survey: findings that are all right, checks that are not asked."""

from __future__ import annotations

from dataclasses import dataclass

from topion.model.typed import Name, typed


@typed
@dataclass(frozen=True)
class Accepted:
    """A finding that stays.  name : its code.  about : what it said.  word : why it may."""

    name: Name
    about: str = ""
    word: str = ""


@typed
@dataclass(frozen=True)
class Unasked:
    """A check that is switched off.  name : of the check.  reason : why."""

    name: Name
    reason: str = ""
