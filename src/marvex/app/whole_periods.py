"""Periods of which a window holds a part only, as the months of this year against a year that is kept as one figure."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.plan import Plan
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.side import Side
from marvex.core.errors import Mistake, setting
from marvex.core.time.calendar import Grain, add_months, is_finer
from marvex.core.time.window import Window
from marvex.core.words.side_names import window_text
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.source import WrittenPeriod

SHORTEST_MONTH, MOST_ENDS = 28, 2  # in days; how many more of them a window can touch
MANY_DAYS = 4  # so many times as many as those that may stand for whole months


def with_whole_periods(book: Ledger, plan: Plan, settings: Settings) -> Plan:
    """The plan, with a reservation where the figures of one side seem to be of longer periods than its dates say.

    Raises Mistake where a side, or a point along time, holds only a part of a period that has one figure.

    The whole figure would stand for the part of it: of a year kept as one figure its first month would have all.
    """
    periods = [one for source in book.sources for one in source.written_periods]
    grains = {one.written_grain for one in book.sources} | {one.grain for one in periods}
    if book.spread:
        return plan
    if len(grains) < 2:
        return _with_long_figures(book, plan, settings)
    if settings.keeps_totals:  # beside their parts, with which they are to count
        periods = [one for one in periods if not any(_is_part(other, one) for other in periods)]
    if found := _cut(periods, plan.sides):
        one, window = found
        raise Mistake(
            f"{book.name}: '{one.text}' is one figure, and {window_text(window, 'en')} holds only a part of it",
            f"Ask for whole periods{_whole(plan, one.first)}, or for one side: {setting('versus', 'none')}.",
        )
    sides = (side for pair in plan.pairs for side in (pair.current, pair.base) if side is not None)
    if plan.every and (found := _cut(periods, sides)):
        one, _ = found
        raise Mistake(
            f"{book.name}: '{one.text}' is one figure, and no point along time is as long",
            f"Say {setting('every', one.grain.value)}.",
        )
    return plan


def _is_part(one: WrittenPeriod, of: WrittenPeriod) -> bool:
    is_within = of.first <= one.first and one.last <= of.last
    return one.scenario == of.scenario and is_within and is_finer(one.grain, of.grain)


def _with_long_figures(book: Ledger, plan: Plan, settings: Settings) -> Plan:
    """Told where one side has a day in each month alone, its first or last, and the other many, and months are cut.

    Raises Mistake where it has one in each year or quarter, and the other in more months, unless all is asked for.
    """
    now, then = plan.current.window, plan.base.window if plan.base else None
    if now is None or then is None or book.first.written_grain is not None:
        return plan
    by_name, windows = {one.name: one for one in book.scenarios}, (now, then)
    known = [by_name.get(side.span.stretches[0].scenario, ScenarioDates(name=None)) for side in plan.sides]
    each = [
        [
            day
            for of in dict.fromkeys(part.scenario for part in side.span.stretches)  # two of an outlook
            for day in by_name.get(of, ScenarioDates(name=None)).days_within(window.first, window.end)
        ]
        for side, window in zip(plan.sides, windows, strict=True)
    ]
    for place, (window, days) in enumerate(zip(windows, each, strict=True)):
        grain, kept_by = _long_grain(days, each[1 - place], window), known[place].grain
        if grain is None or kept_by is None or not is_finer(kept_by, grain):
            continue
        which = "first" if window.calendar.start(days[0], grain) == days[0] else "last"
        name = (
            f"{known[place].name} in {window_text(window, 'en')}" if known[place].name else window_text(window, "en")
        )
        what = f"{name} has figures on the {which} day of each {grain.value} alone"
        what += f", which may be of the whole {grain.value}"
        if grain is not Grain.MONTH and not settings.full_base and settings.absent != "zero":
            one_side, all_of_it = setting("versus", "none"), setting("full_base")
            raise Mistake(
                f"{book.name}: {what}; the other side has more",
                f"Ask for whole ones with {setting('for_')}, for one side with {one_side}, for all with {all_of_it}.",
            )
        return replace(plan, reservations=(*plan.reservations, Reservation(what=what)))
    return plan


def _long_grain(days: Sequence[date], others: Sequence[date], window: Window) -> Grain | None:
    """The grain of which the days are all the firsts, or all the lasts, in a window, where the others are more.

    Months only where the window cuts one, since they are compared whole otherwise.
    """
    calendar = window.calendar
    if len(days) > MOST_ENDS + (window.end - window.first).days // SHORTEST_MONTH:
        return None
    cuts_month = calendar.end(window.end, Grain.MONTH) != window.end
    for grain in (Grain.YEAR, Grain.QUARTER, Grain.MONTH):
        starts = {calendar.start(one, grain) for one in (*days, window.end)}
        ends = {calendar.end(one, grain) for one in days}
        is_only = bool(days) and (starts == set(days) or (ends == set(days) and len(ends) >= len(starts) - 1))
        months = len({(one.year, one.month) for one in others})
        is_less = cuts_month and len(others) > MANY_DAYS * len(days)
        if is_only and (is_less if grain is Grain.MONTH else months > max(2, len(days))):
            return grain
    return None


def _cut(periods: Iterable[WrittenPeriod], sides: Iterable[Side]) -> tuple[WrittenPeriod, Window] | None:
    """The first period of which a side holds a part, and its window."""
    for side in sides:
        window, scenarios = side.window, {one.scenario for one in side.span.stretches}
        for one in periods:
            is_its = one.scenario is None or one.scenario in scenarios or scenarios == {None}
            if is_its and window is not None and window.overlaps(one.first, one.last) and not _holds(window, one):
                return one, window
    return None


def _holds(window: Window, one: WrittenPeriod) -> bool:
    return window.first <= one.first and one.last <= window.end


def _whole(plan: Plan, first: date) -> str:
    """The window of whole months that is left where both sides end before one that the base holds a part of."""
    now, then = plan.current.window, plan.base.window if plan.base else None
    if now is None or then is None or then.first >= first or (now.first.day, then.first.day, first.day) != (1, 1, 1):
        return ""
    months = (first.year - then.first.year) * 12 + first.month - then.first.month
    return f": {setting('for_', f'{now.first:%Y-%m}/{add_months(now.first, months - 1):%Y-%m}')}"
