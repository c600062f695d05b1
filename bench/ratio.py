"""One line of the table: two things timed in turn, and their ratio."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass

Work = Callable[[], object]


@dataclass(frozen=True)
class Ratio:
    """ours, anchor : seconds, medians.  at_least : the value must not fall below the target."""

    name: str
    value: float
    target: float
    ours: float = 0.0
    anchor: float = 0.0
    at_least: bool = False

    @property
    def met(self) -> bool:
        return self.value >= self.target if self.at_least else self.value <= self.target

    def line(self) -> str:
        sign = "≥" if self.at_least else "≤"
        times = f"{_time(self.ours)} / {_time(self.anchor)}" if self.anchor else ""
        mark = "" if self.met else "   MISSED"
        return f"{self.name:<58} {self.value:8.3f}  {sign} {self.target:<6g} {times:>24}{mark}"


def _time(seconds: float) -> str:
    if seconds >= 1:
        return f"{seconds:.2f} s"
    return f"{seconds * 1e3:.2f} ms" if seconds >= 1e-3 else f"{seconds * 1e6:.1f} µs"


def timed(work: Work, times: int = 1) -> float:
    start = time.perf_counter()
    for _ in range(times):
        work()
    return (time.perf_counter() - start) / times


def compared(
    name: str, ours: Work, anchor: Work, target: float, rounds: int = 7, times: int = 1
) -> Ratio:
    """Medians of interleaved runs."""
    ours(), anchor()
    a, b = [], []
    for _ in range(rounds):
        a.append(timed(ours, times))
        b.append(timed(anchor, times))
    mine, other = statistics.median(a), statistics.median(b)
    return Ratio(name, mine / other, target, mine, other)


# not ru_maxrss: a process begins with that of the one which starts it
_TELLS_PEAK = """
print(next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM")))
"""


def peak_mb(code: str, *arguments: str) -> float:
    """Peak memory of a process of its own that runs Python code with `arguments`."""
    command = [sys.executable, "-c", code + _TELLS_PEAK, *arguments]
    run = subprocess.run(command, capture_output=True, text=True, check=True)
    return int(run.stdout.split()[-1]) / 1024
