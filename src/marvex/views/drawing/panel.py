"""What one plot of a picture is to show."""

from __future__ import annotations

from typing import Generic, TypeVar

from marvex.core.rules.judging import Judged
from marvex.core.structure.walk import Bar
from marvex.core.values import dataclass

# What a view draws: judged points, or a walk's bars.
Drawable = TypeVar("Drawable", Judged, Bar)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Panel(Generic[Drawable]):
    """The points of one plot, with its name and its own small finding where there are several."""

    points: tuple[Drawable, ...]
    name: str = ""
    finding: str = ""
    colour: str | None = None  # of the finding
