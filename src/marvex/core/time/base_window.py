"""The window that another is measured against: the one just before it, or its namesake a year earlier."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

from marvex.core.time.calendar import ONE_DAY, Grain, WeekYears, add_months, month_end
from marvex.core.time.period import period_of, periods_within, previous
from marvex.core.time.window import Window

DAYS_OF_52_WEEKS = 364


def before(window: Window) -> Window:
    """The window of the same length just before it; of a part, the same part of the one before."""
    calendar = window.calendar
    within = window.to_date_of or window.grain
    whole = period_of(window.first, within, calendar)
    if window.last <= whole.last:
        return _in_place(window, whole, period_of(whole.first - ONE_DAY, within, calendar))
    last = window.first - ONE_DAY
    months = None if calendar.weeks_make_years else window.months()
    if months is not None:
        first = add_months(window.first, -months)
    elif calendar.start(window.first, window.grain) == window.first:
        period = window
        for _ in periods_within(replace(window, known_to=None), window.grain, calendar):
            period = previous(period)
        first = period.first
    else:
        first = window.first - (window.last - window.first) - ONE_DAY
    return same_part(window, Window(first=first, last=last, grain=window.grain, known_to=None, calendar=calendar))


def same_part(window: Window, other: Window) -> Window:
    """`other`, cut where `window` is cut: as many whole months into it, then as many days.

    >>> october = Window(first=date(2026, 10, 1), last=date(2026, 10, 31), grain=Grain.MONTH)
    >>> october = october.cut(date(2026, 10, 17))
    >>> same_part(october, Window(first=date(2026, 9, 1), last=date(2026, 9, 30), grain=Grain.MONTH)).end
    datetime.date(2026, 9, 17)
    """
    return other.cut(_same_day(window.end, window, other)) if window.is_cut else other


def _in_place(window: Window, whole: Window, other: Window) -> Window:
    """The part of `other` that is in the same place as `window` is in `whole`."""
    first = other.first if window.first == whole.first else _same_day(window.first, whole, other)
    last = other.last if window.last == whole.last else _same_day(window.last, whole, other)
    moved = replace(window, first=first, last=last, known_to=None)
    return moved.cut(_same_day(window.end, whole, other)) if window.is_cut else moved


def _same_day(day: date, whole: Window, other: Window) -> date:
    """The day of `other` in the place that `day` has in `whole`; a month's end stays one."""
    if whole.months() is None or other.months() is None:
        return min(other.first + (day - whole.first), other.last)
    months = (day.year - whole.first.year) * 12 + day.month - whole.first.month
    to = add_months(other.first, months)
    if day == month_end(day) and day != whole.first:
        return min(month_end(to), other.last)
    return min(to.replace(day=min(day.day, month_end(to).day)), other.last)


@dataclass(frozen=True, slots=True)
class Pairing:
    """How days are paired a year apart.

    Parameters
    ----------
    by_weekday : with the same weekday, 364 days before, instead of with the same date.
    leap_on_feb28 : a 29 February goes with 28 February; otherwise it has no namesake.
    """

    by_weekday: bool = False
    leap_on_feb28: bool = False


BY_DATE = Pairing()


def year_before(window: Window, pairing: Pairing = BY_DATE) -> Window | None:
    """The window's namesake a year earlier, filled to the same part; None where there is none.

    Weeks go by their numbers, and so do the periods of a calendar of weeks; whole months stay so
    over 29 February; all else goes by date.

    >>> year_before(Window(first=date(2024, 2, 1), last=date(2024, 2, 29), grain=Grain.MONTH)).last
    datetime.date(2023, 2, 28)
    >>> year_before(Window(first=date(2024, 2, 29), last=date(2024, 2, 29), grain=Grain.DAY)) is None
    True
    """
    namesake = _namesake(window, pairing)
    first, last = window.first, window.last
    while (new_first := namesake(first)) is None and first < last:
        first += ONE_DAY
    if new_first is None:
        return None
    new_last = None
    while last > first and (new_last := namesake(last)) is None:
        last -= ONE_DAY
    new_last = new_last or new_first
    moved = replace(
        window, first=new_first, last=_over_leap_day(window, window.last, new_last, pairing), known_to=None
    )
    if not window.is_cut:
        return moved
    end = window.end
    while (new_end := namesake(end)) is None:
        end -= ONE_DAY
    return moved.cut(_over_leap_day(window, window.end, new_end, pairing))


def _over_leap_day(window: Window, end: date, new_end: date, pairing: Pairing) -> date:
    """The end a year earlier, moved to 29 February where 28 February takes that in."""
    if pairing.by_weekday or _goes_by_weeks(window):
        return new_end
    is_whole_months = window.first.day == 1 and end == month_end(end)
    takes_leap_day = pairing.leap_on_feb28 and (end.month, end.day) == (2, 28)
    return month_end(new_end) if is_whole_months or takes_leap_day else new_end


def _goes_by_weeks(window: Window) -> bool:
    return window.calendar.weeks_make_years or window.grain is Grain.WEEK


def _namesake(window: Window, pairing: Pairing) -> Callable[[date], date | None]:
    """What a day of the window is paired with a year earlier."""
    calendar = window.calendar
    if pairing.by_weekday:
        return lambda day: day - DAYS_OF_52_WEEKS * ONE_DAY
    if isinstance(calendar, WeekYears):
        return lambda day: _same_day_of_week_year(day, calendar)
    if window.grain is Grain.WEEK:
        return _same_day_of_iso_year
    return lambda day: _same_date(day, pairing)


def _same_date(day: date, pairing: Pairing) -> date | None:
    is_leap_day = (day.month, day.day) == (2, 29)
    return None if is_leap_day and not pairing.leap_on_feb28 else add_months(day, -12)


def _same_day_of_week_year(day: date, calendar: WeekYears) -> date | None:
    place = calendar.place(day, Grain.DAY)
    try:
        return calendar.first_day(replace(place, year=place.year - 1), Grain.DAY)
    except ValueError:
        return None


def _same_day_of_iso_year(day: date) -> date | None:
    year, week, weekday = day.isocalendar()
    try:
        return date.fromisocalendar(year - 1, week, weekday)
    except ValueError:
        return None
