"""A rule tried on data: what each band takes, what lies near a threshold, and what can never be met."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.point import Point
from marvex.core.compare.result import JudgedComparison
from marvex.core.exact import total
from marvex.core.rules.bands import WHERE_MET, Band, NamedRule
from marvex.core.rules.conditions import Measures, Quantity, Value, ValueKind
from marvex.core.rules.judging import Judged, placed
from marvex.core.rules.unreachable import Unmet, never_met
from marvex.core.values import dataclass

NEAR = Fraction(1, 10)  # of a threshold


@dataclass(frozen=True, slots=True, eq=False)
class Taken:
    """What a band takes: how many points, and what they changed by in all."""

    band: Band
    points: int
    change: Decimal


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Near:
    """A point that lies within a tenth of a threshold: how much it has, and where the threshold is."""

    point: Point
    band: Band
    quantity: Quantity
    unit: ValueKind
    has: Fraction
    threshold: Fraction


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TriedRule:
    """One rule of the set with all that was found of it."""

    rule: NamedRule
    bands: tuple[Taken, ...]
    near: tuple[Near, ...]
    never_met: tuple[Unmet, ...]


def tried(one: JudgedComparison) -> tuple[TriedRule, ...]:
    """Every rule of a comparison, tried on the points that it judges."""
    return tuple(_tried(one, rule) for rule in one.rules.rules)


def _tried(one: JudgedComparison, rule: NamedRule) -> TriedRule:
    judged = [point for point in one.points if one.rules.rule_for(point.point) is rule]
    met = {point.band for point in judged}
    bands = (*rule.rule.bands, *(band for band in WHERE_MET if band in met))
    better = one.rules.better or rule.better
    unmet = never_met(rule.rule, better or one.rules.better_for(one.total.point))
    return TriedRule(
        rule=rule,
        bands=tuple(_taken(band, judged) for band in bands),
        near=tuple(_near(one, rule, judged)),
        never_met=unmet,
    )


def _taken(band: Band, judged: list[Judged]) -> Taken:
    inside = [one.point for one in judged if one.band == band]
    # The totals of a statement are judged as well, but would count their lines twice.
    return Taken(band, len(inside), total(point.movement for point in inside if point.is_ranked or point.gathered))


def _near(one: JudgedComparison, rule: NamedRule, judged: list[Judged]) -> list[Near]:
    """The points that lie near a threshold of the rule, each named once a threshold."""
    place_of = dict(placed([point.point for point in one.points]))
    found: dict[tuple[Point, Quantity, ValueKind, Fraction], Near] = {}
    for point in judged:
        place = place_of[point.point]
        measures = one.rules.measures(point.point, place.share, place.rank)
        for band in rule.rule.bands:
            for comparison in band.condition.comparisons() if band.condition else ():
                for value in comparison.values:
                    near = _within_a_tenth(point, band, comparison.left, value, measures)
                    if near is not None:
                        found.setdefault((point.point, near.quantity, near.unit, near.threshold), near)
    return list(found.values())


def _within_a_tenth(point: Judged, band: Band, quantity: Quantity, value: Value, measures: Measures) -> Near | None:
    has = measures.of(quantity, value.unit)
    if has is None or not value.number or quantity is Quantity.RANK:
        return None
    if abs(has - value.number) > NEAR * abs(value.number):
        return None
    return Near(point=point.point, band=band, quantity=quantity, unit=value.unit, has=has, threshold=value.number)
