"""Long runs of the tests of trust: `./topion bench trust --seconds 600 --seed 7`.

Every part takes its share of the time, prints what it did and each thing that went wrong.
"""

from __future__ import annotations

import argparse
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

Told = Callable[[str], None]
Part = Callable[[int, Path, float, Told], str]


def _until(seconds: float) -> Iterator[int]:
    """0, 1, 2 … until the time is up."""
    end, number = time.monotonic() + seconds, 0
    while time.monotonic() < end:
        yield number
        number += 1


def _lives(
    life: Callable[[int, Path, int], str],
    steps: int,
    seed: int,
    place: Path,
    seconds: float,
    told: Told,
) -> int:
    """Lives of so many steps, each in a folder and with a state of its own; how many steps."""
    count = 0
    for number in _until(seconds):
        home = place / str(number)
        os.environ["XDG_STATE_HOME"] = str(home / "state")
        home.mkdir()
        wrong = life(seed + number, home, steps)
        shutil.rmtree(home)
        count += steps
        if wrong:
            told(wrong)
    return count


def kills(seed: int, place: Path, seconds: float, told: Told) -> str:
    from tests.trust.kills import life

    count = _lives(life, 10, seed, place, seconds, told)
    return f"{count} kills while painting, saving and undoing"


def faults(seed: int, place: Path, seconds: float, told: Told) -> str:
    from tests.trust.faults import Scene, full_disk, killed

    scenes = {}
    for first in (True, False):
        (place / str(first)).mkdir()
        scenes[first] = Scene(place / str(first), first=first)
    cases = [(first, fault, at) for first, scene in scenes.items()
             for fault in (killed, full_disk) for at in range(scene.count + 1)]  # fmt: skip
    done = 0
    for number in _until(seconds):
        first, fault, at = cases[number % len(cases)]
        wrong = scenes[first].meets(fault, at)
        done += 1
        if wrong:
            told(f"{'first' if first else 'next'} save, {fault.__name__} at {at}: {wrong}")
    return f"{done} saves with an operation that failed or was the last ({len(cases)} different)"


def _mutants(kind: str) -> Part:
    def part(seed: int, place: Path, seconds: float, told: Told) -> str:
        from tests.trust import mutants

        count, batch = 0, 50
        for number in _until(seconds):
            run = getattr(mutants, kind)
            here = seed * 1_000_003 + number
            run(here, batch, told) if kind == "edits" else run(here, place, batch, told)
            count += batch
        return f"{count} mutated {kind}"

    return part


def edits(seed: int, place: Path, seconds: float, told: Told) -> str:
    from tests.trust.randoms import life

    count = _lives(life, 200, seed, place, seconds, told)
    return f"{count} random edits, undone and redone to equal bytes"


def hands(seed: int, place: Path, seconds: float, told: Told) -> str:
    """Random events in a real window; each window gets some three thousand."""
    os.environ["XDG_STATE_HOME"] = str(place / "state")
    os.environ["XDG_CONFIG_HOME"] = str(place / "config")
    from PyQt6.QtTest import QTest
    from tests.both_kinds import both_kinds
    from tests.trust.hands import RandomHands

    from topion import logbook
    from topion.demo.brinehollow import brinehollow
    from topion.view import style, unforeseen
    from topion.view.app import application
    from topion.view.window import Window

    app = application()
    style.load_fonts()
    style.dress(app)
    plain = logbook.noted

    def noted(problem: BaseException, doing: str = "") -> str:
        told(f"{type(problem).__name__}: {problem} after {run.last[-4:] if run else ''}")
        return plain(problem, doing)

    logbook.noted = noted
    unforeseen.install()
    events, gaps, run = 0, [], None
    for number in _until(seconds):
        window = Window(both_kinds() if number % 3 == 2 else brinehollow())
        unforeseen.watch(window)
        window.show()
        QTest.qWait(200)
        run = RandomHands(window, seed + number, 3000)
        run.run()
        events += run.done
        gaps += run.gaps
        window.session.handle.history.mark_saved()
        window.close()
        window.deleteLater()
    return f"{events} random events in {number + 1} windows, {len(gaps)} took over 100 ms"


PARTS: dict[str, Part] = {
    "kills": kills,
    "faults": faults,
    **{f"mutated {k}": _mutants(k) for k in ("folders", "journals", "bundles", "edits", "meshes")},
    "edits": edits,
    "hands": hands,
}


def main(arguments: list[str]) -> int:
    """Exit code 1 if anything went wrong."""
    parser = argparse.ArgumentParser(prog="topion bench trust", description=__doc__)
    parser.add_argument("--seconds", type=float, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", choices=PARTS, default=None)
    asked = parser.parse_args(arguments)
    chosen = {asked.only: PARTS[asked.only]} if asked.only else PARTS
    wrong: list[str] = []

    def told(text: str) -> None:
        wrong.append(text)
        print(f"  WRONG {text}", flush=True)

    for part in chosen.values():
        place = Path(tempfile.mkdtemp(prefix="topion-trust-"))
        print(part(asked.seed, place, asked.seconds / len(chosen), told), flush=True)
        shutil.rmtree(place, ignore_errors=True)
    print(f"{len(wrong)} wrong" if wrong else "nothing lost, nothing unreadable")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
