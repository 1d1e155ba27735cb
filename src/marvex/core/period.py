"""Windows: runs of whole periods, whole or part filled, and those that stand before them.

The periods themselves are cut by a `calendar`; what a window is called in a command is read in
`notation`, and what it is called in a picture is said in `wording`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from enum import Enum

from marvex.core.calendar import CIVIL, ONE_DAY, Calendar, Grain, WeekYears, add_months, month_end
from marvex.core.frozen import frozen

DAYS_OF_52_WEEKS = 364


@frozen
class Window:
    """A run of whole periods of one grain, possibly cut: from `first` to `last`, both included.

    Parameters
    ----------
    last : where the whole window ends.
    known_to : the day to which it is filled, where that is before its end.
    calendar : the calendar whose periods of `grain` it is made of.
    to_date_of : the grain of which it is a part to date, such as the quarter so far.
    """

    first: date
    last: date
    grain: Grain
    known_to: date | None = None
    calendar: Calendar = CIVIL
    to_date_of: Grain | None = None

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

    @property
    def is_whole(self) -> bool:
        """Whether it begins and ends with a whole period of its grain."""
        calendar, grain = self.calendar, self.grain
        return calendar.start(self.first, grain) == self.first and calendar.end(self.end, grain) == self.end

    def cut(self, to: date) -> Window:
        """The same window, filled to that day only; unchanged where it ends no later."""
        known_to = to if to < self.last else None
        return self if known_to == self.known_to else replace(self, known_to=known_to)

    def overlaps(self, first: date, last: date) -> bool:
        return self.first <= last and first <= self.end

    def months(self) -> int | None:
        """Whole months from start to end of the whole window, or None where it is not made of such."""
        if self.first.day != 1 or self.last != month_end(self.last):
            return None
        return (self.last.year - self.first.year) * 12 + self.last.month - self.first.month + 1


def period_of(day: date, grain: Grain, calendar: Calendar = CIVIL) -> Window:
    """The period of that grain that holds a day."""
    return Window(calendar.start(day, grain), calendar.end(day, grain), grain, None, calendar)


def previous(period: Window) -> Window:
    """The period of the same grain before the one that a window begins in."""
    first = period.calendar.start(period.first, period.grain)
    return period_of(first - ONE_DAY, period.grain, period.calendar)


def periods_within(window: Window, grain: Grain, calendar: Calendar) -> tuple[Window, ...]:
    """The periods of a grain that a window touches up to its end, the first and last cut to it.

    >>> half = Window(date(2026, 1, 1), date(2026, 6, 30), Grain.HALF, date(2026, 2, 17))
    >>> [(one.last, one.end) for one in periods_within(half, Grain.MONTH, CIVIL)][1]
    (datetime.date(2026, 2, 28), datetime.date(2026, 2, 17))
    """
    periods = []
    day = window.first
    while day <= window.end:
        whole = period_of(day, grain, calendar)
        if whole.first == day and whole.last <= window.end:
            periods.append(whole)
        else:
            periods.append(replace(whole, first=day, last=min(whole.last, window.last)).cut(window.end))
        if whole.last >= window.end:
            break
        day = whole.last + ONE_DAY
    return tuple(periods)


def whole_periods_within(window: Window, grain: Grain, calendar: Calendar) -> Window | None:
    """The part of the window that is whole periods of a grain, or None where there is none."""
    first = window.first
    if calendar.start(first, grain) != first:
        first = calendar.end(first, grain) + ONE_DAY
    end = window.end
    if calendar.end(end, grain) != end:
        end = calendar.start(end, grain) - ONE_DAY
    if end < first:
        return None
    return replace(window, first=first, known_to=end if end < window.last else None)


class Reach(Enum):
    """How far back from its end a window is widened."""

    PERIOD = "period"
    QUARTER_TO_DATE = "quarter-to-date"
    YEAR_TO_DATE = "year-to-date"
    ROLLING = "rolling"


@frozen
class Widening:
    """`year-to-date`, `rolling:12`: a reach, and how many periods where it is rolling."""

    reach: Reach
    count: int = 0


def widened(window: Window, widening: Widening, calendar: Calendar) -> Window:
    """The window widened backwards from its end.

    >>> june = Window(date(2026, 6, 1), date(2026, 6, 30), Grain.MONTH)
    >>> widened(june, Widening(Reach.ROLLING, 12), CIVIL).first
    datetime.date(2025, 7, 1)
    """
    if widening.reach is Reach.PERIOD:
        return window
    if widening.reach is Reach.ROLLING:
        period = period_of(window.last, window.grain, window.calendar)
        for _ in range(widening.count - 1):
            period = previous(period)
        return replace(window, first=period.first)
    grain = Grain.YEAR if widening.reach is Reach.YEAR_TO_DATE else Grain.QUARTER
    whole = period_of(window.end, grain, calendar)
    wide = replace(window, first=whole.first, last=min(window.last, whole.last), known_to=None)
    return replace(wide.cut(window.end), calendar=calendar, to_date_of=grain)


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
    return same_part(window, Window(first, last, window.grain, None, calendar))


def same_part(window: Window, other: Window) -> Window:
    """`other`, cut where `window` is cut: as many whole months into it, then as many days.

    >>> october = Window(date(2026, 10, 1), date(2026, 10, 31), Grain.MONTH, date(2026, 10, 17))
    >>> same_part(october, Window(date(2026, 9, 1), date(2026, 9, 30), Grain.MONTH)).end
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


@frozen
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

    >>> year_before(Window(date(2024, 2, 1), date(2024, 2, 29), Grain.MONTH)).last
    datetime.date(2023, 2, 28)
    >>> year_before(Window(date(2024, 2, 29), date(2024, 2, 29), Grain.DAY)) is None
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
