"""From values to pixels along one direction, with zero always within."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from fractions import Fraction

from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """Places the values from `lowest` to `highest` between two pixels; `start` may lie after `end`.

    With a `cut` all between zero and it is left out: zero keeps its place, and the rest of the
    scale begins `stub` pixels from it. No value may then lie between zero and the cut.
    """

    lowest: Decimal
    highest: Decimal
    start: float
    end: float
    cut: Decimal | None = None
    stub: float = 0.0

    def place(self, value: Decimal) -> float:
        if self.cut is None:
            return self.start + self.part(value) * (self.end - self.start)
        zero, far = (self.start, self.end) if self.cut > 0 else (self.end, self.start)
        if not value:
            return zero
        furthest = self.highest if self.cut > 0 else self.lowest
        part = Fraction(value - self.cut) / Fraction(furthest - self.cut)
        begin = zero + (self.stub if far > zero else -self.stub)
        return begin + float(part) * (far - begin)

    def part(self, value: Decimal) -> float:
        """How far along the scale a value lies, from 0 to 1."""
        span = Fraction(self.highest) - Fraction(self.lowest)
        return float((Fraction(value) - Fraction(self.lowest)) / span) if span else 0.0


def reaching(values: Iterable[Decimal]) -> tuple[Decimal, Decimal]:
    """The lowest and highest of the values, zero among them."""
    known = (Decimal(0), *values)
    return min(known), max(known)
