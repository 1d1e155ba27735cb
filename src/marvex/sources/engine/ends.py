"""How scenarios end: with periods of zeros, as a sheet of a whole year has them, or with one that has hardly begun."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from itertools import pairwise
from statistics import median

from marvex.core.compare.scenarios import ScenarioDates, ThinEnd
from marvex.core.time.calendar import Calendar, Grain, is_finer
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.met import met
from marvex.sources.engine.source import Source

LEAST_DAYS = 28  # of zeros, of a scenario kept by day or week: about a month
FEWER, LEAST_AMOUNTS, LEAST_PERIODS, LOOKED_BACK = (
    3,
    6,
    4,
    12,
)  # so many times fewer than usual, of so many and so long


def with_zero_ends(
    scenarios: Sequence[ScenarioDates],
    zero: Sequence[tuple[str | None, date]],
    sources: Sequence[Source],
    engine: Engine,
    calendar: Calendar,
) -> tuple[ScenarioDates, ...]:
    """The scenarios, each with the day to which it has amounts other than 0, where whole periods after it have none.

    Parameters
    ----------
    zero : the days of each scenario whose facts are all 0; their rows may still cancel one another out.
    """
    found = []
    for one in scenarios:
        days_of = {day for scenario, day in zero if scenario == one.name}
        end = _end(one, [day for day in one.days if day not in days_of], calendar)
        if end is not None and days_of and _has_amounts(one, end, sources, engine):
            end = None
        found.append(one if end is None else replace(one, amounts_to=end))
    return tuple(found)


def _end(one: ScenarioDates, days: Sequence[date], calendar: Calendar) -> date | None:
    """The last day of the last period with an amount other than 0; None where the scenario ends with it."""
    if one.last is None or one.grain is None or not days:
        return None
    if one.grain in (Grain.DAY, Grain.WEEK):
        end = calendar.end(days[-1], one.grain)
        return end if (one.last - end).days >= LEAST_DAYS else None
    end = calendar.end(days[-1], one.grain)
    return end if end < one.last else None


def _has_amounts(one: ScenarioDates, end: date, sources: Sequence[Source], engine: Engine) -> bool:
    """Whether a row after a day has an amount other than 0."""
    return any(
        not is_zero and scenario == one.name and day is not None and day > end
        for source in sources
        for _, scenario, day, is_zero, _ in met(source, (), (), engine)
    )


def with_thin_ends(
    scenarios: Sequence[ScenarioDates], counts: Sequence[tuple[str | None, date | None, int]], calendar: Calendar
) -> tuple[ScenarioDates, ...]:
    """The scenarios, with how those end that do so with far fewer amounts than usual.

    Parameters
    ----------
    counts : of each scenario the amounts of each day, in order.
    """
    found = []
    for one in scenarios:
        own = [(day, count) for scenario, day, count in counts if scenario == one.name and day is not None and count]
        found.append(replace(one, thin=_thin_end(own, one.grain, calendar)) if own and one.grain else one)
    return tuple(found)


def _thin_end(counts: Sequence[tuple[date, int]], grain: Grain, calendar: Calendar) -> ThinEnd | None:
    """The last period, or of days what comes after a month without any, where it is far less than is usual."""
    is_daily = is_finer(grain, Grain.MONTH)
    by_period: Counter[date] = Counter()
    for day, count in counts:
        by_period[calendar.start(day, Grain.MONTH if is_daily else grain)] += count
    starts = sorted(by_period)
    begins = starts[-1]
    if is_daily:
        gaps = [after for (before, _), (after, _) in pairwise(counts) if (after - before).days > LEAST_DAYS]
        begins = max(gaps, default=date.max)
    earlier = [by_period[one] for one in starts if one < begins][-LOOKED_BACK:]
    few = sum(count for day, count in counts if day >= begins)
    usual = round(median(earlier)) if len(earlier) >= LEAST_PERIODS else 0
    if not few or usual < LEAST_AMOUNTS or FEWER * few > usual:
        return None
    before = max(day for day, _ in counts if day < begins)
    return ThinEnd(few, usual, before if is_daily else calendar.end(before, grain))
