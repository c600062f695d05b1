"""Errors nobody foresaw: their traces go into a small log, their users get one sentence."""

from __future__ import annotations

import os
from pathlib import Path

_MOST_BYTES = 1 << 20
_OLDER_LOGS = 3


def state_home() -> Path:
    """Topion's place in the XDG state folder."""
    base = os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state"
    return Path(base) / "topion"


def cache_home() -> Path:
    """Topion's place in the XDG cache folder: what is there can be made again."""
    base = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(base) / "topion"


def log_path() -> Path:
    return state_home() / "topion.log"


def noted(problem: BaseException, doing: str = "") -> str:
    """Write the trace of an error into the log; returns a sentence for the user."""
    where = _write(problem)
    frame = problem.__traceback__
    while frame is not None and frame.tb_next is not None:
        frame = frame.tb_next
    place = f" at {Path(frame.tb_frame.f_code.co_filename).name}:{frame.tb_lineno}" if frame else ""
    what = f"{doing}: " if doing else ""
    told = f"; details are in {where}" if where is not None else ""
    return f"{what}something nobody foresaw went wrong ({type(problem).__name__}{place}){told}"


def _write(problem: BaseException) -> Path | None:
    """None where the log cannot be written."""
    import logging  # not loaded before something is wrong
    from logging.handlers import RotatingFileHandler

    path = log_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            path, maxBytes=_MOST_BYTES, backupCount=_OLDER_LOGS, encoding="utf-8",
            errors="backslashreplace",
        )  # fmt: skip
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(message)s"))
    trace = (type(problem), problem, problem.__traceback__)
    record = logging.LogRecord(
        "topion", logging.ERROR, __file__, 0, "an error nobody foresaw", None, trace
    )
    try:
        handler.handleError = _give_up  # type: ignore[method-assign]
        handler.emit(record)
    finally:
        handler.close()
    return path


def _give_up(record: object) -> None:
    """A log that cannot be written stops nothing."""
