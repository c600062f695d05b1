"""Names used for parts of the library that are not there, and kinds that nobody here knows."""

from __future__ import annotations

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


def _unread_in(item: object) -> Iterator[Unread]:
    """The item, or its placement rules, where they are of a kind that nobody knows."""
    rules = getattr(item, "rules", ())
    parts = (item, *(rules if isinstance(rules, tuple) else ()))
    return (part for part in parts if isinstance(part, Unread))


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
            names = {thing.prefab for thing in layer.things.values()}
            for name in sorted(names - project.prefabs.keys()):
                sentence = f"things use prefab {name}, which is not there"
                yield Finding(self.name, sentence, room.info.name, layer_id)
