"""The window that another is measured against: the one just before it, or its namesake a year earlier.

One place decides: `year_before` makes the base window, and `Namesakes` says what each day and each
period of the window is paired with inside it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from enum import Enum

from marvex.core.time.calendar import A_WEEK, CIVIL, ONE_DAY, Calendar, Grain, WeekYears, add_months, month_end
from marvex.core.time.period import period_of, periods_within, previous
from marvex.core.time.window import Window
from marvex.core.values import dataclass

DAYS_OF_52_WEEKS = 364
THE_53RD = 53


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
    """How a call pairs days a year apart, where the window is not made of weeks.

    Parameters
    ----------
    by_weekday : with the same weekday, 364 days before, instead of with the same date.
    leap_on_feb28 : a 29 February goes with 28 February; otherwise it has no namesake.
    """

    by_weekday: bool = False
    leap_on_feb28: bool = False


BY_DATE = Pairing()


class Way(Enum):
    """What makes two days namesakes."""

    DATE = "the same date"
    WEEKDAY = "364 days apart"
    WEEK = "the same day of the week of the same number"
    WEEK_YEAR = "the same day of the same week of a reporting year made of weeks"


@dataclass(frozen=True, slots=True)
class Namesakes:
    """What each day of a window is paired with a year earlier; all of the window goes by one way.

    Weeks go by their numbers, and so do the periods of a calendar of weeks, whatever the pairing; all
    else goes by date, whole months staying so over 29 February, or by the same weekday.

    Parameters
    ----------
    kept : the grain of the base's data: of a period of weeks that is kept as one figure no week can be left out.
    """

    way: Way
    calendar: Calendar = CIVIL
    leap_on_feb28: bool = False
    kept: Grain = Grain.DAY

    @classmethod
    def within(cls, window: Window, pairing: Pairing = BY_DATE, kept: Grain | None = None) -> Namesakes:
        if window.calendar.weeks_make_years:
            way = Way.WEEK_YEAR
        elif window.grain is Grain.WEEK:
            way = Way.WEEK
        else:
            way = Way.WEEKDAY if pairing.by_weekday else Way.DATE
        return cls(way, window.calendar, pairing.leap_on_feb28, kept or Grain.DAY)

    @property
    def has_week_53(self) -> bool:
        """Whether weeks have numbers here, so that one of them may be a 53rd that stands by itself."""
        return self.way is Way.WEEK or (self.way is Way.WEEK_YEAR and not self.kept.months)

    def day(self, day: date) -> date | None:
        """The day a year earlier; None for a 29 February or a week 53 that the year before has not."""
        match self.way:
            case Way.WEEKDAY:
                return day - DAYS_OF_52_WEEKS * ONE_DAY
            case Way.WEEK_YEAR:
                return _same_day_of_week_year(day, self.calendar)
            case Way.WEEK:
                return _same_day_of_iso_year(day)
        is_leap_day = (day.month, day.day) == (2, 29)
        return None if is_leap_day and not self.leap_on_feb28 else add_months(day, -12)

    def of(self, part: Window) -> Window | None:
        """A part of the window a year earlier, filled as far; None where no day of it has a namesake."""
        first = part.first
        while (new_first := self.day(first)) is None and first < part.last:
            first += ONE_DAY
        if new_first is None:
            return None
        moved = replace(part, first=new_first, last=self._end(part, part.last), known_to=None)
        return moved.cut(self._end(part, part.end)) if part.is_cut else moved

    def _end(self, part: Window, end: date) -> date:
        """The end a year earlier, moved to 29 February where a whole month or 28 February takes that in."""
        last = end
        while (new_last := self.day(last)) is None:
            last -= ONE_DAY
        if self.way is Way.WEEK_YEAR and self.kept.months:
            return self.calendar.end(new_last, self.kept)
        if self.way is not Way.DATE:
            return new_last
        is_whole_months = part.first.day == 1 and end == month_end(end)
        takes_leap_day = self.leap_on_feb28 and (end.month, end.day) == (2, 28)
        return month_end(new_last) if is_whole_months or takes_leap_day else new_last

    def in_week_53(self, day: date) -> bool:
        """Whether a day lies in a 53rd week, which the year after or before may not have."""
        if self.way is Way.WEEK:
            return day.isocalendar().week == THE_53RD
        return self.has_week_53 and self.calendar.place(day, Grain.WEEK).number == THE_53RD


def year_before(window: Window, pairing: Pairing = BY_DATE) -> Window | None:
    """The window's namesake a year earlier, filled to the same part; None where there is none.

    >>> year_before(Window(first=date(2024, 2, 1), last=date(2024, 2, 29), grain=Grain.MONTH)).last
    datetime.date(2023, 2, 28)
    >>> year_before(Window(first=date(2024, 2, 29), last=date(2024, 2, 29), grain=Grain.DAY)) is None
    True
    """
    return Namesakes.within(window, pairing).of(window)


def with_week_53(window: Window, base: Window, namesakes: Namesakes) -> Window:
    """The base window with the week 53 that follows it, where the window runs to the end of a year without one.

    Weeks that were asked for by number have the weeks of those numbers, and no other.
    """
    day_after = base.end + ONE_DAY
    if not namesakes.has_week_53 or window.is_cut or not namesakes.in_week_53(day_after):
        return base
    is_some_weeks = window.grain is Grain.WEEK and window.calendar.place(window.first, Grain.WEEK).number > 1
    return base if is_some_weeks else replace(base, last=base.end + A_WEEK)


@dataclass(frozen=True, slots=True)
class Part:
    """A period of a window and what it is measured against; the base's own days have no period beside them."""

    now: Window | None
    then: Window | None

    @property
    def period(self) -> Window:
        """The period that it is named by: the base's own where the window has none."""
        period = self.now or self.then
        assert period is not None
        return period


def parts_a_year_apart(periods: Sequence[Window], base: Window, namesakes: Namesakes) -> tuple[Part, ...]:
    """Periods in a row, each with its part of the base window: together they hold each of its days once.

    What no period is paired with (the base's own 29 February, a week 53) is a part by itself.
    """
    every, calendar = periods[0].grain, periods[0].calendar
    found = [_within(namesakes.of(one), base) for one in periods]
    if namesakes.way is Way.DATE and every is not Grain.DAY:
        # A month's end that moves over 29 February leaves no day between two of them.
        for place, one in enumerate(found[:-1]):
            after = next((later for later in found[place + 1 :] if later is not None), None)
            if one is not None and after is not None and one.end != after.first - ONE_DAY:
                found[place] = replace(one, last=after.first - ONE_DAY, known_to=None)
    parts = [Part(now, then) for now, then in zip(periods, found, strict=True)]
    for first, last in _left_over(base, [one for one in found if one is not None]):
        left = Window(first=first, last=last, grain=every, calendar=calendar)
        for period in periods_within(left, every, calendar):
            place = sum(1 for part in parts if part.then is not None and part.then.first < period.first)
            parts.insert(place, Part(None, period))
    return tuple(parts)


def _within(window: Window | None, base: Window) -> Window | None:
    """The part of a window that lies in the base window; None where that is no day."""
    if window is None or window.first > base.end or window.end < base.first:
        return None
    found = replace(window, first=max(window.first, base.first))
    return found if window.end <= base.end else replace(found, last=min(found.last, base.last)).cut(base.end)


def _left_over(base: Window, found: list[Window]) -> list[tuple[date, date]]:
    """The runs of days of the base window that none of the windows, which do not overlap, holds."""
    runs = []
    day = base.first
    for one in sorted(found, key=lambda window: window.first):
        if one.first > day:
            runs.append((day, one.first - ONE_DAY))
        day = max(day, one.end + ONE_DAY)
    if day <= base.end:
        runs.append((day, base.end))
    return runs


def _same_day_of_week_year(day: date, calendar: Calendar) -> date | None:
    assert isinstance(calendar, WeekYears)
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
