"""File names from names: readable, of bounded length, and never the same for two names."""

from __future__ import annotations

import hashlib
import unicodedata
from urllib.parse import quote, unquote

LONGEST_STEM = 200  # bytes; file systems take 255 with what stands behind
_DIGEST = 16  # letters, behind what was cut off


def stem(name: str) -> str:
    """A file name for any name: letters and digits of all scripts, blanks between them, - and _
    stay, the rest is escaped; what would be too long for a file ends in + and a digest instead."""
    plain = unicodedata.normalize("NFC", name) == name  # two ways to write ä are two names
    inner = name.strip(" ")
    start = name.find(inner) if inner else len(name)
    text = "".join(
        letter if _stays(letter, plain) and start <= at < start + len(inner) else quote(letter, "")
        for at, letter in enumerate(name)
    ).replace(".", "%2E")
    if len(text.encode()) <= LONGEST_STEM:
        return text
    cut = text.encode()[: LONGEST_STEM - _DIGEST - 1].decode(errors="ignore")
    return f"{cut}+{_digest(name)}"


def _stays(letter: str, plain: bool) -> bool:
    if letter.isascii():
        return letter.isalnum() or letter in " -_"
    # letters, the marks that belong to them, and digits
    return plain and unicodedata.category(letter)[0] in "LMN"


def _digest(name: str) -> str:
    return hashlib.sha256(name.encode()).hexdigest()[:_DIGEST]


def unstemmed(text: str) -> str:
    """The name behind a file name; of one that was cut off, what is left of it."""
    return unquote(text.rpartition("+")[0] or text)


def former_stem(text: str) -> str:
    """How the name behind a file name was written by the first versions, which escaped all letters
    but those of ASCII.  Of one that was cut off only its digest is known: `*-DIGEST`."""
    if "+" in text:
        return f"*-{text.rpartition('+')[2]}"
    name = unquote(text)
    former = quote(name, safe=" -_").replace(".", "%2E")
    if len(former) <= LONGEST_STEM:
        return former
    return f"{former[: LONGEST_STEM - _DIGEST - 1]}-{_digest(name)}"
