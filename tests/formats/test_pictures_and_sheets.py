"""Any sound PNG comes in; hostile ones are refused in a sentence before memory is taken."""

import binascii
import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image

from tests.rooms import sheet_picture
from topion.errors import BadFile, BadValue
from topion.formats.sheet import bring_in, count_slots, propose_cut, tileset_from
from topion.model.tileset import Cut, TileSet
from topion.pictures.png import picture_of, png_bytes, png_size, read_png


def png_of(mode, array, **more):
    out = io.BytesIO()
    image = Image.fromarray(array) if mode == "auto" else Image.fromarray(array).convert(mode)
    image.save(out, "PNG", **more)
    return out.getvalue()


def chunk(tag, data):
    return struct.pack(">I", len(data)) + tag + data + struct.pack(">I", binascii.crc32(tag + data))


def header(width, height, depth=8, colour=6):
    return chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, depth, colour, 0, 0, 0))


SIGNATURE = b"\x89PNG\r\n\x1a\n"
RGBA = np.dstack([np.arange(64, dtype=np.uint8).reshape(8, 8) * 3] * 4)


@pytest.mark.parametrize("mode", ["RGBA", "RGB", "L", "LA", "P", "1"])
def test_every_kind_of_png_is_read(mode):
    picture = read_png(png_of(mode, RGBA))
    expected = np.array(Image.fromarray(RGBA).convert(mode).convert("RGBA"))
    assert np.array_equal(picture.rgba, expected)


def test_sixteen_bit_grey_keeps_its_upper_byte():
    grey = np.arange(64, dtype=np.uint16).reshape(8, 8) * 1000
    assert np.array_equal(read_png(png_of("auto", grey)).rgba[..., 0], grey >> 8)


def test_sixteen_bit_colour_is_read():
    rows = b"".join(
        b"\0" + b"".join(struct.pack(">HHHH", 256 * x, 65535, 0, 65535) for x in range(4))
        for _ in range(2)
    )
    data = SIGNATURE + header(4, 2, 16) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    rgba = read_png(data).rgba
    assert rgba.shape == (2, 4, 4) and rgba[0, 3].tolist() == [3, 255, 0, 255]


def packed_grey(values, depth):
    """One row of grey samples of a few bits each."""
    bits = np.unpackbits(np.array(values, np.uint8)[:, None], axis=1)[:, 8 - depth :]
    return b"\0" + np.packbits(bits.reshape(-1)).tobytes()


@pytest.mark.parametrize("depth", [1, 2, 4, 8])
def test_a_clear_grey_is_told_in_samples_of_the_file(depth):
    values = [n % (1 << depth) for n in range(16)]
    for key in {0, 1, (1 << depth) - 1}:
        parts = [header(16, 1, depth, 0), chunk(b"tRNS", struct.pack(">H", key)),
                 chunk(b"IDAT", zlib.compress(packed_grey(values, depth))), chunk(b"IEND", b"")]  # fmt: skip
        rgba = read_png(SIGNATURE + b"".join(parts)).rgba[0]
        assert rgba[:, 3].tolist() == [0 if v == key else 255 for v in values]
        grey = np.array(values) * 255 // ((1 << depth) - 1)
        assert (rgba[:, 0] == grey)[rgba[:, 3] > 0].all()


@pytest.mark.parametrize(("colour", "pixels"), [(0, [(1000,), (4000,)]),
                                                (2, [(1000, 2000, 3000), (1792, 0, 65535)])])  # fmt: skip
def test_a_clear_colour_of_sixteen_bits_is_told_too(colour, pixels):
    rows = b"\0" + b"".join(struct.pack(f">{len(p)}H", *p) for p in pixels)
    key = struct.pack(f">{len(pixels[1])}H", *pixels[1])
    data = header(2, 1, 16, colour) + chunk(b"tRNS", key) + chunk(b"IDAT", zlib.compress(rows))
    rgba = read_png(SIGNATURE + data + chunk(b"IEND", b"")).rgba
    assert rgba[0, :, 3].tolist() == [255, 0]


def test_the_file_is_kept_to_the_byte():
    data = png_of("P", RGBA)
    assert read_png(data).png == data
    assert np.array_equal(read_png(png_bytes(RGBA)).rgba, RGBA)


GOOD = png_of("RGBA", np.random.default_rng(1).integers(0, 256, (40, 40, 4), np.uint8))


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "is empty"),
        (b"GIF89a" + bytes(60), "is not a PNG"),
        (GOOD[:20], "is not a PNG"),
        (GOOD[: len(GOOD) // 2], "is damaged: it ends too early"),
        (GOOD[:60] + b"\xff\x00" + GOOD[62:], "byte .*: is damaged: a checksum does not fit"),
        (SIGNATURE + header(10, 10) + chunk(b"IDAT", b"none") + chunk(b"IEND", b""),
         "is damaged: its parts make no picture"),
        (SIGNATURE + header(900_000, 10) + GOOD[33:], "declares 900000 × 10 px, more than"),
        (SIGNATURE + header(16_000, 16_000) + GOOD[33:], "declares 16000 × 16000 px, more than"),
        (SIGNATURE + header(0, 10) + GOOD[33:], "declares 0 × 10 px"),
        (GOOD[:18] + b"\x09" + GOOD[19:], "checksum of its header"),
        (SIGNATURE + header(10, 10) + chunk(b"IEND", b""), "sheet.png"),
    ],
)  # fmt: skip
def test_a_broken_picture_is_refused_in_one_sentence(data, message):
    with pytest.raises(BadFile, match=message) as caught:
        read_png(data, "sheet.png")
    assert str(caught.value).startswith("sheet.png") and "\n" not in str(caught.value)


def test_a_hostile_size_is_refused_from_the_header_alone():
    with pytest.raises(BadFile):
        png_size(SIGNATURE + header(2**31 - 1, 2**31 - 1) + bytes(40))


def sheet(tile, margin, spacing, rows=5, columns=7, fill=0):
    height, width = tile
    size = (
        2 * margin + rows * (height + spacing) - spacing,
        2 * margin + columns * (width + spacing) - spacing,
    )
    rgba = np.full((*size, 4), fill, np.uint8)
    rng = np.random.default_rng(3)
    for y in range(rows):
        for x in range(columns):
            top, left = margin + y * (height + spacing), margin + x * (width + spacing)
            rgba[top : top + height, left : left + width, :3] = rng.integers(40, 220, 3)
            rgba[top + 1 : top + height - 1, left + 1 : left + width - 1, :3] += rng.integers(
                0, 30, (height - 2, width - 2, 3), np.uint8
            )
            rgba[top : top + height, left : left + width, 3] = 255
    return rgba


@pytest.mark.parametrize(
    ("tile", "margin", "spacing"),
    [((16, 16), 0, 0), ((16, 16), 1, 2), ((16, 16), 0, 1), ((8, 8), 2, 1), ((32, 32), 0, 0), ((24, 16), 0, 2), ((64, 64), 4, 4)],
)  # fmt: skip
def test_the_cut_is_found_in_the_picture(tile, margin, spacing):
    assert propose_cut(sheet(tile, margin, spacing)) == Cut(tile, margin, spacing)


def test_a_coloured_gutter_is_found_too():
    rgba = sheet((16, 16), 1, 1, fill=255)
    assert propose_cut(rgba) == Cut((16, 16), 1, 1)


def test_empty_slots_are_skipped_and_equal_ones_noticed():
    rgba = sheet((16, 16), 0, 0, 2, 3)
    rgba[16:, :16] = 0
    rgba[16:, 16:32] = rgba[:16, :16]
    count = count_slots(rgba, Cut((16, 16)))
    assert (count.slots, count.empty, count.equal) == (5, 1, 1)
    assert count.first_like[1, 1] == 0
    tileset = TileSet("s", picture_of(rgba), Cut((16, 16)))
    assert "1,0" not in list(tileset.filled_slots()) and len(list(tileset.filled_slots())) == 5
    assert np.array_equal(tileset.pixels((1, 2)), rgba[16:32, 32:48])


def test_margin_and_spacing_are_left_out_of_the_slots():
    rgba = sheet((16, 16), 3, 2)
    tileset = TileSet("s", picture_of(rgba), Cut((16, 16), 3, 2))
    assert tileset.grid_shape == (5, 7) and tileset.filled.all()
    assert np.array_equal(tileset.pixels((1, 2)), rgba[21:37, 39:55])
    assert np.array_equal(tileset.all_pixels()[1, 2], tileset.pixels((1, 2)))


def test_a_sheet_that_shows_no_tiles_or_is_too_small_is_refused(tmp_path):
    path = tmp_path / "odd.png"
    path.write_bytes(png_bytes(np.random.default_rng(1).integers(0, 255, (37, 41, 4), np.uint8)))
    with pytest.raises(BadFile, match="shows no tiles that repeat"):
        bring_in(path, "odd")
    with pytest.raises(BadFile, match="too small for one tile"):
        bring_in(path, "odd", Cut((64, 64)))
    with pytest.raises(BadFile, match="is missing"):
        bring_in(tmp_path / "none.png", "none")


@pytest.mark.parametrize("cut", [((0, 16), 0, 0), ((16, 16), -1, 0), ((16, 16), 0, 9999)])
def test_a_cut_without_sense_is_refused(cut):
    with pytest.raises(BadValue):
        Cut(*cut)


def test_the_test_sheet_is_cut_as_it_was_drawn():
    assert tileset_from(sheet_picture(), "s", Cut((4, 4)), "s.png").grid_shape == (6, 8)
