"""How rows become one figure, and whether such figures add up."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal
from enum import Enum
from fractions import Fraction
from functools import lru_cache

from marvex.core.compare.side import Span
from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.exact import Rounded
from marvex.core.values import dataclass

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
    holidays : the country whose public holidays are no working days: GB, or a part of it: GB-SCT.
    is_each : of balances, each category's own last date in the last period counts, not one date for all.
    """

    way: Total = Total.SUM
    column: str | None = None
    per: str | None = None
    per_day: PerDay | None = None
    holidays: str | None = None
    is_each: bool = False

    @property
    def is_divided(self) -> bool:
        return self.per is not None or self.per_day is not None

    @property
    def adds_rows(self) -> bool:
        """Whether rows are added up, those of one date at least, whatever that is then divided by."""
        return self.way in (Total.SUM, Total.COUNT, Total.CLOSING)

    @property
    def adds_up(self) -> bool:
        """Whether the figures of categories add up to that of all of them."""
        return self.adds_rows and not self.is_divided

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
            days = span.days if self.per_day is PerDay.CALENDAR else working_days(span, self.holidays)
            return _divided(amount, Fraction(days)) if days else None
        return amount


def parse_total_as(
    text: str | None, per: str | None = None, per_day: str | None = None, holidays: str | None = None
) -> TotalAs:
    """`sum`, which is also what is said by nothing, `mean`, …, or `distinct:COL`.

    Raises Mistake for anything else, or where two contradict.

    >>> parse_total_as("distinct:ticket").column
    'ticket'
    """
    word, _, column = (text or Total.SUM.value).partition(":")
    ways = {way.value: way for way in Total}
    is_each = (word, column) == (Total.CLOSING.value, EACH)
    if word not in ways or (bool(column) != (word == "distinct") and not is_each):
        known = [*(name for name in ways if name != "distinct"), "distinct:COL", "closing:each"]
        raise Mistake(
            f"{setting('total_as')}: there is no '{text}'",
            did_you_mean(text or "", known, f"There are {', '.join(known)}."),
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
    return TotalAs(
        way=way,
        column=column or None,
        per=per,
        per_day=PerDay(per_day) if per_day else None,
        holidays=_country(per_day, holidays),
    )


def _country(per_day: str | None, holidays: str | None) -> str | None:
    """The country of the holidays, once it is known that there is such a one."""
    if holidays is None:
        return None
    if per_day != PerDay.WORKING.value:
        raise Mistake(
            f"{setting('holidays')} is about working days", f"Say {setting('per_day', 'working')}, or leave it out."
        )
    holidays_of(holidays, 2026)
    return holidays.upper()


# Each cell asks: with it a table by day and route took 4.1 s, without it 4.7 (means of three).
@lru_cache(maxsize=256)
def holidays_of(country: str, year: int) -> tuple[date, ...]:
    """The public holidays of a country, or of a part of one, in a year; raises Mistake where it is not known."""
    import holidays as known  # it knows hundreds of countries, and takes a while to load

    name, _, part = country.upper().partition("-")
    try:
        return tuple(known.country_holidays(name, subdiv=part or None, years=year))
    except NotImplementedError as problem:
        raise Mistake(
            f"{setting('holidays')}: there is no country, or part of one, '{country}'",
            "Write its code of two letters: GB, or GB-SCT.",
        ) from problem


def working_days(span: Span, country: str | None = None) -> int:
    """The days from Monday to Friday in a span that are no public holidays of a country, where one is named.

    >>> from datetime import date
    >>> from marvex.core.compare.side import Stretch
    >>> working_days(Span((Stretch(None, date(2026, 10, 1), date(2026, 10, 31)),)))
    22
    """
    import numpy as np  # only what is asked for by working day waits for it

    days = 0
    for one in span.stretches:
        if one.first and one.last:
            years = range(one.first.year, one.last.year + 1)
            closed = [day for year in years for day in holidays_of(country, year)] if country else []
            days += int(np.busday_count(one.first, one.last + timedelta(days=1), holidays=closed))
    return days


def _divided(amount: Decimal, by: Fraction) -> Decimal:
    """The quotient, shown with six decimals more than the amount has, half even."""
    decimals = max(0, -int(amount.as_tuple().exponent))
    return Rounded.of(Fraction(amount) / by, decimals + MEAN_DECIMALS)
