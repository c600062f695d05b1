"""What is derived from a project and kept beside it, each under the owner that makes it."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any, Generic, Protocol, TypeVar

T = TypeVar("T")
_stamps = itertools.count(1)


def fresh_stamp() -> int:
    """A number never given before in this process; equal stamps mean equal contents."""
    return next(_stamps)


class Holder(Protocol):
    """A project or a room: it keeps derived values, and drops them with itself."""

    derived: dict[Kept[Any], tuple[object, Any]]


class Kept(Generic[T]):
    """The owner of one derived value: made when asked for, kept until its stamp changes.

    travels : a frozen copy of the holder has the value, too, as it never changes once it is made.
    """

    def __init__(self, *, travels: bool = False) -> None:
        self.travels = travels

    def of(self, holder: Holder, stamp: object, make: Callable[[], T]) -> T:
        """The value for this stamp, of what the holder holds."""
        found = holder.derived.get(self)
        if found is None or found[0] != stamp:
            found = (stamp, make())
            holder.derived[self] = found
        value: T = found[1]
        return value

    def latest(self, holder: Holder) -> T | None:
        """The value made last, whatever became of the holder since."""
        found = holder.derived.get(self)
        return found[1] if found is not None else None

    def ready(self, holder: Holder, stamp: object) -> T | None:
        """The value, if it is there and as fresh as `stamp`."""
        found = holder.derived.get(self)
        return found[1] if found is not None and found[0] == stamp else None
