"""A variance bar in a terminal's row: to the right of zero for a rise, to the left for a fall."""

from __future__ import annotations

from decimal import Decimal

from marvex.core.values import dataclass

FULL = "█"
LEFT_PARTS = ("", "▏", "▎", "▍", "▌", "▋", "▊", "▉")  # eighths of a cell, filled from the left
RIGHT_HALF = "▐"
AXIS = "│"


@dataclass(frozen=True, slots=True, kw_only=True)
class VarianceBar:
    """A change drawn on a scale that all rows share.

    Parameters
    ----------
    change : the row's change; None or zero draws the axis alone.
    lowest, highest : the ends of the scale, with zero between them or at one of them.
    width : cells for the bar and its axis.
    """

    change: Decimal | None
    lowest: Decimal
    highest: Decimal
    width: int = 20

    def __str__(self) -> str:
        left = self._cells_left_of_zero()
        right = self.width - 1 - left
        if not self.change:
            return " " * left + AXIS + " " * right
        if self.change > 0:
            return " " * left + AXIS + self._rise(right).ljust(right)
        return self._fall(left).rjust(left) + AXIS + " " * right

    def _cells_left_of_zero(self) -> int:
        span = self.highest - self.lowest
        if not span or self.lowest >= 0:
            return 0
        return (
            max(1, min(self.width - 2, round((self.width - 1) * -self.lowest / span)))
            if self.highest > 0
            else (self.width - 1)
        )

    def _rise(self, room: int) -> str:
        assert self.change is not None
        eighths = max(1, round(room * 8 * self.change / self.highest))
        return FULL * (eighths // 8) + LEFT_PARTS[eighths % 8]

    def _fall(self, room: int) -> str:
        assert self.change is not None
        halves = max(1, round(room * 2 * self.change / self.lowest))
        return RIGHT_HALF * (halves % 2) + FULL * (halves // 2)
