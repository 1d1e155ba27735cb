"""Windows aligned to whole periods: those that the points are, and those that the data are kept by, on both sides."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date

from marvex.core.compare.comparison import Basis
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.errors import Mistake, setting
from marvex.core.time.calendar import ONE_DAY, Calendar, Grain, coarsest, is_finer, month_end
from marvex.core.time.period import period_of, periods_within, whole_periods_within
from marvex.core.time.timeline import Base
from marvex.core.time.window import Window

Told = tuple[str, ...]


def by_whole_periods(
    window: Window, every: Grain | None, calendar: Calendar, as_known: Callable[[Window], Window] | None = None
) -> tuple[Window, Told]:
    """The window by whole weeks, or whole periods of a calendar of weeks, where it is not made of those.

    Each counts where its middle is, a week where its Thursday is.

    Parameters
    ----------
    as_known : fills a window as far as is known, which one that was moved may go beyond.
    """
    is_of_weeks = every is not None and every is not Grain.DAY and calendar.weeks_make_years
    if every is None or not (is_of_weeks or every is Grain.WEEK) or window.calendar.weeks_make_years:
        return window, ()
    periods = (period_of(one.first, every, calendar) for one in periods_within(_whole(window), every, calendar))
    inside = [one for one in periods if window.first <= _middle(one) <= window.last]
    if not inside:
        raise Mistake(f"no whole {every.value} lies in {window.first} to {window.last}", "Ask for a longer window.")
    first, last = inside[0].first, inside[-1].last
    whole = Window(first=first, last=last, grain=every, known_to=None, calendar=calendar)
    whole = as_known(whole) if as_known else whole.cut(window.known_to or last)
    if (first, last) == (window.first, window.last):
        return whole, ()
    where = "its middle is" if calendar.weeks_make_years else "its Thursday is"
    return whole, (f"{every.plural} are taken whole, each where {where}: {first} to {whole.end}",)


def aligned(
    of: ScenarioDates, base: Base, window: Window, calendar: Calendar, as_known: Callable[[Window], Window]
) -> tuple[Window, Base, Told]:
    """The window, and a base window that was named, cut back to whole periods of the coarser grain of the data.

    Parameters
    ----------
    as_known : as in `by_whole_periods`.

    Raises Mistake where no whole period lies in one of them.
    """
    kept_at = [(one, one.grain) for one in (of, base.dates) if one is not None and one.grain is not None]
    grain = coarsest(Grain.DAY, *(found for _, found in kept_at))
    if grain is Grain.DAY:
        return window, base, ()
    one = next(one for one, found in kept_at if found is grain)
    found, told = _aligned(window, grain, calendar, one.spoken, as_known)
    if base.basis is Basis.WINDOW and base.window is not None:
        named, told_too = _aligned(base.window, grain, calendar, one.spoken)
        base, told = replace(base, window=named), (*told, *told_too)
    base_window = base.window_for(found)
    is_by_thursday = grain is Grain.WEEK and not calendar.weeks_make_years
    if (
        base_window is not None
        and not is_by_thursday
        and whole_periods_within(base_window, grain, base_window.calendar) is None
    ):
        raise Mistake(
            f"no whole {grain.value} lies in the base, {base_window.first} to {base_window.end}",
            f"Name another base with {setting('versus')}.",
        )
    return found, base, told


def _aligned(
    window: Window, grain: Grain, calendar: Calendar, kept: str, as_known: Callable[[Window], Window] | None = None
) -> tuple[Window, Told]:
    if grain is Grain.WEEK and not calendar.weeks_make_years and window.grain.months:
        # Weeks fit into no month, and each counts where its Thursday is: only a cut is moved to a week's end.
        last_sunday = calendar.start(window.end + ONE_DAY, grain) - ONE_DAY
        return window.cut(last_sunday) if window.is_cut and last_sunday > window.first else window, ()
    moved, told = by_whole_periods(window, grain, calendar, as_known) if calendar.weeks_make_years else (window, ())
    trimmed = whole_periods_within(moved, grain, calendar)
    if trimmed is None:
        is_of_months = window.first.day == 1 and month_end(window.end) == window.end
        over = "months" if is_of_months else f"months, with {setting('every', 'day')} over days"
        end = calendar.end(window.end, grain)
        is_one_date = window.is_cut and window.first == window.end == calendar.start(window.end, grain)
        stands = f"If {window.end} stands for its {grain.value}, {setting('as_of', end)} says so; else "
        raise Mistake(
            f"{kept} is kept by {grain.value}, and no whole {grain.value} lies in {window.first} to {window.end}",
            f"{stands if is_one_date else ''}{setting('spread', 'even')} spreads it over {over}; "
            "or ask for a longer window, or another base.",
        )
    if is_finer(trimmed.grain, grain):
        # Its namesakes, and the one before it, are those of its periods.
        trimmed = replace(trimmed, grain=grain, last=trimmed.end, known_to=None, calendar=calendar)
    if (trimmed.first, trimmed.end) == (moved.first, moved.end):
        return trimmed, told
    caution = (
        f"{kept} is kept by {grain.value}, so both sides are cut back to whole "
        f"{grain.plural}: {trimmed.first} to {trimmed.end}"
    )
    return trimmed, (caution,)


def _middle(period: Window) -> date:
    return period.first + (period.last - period.first) // 2


def _whole(window: Window) -> Window:
    return replace(window, known_to=None)
