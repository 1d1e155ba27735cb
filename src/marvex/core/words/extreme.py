"""Why a change is extreme: which of its two sides is the odd one against its own neighbours in time."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.point import Point
from marvex.core.compare.side import Side
from marvex.core.exact import EXACT
from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass
from marvex.core.words.side_names import summed_text
from marvex.core.words.units import NOT_MEANINGFUL, FigureFormat

FAR_OUT = 3  # in usual deviations: beyond that a change is called unusual
EACH_WAY, LEAST_NEIGHBOURS = 4, 4


@dataclass(frozen=True, slots=True)
class _Oddness:
    """One side of a point among the same side of the periods around it."""

    side: Side
    amount: Decimal
    neighbours: tuple[Decimal, ...]
    is_base: bool

    @property
    def median(self) -> Decimal:
        return Decimal(statistics.median(self.neighbours))

    @property
    def is_outside(self) -> bool:
        return not min(self.neighbours) <= self.amount <= max(self.neighbours)

    @property
    def distance(self) -> Fraction:
        """How far it is from their median, in their usual deviation from it."""
        apart = [abs(Fraction(one) - Fraction(self.median)) for one in self.neighbours]
        usual = statistics.median(apart) or max(apart) or Fraction(1)
        return abs(Fraction(self.amount) - Fraction(self.median)) / usual


def most_unusual(points: Sequence[Point]) -> Point | None:
    """The period whose change is furthest from its series' own earlier ones, where any is far out."""
    known = [(abs(one.unusual), one) for one in points if one.is_period and one.unusual is not None]
    far, point = max(known, key=lambda both: both[0], default=(Fraction(0), None))
    return point if far >= FAR_OUT else None


def odd_side(point: Point, fellows: Sequence[Point], figures: FigureFormat) -> str:
    """Which side of an extreme point is the odd one, and the change against its neighbours' median.

    '14 Mar 2025 is the odd one: 3, against 20 to 31 in the days around it. Against their median of
    25 the change is +2 (+8.0%).' Empty where neither side is.

    Parameters
    ----------
    fellows : the points of the same series, in order of time, the point among them.
    """
    odd = [one for one in _sides(point, fellows) if one.is_outside]
    if not odd:
        return ""
    one, figures = max(odd, key=lambda side: side.distance), figures.in_words
    grain = point.pair.period.grain if point.pair else Grain.DAY
    low, high = (figures.headline(end) for end in (min(one.neighbours), max(one.neighbours)))
    usual = f"{low} to {high}" if low != high else low
    text = (
        f"{summed_text(one.side, figures.locale)} is the odd one: {figures.headline(one.amount)}, "
        f"against {usual} in the {grain.plural} around it"
    )
    # The other side is set against what the odd one usually is.
    median = replace(point, base=one.median) if one.is_base else replace(point, current=one.median)
    if median.change is None:
        return f"{text}."
    ratio = figures.ratio(median)
    behind = f" ({ratio})" if ratio != NOT_MEANINGFUL else ""
    return (
        f"{text}. With their median of {figures.headline(one.median)} in its place the change is "
        f"{figures.signed_headline(EXACT.plus(median.change))}{behind}."
    )


def _sides(point: Point, fellows: Sequence[Point]) -> list[_Oddness]:
    own = [one for one in fellows if one.panel == point.panel and one.is_period]
    place = next((place for place, one in enumerate(own) if one.label == point.label), None)
    if place is None or point.pair is None:
        return []
    around = [*own[max(0, place - EACH_WAY) : place], *own[place + 1 : place + 1 + EACH_WAY]]
    found = []
    for is_base, side, amount in ((False, point.pair.current, point.current), (True, point.pair.base, point.base)):
        neighbours = tuple(known for one in around if (known := one.base if is_base else one.current) is not None)
        if side is not None and amount is not None and len(neighbours) >= LEAST_NEIGHBOURS:
            found.append(_Oddness(side, amount, neighbours, is_base))
    return found
