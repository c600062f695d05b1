"""PNG files written a band of rows at a time.

Source: "Portable Network Graphics (PNG) Specification", W3C, second edition, 2003.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterable, Iterator

import numpy as np

from topion.grid.arrays import Rgba

_LEVEL = 6
_RGBA, _BITS = 6, 8
_UNFILTERED = 0  # in rows of tiles and faces that repeat, zlib finds more without a filter


def png_parts(height: int, width: int, bands: Iterable[Rgba]) -> Iterator[bytes]:
    """The bytes of a PNG file in parts, from (n, width, 4) uint8 bands that make up `height` rows.

    The same pixels give the same bytes, however they are cut into bands.
    """
    yield b"\x89PNG\r\n\x1a\n"
    yield _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, _BITS, _RGBA, 0, 0, 0))
    packer = zlib.compressobj(_LEVEL)
    for band in bands:
        rows = np.ascontiguousarray(band).reshape(len(band), -1)
        lines = np.empty((len(rows), 1 + rows.shape[1]), np.uint8)
        lines[:, 0] = _UNFILTERED
        lines[:, 1:] = rows
        packed = packer.compress(lines.data)
        if packed:
            yield _chunk(b"IDAT", packed)
    yield _chunk(b"IDAT", packer.flush())
    yield _chunk(b"IEND", b"")


def _chunk(tag: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + tag + data + struct.pack(">I", zlib.crc32(tag + data))
