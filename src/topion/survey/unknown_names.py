"""Names used for parts of the library that are not there."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from topion.model.project import Project
from topion.survey.finding import Finding


def unknown_names(project: Project) -> Iterator[Finding]:
    for brush in project.brushes.values():
        for kind, name in _names_used(brush):
            known: Any = {
                "prefab": project.prefabs,
                "material": project.materials,
                "brush": project.brushes,
            }[kind]
            if name not in known:
                yield Finding(
                    "unknown name", f"brush {brush.name} uses {kind} {name}, which is not there"
                )
    for room in project.rooms.values():
        for layer_id, layer in room.bottom_up():
            missing = sorted({t.prefab for t in layer.things.values()} - set(project.prefabs))
            for name in missing:
                yield Finding(
                    "unknown name",
                    f"things use prefab {name}, which is not there",
                    room.info.name,
                    layer_id,
                )
            if layer.info.kind == "field" and layer.info.brush not in project.brushes:
                sentence = (
                    f"layer {layer.info.name} sows brush {layer.info.brush}, which is not there"
                )
                yield Finding("unknown name", sentence, room.info.name, layer_id)


def _names_used(brush: Any) -> Iterator[tuple[str, str]]:
    if brush.kind == "things":
        placed = brush.prefab
        yield ("prefab", placed)
    if brush.kind == "field":
        yield from (("prefab", sown.prefab) for sown in brush.sown)
    if brush.kind == "lift" and brush.only:
        yield ("brush", brush.only)
    if brush.kind == "weave":
        names = [name for rule in brush.rules.rules for name in rule.named]
        names += [
            *brush.rules.joins,
            *([brush.rules.falls_back_to] if brush.rules.falls_back_to else []),
        ]
        yield from (("material", name) for name in dict.fromkeys(names))
