"""Grains, periods and windows of the civil calendar, and the arithmetic between them.

What a window is called in a command is read in `calendar`; what it is called in a picture
is said in `wording`.
"""

from __future__ import annotations

import calendar
from dataclasses import dataclass, replace
from datetime import date, timedelta
from enum import Enum

ONE_DAY = timedelta(days=1)


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


_MONTHS = {Grain.MONTH: 1, Grain.QUARTER: 3, Grain.HALF: 6, Grain.YEAR: 12}
FINEST_FIRST = tuple(Grain)


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


def period_start(day: date, grain: Grain) -> date:
    """The first day of the period of that grain that holds `day`; weeks start on Monday (ISO 8601)."""
    if grain is Grain.DAY:
        return day
    if grain is Grain.WEEK:
        return day - timedelta(days=day.weekday())
    return date(day.year, (day.month - 1) // grain.months * grain.months + 1, 1)


def period_end(day: date, grain: Grain) -> date:
    """The last day of the period of that grain that holds `day`."""
    start = period_start(day, grain)
    if grain is Grain.DAY:
        return start
    if grain is Grain.WEEK:
        return start + timedelta(days=6)
    return add_months(start, grain.months) - ONE_DAY


@dataclass(frozen=True, slots=True)
class Window:
    """A run of whole periods of one grain, possibly cut: from `first` to `last`, both included.

    `last` is where the whole window ends; `known_to`, where set, is the day to which it is filled.
    """

    first: date
    last: date
    grain: Grain
    known_to: date | None = None

    @property
    def end(self) -> date:
        """The last day that counts: where the window is cut, or its own end."""
        return self.known_to or self.last

    @property
    def is_cut(self) -> bool:
        return self.known_to is not None and self.known_to < self.last

    @property
    def days(self) -> int:
        return (self.end - self.first).days + 1

    def cut(self, to: date) -> Window:
        """The same window, filled to that day only; unchanged where it ends no later."""
        return replace(self, known_to=to) if to < self.last else replace(self, known_to=None)

    def overlaps(self, first: date, last: date) -> bool:
        return self.first <= last and first <= self.end

    def months(self) -> int | None:
        """Whole months from start to end of the whole window, or None where it is not made of such."""
        if self.first.day != 1 or self.last != month_end(self.last):
            return None
        return (self.last.year - self.first.year) * 12 + self.last.month - self.first.month + 1


def year_before(window: Window) -> Window:
    """The window's namesake a year earlier, cut to the same part.

    A window of whole months, or one that is known to a month's end, stays so over 29 February.
    """
    if window.grain is Grain.WEEK:
        return _same_weeks_a_year_before(window)
    return Window(_year_back(window.first), _end_year_back(window.last), window.grain, _cut_back(window))


def before(window: Window) -> Window:
    """The window of the same length just before it, cut to the same part where it is cut."""
    months = window.months()
    last = window.first - ONE_DAY
    if months is not None:
        first = add_months(window.first, -months)
    else:
        first = window.first - (window.last - window.first) - ONE_DAY
    whole = Window(first, last, window.grain)
    return same_part(window, whole)


def same_part(window: Window, other: Window) -> Window:
    """`other`, cut where `window` is cut: as many whole months into it, then as many days.

    >>> october = Window(date(2026, 10, 1), date(2026, 10, 31), Grain.MONTH, date(2026, 10, 17))
    >>> same_part(october, Window(date(2026, 9, 1), date(2026, 9, 30), Grain.MONTH)).end
    datetime.date(2026, 9, 17)
    """
    if not window.is_cut:
        return other
    if window.months() is None or other.months() is None:
        return other.cut(other.first + (window.end - window.first))
    months = (window.end.year - window.first.year) * 12 + window.end.month - window.first.month
    to = add_months(other.first, months)
    if window.end == month_end(window.end):
        return other.cut(month_end(to))
    return other.cut(to.replace(day=min(window.end.day, month_end(to).day)))


def whole_periods_within(window: Window, grain: Grain) -> Window | None:
    """The part of the window that is whole periods of a grain, or None where there is none."""
    first = window.first
    if period_start(first, grain) != first:
        first = period_end(first, grain) + ONE_DAY
    end = window.end
    if period_end(end, grain) != end:
        end = period_start(end, grain) - ONE_DAY
    if end < first:
        return None
    return replace(window, first=first, known_to=end if end < window.last else None)


def _year_back(day: date) -> date:
    return add_months(day, -12)


def _end_year_back(day: date) -> date:
    back = add_months(day, -12)
    return month_end(back) if day == month_end(day) else back


def _cut_back(window: Window) -> date | None:
    return _end_year_back(window.end) if window.is_cut else None


def _same_weeks_a_year_before(window: Window) -> Window:
    year, week, _ = window.first.isocalendar()
    weeks = (window.last - window.first).days // 7
    try:
        first = date.fromisocalendar(year - 1, week, 1)
    except ValueError:  # a week 53 has no namesake: the year's last week stands for it
        first = date.fromisocalendar(year - 1, week - 1, 1)
    whole = Window(first, first + timedelta(days=7 * weeks + 6), window.grain)
    return same_part(window, whole)
