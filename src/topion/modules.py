"""Finding what the modules of one folder define, so that a new one needs no list to be named in."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")


def modules_in(package: str) -> list[str]:
    """The names of the modules of a package, in the order of the alphabet."""
    found = importlib.import_module(package)
    return [f"{package}.{info.name}" for info in pkgutil.iter_modules(found.__path__)]


def classes_in(package: str, base: Callable[..., T]) -> tuple[type[T], ...]:
    """Every class that a module of the package defines after `base`, if nothing in it is left
    to be defined."""
    kind: Any = base  # typed so that an abstract class can be given
    found = []
    for name in modules_in(package):
        for value in vars(importlib.import_module(name)).values():
            own = inspect.isclass(value) and value.__module__ == name
            if own and issubclass(value, kind) and not inspect.isabstract(value):
                found.append(value)
    return tuple(found)
