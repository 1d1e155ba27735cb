"""Where the scales of a panel end: all panels that share a scale leave the same room beyond it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from marvex.views.drawing.box import Box

Free = tuple[float, float]  # pixels of a panel before the start of a scale, and beyond its end
NEAR = 0.5  # pixels: scales whose ends are so near are the same


@dataclass(frozen=True, slots=True)
class Ends:
    """What the scales of one panel leave free of it, in the order in which they are made.

    Parameters
    ----------
    room : the panel's.
    shared : what all panels leave free, where that is known; each needs that much or less.
    """

    room: Box
    shared: Sequence[Free] = ()
    found: list[Free] = field(default_factory=list)

    def settled(self, start: float, end: float) -> tuple[float, float]:
        """The two pixels between which the next scale lies, which asks for these."""
        before, after = (self.room.left, self.room.right) if end > start else (self.room.bottom, self.room.top)
        way = 1 if end > start else -1
        self.found.append(((start - before) * way, (after - end) * way))
        if not self.shared:
            return start, end
        low, high = self.shared[len(self.found) - 1]
        return before + way * low, after - way * high


def innermost(panels: Sequence[Ends]) -> tuple[Free, ...]:
    """What each scale of every panel has to leave free; nothing where all do so by themselves."""
    found = list(zip(*(one.found for one in panels), strict=True))
    shared = tuple((max(low for low, _ in of_all), max(high for _, high in of_all)) for of_all in found)
    is_alike = all(
        abs(own - least) <= NEAR
        for of_all, free in zip(found, shared, strict=True)
        for one in of_all
        for own, least in zip(one, free, strict=True)
    )
    return () if is_alike else shared
