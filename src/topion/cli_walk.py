"""What `topion walk` does: recordings played again, and where the figure can get."""

from __future__ import annotations

import argparse
import json
from typing import Any

from topion.errors import TopionError


def walk(args: argparse.Namespace) -> int:
    """A recording that is played again, or the reach of a room."""
    if args.reach and args.replay:
        raise TopionError("walk does one at a time: --replay FILE, or --reach")
    if args.reach:
        return _reach(args)
    if args.replay is None:
        raise TopionError("walk needs a recording, --replay FILE, or --reach")
    return _replay(args)


def _replay(args: argparse.Namespace) -> int:
    from topion import scripting
    from topion.formats.recordings import read_recording
    from topion.walk.replay import begun, difference, end_of, played, traced

    project = scripting.open(args.project).data
    project.room(args.room)
    recording = read_recording(args.replay)
    if recording.room != args.room:
        raise TopionError(f"{args.replay.name} begins in {recording.room}, not in {args.room}")
    state = begun(project, recording)
    for state in played(project, recording):
        if args.json:
            print(json.dumps(traced(state), ensure_ascii=False))
    told = difference(recording.end, end_of(state))
    if not args.json:
        print(f"{recording.name}: {recording.ticks / 60:.1f} s, {told or 'ends the same'}")
    return 1 if told else 0


def _reach(args: argparse.Namespace) -> int:
    from topion import scripting
    from topion.walk import World
    from topion.walk.gaps import told
    from topion.walk.reach import reach_of
    from topion.walk.replay import recorded

    project = scripting.open(args.project).data
    project.room(args.room)
    reach = reach_of(World(project), args.room)
    lines: list[dict[str, Any]] = []
    for number, place in enumerate(reach.places):
        keys = reach.witness(place.key) if place.found else None
        line: dict[str, Any] = {"prefab": place.prefab, "kind": place.kind,
                                "cell": list(place.cell), "thing": place.key[1]}  # fmt: skip
        if keys is None:
            line["no_way_found"] = told(reach, place)
        else:
            name = f"{number + 1} {place.prefab}"
            line["ticks"] = len(keys)
            if args.out is not None:
                line["file"] = _keep(args, recorded(name, reach.begun, (), keys))
        lines.append(line)
    _print(args, reach, lines)
    return 1 if any("no_way_found" in line for line in lines) else 0


def _keep(args: argparse.Namespace, recording: Any) -> str:
    """Write a way as a recording; the name of its file."""
    from topion.formats.stems import stem
    from topion.formats.text import json_text
    from topion.model.plain import to_plain

    args.out.mkdir(parents=True, exist_ok=True)
    path = args.out / f"{stem(recording.name)}.json"
    path.write_text(json_text(to_plain(recording)), encoding="utf-8")
    return str(path.name)


def _print(args: argparse.Namespace, reach: Any, lines: list[dict[str, Any]]) -> None:
    if args.json:
        counts = {"stands": int(reach.stands.sum()), "passes": int(reach.passes.sum()),
                  "no_way_back": int(reach.no_back.sum())}  # fmt: skip
        print(json.dumps({**counts, "places": lines}, ensure_ascii=False, indent=1))
        return
    for line in lines:
        where = ", ".join(str(v) for v in line["cell"][::-1])
        lacks = line.get("no_way_found")
        found = f"no way found, {lacks}" if lacks else f"{line.get('ticks', 0) / 60:.1f} s away"
        print(f"{line['prefab']} at {where}: {found}")
    missed = sum("no_way_found" in line for line in lines)
    print(f"{args.room}: stands in {int(reach.stands.sum())} cells, {len(lines)} places, "
          f"{missed} without a way found")  # fmt: skip
