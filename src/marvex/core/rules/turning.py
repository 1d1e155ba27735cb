"""Where a point's colour would turn, and what every band that was tried asked of it and found."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.point import Better, Kind, Point
from marvex.core.compare.result import JudgedComparison
from marvex.core.exact import exactly, rounded_ratio
from marvex.core.rules.bands import Band, RuleSet
from marvex.core.rules.conditions import Between, Measures, Quantity, Relation, Value, ValueKind
from marvex.core.rules.judging import placed
from marvex.core.values import dataclass

MOVED = (Quantity.CURRENT, Quantity.CHANGE, Quantity.FAVOURABLE, Quantity.ADVERSE)  # by the current alone
PLACED = (Quantity.SHARE, Quantity.RANK, Quantity.UNUSUAL, Quantity.CONTRIBUTION)  # by others too
NEAR = Fraction(1, 10**9)
PLACES = 6  # decimals of a turning point beyond those of the amounts


def turning_point(rules: RuleSet, point: Point) -> Decimal | None:
    """The current at which the point's band would change, the nearest one, with the base held.

    None where there is none, where the rule asks for nothing but signs, or where a band depends on other points.
    """
    found = rules.rule_for(point)
    if found is None or point.kind is Kind.RATIO or point.current is None or point.base is None or not point.change:
        return None
    conditions = [band.condition for band in found.rule.bands if band.condition is not None]
    asked = [one for condition in conditions for one in condition.comparisons()]
    if any(one.left in PLACED for one in asked) or not any(_has_threshold(one) for one in asked):
        return None
    current, base = exactly(point.current), exactly(point.base)
    measures = rules.measures(point)
    levels = {level for one in asked for level in _levels(one, base, measures.better)}
    turning = [level for level in levels if _turns(found.rule.judge, measures, level, base)]
    nearest = min(turning, key=lambda level: abs(level - current), default=None)
    if nearest is None:
        return None
    decimals = max(0, *(-int(side.as_tuple().exponent) for side in (point.current, point.base)))
    return rounded_ratio(nearest, decimals + PLACES)


def _has_threshold(one: Relation | Between) -> bool:
    return one.left in MOVED and any(value.number for value in one.values)


def _levels(one: Relation | Between, base: Fraction, better: Better) -> Iterator[Fraction]:
    """The currents at which a comparison begins or ends to hold: where its sides are equal, as lines of the current."""
    slope, at_zero = _line(one.left, base, better)
    if isinstance(one, Relation) and not isinstance(one.right, Value):
        other_slope, other = _line(one.right, base, better)
        if slope != other_slope:
            yield (other - at_zero) / (slope - other_slope)
        # What is favourable or adverse is never below nothing.
        yield base
        yield from (-start / rise for rise, start in ((slope, at_zero), (other_slope, other)) if rise)
    for value in one.values if slope else ():
        is_part = value.unit is ValueKind.PERCENT and one.left is not Quantity.CURRENT
        yield ((value.number * abs(base) if is_part else value.number) - at_zero) / slope


def _line(quantity: Quantity, base: Fraction, better: Better) -> tuple[Fraction, Fraction]:
    """A quantity as a line of the current: how it rises with it, and what it is where that is nothing."""
    way = Fraction(1 if better is Better.UP else -1)
    match quantity:
        case Quantity.CURRENT:
            return Fraction(1), Fraction(0)
        case Quantity.CHANGE:
            return Fraction(1), -base
        case Quantity.FAVOURABLE:
            return way, -way * base
        case Quantity.ADVERSE:
            return -way, way * base
    return Fraction(0), base


def _turns(judge: Callable[[Measures], Band], measures: Measures, level: Fraction, base: Fraction) -> bool:
    """Whether the bands on either side of a level differ."""
    near = NEAR * max(Fraction(1), abs(level))
    below, above = (
        judge(replace(measures, current=current, change=current - base)) for current in (level - near, level + near)
    )
    return below is not above


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """One comparison of a band: what was found, and by how much it missed; None where it held, or was absent."""

    comparison: Relation | Between
    unit: ValueKind
    has: Fraction | None
    missed_by: Fraction | None


@dataclass(frozen=True, slots=True)
class TriedBand:
    """A band that was tried on a point, and whether it held."""

    band: Band
    holds: bool
    asked: tuple[Asked, ...]


def tried_bands(one: JudgedComparison, point: Point) -> tuple[TriedBand, ...]:
    """Every band that was tried on a point of the comparison, the last of which holds."""
    found = one.rules.rule_for(point)
    if found is None or point.current is None or point.base is None:
        return ()
    place = next((placing for fellow, placing in placed(one.comparison.points) if fellow.key == point.key), None)
    measures = one.rules.measures(point, *((place.share, place.rank) if place else ()))
    bands: list[TriedBand] = []
    for band in found.rule.bands:
        if band.condition is None:
            continue
        holds = band.condition.holds(measures)
        bands.append(TriedBand(band, holds, tuple(_asked(part, measures) for part in band.condition.comparisons())))
        if holds:
            break
    return tuple(bands)


def _asked(one: Relation | Between, measures: Measures) -> Asked:
    unit = one.values[0].unit if one.values else ValueKind.AMOUNT
    has = measures.of(one.left, unit)
    if has is None or one.holds(measures):
        return Asked(comparison=one, unit=unit, has=has, missed_by=None)
    if isinstance(one, Between):
        limits = [one.low.number, one.high.number]
    else:
        right = one.right.number if isinstance(one.right, Value) else measures.of(one.right, unit)
        limits = [] if right is None else [right]
    return Asked(comparison=one, unit=unit, has=has, missed_by=min((abs(has - one) for one in limits), default=None))
