"""Things that break a placement rule where they stand now."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from topion.model.project import Project
from topion.survey.finding import Finding
from topion.things.ground import Ground, Spots
from topion.things.verdict import verdict_reasons


def broken_rules(project: Project) -> Iterator[Finding]:
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("things"):
            for number, thing in layer.things.items():
                prefab = project.prefabs.get(thing.prefab)
                if prefab is None:
                    continue
                ground = Ground(project, room, frozenset({(layer_id, number)}))
                at = np.array([[thing.y, thing.x]])
                for reason in verdict_reasons(
                    ground, Spots(prefab, at, thing.turn, thing.mirrored)
                ):
                    if reason.rule == "inside":
                        continue  # another check's
                    told = f"{thing.prefab} · {reason.sentence}: "
                    told += f"{reason.measured}, not {reason.wanted}"
                    if thing.overridden:
                        told += ", overridden when it was laid"
                    yield Finding(
                        f"rule broken: {reason.rule}",
                        told,
                        room.info.name,
                        layer_id,
                        thing.cell,
                        number,
                    )
