"""Periods: the one that holds a day, the one before, and those that a window is made of."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from marvex.core.time.calendar import CIVIL, ONE_DAY, Calendar, Grain
from marvex.core.time.window import Window


def period_of(day: date, grain: Grain, calendar: Calendar = CIVIL) -> Window:
    """The period of that grain that holds a day."""
    return Window(
        first=calendar.start(day, grain), last=calendar.end(day, grain), grain=grain, known_to=None, calendar=calendar
    )


def previous(period: Window) -> Window:
    """The period of the same grain before the one that a window begins in."""
    first = period.calendar.start(period.first, period.grain)
    return period_of(first - ONE_DAY, period.grain, period.calendar)


def periods_within(window: Window, grain: Grain, calendar: Calendar) -> tuple[Window, ...]:
    """The periods of a grain that a window touches up to its end, the first and last cut to it.

    >>> half = Window(first=date(2026, 1, 1), last=date(2026, 6, 30), grain=Grain.HALF, known_to=date(2026, 2, 17))
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
