"""Writing a project folder: what changed is staged, read back, and put in place as one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from topion.errors import BadFile, TopionError
from topion.formats.files import INDEX, FileMark, mark_of, marks_of, own_files, state_of
from topion.formats.folder import FolderRooms, check_index, read_index
from topion.formats.items import read_item
from topion.formats.room_files import read_room, room_path
from topion.formats.saving import CannotSave, Staged, holds, staged
from topion.formats.store import (
    FORMAT,
    KeptPart,
    Key,
    Part,
    Step,
    Store,
    foreign_part,
    index_part,
    item_part,
    names_in,
    put_store,
    room_parts,
    store_of,
)
from topion.model.compare import differences_in_rooms
from topion.model.project import Project
from topion.model.room import Room
from topion.model.shelves import shelf_named, shelves
from topion.model.sound import NotSound, check_library
from topion.pictures.png import read_bytes, read_png_file

Promise = Callable[[str], None]


class ChangedOutside(TopionError):
    """Files that a save would replace or that it stands on were changed by somebody else."""

    def __init__(self, folder: Path, names: Iterable[str]) -> None:
        self.names = sorted(names)
        some = ", ".join(self.names[:3])
        more = f" and {len(self.names) - 3} more" if len(self.names) > 3 else ""
        super().__init__(
            f"{folder} was changed elsewhere since it was opened ({some}{more});"
            " nothing was written"
        )


class HoldsAnother(TopionError):
    def __init__(self, folder: Path) -> None:
        super().__init__(f"{folder} holds another project already; choose another place")


def write_project(
    project: Project, folder: Path, each: Step | None = None, *, over: bool = False
) -> None:
    """Save a project: `save_frozen` and `take_over` in one.  Raises what the first raises."""
    take_over(project, save_frozen(project, folder, each, over=over))


def take_over(project: Project, saved: Store) -> None:
    """The folder holds what `saved` tells; the project goes on from there."""
    old = store_of(project)
    if old is not None and old.folder == saved.folder:  # rooms that were read meanwhile
        for owner, parts in old.owners.items():
            if owner[0] == "rooms" and owner not in saved.owners and owner[1] in project.rooms:
                saved.owners[owner] = parts
                saved.marks.update((n, old.marks[n]) for n in names_in([parts]) if n in old.marks)
    put_store(project, saved)
    source = project.rooms.source
    if isinstance(source, FolderRooms):
        source.move(saved)


def save_frozen(
    project: Project,
    folder: Path,
    each: Step | None = None,
    *,
    over: bool = False,
    promise: Promise | None = None,
) -> Store:
    """Write a project that nobody changes meanwhile; what the folder is known to hold stays.

    over : replace what was changed there by others, or another project.  promise : hears the
    state that the folder will have, just before it has it.
    Raises CannotSave, ChangedOutside and HoldsAnother with the old state whole; whatever `each`
    raises between files stops the save likewise.
    """
    folder = folder.resolve()
    try:
        stage = staged(folder)
    except OSError as problem:
        raise CannotSave(folder, problem.strerror or str(problem)) from None
    except BadFile as problem:
        raise CannotSave(folder, str(problem)) from None
    try:
        saved = _Save(project, stage, each or (lambda _: None), over).run(promise)
    except OSError as problem:
        reason = problem.strerror or str(problem)
        raise CannotSave(folder, reason, done=_dropped(stage)) from None
    except BaseException:
        _dropped(stage)
        raise
    return saved


def _dropped(stage: Staged) -> bool:
    """Take a save back, unless it is listed and thereby done; whether it is."""
    if stage.is_listed:
        stage.close()
        return True
    stage.drop()
    return False


@dataclass
class _Save:
    """One save under way."""

    project: Project
    stage: Staged
    each: Step
    over: bool

    def run(self, promise: Promise | None) -> Store:
        known = store_of(self.project)
        same = known is not None and known.folder == self.stage.folder and not self.stage.is_first
        store = known.copy() if known is not None and same else Store(self.stage.folder)
        if not self.over:
            self._check_outside(store, same)
        before = dict(store.owners)
        after: dict[Key, dict[Key, KeptPart]] = {}
        for owner, parts in self._owners(same):
            after[owner] = {}
            for part in parts:
                after[owner][part.key] = self._write(part, before.get(owner, {}).get(part.key))
        left = before.keys() - self._all_owners()
        self.stage.gone = sorted(self._gone(before, left, after, same))
        self._read_back(after)
        if promise is not None:
            promise(self._state(store))
        self.stage.place()
        store.owners.update(after)
        for owner in left:
            del store.owners[owner]
        self._mark(store)
        return store

    # --- what changed ---------------------------------------------------------------------

    def _write(self, part: Part, old: KeptPart | None) -> KeptPart:
        """Stage the files of a part that is not as it was."""
        if old is not None and old.token == part.token:
            return old
        names = []
        for name, data in part.files():
            names.append(name)
            self.each(name)
            if self.stage.is_first or not holds(self.stage.folder / name, data):
                self.stage.put(name, data)
        return KeptPart(part.token, tuple(names))

    def _owners(self, same: bool) -> Iterator[tuple[Key, Iterable[Part]]]:
        """What may need writing: rooms that were not read stay as they are in their own folder.

        The index comes last: it is of the newest format as soon as anything else is written.
        """
        project, source = self.project, self.project.rooms.source
        for shelf in shelves():
            for name, item in project.shelf(shelf.name).items():
                yield (shelf.name, name), (item_part(shelf, item),)
        for key_of, shelf_of in project.foreign.items():
            yield ("foreign", key_of), (foreign_part(key_of, shelf_of),)
        for name in project.rooms:
            room, key = project.rooms.peek(name), ("rooms", name)
            if room is not None:
                yield key, tuple(room_parts(project, room))
            elif isinstance(source, FolderRooms) and not same:
                yield key, (Part(key, object(), partial(source.raw, name)),)
        known = source.version if isinstance(source, FolderRooms) else FORMAT
        version = known if same and not self.stage.digests else FORMAT
        yield ("project",), (index_part(project, version),)

    def _all_owners(self) -> set[Key]:
        project = self.project
        items = {(shelf.name, name) for shelf in shelves() for name in project.shelf(shelf.name)}
        foreign = {("foreign", key) for key in project.foreign}
        return {("project",), *foreign, *items, *(("rooms", name) for name in project.rooms)}

    def _gone(
        self,
        before: dict[Key, dict[Key, KeptPart]],
        left: set[Key],
        after: dict[Key, dict[Key, KeptPart]],
        same: bool,
    ) -> set[str]:
        """Files that nothing is kept in any longer."""
        if self.stage.is_first:
            return set()
        if not same or not before:  # nothing is known of what lies there
            rooms, source = self.project.rooms, self.project.rooms.source
            kept: set[str] = set()
            if same and isinstance(source, FolderRooms):
                kept = {source.path(name) for name in rooms if rooms.peek(name) is None}
            found = {n for n in own_files(self.stage.folder) if n.rpartition("/")[0] not in kept}
            return found - names_in(after.values())
        old = names_in(before[owner] for owner in (*left, *after) if owner in before)
        old -= names_in(after.values())  # mostly nothing is left here
        others = before.keys() - left - after.keys()
        return old and old - names_in(before[owner] for owner in others)

    def _check_outside(self, store: Store, same: bool) -> None:
        """Raises ChangedOutside if files we know of are others by now, or gone."""
        folder = self.stage.folder
        if not same:
            if not self.stage.is_first and (folder / INDEX).exists():
                raise HoldsAnother(folder)
            return
        changed = []
        for name, mark in list(store.marks.items()):
            now = mark_of(folder, name, mark)
            if now is None or now.digest != mark.digest:
                changed.append(name)
            else:
                store.marks[name] = now
        if changed:
            raise ChangedOutside(folder, changed)

    # --- what will be there ---------------------------------------------------------------

    def _state(self, store: Store) -> str:
        """The state of the folder once the save is in place."""
        stage = self.stage
        there = {} if stage.is_first else marks_of(stage.folder, store.marks)
        digests = {name: mark.digest for name, mark in there.items()} | stage.digests
        return state_of((n, digest) for n, digest in digests.items() if n not in stage.gone)

    def _mark(self, store: Store) -> None:
        """Note what was written, so that changes of others are noticed."""
        for name in self.stage.gone:
            store.marks.pop(name, None)
        names = names_in(store.owners.values())
        for name, digest in self.stage.digests.items():
            if name in names:
                mark = mark_of(store.folder, name, None)
                store.marks[name] = mark if mark else FileMark(0, 0, 0, 0, digest)
        for name in names - store.marks.keys():
            mark = mark_of(store.folder, name, None)
            if mark is not None:
                store.marks[name] = mark

    # --- reading it back ------------------------------------------------------------------

    def _read_back(self, after: dict[Key, dict[Key, KeptPart]]) -> None:
        """What was staged is read as an opening would read it; what could not be opened is never
        put in place.  Raises CannotSave."""
        if not self.stage.digests:
            return
        try:
            if INDEX in self.stage.digests:
                data = self._bytes(INDEX)
                check_index(read_index(data), data)
            check_library(self.project)
            for owner, parts in after.items():
                if self.stage.digests.keys() & names_in([parts]):
                    self.each(f"reading back {owner[-1]}")
                    self._read_part(owner)
        except (BadFile, NotSound) as problem:
            reason = f"what would be written could not be opened again ({problem})"
            raise CannotSave(self.stage.folder, reason) from None

    def _read_part(self, owner: Key) -> None:
        if owner[0] == "rooms":
            self._read_room(owner[1])
        elif owner[0] not in ("project", "foreign"):
            shelf = shelf_named(owner[0])
            item = read_item(
                shelf, owner[1], self._bytes, lambda name: read_png_file(self._path(name))
            ).item
            if item != self.project.shelf(shelf.name)[owner[1]]:
                raise BadFile(owner[1], f"the {shelf.word} would be another one")

    def _read_room(self, name: str) -> None:
        room: Room | None = self.project.rooms.peek(name)
        if room is None:
            return  # it is taken over as it is
        again = read_room(self.project, name, self._bytes, self._there, lambda _: None).room
        found = list(differences_in_rooms(room, again))
        if found:
            raise BadFile(room_path(name), f"the room would be another one: {found[0]}")

    def _path(self, name: str) -> Path:
        return self.stage.path(name) if name in self.stage.digests else self.stage.folder / name

    def _bytes(self, name: str) -> bytes:
        try:
            return read_bytes(self._path(name))
        except BadFile as problem:
            raise BadFile(name, problem.reason) from None

    def _there(self, name: str) -> bool:
        return name not in self.stage.gone and self._path(name).exists()


__all__ = ["ChangedOutside", "HoldsAnother", "save_frozen", "take_over", "write_project"]
