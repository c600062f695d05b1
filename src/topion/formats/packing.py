"""A project as one packed file, and back: a zip of the files of its folder, and nothing else."""

from __future__ import annotations

import io
import shutil
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from uuid import uuid4

from topion.errors import BadFile, TopionError
from topion.formats.bundle import read_bundle
from topion.formats.files import INDEX, foreign_in, inside, is_own, own_files
from topion.formats.folder import read_project
from topion.formats.out import write_out
from topion.formats.store import SUFFIX
from topion.formats.writing import write_project
from topion.model.room import MOST_BYTES
from topion.pictures.png import MOST_BYTES as MOST_FILE
from topion.pictures.png import read_bytes
from topion.progress import step

MOST_FILES = 400_000
MOST_PACKED = 1 << 32  # bytes
_EPOCH = (1980, 1, 1, 0, 0, 0)  # the same project packs to the same bytes
_PART = 1 << 20
_MOST_INDEX = 1 << 24


def packed(folder: Path) -> Iterator[bytes]:
    """The zip of a project folder, part by part; the same folder gives the same bytes.

    Raises BadFile for a folder that is no sound project.
    """
    read_project(folder)
    name = folder.resolve().name
    title = name if name.endswith(SUFFIX) else name + SUFFIX
    out = _Parts()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
        for own in sorted(own_files(folder)):
            step(own)
            info = zipfile.ZipInfo(f"{title}/{own}", _EPOCH)
            info.external_attr = 0o644 << 16
            info.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(info, read_bytes(inside(folder, own)))
            yield out.taken()
    yield out.taken()


class _Parts(io.RawIOBase):
    """What was written since it was asked for last."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []
        self._at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: object) -> int:
        part = bytes(data)  # type: ignore[call-overload]
        self._parts.append(part)
        self._at += len(part)
        return len(part)

    def tell(self) -> int:
        return self._at

    def taken(self) -> bytes:
        found, self._parts = b"".join(self._parts), []
        return found


def pack(folder: Path, path: Path) -> None:
    """Write the packed file of a project.  Raises BadFile, OSError."""
    write_out(path, packed(folder))


def unpack(path: Path, folder: Path | None = None) -> Path:
    """Make a project folder from a packed file, or from a bundle; the folder that was made.

    folder : the new folder; by itself beside the file, as the project is called in it.
    Raises BadFile for what is neither, for names that lead elsewhere and for more than is
    read; nothing is left of it then.
    """
    with path.open("rb") as file:
        is_zip = file.read(2) == b"PK"
    target = folder or path.parent / _title(path, is_zip)
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise TopionError(f"{target} is there already and not empty")
    if not is_zip:
        write_project(read_bundle(path), target)
        return target
    aside = target.with_name(f".{target.name[:80]}.{uuid4().hex[:8]}.part")
    try:
        _spread(path, aside)
        read_project(aside)
        with suppress(OSError):
            target.rmdir()  # an empty one makes way
        aside.rename(target)
    finally:
        shutil.rmtree(aside, ignore_errors=True)
    return target


def _title(path: Path, is_zip: bool) -> str:
    if is_zip:
        try:
            with zipfile.ZipFile(path) as archive:
                names = {Path(name).parts[0] for name in archive.namelist() if Path(name).parts}
        except (zipfile.BadZipFile, OSError, ValueError):
            names = set()
        known = names.pop() if len(names) == 1 else ""
        if known.endswith(SUFFIX) and known != SUFFIX:
            return known
    return path.stem.removesuffix(SUFFIX) + SUFFIX


def _spread(path: Path, folder: Path) -> None:
    """Write the files of a zip into a new folder, each checked by name and size first."""
    try:
        with zipfile.ZipFile(path) as archive:
            infos = [info for info in archive.infolist() if not info.is_dir()]
            names = _checked(path, infos, _foreign(archive, infos))
            for name, info in names.items():
                step(name)
                place = folder / name
                place.parent.mkdir(parents=True, exist_ok=True)
                _write(path, archive, info, place)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError) as problem:
        reason = str(problem).rstrip(".") or "it is damaged"
        raise BadFile(path.name, f"is no sound packed project: {reason}") from None


def _foreign(archive: zipfile.ZipFile, infos: list[zipfile.ZipInfo]) -> frozenset[str]:
    """Shelves of extensions that are missing, as the index in the zip lists them."""
    found = next((i for i in infos if i.filename.rpartition("/")[2] == INDEX), None)
    if found is None or found.file_size > _MOST_INDEX:
        return frozenset()
    with archive.open(found) as source:
        return foreign_in(source.read(_MOST_INDEX))


def _checked(
    path: Path, infos: list[zipfile.ZipInfo], more: frozenset[str]
) -> dict[str, zipfile.ZipInfo]:
    """The files by their place in the project folder.  more : shelves that are not known here.
    Raises BadFile."""
    if len(infos) > MOST_FILES:
        raise BadFile(path.name, f"holds {len(infos):,} files, more than {MOST_FILES:,}")
    if sum(info.file_size for info in infos) > MOST_PACKED:
        raise BadFile(path.name, f"holds more than {MOST_PACKED >> 30} GiB")
    tops = {info.filename.partition("/")[0] for info in infos if "/" in info.filename}
    within = INDEX not in {info.filename for info in infos} and len(tops) == 1
    found: dict[str, zipfile.ZipInfo] = {}
    for info in infos:
        name = info.filename.partition("/")[2] if within else info.filename
        if not is_own(name, more) or ".." in name.split("/") or "\0" in name or "\\" in name:
            raise BadFile(path.name, "holds what is no file of a project", info.filename)
        if name in found:
            raise BadFile(path.name, "holds it twice", info.filename)
        if info.file_size > min(MOST_FILE, MOST_BYTES):
            raise BadFile(path.name, f"is {info.file_size >> 20} MiB, more than is read",
                          info.filename)  # fmt: skip
        found[name] = info
    if INDEX not in found:
        raise BadFile(path.name, f"is no packed project: it holds no {INDEX}")
    return found


def _write(path: Path, archive: zipfile.ZipFile, info: zipfile.ZipInfo, place: Path) -> None:
    """Unpack one file, never more of it than it declares."""
    left = info.file_size
    with archive.open(info) as source, place.open("xb") as target:
        while part := source.read(_PART):
            left -= len(part)
            if left < 0:
                raise BadFile(path.name, "is larger than it declares", info.filename)
            target.write(part)
