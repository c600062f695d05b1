"""Prints the table; `./topion bench weaving grids` runs only those parts."""

from __future__ import annotations

import sys

from bench import (
    drawing,
    edits,
    grids,
    learning,
    looks,
    merging,
    meshing,
    pictures,
    pieces,
    planning,
    reaching,
    stamps,
    symbols,
    verdicts,
    walking,
    weaving,
    world,
)

PARTS = {
    "weaving": weaving,
    "learning": learning,
    "grids": grids,
    "edits": edits,
    "pieces": pieces,
    "stamps": stamps,
    "merging": merging,
    "symbols": symbols,
    "verdicts": verdicts,
    "looks": looks,
    "walking": walking,
    "reaching": reaching,
    "planning": planning,
    "drawing": drawing,
    "meshing": meshing,
    "pictures": pictures,
    "world": world,
}


def main(names: list[str]) -> int:
    """Exit code 0 also where a target is missed: the table says so.

    `trust` is another matter: long runs of the tests of trust, see `bench/trust.py`.
    """
    if names[:1] == ["trust"]:
        from bench import trust

        return trust.main(names[1:])
    unknown = [name for name in names if name not in PARTS]
    if unknown:
        print(f"bench: there is no part {unknown[0]}; known are {', '.join(PARTS)}")
        return 2
    print(f"{'':<58} {'ratio':>8}  {'target':<8} {'ours / anchor':>24}")
    missed = 0
    for name in names or PARTS:
        for ratio in PARTS[name].ratios():
            missed += not ratio.met
            print(ratio.line(), flush=True)
    print(f"{missed} missed" if missed else "all targets met")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
