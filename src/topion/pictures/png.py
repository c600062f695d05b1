"""PNG files to pictures and back.

The header is read by hand first, so that a hostile size is refused before anything is
unpacked; unpacking itself is Pillow's.
"""

from __future__ import annotations

import base64
import binascii
import io
import os
import stat
import struct
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFile

from topion.errors import BadFile
from topion.grid.arrays import Rgba
from topion.model.picture import Picture
from topion.model.plain import CODECS, Codec

_NOTE = b"tpCf"  # a chunk of ours, which others leave alone
_LAST = 12  # bytes of the chunk that ends a file
_GREY = 0  # the kind of colour in the header
_SIGNATURE = b"\x89PNG\r\n\x1a\n"
LONGEST_SIDE_PX = 16_384
MOST_PX = 1 << 26
MOST_BYTES = 1 << 28
Image.MAX_IMAGE_PIXELS = None  # our own limit, checked in `png_size`, is far stricter
ImageFile.LOAD_TRUNCATED_IMAGES = False


def png_size(data: bytes, file: object = "the picture") -> tuple[int, int]:
    """(height, width) in px from the header alone.  Raises BadFile if it is not sound."""
    if len(data) < 33 or not data.startswith(_SIGNATURE):
        reason = "is empty" if not data else "is not a PNG picture"
        raise BadFile(file, reason)
    length, tag = struct.unpack(">I4s", data[8:16])
    if tag != b"IHDR" or length != 13:
        raise BadFile(file, "is not a sound PNG picture: the header is missing", "byte 8")
    if binascii.crc32(data[12:29]) != struct.unpack(">I", data[29:33])[0]:
        raise BadFile(file, "is damaged: the checksum of its header does not fit", "byte 29")
    width, height = struct.unpack(">II", data[16:24])
    if not width or not height:
        raise BadFile(file, f"declares {width} × {height} px", "byte 16")
    if max(width, height) > LONGEST_SIDE_PX or width * height > MOST_PX:
        raise BadFile(
            file,
            f"declares {width} × {height} px, more than the {LONGEST_SIDE_PX} px a side "
            f"or {MOST_PX >> 20} million px in all that are read",
        )
    return int(height), int(width)


def read_png(data: bytes, file: object = "the picture") -> Picture:
    """Decode any PNG (grey, palette, RGB, RGBA, 1 to 16 bits).  Raises BadFile."""
    png_size(data, file)
    try:
        with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
            image.load()
            rgba = _to_rgba(image, depth=data[24])
    except MemoryError:
        raise BadFile(file, "needs more memory than there is") from None
    except Exception:  # a decoder may raise anything
        raise _damage(file, data) from None
    return Picture(rgba, data)


def read_grey(data: bytes, file: object = "the picture") -> NDArray[np.float64]:
    """(h, w) how light a PNG is, 0 to 1, in all the steps it has: 65,536 of one with 16 bits.

    Clear pixels are dark.  Raises BadFile.
    """
    rgba = read_png(data, file).rgba
    if data[24] == 16 and data[25] == _GREY:
        with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
            light = np.asarray(image).astype(np.float64) / 65535
    else:
        light = rgba[..., :3].astype(np.float64).mean(axis=2) / 255
    return light * (rgba[..., 3] / 255.0)


def _to_rgba(image: Image.Image, depth: int) -> Rgba:
    """depth : bits of a sample in the file."""
    key = image.info.get("transparency")
    if isinstance(key, int) and depth < 8 and image.mode == "L":
        # the clear grey is told in samples as the file has them, which were spread to 8 bits
        image.info["transparency"] = key * 255 // ((1 << depth) - 1)
    if isinstance(key, tuple) and depth == 16:
        image.info["transparency"] = tuple(sample >> 8 for sample in key)
    if image.mode.startswith("I") or image.mode == "F":  # 16-bit grey: keep the upper byte
        grey = (np.asarray(image).astype(np.uint32) >> 8).clip(0, 255).astype(np.uint8)
        alpha = np.full_like(grey, 255)
        clear = image.info.get("transparency")
        if isinstance(clear, int):
            alpha[np.asarray(image) == clear] = 0
        return np.stack([grey, grey, grey, alpha], axis=-1)
    return np.array(image if image.mode == "RGBA" else image.convert("RGBA"))


def _damage(file: object, data: bytes) -> BadFile:
    """What is wrong with a PNG file that cannot be decoded, in our own words: those of a decoder
    speak of its insides."""
    at = len(_SIGNATURE)
    tag = b""
    while tag != b"IEND":
        if at + 12 > len(data):
            return BadFile(file, "is damaged: it ends too early", f"byte {len(data)}")
        length, tag = struct.unpack(">I4s", data[at : at + 8])
        end = at + 12 + length
        if end > len(data):
            return BadFile(file, "is damaged: it ends too early", f"byte {len(data)}")
        if binascii.crc32(data[at + 4 : end - 4]) != struct.unpack(">I", data[end - 4 : end])[0]:
            return BadFile(file, "is damaged: a checksum does not fit", f"byte {end - 4}")
        at = end
    return BadFile(file, "is damaged: its parts make no picture")


def read_png_file(path: Path) -> Picture:
    """Raises BadFile for a file that is missing, too large or not sound."""
    return read_png(read_bytes(path, MOST_BYTES), path.name)


def read_bytes(path: Path, most: int = MOST_BYTES) -> bytes:
    """The whole file, or BadFile in a plain sentence."""
    try:
        # nobody waits for the other end of a pipe that lies where a file should
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        try:
            about = os.fstat(handle)
            if stat.S_ISDIR(about.st_mode):
                raise BadFile(path.name, "is a folder, not a file")
            if not stat.S_ISREG(about.st_mode):
                raise BadFile(path.name, "is no plain file")
            if about.st_size > most:
                size = about.st_size >> 20
                raise BadFile(path.name, f"is {size} MiB long, more than {most >> 20} MiB")
            with open(handle, "rb", closefd=False) as file:
                return file.read(most)
        finally:
            os.close(handle)
    except FileNotFoundError:
        raise BadFile(path.name, "is missing") from None
    except IsADirectoryError:
        raise BadFile(path.name, "is a folder, not a file") from None
    except OSError as problem:
        raise BadFile(path.name, f"cannot be read: {problem.strerror}") from None
    except ValueError:  # a name that no file can have
        raise BadFile(path.name, "is no name for a file") from None


def read_text(path: Path, most: int = MOST_BYTES) -> str:
    """A file of text.  Raises BadFile for one that is no text."""
    data = read_bytes(path, most)
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError as problem:
        line = data.count(b"\n", 0, problem.start) + 1
        raise BadFile(path.name, "is no text in UTF-8", f"line {line}") from None


def png_bytes(rgba: Rgba) -> bytes:
    """(h, w, 3) or (h, w, 4) uint8 as a PNG file; the same pixels give the same bytes."""
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(rgba)).save(out, "PNG", compress_level=6)
    return out.getvalue()


def with_note(data: bytes, text: str) -> bytes:
    """A PNG file that also holds a text of ours, which no other program shows."""
    plain = _NOTE + text.encode()
    chunk = struct.pack(">I", len(plain) - 4) + plain + struct.pack(">I", binascii.crc32(plain))
    end = _note_at(data)[1] or len(data) - _LAST
    return data[:end] + chunk + data[end:]


def note_of(data: bytes) -> tuple[str, bytes]:
    """(the text of a PNG file, empty where it has none, and the file without it)."""
    text, at = "", 0
    while True:
        at, end = _note_at(data)
        if not end:
            return text, data
        text = data[at + 8 : end - 4].decode(errors="replace")
        data = data[:at] + data[end:]


def _note_at(data: bytes) -> tuple[int, int]:
    """Where the chunk with our text begins and ends; twice 0 where there is none."""
    at = len(_SIGNATURE)
    while at + 12 <= len(data):
        length, tag = struct.unpack(">I4s", data[at : at + 8])
        end = at + 12 + length
        if tag == _NOTE and end <= len(data):
            return at, end
        at = end
    return 0, 0


def picture_of(rgba: Rgba) -> Picture:
    return Picture(rgba, png_bytes(rgba))


def _from_base64(text: object) -> Picture:
    if isinstance(text, Picture):  # it was read from a file of its own
        return text
    try:
        return read_png(base64.b64decode(str(text), validate=True))
    except binascii.Error:
        raise BadFile("the picture", "is not base64 text") from None


CODECS[Picture] = Codec(
    lambda picture: base64.b64encode(picture.png).decode(),
    _from_base64,
    {"type": "string", "contentEncoding": "base64", "contentMediaType": "image/png"},
)
