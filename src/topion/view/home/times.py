"""Moments as people say them."""

from __future__ import annotations

from datetime import datetime
from math import inf


def said(when: float, now: datetime | None = None) -> str:
    """A moment, in seconds since 1970, seen from now: `today 9:42`, `3 weeks ago`."""
    here = now or datetime.now()
    try:
        then = datetime.fromtimestamp(when if when > 0 else inf)
    except (OverflowError, ValueError, OSError):  # no moment of any calendar
        return "some time ago"
    days = (here.date() - then.date()).days
    clock = f"{then.hour}:{then.minute:02}"
    if days <= 0:
        return f"today {clock}"
    if days == 1:
        return f"yesterday {clock}"
    if days < 7:
        return f"{then:%A} {clock}"
    if days < 21:
        return f"{days} days ago"
    if days < 70:
        return f"{days // 7} weeks ago"
    return f"{then.day} {then:%B %Y}"


def short_path(path: str, home: str) -> str:
    """A path with `~` for the home folder."""
    if home != "/" and (path == home or path.startswith(home.rstrip("/") + "/")):
        return "~" + path[len(home.rstrip("/")) :]
    return path
