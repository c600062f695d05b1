"""What may come of bad input: nothing, or one sentence."""

from __future__ import annotations

import time
import traceback
from collections.abc import Callable

from topion.errors import TopionError

LONGEST = 1000  # letters
SLOWEST_S = 10.0


REFUSED: list[str] = []  # the sentences of this run, for looking at


def outcome(work: Callable[[], object]) -> str:
    """What is wrong with how the work ended; empty if it was done or refused in one sentence."""
    start = time.monotonic()
    try:
        work()
    except TopionError as problem:
        text = str(problem)
        REFUSED.append(text)
        if not text or len(text) > LONGEST or not text.isprintable():
            return f"no sentence: {text!r:.200}"
    except BaseException as problem:
        if isinstance(problem, KeyboardInterrupt):
            raise
        where = traceback.extract_tb(problem.__traceback__)[-1]
        return (
            f"{type(problem).__name__}: {problem!s:.120} at {where.filename[-40:]}:{where.lineno}"
        )
    taken = time.monotonic() - start
    return f"took {taken:.0f} s" if taken > SLOWEST_S else ""
