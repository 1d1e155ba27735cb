"""Grains, and the calendars that cut time into their periods: years of months, and years of weeks.

What a window is, is in `period`; how one is written, in `notation`.
"""

from __future__ import annotations

import calendar
from datetime import date, timedelta
from enum import Enum
from functools import lru_cache
from itertools import accumulate

from marvex.core.values import dataclass

ONE_DAY, A_WEEK = timedelta(days=1), timedelta(days=7)
THURSDAY = timedelta(days=3)  # from the Monday of its week: a week is where its Thursday is
DECEMBER = 12


class Grain(Enum):
    """A length of period, by the number of months in it, where it is made of months."""

    DAY = "day"
    WEEK = "week"
    MONTH = "month"
    QUARTER = "quarter"
    HALF = "half"
    YEAR = "year"

    @property
    def months(self) -> int:
        """Months in a period of this grain; 0 for days and weeks."""
        return _MONTHS.get(self, 0)

    @property
    def is_coarser_than_month(self) -> bool:
        return self.months > 1

    @property
    def plural(self) -> str:
        return "halves" if self is Grain.HALF else f"{self.value}s"


_MONTHS = {Grain.MONTH: 1, Grain.QUARTER: 3, Grain.HALF: 6, Grain.YEAR: 12}
FINEST_FIRST = tuple(Grain)


def coarsest(*grains: Grain) -> Grain:
    return max(grains, key=FINEST_FIRST.index)


def is_finer(one: Grain, other: Grain) -> bool:
    return FINEST_FIRST.index(one) < FINEST_FIRST.index(other)


def month_end(day: date) -> date:
    """The last day of the month that `day` is in."""
    return day.replace(day=calendar.monthrange(day.year, day.month)[1])


def add_months(day: date, months: int) -> date:
    """The same day of the month `months` later, or that month's last day where it has no such day.

    >>> add_months(date(2024, 2, 29), -12)
    datetime.date(2023, 2, 28)
    """
    years, month = divmod(day.month - 1 + months, 12)
    first = date(day.year + years, month + 1, 1)
    return first.replace(day=min(day.day, month_end(first).day))


@dataclass(frozen=True, slots=True)
class PeriodPlace:
    """Which period of its year one is: the year's name, and its number in it from 1."""

    year: int
    number: int


class Calendar:
    """How time is cut into periods; each grain covers every day once."""

    @property
    def is_reporting(self) -> bool:
        """Whether its years are other than the civil ones, so that they are written FY."""
        raise NotImplementedError

    @property
    def weeks_make_years(self) -> bool:
        """Whether every longer period is made of whole weeks."""
        return False

    def start(self, day: date, grain: Grain) -> date:
        """The first day of the period of that grain that holds `day`."""
        raise NotImplementedError

    def end(self, day: date, grain: Grain) -> date:
        """The last day of the period of that grain that holds `day`."""
        raise NotImplementedError

    def place(self, day: date, grain: Grain) -> PeriodPlace:
        """Which period of that grain holds `day`; a year is its own number 1."""
        raise NotImplementedError

    def first_day(self, place: PeriodPlace, grain: Grain) -> date:
        """The first day of the period in that place; raises ValueError where there is none."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class MonthYears(Calendar):
    """Years of twelve months from any month on; weeks run beside them, from Monday on (ISO 8601).

    Parameters
    ----------
    starts : the month in which a year starts.
    named_by_start : a year is named by the year in which it starts, not by that in which it ends.

    >>> MonthYears(starts=7).place(date(2025, 9, 30), Grain.MONTH)
    PeriodPlace(year=2026, number=3)
    """

    starts: int = 1
    named_by_start: bool = False

    @property
    def is_reporting(self) -> bool:
        return self.starts != 1

    def start(self, day: date, grain: Grain) -> date:
        if grain is Grain.DAY:
            return day
        if grain is Grain.WEEK:
            return day - timedelta(days=day.weekday())
        year, month = divmod(day.year * 12 + day.month - 1 - (day.month - self.starts) % grain.months, 12)
        return date(year, month + 1, 1)

    def end(self, day: date, grain: Grain) -> date:
        start = self.start(day, grain)
        if grain is Grain.DAY:
            return start
        if grain is Grain.WEEK:
            return start + 6 * ONE_DAY
        return month_end(add_months(start, grain.months - 1))

    def place(self, day: date, grain: Grain) -> PeriodPlace:
        if grain is Grain.WEEK:
            return PeriodPlace(*day.isocalendar()[:2])
        first = self.start(day, Grain.YEAR)
        if grain is Grain.DAY:
            return PeriodPlace(self._name(first), (day - first).days + 1)
        months = (day.year - first.year) * 12 + day.month - first.month
        return PeriodPlace(self._name(first), months // grain.months + 1)

    def first_day(self, place: PeriodPlace, grain: Grain) -> date:
        if grain is Grain.WEEK:
            return date.fromisocalendar(place.year, place.number, 1)
        first = date(place.year - self._ends_later, self.starts, 1)
        if grain is Grain.DAY:
            return _within_year(first + (place.number - 1) * ONE_DAY, self.end(first, Grain.YEAR))
        if not 1 <= place.number <= 12 // grain.months:
            raise ValueError(f"a year has no {grain.value} {place.number}")
        return add_months(first, (place.number - 1) * grain.months)

    def _name(self, first: date) -> int:
        return first.year + self._ends_later

    @property
    def _ends_later(self) -> int:
        """1 where a year is named by the civil year after the one in which it starts."""
        return int(self.starts != 1 and not self.named_by_start)


CIVIL = MonthYears()


@dataclass(frozen=True, slots=True)
class YearEnd:
    """The weekday on which a year of weeks ends: the last of a month, or the nearest to a day of it.

    Parameters
    ----------
    weekday : 0 for Monday.
    day : the day of the month that it is nearest to; None for the last of the month.
    """

    weekday: int
    month: int
    day: int | None = None

    def of(self, year: int) -> date:
        """The last day of the year whose end falls by, or nearest to, that month of `year`."""
        # Only a calendar of weeks needs this library.
        from dateutil.relativedelta import relativedelta, weekday

        if self.day is None:
            last: date = date(year, self.month, 1) + relativedelta(day=31, weekday=weekday(self.weekday, -1))
            return last
        near = date(year, self.month, self.day)
        either: list[date] = [near + relativedelta(weekday=weekday(self.weekday, step)) for step in (-1, 1)]
        return min(either, key=lambda day: abs(day - near))


@dataclass(frozen=True, slots=True)
class WeekYears(Calendar):
    """Years of 52 or 53 whole weeks, in quarters of 13 and periods of 4 and 5 weeks.

    In a year of 53 weeks the 53rd joins the last period, quarter and half.

    Parameters
    ----------
    pattern : the weeks in a quarter's three periods, such as (4, 4, 5).

    >>> weeks = WeekYears((4, 4, 5), YearEnd(weekday=5, month=1, day=31))
    >>> weeks.weeks_in(2024), weeks.end(date(2024, 1, 31), Grain.YEAR)
    (53, datetime.date(2024, 2, 3))
    """

    pattern: tuple[int, int, int]
    year_end: YearEnd
    named_by_start: bool = False

    @property
    def is_reporting(self) -> bool:
        return True

    @property
    def weeks_make_years(self) -> bool:
        return True

    def weeks_in(self, year: int) -> int:
        """52 or 53, for a year by its name."""
        first, last = self._bounds(year + self._named_earlier)
        return ((last - first).days + 1) // 7

    def start(self, day: date, grain: Grain) -> date:
        if grain is Grain.DAY:
            return day
        first, _ = self._bounds(self._year(day))
        return first + self._first_week(day, first, grain) * A_WEEK

    def end(self, day: date, grain: Grain) -> date:
        start = self.start(day, grain)
        if grain is Grain.DAY:
            return start
        first, last = self._bounds(self._year(day))
        week = (start - first).days // 7
        later = [one for one in self._first_weeks(grain) if one > week]
        return first + later[0] * A_WEEK - ONE_DAY if later else last

    def place(self, day: date, grain: Grain) -> PeriodPlace:
        year = self._year(day)
        first, _ = self._bounds(year)
        name = year - self._named_earlier
        if grain is Grain.DAY:
            return PeriodPlace(name, (day - first).days + 1)
        week = self._first_week(day, first, grain)
        return PeriodPlace(name, self._first_weeks(grain).index(week) + 1)

    def first_day(self, place: PeriodPlace, grain: Grain) -> date:
        first, last = self._bounds(place.year + self._named_earlier)
        if grain is Grain.DAY:
            return _within_year(first + (place.number - 1) * ONE_DAY, last)
        weeks = self._first_weeks(grain)
        if not 1 <= place.number <= len(weeks):
            raise ValueError(f"a year has no {grain.value} {place.number}")
        return _within_year(first + weeks[place.number - 1] * A_WEEK, last)

    @property
    def _named_earlier(self) -> int:
        """1 where a year is named by the civil year before the one in which it ends."""
        return int(self.named_by_start and self.year_end.month != DECEMBER)

    def _year(self, day: date) -> int:
        """The civil year in which, or nearest to which, the year that holds `day` ends."""
        for year in range(day.year - 1, day.year + 2):
            if day <= self._bounds(year)[1]:
                return year
        return day.year + 2

    def _bounds(self, year: int) -> tuple[date, date]:
        return _bounds(self.year_end, year)

    def _first_week(self, day: date, first: date, grain: Grain) -> int:
        """The week, from 0, in which the period of that grain that holds `day` starts."""
        week = (day - first).days // 7
        return max(one for one in self._first_weeks(grain) if one <= week)

    def _first_weeks(self, grain: Grain) -> tuple[int, ...]:
        """The week, from 0, in which each period of a grain starts; the 53rd only starts a week."""
        if grain is Grain.WEEK:
            return tuple(range(53))
        if grain is Grain.MONTH:
            return tuple(accumulate(self.pattern * 4, initial=0))[:-1]
        return tuple(range(0, 52, {Grain.QUARTER: 13, Grain.HALF: 26, Grain.YEAR: 52}[grain]))


@lru_cache(maxsize=1024)
def _bounds(year_end: YearEnd, year: int) -> tuple[date, date]:
    return year_end.of(year - 1) + ONE_DAY, year_end.of(year)


def _within_year(day: date, last: date) -> date:
    if day > last:
        raise ValueError(f"the year ends before, on {last}")
    return day
