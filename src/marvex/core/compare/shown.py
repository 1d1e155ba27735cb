"""What a view or table shows of an analysis: its points as rows, its bands, its checks.

The same value becomes `--figures`, the legend and the alternative text, so they cannot disagree.
"""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis, Check
from marvex.core.rules.bands import WHERE_MET, Band
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ShownPoint:
    """A judged point in its place: which comparison it is of, and where it stands in a waterfall."""

    judged: Judged
    comparison: int = 0
    start: Decimal | None = None
    end: Decimal | None = None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Shown:
    """All points of one picture or table, with the checks that hold for it."""

    view: str
    analysis: Analysis
    points: tuple[ShownPoint, ...]
    checks: tuple[Check, ...]
    unreadable: tuple[str, ...] = ()  # the cautions about what is hard to read
    dropped: tuple[Point, ...] = ()  # those whose label found no room, once for each label
    finding: str = ""  # where it is not that of the comparison

    @property
    def headline(self) -> str:
        """What it finds, in a sentence."""
        return self.finding or self.analysis.finding

    def dropped_by_point(self) -> list[tuple[Point, int]]:
        """The points whose labels were left out, each with how many."""
        counts: dict[tuple[str | None, str], int] = {}
        for point in self.dropped:
            counts[point.panel, point.label] = counts.get((point.panel, point.label), 0) + 1
        first = {(point.panel, point.label): point for point in reversed(self.dropped)}
        return [(first[key], count) for key, count in counts.items()]

    @property
    def takes_amounts_as_changes(self) -> bool:
        """Whether the amounts are the changes, of a base that is not known."""
        return self.view == "variance" and self.analysis.first.comparison.base is None

    @property
    def has_drivers(self) -> bool:
        """Whether what drove the changes was asked for, and is shown as columns."""
        return self.view == "table" and any(one.judged.point.drivers for one in self.points)

    def legend(self) -> tuple[Band, ...]:
        """The bands of every comparison's rule, and those without a condition that were met."""
        met = [one.judged.band for one in self.points]
        found = dict.fromkeys(band for one in self.analysis.comparisons for band in one.rules.legend(met))
        return tuple(sorted(found, key=lambda band: band in WHERE_MET))

    def with_caution(self, caution: str) -> Shown:
        """The same with one more caution, which drawing has brought to light."""
        analysis = replace(self.analysis, cautions=(*self.analysis.cautions, caution))
        return replace(self, analysis=analysis)

    def met(self, band: Band) -> int:
        """How many points, totals aside, fall in a band."""
        return sum(1 for one in self.points if one.judged.band == band and _counts(one))

    @property
    def meets_gate(self) -> bool:
        """Whether a band that fails was met, or, where that is a gate, something was restated."""
        since = self.analysis.since
        return bool(self.failing) or (self.analysis.since_is_gate and since is not None and since.has_changed)

    @property
    def failing(self) -> tuple[str, ...]:
        """The names of the bands marked `fails` that a point has met."""
        bands = [one.judged.band for one in self.points if _counts(one)]
        return tuple(dict.fromkeys(band.name for band in bands if band is not None and band.fails))


def shown_table(analysis: Analysis) -> Shown:
    """Every comparison's points, each followed by its total."""
    points = tuple(
        ShownPoint(judged=judged, comparison=place)
        for place, one in enumerate(analysis.comparisons)
        for judged in one.shown
    )
    return Shown(view="table", analysis=analysis, points=points, checks=analysis.checks)


def shown_view(analysis: Analysis, view: str) -> Shown:
    """The points of the first comparison as a picture draws them, without totals."""
    points = tuple(ShownPoint(judged=judged) for judged in drawn_points(analysis))
    return Shown(view=view, analysis=analysis, points=points, checks=analysis.checks)


def drawn_points(analysis: Analysis) -> tuple[Judged, ...]:
    """The points of the first comparison that stand on a scale of amounts: ratio lines do not."""
    return tuple(judged for judged in analysis.first.points if judged.point.kind is not Kind.RATIO)


def _counts(one: ShownPoint) -> bool:
    point = one.judged.point
    return point.kind in (Kind.POINT, Kind.STEP, Kind.LINE) or point.is_cost is not None
