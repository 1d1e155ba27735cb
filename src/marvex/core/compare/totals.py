"""How rows become one figure, and whether such figures add up."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.compare.side import Span
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.exact import Rounded

EACH = "each"
MEAN_DECIMALS = 6  # beyond those of the amounts


class Total(Enum):
    """The ways in which rows become one figure."""

    SUM = "sum"
    MEAN = "mean"
    COUNT = "count"
    DISTINCT = "distinct"
    CLOSING = "closing"
    HIGHEST = "highest"
    LOWEST = "lowest"


class PerDay(Enum):
    """Which days a figure is divided by: all, or those from Monday to Friday."""

    CALENDAR = "calendar"
    WORKING = "working"


@dataclass(frozen=True, slots=True, kw_only=True)
class TotalAs:
    """A way, and what the figure is then divided by.

    Parameters
    ----------
    column : for a distinct count, whose values are counted.
    per : the column that the amount is divided by, totals over totals.
    per_day : the days that the amount is divided by.
    is_each : of balances, each category's own last date in the last period counts, not one date for all.
    """

    way: Total = Total.SUM
    column: str | None = None
    per: str | None = None
    per_day: PerDay | None = None
    is_each: bool = False

    @property
    def is_divided(self) -> bool:
        return self.per is not None or self.per_day is not None

    @property
    def adds_up(self) -> bool:
        """Whether the figures of categories add up to that of all of them."""
        return self.way in (Total.SUM, Total.COUNT, Total.CLOSING) and not self.is_divided

    @property
    def adds_up_over_time(self) -> bool:
        """Whether the figures of periods add up to that of all of them: a balance does not."""
        return self.adds_up and self.way is not Total.CLOSING

    @property
    def needs_amounts(self) -> bool:
        return self.way not in (Total.COUNT, Total.DISTINCT)

    @property
    def spoken(self) -> str:
        """The way within a sentence: 'a mean', 'a distinct count'."""
        if self.is_divided:
            return "a rate"
        words = {Total.DISTINCT: "a distinct count", Total.HIGHEST: "the highest", Total.LOWEST: "the lowest"}
        return words.get(self.way, f"a {self.way.value}")

    def figure(self, amount: Decimal, divisor: Decimal | None, rows: int, span: Span) -> Decimal | None:
        """The figure of a span from what its rows come to; None where it would be divided by nothing.

        Parameters
        ----------
        divisor : the sum of the column `per`.
        rows : how many amounts there are.

        >>> TotalAs(per="hours").figure(Decimal(10), Decimal(4), 3, Span(()))
        Decimal('2.500000')
        """
        if self.way is Total.MEAN:
            return _divided(amount, Fraction(rows))
        if self.per is not None:
            return _divided(amount, Fraction(divisor)) if divisor else None
        if self.per_day is not None:
            days = span.days if self.per_day is PerDay.CALENDAR else working_days(span)
            return _divided(amount, Fraction(days)) if days else None
        return amount


def parse_total_as(text: str, per: str | None = None, per_day: str | None = None) -> TotalAs:
    """`sum`, `mean`, …, or `distinct:COL`; raises Mistake for anything else, or where two contradict.

    >>> parse_total_as("distinct:ticket").column
    'ticket'
    """
    word, _, column = text.partition(":")
    ways = {way.value: way for way in Total}
    is_each = (word, column) == (Total.CLOSING.value, EACH)
    if word not in ways or (bool(column) != (word == "distinct") and not is_each):
        known = [*(name for name in ways if name != "distinct"), "distinct:COL", "closing:each"]
        raise Mistake(
            f"{setting('total_as')}: there is no '{text}'",
            did_you_mean(text, known, f"There are {', '.join(known)}."),
        )
    way = ways[word]
    if per is not None and per_day is not None:
        raise Mistake(f"{setting('per')} and {setting('per_day')} exclude one another", "Use one of them.")
    if per is not None and way is not Total.SUM:
        raise Mistake(
            f"{setting('per')} divides sums, and {setting('total_as')} {word} is none",
            f"Leave {setting('total_as')} out.",
        )
    if per_day is not None and way not in (Total.SUM, Total.COUNT, Total.DISTINCT):
        raise Mistake(
            f"{setting('per_day')} divides what days add to, and {setting('total_as')} {word} is none",
            "Leave one of them out.",
        )
    if is_each:
        return TotalAs(way=way, is_each=True)
    return TotalAs(way=way, column=column or None, per=per, per_day=PerDay(per_day) if per_day else None)


def working_days(span: Span) -> int:
    """The days from Monday to Friday in a span; public holidays are not known.

    >>> from datetime import date
    >>> from marvex.core.compare.side import Stretch
    >>> working_days(Span((Stretch(None, date(2026, 10, 1), date(2026, 10, 31)),)))
    22
    """
    import numpy as np  # only what is asked for by working day waits for it

    return sum(
        int(np.busday_count(one.first, one.last)) + (one.last.weekday() < 5)
        for one in span.stretches
        if one.first and one.last
    )


def _divided(amount: Decimal, by: Fraction) -> Decimal:
    """The quotient, shown with six decimals more than the amount has, half even."""
    decimals = max(0, -int(amount.as_tuple().exponent))
    return Rounded.of(Fraction(amount) / by, decimals + MEAN_DECIMALS)
