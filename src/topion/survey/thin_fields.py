"""Fields that sow far fewer things than wanted."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from topion.model.project import Project
from topion.survey.finding import Finding
from topion.things.sowings import sowing_of

_ENOUGH = 0.8


def thin_fields(project: Project) -> Iterator[Finding]:
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up("field"):
            brush: Any = project.brushes.get(layer.info.brush)
            if brush is None or not brush.wanted:
                continue
            tally = sowing_of(project, room, layer_id).tally
            if tally.placed < _ENOUGH * brush.wanted:
                why = ", ".join(f"{count} {reason}" for reason, count in tally.refused if count)
                sentence = f"{brush.name} sows {tally.placed} of {brush.wanted} wanted"
                yield Finding(
                    "thin field",
                    f"{sentence}: {why}" if why else sentence,
                    room.info.name,
                    layer_id,
                )
