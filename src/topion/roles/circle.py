"""Sines in whole numbers, so that every machine goes round alike."""

from __future__ import annotations

from functools import lru_cache

ROUND, ONE = 1024, 1 << 20  # steps of a whole turn, and the sine of a quarter


@lru_cache(maxsize=1)
def _table() -> tuple[int, ...]:
    """Of a quarter turn, by Taylor's series in whole numbers."""
    pi = 3141592653589793238462643383279502884197
    unit = 10**39
    found = []
    for number in range(ROUND // 4 + 1):
        x = 2 * pi * number // ROUND
        term, total, n = x, x, 1
        while term:
            term = -term * x // unit * x // unit // ((n + 1) * (n + 2))
            total, n = total + term, n + 2
            if n > 60:
                break
        found.append((total * ONE + unit // 2) // unit)
    return tuple(found)


def sine(step: int) -> int:
    """Of so many of ROUND steps, times ONE."""
    step %= ROUND
    quarter, rest = divmod(step, ROUND // 4)
    table = _table()
    value = table[rest] if quarter % 2 == 0 else table[ROUND // 4 - rest]
    return value if quarter < 2 else -value


def cosine(step: int) -> int:
    """Of so many of ROUND steps, times ONE."""
    return sine(step + ROUND // 4)
