"""Wavefront OBJ: polygons, and the colours of its materials.

Source: "Object Files (.obj)" and "MTL material format" of the Advanced Visualizer's manual, 1995.
"""

from __future__ import annotations

import io
from array import array
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from topion.errors import BadFile
from topion.formats.meshes.mesh import STONE, Beside, Polygons, mean_of_corners, sampled

_TOLD_EVERY = 1 << 16  # lines
_MOST_POINTS = 1 << 40  # that a corner may name; files are far shorter


@dataclass
class _Lines:
    """What the lines of a file say, end to end: three numbers a point and a colour, two a place in
    a picture.  corners, places_of : rows of points and places, -1 for none.  lines : of each face,
    counted from 1."""

    file: str
    points: array[float] = field(default_factory=lambda: array("d"))
    colours: array[float] = field(default_factory=lambda: array("d"))
    places: array[float] = field(default_factory=lambda: array("d"))
    corners: array[int] = field(default_factory=lambda: array("q"))
    places_of: array[int] = field(default_factory=lambda: array("q"))
    sizes: array[int] = field(default_factory=lambda: array("q"))
    lines: array[int] = field(default_factory=lambda: array("q"))
    paints: array[int] = field(default_factory=lambda: array("q"))
    names: dict[str, int] = field(default_factory=lambda: {"": 0})
    libraries: list[str] = field(default_factory=list)
    paint: int = 0

    def refuse(self, line: int, reason: str) -> BadFile:
        return BadFile(self.file, reason, f"line {line}")


def read_obj(path: Path, data: bytes, step: Callable[[str], object]) -> Polygons:
    """Raises BadFile for lines that are no OBJ."""
    said = _Lines(path.name)
    begun: list[bytes] = []  # of a line that goes on in the next one
    for number, line in enumerate(data.splitlines(), 1):
        if number % _TOLD_EVERY == 0:
            step("reading")
        if line.endswith(b"\\"):
            begun.append(line[:-1])
            continue
        if begun:
            line, begun = b" ".join((*begun, line)), []
        words = line.split(None, 1)
        if len(words) == 2:
            _take(said, number, words[0], words[1])
    _check_corners(said)
    points = np.array(said.points, np.float64).reshape(-1, 3)
    corners, sizes = np.array(said.corners, np.intp), np.array(said.sizes, np.intp)
    return Polygons(points, corners, sizes, _colours(said, path, corners, sizes))


def _take(said: _Lines, number: int, word: bytes, rest: bytes) -> None:
    if word == b"v":
        values = _numbers(said, number, rest, "corner", 3)
        said.points.extend(values[:3])
        if len(values) in (6, 7):
            said.colours.extend(values[3:6])
    elif word == b"vt":
        said.places.extend([*_numbers(said, number, rest, "place in a picture", 1), 0.0][:2])
    elif word in (b"f", b"fo"):
        _take_face(said, number, rest)
    elif word == b"usemtl":
        said.paint = said.names.setdefault(_text(rest), len(said.names))
    elif word == b"mtllib":
        said.libraries.append(_text(rest))


def _numbers(said: _Lines, number: int, rest: bytes, what: str, least: int) -> list[float]:
    words = rest.split(b"#", 1)[0].split()
    try:
        values = [float(word) for word in words]
    except ValueError:
        raise said.refuse(
            number, f"holds a {what} that is no numbers: {_text(rest)[:40]}"
        ) from None
    if len(values) < least:
        raise said.refuse(number, f"holds a {what} of {len(values)} numbers instead of {least}")
    return values


def _take_face(said: _Lines, number: int, rest: bytes) -> None:
    words = rest.split(b"#", 1)[0].split()
    if len(words) < 3:
        return  # a face of two corners is a line
    count, places = len(said.points) // 3, len(said.places) // 2
    for word in words:
        parts = word.split(b"/")
        try:
            corner = int(parts[0])
            place = int(parts[1]) if len(parts) > 1 and parts[1] else 0
        except ValueError:
            raise said.refuse(
                number, f"names a corner that is no number: {_text(word)[:40]}"
            ) from None
        if corner == 0 or not -count <= corner <= _MOST_POINTS:
            reason = f"names corner {corner}, but has {count} of them, counted from 1"
            raise said.refuse(number, reason)
        said.corners.append(corner - 1 if corner > 0 else count + corner)
        known = -places <= place <= _MOST_POINTS  # those that never come are left out later
        said.places_of.append((place - 1 if place >= 0 else places + place) if known else -1)
    said.sizes.append(len(words))
    said.lines.append(number)
    said.paints.append(said.paint)


def _check_corners(said: _Lines) -> None:
    """Corners may be named before they come, so they are counted at the end."""
    corners = np.array(said.corners, np.int64)
    count = len(said.points) // 3
    beyond = np.flatnonzero(corners >= count)
    if len(beyond):
        face = int(np.searchsorted(np.cumsum(said.sizes), beyond[0], side="right"))
        reason = f"names corner {corners[beyond[0]] + 1}, but has {count} of them"
        raise said.refuse(said.lines[face], reason)


def _text(words: bytes) -> str:
    """A name in whatever encoding: what is no UTF-8 is Latin-1."""
    try:
        return words.decode("utf-8").strip()
    except UnicodeDecodeError:
        return words.decode("latin-1").strip()


# --- colours ------------------------------------------------------------------------------


@dataclass
class _Paint:
    rgb: tuple[int, int, int] = STONE
    picture: str = ""


def _colours(
    said: _Lines, path: Path, corners: NDArray[np.intp], sizes: NDArray[np.intp]
) -> NDArray[np.uint8]:
    """(n, 3) of each polygon: the colours of its corners, else its material's."""
    if said.colours and len(said.colours) == len(said.points):
        own = np.array(said.colours).reshape(-1, 3)
        own = own * (255.0 if own.max() <= 1.0 else 1.0)
        mean = mean_of_corners(own, corners, sizes)
        return np.rint(np.nan_to_num(mean).clip(0, 255)).astype(np.uint8)
    beside = Beside(path)
    known = _paints(said.libraries, beside)
    paints = [known.get(name, _Paint()) for name in said.names]
    of_face = np.array(said.paints, np.intp)
    rgb = np.array([paint.rgb for paint in paints], np.uint8)[of_face].reshape(-1, 3)
    if said.places:
        for number, paint in enumerate(paints):
            mine = np.flatnonzero(of_face == number)
            if paint.picture and len(mine):
                _paint_in_place(rgb, mine, said, sizes, paint.picture, beside)
    return rgb


def _paint_in_place(
    rgb: NDArray[np.uint8],
    faces: NDArray[np.intp],
    said: _Lines,
    sizes: NDArray[np.intp],
    picture: str,
    beside: Beside,
) -> None:
    """Colour faces from a picture, where they say where in it they lie and it can be read."""
    places = np.array(said.places, np.float64).reshape(-1, 2)
    named = np.array(said.places_of, np.intp)
    sound = np.minimum.reduceat((named >= 0) & (named < len(places)), np.cumsum(sizes) - sizes)
    faces = faces[sound[faces]]
    try:
        with Image.open(io.BytesIO(beside.get(picture))) as image:
            middle = mean_of_corners(places, named.clip(0, len(places) - 1), sizes)
            rgb[faces] = sampled(image, middle[faces])
    except (BadFile, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return  # the material's plain colour stays; a picture is not worth refusing a mesh for


def _paints(libraries: list[str], beside: Beside) -> dict[str, _Paint]:
    """The materials of the files that are there; a missing one leaves its faces stone grey."""
    found: dict[str, _Paint] = {}
    for line in libraries:
        data = _library(line, beside)
        paint = _Paint()
        for text in data.splitlines():
            words = text.strip().split(None, 1)
            if len(words) < 2:
                continue
            word, rest = words[0].lower(), words[1]
            if word == b"newmtl":
                paint = found.setdefault(_text(rest), _Paint())
            elif word == b"kd":
                paint.rgb = _kd(rest)
            elif word == b"map_kd":
                paint.picture = _without_options(_text(rest))
    return found


def _library(line: str, beside: Beside) -> bytes:
    """The file of a line, whose name may hold spaces, or the several files it names."""
    try:
        return beside.get(line)
    except BadFile:
        parts = []
        for name in line.split() if " " in line else ():
            try:
                parts.append(beside.get(name))
            except BadFile:
                continue
        return b"\n".join(parts)


def _kd(rest: bytes) -> tuple[int, int, int]:
    try:
        values = np.array([float(word) for word in rest.split()[:3]])
    except ValueError:
        return STONE
    if len(values) != 3 or not np.isfinite(values).all():
        return STONE
    r, g, b = np.rint(values.clip(0, 1) * 255).astype(int).tolist()
    return r, g, b


def _without_options(text: str) -> str:
    """The name of a picture behind options such as `-s 1 1 1 -clamp on`."""
    words = text.split(" ")
    while words and words[0].startswith("-"):
        words = words[1:]
        while len(words) > 1 and (_is_number(words[0]) or words[0] in ("on", "off", "")):
            words = words[1:]
    return " ".join(words)


def _is_number(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True
