"""Edits of several prefabs at once: what they have in common is set on each of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import Any

from topion.edit.library import put_item
from topion.edit.prefabs import set_prefab
from topion.model.edit import Edit, joined
from topion.model.prefab import PlacementRule, Prefab
from topion.model.project import Project
from topion.model.property import Property


class Mixed:
    """Stands for a value in which several prefabs differ."""


MIXED = Mixed()


def names_of(prefabs: Sequence[str]) -> str:
    """One name, or how many."""
    return prefabs[0] if len(prefabs) == 1 else f"{len(prefabs)} prefabs"


def shared(prefabs: Sequence[Prefab], field: str) -> Any:
    """What all of them have in a field; MIXED where they differ."""
    first, *rest = (getattr(prefab, field) for prefab in prefabs)
    return first if all(value == first for value in rest) else MIXED


def set_prefabs(project: Project, names: Sequence[str], **changes: Any) -> Edit:
    """The same change of each.  Raises BadValue where one of them cannot have it."""
    edits = [set_prefab(project, name, **changes) for name in names]
    what = ", ".join(field.replace("_", " ") for field in changes)
    return edits[0] if len(edits) == 1 else joined(f"{names_of(names)}: {what}", edits)


def united_rules(prefabs: Sequence[Prefab]) -> list[tuple[PlacementRule, int]]:
    """Every rule once, in the order of the first that has it, and how many have it."""
    found: list[tuple[PlacementRule, int]] = []
    for prefab in prefabs:
        for rule in prefab.rules:
            known = [place for place, (other, _) in enumerate(found) if other == rule]
            if known:
                found[known[0]] = (rule, found[known[0]][1] + 1)
            else:
                found.append((rule, 1))
    return found


def change_rule(
    project: Project, names: Sequence[str], old: PlacementRule | None, new: PlacementRule | None
) -> Edit:
    """Another rule where one of them has `old`, none where `new` is None; for no old one a new one
    at the end of each that has none like it."""

    def change(prefab: Prefab) -> Prefab:
        rules = prefab.rules
        if old is None:
            more = () if new is None or new in rules else (new,)
            return replace(prefab, rules=(*rules, *more))
        left = [new if rule == old else rule for rule in rules]
        return replace(prefab, rules=tuple(rule for rule in left if rule is not None))

    told = new or old
    what = told.sentence() if told is not None else ""
    return _each(project, names, change, what if new is not None else f"no longer {what}")


def change_property(
    project: Project, names: Sequence[str], old: Property | None, new: Property | None
) -> Edit:
    """The same for a property, which is told by its name."""

    def change(prefab: Prefab) -> Prefab:
        own = prefab.properties
        if old is None:
            taken = {prop.name for prop in own}
            more = () if new is None or new.name in taken else (new,)
            return replace(prefab, properties=(*own, *more))
        left = [new if prop.name == old.name else prop for prop in own]
        return replace(prefab, properties=tuple(prop for prop in left if prop is not None))

    told = new or old
    return _each(project, names, change, f"property {told.name}" if told else "properties")


def shared_properties(prefabs: Sequence[Prefab]) -> tuple[Property, ...]:
    """Those of the first that all the others have by that name, too."""
    first, *rest = prefabs
    names = [{prop.name for prop in prefab.properties} for prefab in rest]
    return tuple(prop for prop in first.properties if all(prop.name in own for own in names))


def _each(
    project: Project, names: Iterable[str], change: Callable[[Prefab], Prefab], what: str
) -> Edit:
    prefabs = [project.prefab(name) for name in names]
    edits = [put_item(project, "prefabs", change(prefab)) for prefab in prefabs]
    return joined(f"{names_of([prefab.name for prefab in prefabs])}: {what}", edits)
