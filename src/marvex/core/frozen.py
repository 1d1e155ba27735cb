"""Frozen dataclasses, quick to make: what everything with a name is here.

`dataclass` writes six functions for each class and compiles them whenever a command starts, which took a third
of all loading. How values are compared, hashed and shown is the same for all of them, and stands here once.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from operator import attrgetter
from typing import TypeVar, dataclass_transform

T = TypeVar("T")


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def frozen(cls: type[T]) -> type[T]:
    """The class as `@dataclass(frozen=True, slots=True)` makes it.

    >>> @frozen
    ... class Quay:
    ...     name: str
    ...     berths: int = 1
    >>> Quay("Merle")
    Quay(name='Merle', berths=1)
    >>> Quay("Merle") == Quay("Merle", 1), len({Quay("Merle"), Quay("Merle")})
    (True, 1)
    """
    made = dataclass(frozen=True, slots=True, eq=False, repr=False)(cls)
    values = attrgetter(*(one.name for one in fields(made)))  # type: ignore[arg-type]

    def same(self: T, other: object) -> bool:
        return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

    made.__eq__ = same  # type: ignore[method-assign, assignment]
    made.__hash__ = lambda self: hash(values(self))  # type: ignore[method-assign]
    made.__repr__ = _shown  # type: ignore[method-assign]
    return made


def _shown(self: T) -> str:
    said = ", ".join(f"{one.name}={getattr(self, one.name)!r}" for one in fields(self))  # type: ignore[arg-type]
    return f"{type(self).__qualname__}({said})"
