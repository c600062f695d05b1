"""Bytes of a text file as text, whatever machine wrote them."""

from __future__ import annotations

import codecs
import unicodedata

from topion.errors import BadFile
from topion.model.legend import Encoding

MOST_TEXT = 1 << 26  # bytes of one file
_MARKED = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"),
           (codecs.BOM_UTF16_BE, "utf-16-be"))  # fmt: skip
_JOINER = "\u200d"
_FIRST_JOINED = "\u0300"  # no letter before it joins the one before


def decoded(data: bytes, file: str, encoding: Encoding = "auto") -> tuple[str, str]:
    """(text with `\\n` at the ends of lines, the encoding it was read in).

    By itself a text is UTF-8, or what its mark at the front says; what is neither is Latin-1.
    Raises BadFile for what is no text, and for what is not in the encoding asked for.
    """
    if len(data) > MOST_TEXT:
        most = f"more than the {MOST_TEXT >> 20} million that are read as text"
        raise BadFile(file, f"has {len(data):,} bytes, {most}")
    text, known = _in_encoding(data, file, encoding)
    if "\0" in text:
        at = text.index("\0")
        raise BadFile(
            file, "is no text: it holds zero bytes", f"line {text.count(chr(10), 0, at) + 1}"
        )
    return text.replace("\r\n", "\n").replace("\r", "\n"), known


def _in_encoding(data: bytes, file: str, encoding: Encoding) -> tuple[str, str]:
    if encoding == "latin-1":
        return data.decode("latin-1"), "latin-1"
    mark, known = next((pair for pair in _MARKED if data.startswith(pair[0])), (b"", "utf-8"))
    try:
        return data[len(mark) :].decode(known), known
    except UnicodeDecodeError as problem:
        if encoding == "auto" and known == "utf-8":
            return data.decode("latin-1"), "latin-1"
        line = data[: problem.start].count(b"\n") + 1
        raise BadFile(file, f"is not {known.upper()} text", f"line {line}") from None


def signs_of(line: str) -> list[str]:
    """The signs of a line: letters with the marks that belong to them, wide ones too, are one."""
    if not line or max(line) < _FIRST_JOINED:
        return list(line)
    signs: list[str] = []
    for letter in line:
        if signs and (_belongs(letter) or signs[-1].endswith(_JOINER)):
            signs[-1] += letter
        else:
            signs.append(letter)
    return signs


def _belongs(letter: str) -> bool:
    """Whether a letter is drawn on the one before it."""
    return (
        letter == _JOINER
        or unicodedata.combining(letter) > 0
        or unicodedata.category(letter) in ("Mn", "Me", "Mc")
        or "\U0001f3fb" <= letter <= "\U0001f3ff"
    )
