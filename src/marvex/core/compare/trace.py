"""What stands behind one figure: both sides, the working, the band, and the largest rows."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Kind, Point
from marvex.core.compare.side import Side
from marvex.core.errors import Mistake, did_you_mean, listed, setting

if TYPE_CHECKING:
    from marvex.core.compare.result import Analysis
    from marvex.core.rules.bands import Band
    from marvex.core.rules.judging import Judged


@dataclass(frozen=True, slots=True, kw_only=True)
class TracedRow:
    """One row that went into a figure: where it is, its amount as it counted, and its cells."""

    place: str
    amount: Decimal
    headings: tuple[str, ...]
    cells: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TracedSide:
    """One side of the figure: how much, from how many rows, and the largest of them."""

    side: Side
    amount: Decimal | None
    rows: int
    largest: tuple[TracedRow, ...]


@dataclass(frozen=True, slots=True)
class Trace:
    """All that stands behind one figure."""

    judged: Judged
    current: TracedSide
    base: TracedSide | None

    @property
    def point(self) -> Point:
        return self.judged.point

    @property
    def band(self) -> Band | None:
        return self.judged.band


def judged_at(analysis: Analysis, label: str, field: str = "at") -> Judged:
    """The point so named, or the total; raises Mistake with the nearest name.

    Case does not matter where only one name fits.
    """
    points = analysis.first.shown
    exact = [judged for judged in points if _name(judged.point) == label]
    alike = exact or [judged for judged in points if _name(judged.point).casefold() == label.casefold()]
    if len(alike) == 1 or (alike and exact):
        return alike[0]
    names = [_name(judged.point) for judged in points]
    raise Mistake(
        f"{setting(field)}: there is no '{label}'", did_you_mean(label, names, f"There are {listed(names, 6)}.")
    )


def _name(point: Point) -> str:
    """What `--at` calls a point: `CATEGORY`, `PERIOD` or `CATEGORY@PERIOD`."""
    if point.panel is None:
        return point.label
    return point.panel if point.kind is Kind.TOTAL else f"{point.panel}@{point.label}"
