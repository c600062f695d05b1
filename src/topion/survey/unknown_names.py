"""Names used for parts of the library that are not there, and kinds that nobody here knows."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Iterator
from typing import ClassVar

from topion.model.plain import Unread
from topion.model.project import Project
from topion.model.refs import Use, uses
from topion.model.room import Room
from topion.model.shelves import SHELVES, shelves
from topion.survey.check import LibraryCheck, RoomCheck
from topion.survey.finding import Finding

_READS = ("tilesets", "blocks", "brushes", "prefabs", "materials")


def missing(project: Project, found: Iterable[Use]) -> list[Use]:
    """Those that name nothing, each once, in order."""
    return [use for use in dict.fromkeys(found) if not use.perhaps and not _is_there(project, use)]


def _is_there(project: Project, use: Use) -> bool:
    if use.kind in SHELVES:
        return use.name in project.shelf(use.kind)
    return use.name in project.materials


def _word(kind: str) -> str:
    return SHELVES[kind].word if kind in SHELVES else kind.removesuffix("s")


class UnknownNames(LibraryCheck):
    """Names that items of the library use."""

    name: ClassVar[str] = "unknown name"
    about: ClassVar[str] = "names that nothing bears"
    reads: ClassVar[tuple[str, ...]] = _READS

    def findings(self, project: Project) -> Iterator[Finding]:
        for shelf in shelves():
            for name, item in project.shelf(shelf.name).items():
                for use in missing(project, uses(item)):
                    told = f"{_word(use.kind)} {use.name}, which is not there"
                    yield Finding(self.name, f"{shelf.word} {name} uses {told}")
                for part in _unread_in(item):
                    told = f"is of the unknown kind “{part.kind}”, so it is kept but not used"
                    yield Finding("unknown kind", f"{shelf.word} {name} {told}")
        for key, foreign in project.foreign.items():
            told = f"{len(foreign.names)} parts of “{key}” are of an extension that is missing"
            yield Finding("unknown kind", f"{told}, so they are kept but not used")


def _unread_in(value: object) -> Iterator[Unread]:
    """The parts of an item, or the item itself, that are of kinds nobody knows."""
    if isinstance(value, Unread):
        yield value
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        for field in dataclasses.fields(value):
            yield from _unread_in(getattr(value, field.name))
    elif isinstance(value, tuple) and value and not isinstance(value[0], int | float | str):
        for part in value:
            yield from _unread_in(part)


class UnknownNamesInRooms(RoomCheck):
    """Names that layers and things use."""

    name: ClassVar[str] = "unknown name"
    about: ClassVar[str] = "names that nothing bears"
    reads: ClassVar[tuple[str, ...]] = _READS

    def findings(self, project: Project, room: Room) -> Iterator[Finding]:
        for layer_id, layer in room.bottom_up():
            info = layer.info
            for use in missing(project, uses(info)):
                sentence = (
                    f"layer {info.name} sows {_word(use.kind)} {use.name}, which is not there"
                )
                yield Finding(self.name, sentence, room.info.name, layer_id)
            for number, thing in layer.things.items():
                for part in _unread_in((thing.role, thing.when)):
                    told = f"thing {number} is of the unknown kind “{part.kind}”, kept but not used"
                    yield Finding("unknown kind", told, room.info.name, layer_id, thing=number)
            names = {thing.prefab for thing in layer.things.values()}
            for name in sorted(names - project.prefabs.keys()):
                sentence = f"things use prefab {name}, which is not there"
                yield Finding(self.name, sentence, room.info.name, layer_id)
