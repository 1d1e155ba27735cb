"""Points with their bands: the one place where a rule meets a comparison."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import groupby

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.ranking import ShareAndRank, places
from marvex.core.rules.bands import Band, RuleSet
from marvex.core.rules.conditions import Quantity
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True)
class Judged:
    """A point and its band; the band is None where nothing is judged (no base, a standing bar)."""

    point: Point
    band: Band | None


def judged_points(comparison: Comparison, rules: RuleSet) -> tuple[Judged, ...]:
    """Every point of the comparison with its band, in order."""
    return _judged(comparison, comparison.points, rules)


def judged_steps(comparison: Comparison, rules: RuleSet) -> tuple[Judged, ...]:
    """The points as a waterfall's steps: an absent side is judged as though it were zero."""
    steps = tuple(replace(point, kind=Kind.STEP) for point in comparison.points)
    at_zero = tuple(point.as_though_zero() for point in steps)
    judged = _judged(comparison, at_zero, rules)
    return tuple(Judged(step, one.band) for step, one in zip(steps, judged, strict=True))


def judged_total(comparison: Comparison, total: Point, rules: RuleSet) -> Judged:
    """A total with its band; it has neither share nor rank."""
    return Judged(total, None if comparison.base is None else rules.judge(total))


def _judged(comparison: Comparison, points: Sequence[Point], rules: RuleSet) -> tuple[Judged, ...]:
    if comparison.base is None:
        return tuple(Judged(point, None) for point in points)
    return judged_among(points, rules)


def judged_among(points: Sequence[Point], rules: RuleSet) -> tuple[Judged, ...]:
    """Each point with its band, share and rank being among these."""
    if not (rules.asks_for(Quantity.SHARE) or rules.asks_for(Quantity.RANK)):
        return tuple(Judged(point, rules.judge(point)) for point in points)
    return tuple(Judged(point, rules.judge(point, place.share, place.rank)) for point, place in placed(points))


def placed(points: Sequence[Point]) -> Iterator[tuple[Point, ShareAndRank]]:
    """Every point, in order, with its share and rank within its panel."""
    for _, panel in groupby(points, key=lambda point: point.panel):
        fellows = tuple(panel)
        yield from zip(fellows, places(fellows), strict=True)
