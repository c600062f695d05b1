"""What long work says of itself, and where it is asked to stop; nothing where nobody listens."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Step = Callable[[str], None]  # says what is being done; may raise to stop it
_heard: ContextVar[Step] = ContextVar("step", default=lambda _: None)


def step(what: str) -> None:
    """Say what is being done; raises what the listener raises to stop it."""
    _heard.get()(what)


@contextmanager
def heard_by(listener: Step) -> Iterator[None]:
    """While it lasts, `step` is heard by that, on this thread."""
    token = _heard.set(listener)
    try:
        yield
    finally:
        _heard.reset(token)
