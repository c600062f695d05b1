"""Facets: protocols that say what some kinds have beside what all have.  A class is asked once."""

from __future__ import annotations

from typing import Any, Protocol


class _AsksOnce(type(Protocol)):  # type: ignore[misc]
    """All objects of a class answer alike, and Python asks each for each name: 50 µs a time."""

    def __instancecheck__(cls, instance: Any) -> bool:
        key = cls, type(instance)
        if (found := _KNOWN.get(key)) is None:
            found = _KNOWN[key] = super().__instancecheck__(instance)
        return found


_KNOWN: dict[tuple[type, type], bool] = {}


class Facet(Protocol, metaclass=_AsksOnce):
    """What the protocols of facets are made after; each is `runtime_checkable` besides."""
