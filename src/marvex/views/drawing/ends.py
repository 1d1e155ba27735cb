"""Where the scales of a panel end: all panels that share a scale leave the same room beyond it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field

from marvex.core.values import dataclass
from marvex.views.drawing.box import Box

Free = tuple[float, float]  # pixels of a panel before the start of a scale, and beyond its end
NEAR = 0.5  # pixels: scales whose ends are so near are the same


@dataclass(frozen=True, slots=True)
class Ends:
    """What the scales of one panel leave free of it, by the name of each.

    Parameters
    ----------
    room : the panel's.
    shared : what all panels leave free, where that is known; each needs that much or less.
    """

    room: Box
    shared: Mapping[str, Free] = field(default_factory=dict)
    found: dict[str, Free] = field(default_factory=dict)

    def settled(self, name: str, start: float, end: float) -> tuple[float, float]:
        """The two pixels between which a scale lies that asks for these."""
        before, after = (self.room.left, self.room.right) if end > start else (self.room.bottom, self.room.top)
        way = 1 if end > start else -1
        self.found[name] = ((start - before) * way, (after - end) * way)
        if name not in self.shared:
            return start, end
        low, high = self.shared[name]
        return before + way * low, after - way * high


def innermost(panels: Sequence[Ends]) -> dict[str, Free]:
    """What each scale has to leave free in every panel that has it."""
    of_all: dict[str, list[Free]] = {}
    for panel in panels:
        for name, own in panel.found.items():
            of_all.setdefault(name, []).append(own)
    return {name: (max(low for low, _ in own), max(high for _, high in own)) for name, own in of_all.items()}


def are_apart(panels: Sequence[Ends], shared: Mapping[str, Free]) -> bool:
    """Whether a panel by itself leaves less free than all of them have to."""
    return any(
        max(shared[name][0] - low, shared[name][1] - high) > NEAR
        for panel in panels
        for name, (low, high) in panel.found.items()
    )
