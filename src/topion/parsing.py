"""Sizes, numbers and paths as people type them."""

from __future__ import annotations

import re
from argparse import ArgumentTypeError
from pathlib import Path

from topion.errors import BadValue


def pair(text: str, what: str) -> tuple[int, int]:
    """`16x24` (width × height) as (height, width).  Raises BadValue."""
    match = re.fullmatch(r"\s*(\d{1,6})\s*[xX×]\s*(\d{1,6})\s*", text)
    if not match:
        raise BadValue(what, text, "two numbers such as 16x16, width first")
    return int(match.group(2)), int(match.group(1))


def sizes(text: str, what: str) -> tuple[int, ...]:
    """`64x40` as (40, 64), and `40x30x24` (width × height × levels) as (24, 30, 40)."""
    if not re.fullmatch(r"\s*\d{1,6}(\s*[xX×]\s*\d{1,6}){1,2}\s*", text):
        raise BadValue(what, text, "two or three numbers such as 64x40, width first")
    width, height, *levels = (int(part) for part in re.split(r"[xX×]", text))
    return (*levels, height, width)


def words_of(text: str) -> tuple[str, ...]:
    """Words with commas between, each once."""
    return tuple(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))


# --- values of the command line; each raises ArgumentTypeError, which argparse tells ------


def number(text: str) -> float:
    """A number of the command line."""
    try:
        return float(text)
    except ValueError:
        raise ArgumentTypeError(f"must be a number, not {text[:40]!r}") from None


def whole(text: str) -> int:
    """A whole number of the command line."""
    try:
        return int(text)
    except ValueError:
        raise ArgumentTypeError(f"must be a whole number, not {text[:40]!r}") from None


def place(text: str) -> Path:
    """A path of the command line."""
    if "\0" in text or not text:
        raise ArgumentTypeError(f"{text[:40]!r} is no name for a file")
    return Path(text)
