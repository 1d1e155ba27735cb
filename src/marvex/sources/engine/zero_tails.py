"""Scenarios whose last periods are all zeros, as a sheet has them that goes on to the end of a year."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.time.calendar import Calendar, Grain
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.met import met
from marvex.sources.engine.source import Source

LEAST_DAYS = 28  # of a scenario kept by day or week: about a month


def with_zero_tails(
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
        for _, scenario, day, is_zero in met(source, (), (), engine)
    )
