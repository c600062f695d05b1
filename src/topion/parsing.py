"""Sizes as people type them."""

from __future__ import annotations

import re

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
