"""What stands behind one figure: both sides, the working, the band, and the largest rows."""

from __future__ import annotations

from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.compare.side import Side
from marvex.core.values import dataclass

if TYPE_CHECKING:
    from marvex.core.rules.bands import Band
    from marvex.core.rules.judging import Judged


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TracedRow:
    """One row that went into a figure: where it is, its amount as it counted, and its cells."""

    place: str
    amount: Decimal
    headings: tuple[str, ...]
    cells: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TracedSide:
    """One side of the figure: how much, from how many rows, and the largest of them."""

    side: Side
    amount: Decimal | None
    rows: int
    largest: tuple[TracedRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TracedLine:
    """A line of a statement that a total or a ratio is made of, and how it counts in it."""

    label: str
    how: str  # '+', '−', or '÷' for what a ratio divides by
    current: Decimal | None
    base: Decimal | None


@dataclass(frozen=True, slots=True, eq=False)
class Trace:
    """All that stands behind one figure."""

    judged: Judged
    current: TracedSide
    base: TracedSide | None
    lines: tuple[TracedLine, ...] = ()  # of a statement's total or ratio

    @property
    def point(self) -> Point:
        return self.judged.point

    @property
    def band(self) -> Band | None:
        return self.judged.band
