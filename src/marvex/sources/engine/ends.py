"""How far each scenario runs, and how it ends: with zeros, as a sheet of a whole year has them, or thinly."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise
from statistics import median

from marvex.core.compare.scenario_words import is_planned
from marvex.core.compare.scenarios import ScenarioDates, ThinEnd, dates_of, of_lone_day
from marvex.core.exact import ZERO
from marvex.core.time.calendar import FINEST_FIRST, ONE_DAY, Calendar, Grain, is_finer
from marvex.sources.engine import query
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.met import met
from marvex.sources.engine.source import Source

FAR_AHEAD = timedelta(days=200)  # without anything, after which few amounts are a slip of a date
LEAST_DAYS = 28  # of zeros, of a scenario kept by day or week: about a month
FEWER, LEAST_AMOUNTS, LEAST_PERIODS, LOOKED_BACK = 3, 6, 4, 12  # so many times fewer than usual, of so many
MOST_TIMES = 2  # that two scenarios have in a period, where a day, a month, a quarter and a year are further apart

# A scenario and a day of it, how many amounts that has, and whether the facts of it are all 0.
KnownDay = tuple[str | None, date | None, int, bool]


def scenarios_of(
    sources: Sequence[Source],
    engine: Engine,
    calendar: Calendar,
    known: Sequence[KnownDay],
    *,
    has_amounts: bool,
    spread: Collection[str | None] = (),
) -> tuple[ScenarioDates, ...]:
    """How far each scenario runs.

    Parameters
    ----------
    known : every day of every scenario, in order.
    has_amounts : figures are amounts, of which 0 may mean that there is none yet.
    spread : the scenarios that are in shorter periods now than they are written in.
    """
    of_scenarios: dict[str | None, list[KnownDay]] = {}
    for each in known:
        name, _, count, _ = each
        if count:
            of_scenarios.setdefault(name, []).append(each)
    stops = {one.stops.day: one.stops.spoken for one in sources if one.stops is not None}
    found = []
    for name, days in of_scenarios.items():
        written = None if name in spread else written_grain(name, sources)
        days += _within_longer(name, days, sources, written, calendar) if written else []
        one = dates_of(name, [day for _, day, *_ in days if day], written, calendar)
        one = replace(one, runs_to_date=any(source.roles.runs_to_date for source in sources))
        if one.last is not None and one.grain is not None:
            one = replace(one, stops=stops.get(one.last, ""), thin=_thin_end(days, one.grain, calendar))
            end = _end_of_amounts(one, days, calendar) if has_amounts else None
            # The rows of a day may cancel one another out.
            if end is not None and not _has_amounts(one, end, sources, engine):
                one = replace(one, amounts_to=end)
        found.append(one)
    if len(sources) > 1:  # one of which may be by day
        return tuple(found)
    return tuple(_as_period(one, found, calendar, sources[0], engine) for one in found)


def _as_period(
    one: ScenarioDates, among: Sequence[ScenarioDates], calendar: Calendar, source: Source, engine: Engine
) -> ScenarioDates:
    """A scenario of one date as the period that it is of another's, where both have about as much on it, or stand under
    headings of the same dates."""
    found = None if is_planned(one.name) else of_lone_day(one, among, calendar)
    if found is None or any(its.period for its in source.roles.amounts):
        return found or one
    day = one.days[0]
    sizes = {name: size for name, of, size in engine.rows(query.SIZES_OF_DAYS, source.name) if of == day}
    own, other = sizes.get(one.name, ZERO), sizes.get(found.dated_as, ZERO)
    return found if own <= MOST_TIMES * other and other <= MOST_TIMES * own else one


def written_grain(scenario: str | None, sources: Sequence[Source]) -> Grain | None:
    """The finest grain that the dates of a scenario are written in; None where it is that of days."""
    grains: list[Grain | None] = []
    for one in sources:
        if one.scenario not in (None, scenario) or (
            one.written_grains and (scenario or "") not in one.written_grains
        ):
            continue
        grains.append(one.written_grains.get(scenario or "", one.written_grain))
    finest = min((one or Grain.DAY for one in grains), key=FINEST_FIRST.index, default=Grain.DAY)
    return None if finest is Grain.DAY else finest


def _within_longer(
    scenario: str | None, days: Sequence[KnownDay], sources: Sequence[Source], finest: Grain, calendar: Calendar
) -> list[KnownDay]:
    """The first days of the periods that longer ones stand for: a quarter among months has amounts in all three."""
    of_first = {day: (count, is_zero) for _, day, count, is_zero in days}
    found: list[KnownDay] = []
    for one in (one for source in sources for one in source.written_periods):
        if one.scenario in (None, scenario) and is_finer(finest, one.grain) and one.first in of_first:
            day = calendar.end(one.first, finest) + ONE_DAY
            while day <= one.last:
                found.append((scenario, day, *of_first[one.first]))
                day = calendar.end(day, finest) + ONE_DAY
    return found


def _end_of_amounts(one: ScenarioDates, days: Sequence[KnownDay], calendar: Calendar) -> date | None:
    """The last day of the last period with an amount other than 0; None where the scenario ends with it."""
    filled = [day for _, day, _, is_zero in days if day is not None and not is_zero]
    if not filled or one.last is None or one.grain is None:
        return None
    end = calendar.end(max(filled), one.grain)
    least = LEAST_DAYS if one.grain in (Grain.DAY, Grain.WEEK) else 1
    return end if (one.last - end).days >= least else None


def _has_amounts(one: ScenarioDates, end: date, sources: Sequence[Source], engine: Engine) -> bool:
    """Whether a row after a day has an amount other than 0."""
    return any(
        not is_zero and scenario == one.name and day is not None and day > end
        for source in sources
        for _, scenario, day, is_zero, _ in met(source, (), (), engine)
    )


def _thin_end(days: Sequence[KnownDay], grain: Grain, calendar: Calendar) -> ThinEnd | None:
    """The last period, or of days what comes after a month without any, where it is far less than is usual."""
    counts = [(day, count) for _, day, count, _ in days if day is not None]
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
    if not few or not usual:
        return None
    before = max(day for day, _ in counts if day < begins)
    # What is there in a season only has been away as long before.
    widest = max((after - one for one, after in pairwise(starts[:-1])), default=timedelta())
    is_slip = few <= usual and is_finer(grain, Grain.HALF) and begins - before > max(FAR_AHEAD, widest)
    if not is_slip and (usual < LEAST_AMOUNTS or FEWER * few > usual):
        return None
    return ThinEnd(few, usual, before if is_daily else calendar.end(before, grain))
