"""Laying the sample of a brush on a scrap, for the picture on its card."""

from __future__ import annotations

from topion.brushes.kind import BrushKind, all_brushes
from topion.brushes.marks import Marks, Place
from topion.errors import TopionError
from topion.model.project import Project
from topion.things.field import Sows
from topion.things.rules.kind import known_rules, rules_of


def is_solid(project: Project, brush: BrushKind, *, flat: bool = False) -> bool:
    """Whether the brush belongs to voxel rooms: it lays blocks, or prefabs that are models.
    flat : in a flat room, where prefabs that are models show their pictures."""
    prefabs = project.prefabs
    if not flat and any(prefabs[name].model for name in brush.places() if name in prefabs):
        return True
    return brush.axes == 3 or bool(brush.lays_blocks())


def ground_for(project: Project, brush: BrushKind, *, deep: bool) -> BrushKind | None:
    """What lies under the sample: what the brush asks for, else the first ground but itself."""
    brushes = all_brushes(project)
    order = (brushes[name] for bay in project.bays for name in bay.brushes if name in brushes)
    grounds = [
        known
        for known in order
        if known.covers_ground(deep=deep)
        and known.name != brush.name
        and is_solid(project, known) == deep
    ]
    sets = {ref.tileset for ref in brush.tiles_used()}
    alike = {known.name for known in grounds if sets & {r.tileset for r in known.tiles_used()}}
    grounds.sort(key=lambda known: known.name not in alike)
    wanted = _asked_grounds(project, brush)
    asked = [known for known in grounds if known.material in wanted]
    return next(iter([*asked, *grounds]), None)


def _asked_grounds(project: Project, brush: BrushKind) -> set[str]:
    """Materials that the brush, or what it places, wants to stand on."""
    rules = [*brush.asks()]
    if not rules:
        placed = (project.prefabs.get(name) for name in brush.places())
        rules = [rule for prefab in placed if prefab for rule in rules_of(project, prefab)]
    return {name for rule in known_rules(rules) for name in rule.grounds()}


def lay_sample(scrap: Project, brush: BrushKind, marks: Marks) -> None:
    """Lay a stroke in the room `scrap` of a scratch project."""
    if isinstance(brush, Sows):  # what is sown is looked up by its name
        scrap.shelf("brushes")[brush.name] = brush
    try:
        for record in brush.plan(Place(scrap, "scrap"), marks).records:
            record.write(scrap)
    except TopionError:
        return  # a brush that names what is not there shows an empty card
