"""Scenarios: which there are, how far each runs, at which grain, and which is the current one."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from marvex.core.compare.side import Side, Stretch
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.time.calendar import CIVIL, FINEST_FIRST, ONE_DAY, Calendar, Grain, is_finer
from marvex.core.time.window import Window

# The names of scenarios, and the headings of columns, that say which side they are: the current one first.
ACTUAL_WORDS = ("actual", "actuals", "ist", "réel", "reale", "werkelijk", "faktisk")
ACTUAL_NAMES = (*ACTUAL_WORDS, "this year", "current year", "current", "cy", "ty", "laufendes jahr")
PLANNED_WORDS = ("budget", "plan", "forecast", "planned", "budgeted", "target", "soll", "prognose", "begroting")
PRIOR_NAMES = ("last year", "prior year", "previous year", "previous", "prior", "py", "ly", "vorjahr")
BASE_NAMES = (*PLANNED_WORDS, *PRIOR_NAMES)  # in the order in which they are taken for the base


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenarioDates:
    """How far one scenario runs: its first day, the last day its dates stand for, and its grain.

    Parameters
    ----------
    name : None in a table without scenarios; the days are None in one without dates.
    days : every day on which it has a row, in order.
    misfit : the civil grain of its dates, where the reporting calendar has no such periods.
    outlook : what it is made of, where it is actuals as far as they go and forecast for the rest.
    """

    name: str | None
    first: date | None = None
    last: date | None = None
    grain: Grain | None = None
    days: tuple[date, ...] = ()
    misfit: Grain | None = None
    outlook: Outlook | None = None

    @property
    def spoken(self) -> str:
        return self.name or "data"

    def side(self, window: Window | None) -> Side:
        """The side that is this scenario in a window."""
        if self.outlook is None or window is None:
            return Side(self.name, window)
        return Side(self.name, window, self.outlook.stretches(window))

    def days_within(self, first: date | None, last: date | None) -> tuple[date, ...]:
        """The days between two, both included, on which it has a row."""
        if first is None or last is None:
            return ()
        return self.days[bisect_left(self.days, first) : bisect_right(self.days, last)]


@dataclass(frozen=True, slots=True)
class Outlook:
    """Actuals to a day, and a forecast from the day after on: never both for one period."""

    actual: ScenarioDates
    forecast: ScenarioDates
    actual_to: date

    def stretches(self, window: Window) -> tuple[Stretch, ...]:
        first, last = window.first, window.end
        parts = []
        if first <= self.actual_to:
            parts.append(Stretch(self.actual.name, first, min(last, self.actual_to)))
        if last > self.actual_to:
            parts.append(Stretch(self.forecast.name, max(first, self.actual_to + ONE_DAY), last))
        return tuple(parts)


def joined(
    actual: ScenarioDates, forecast: ScenarioDates, grain: Grain, known_to: date, calendar: Calendar
) -> ScenarioDates:
    """The outlook: actuals up to the last complete period of a grain, forecast for the rest."""
    end = calendar.end(known_to, grain)
    actual_to = end if end <= known_to else calendar.start(known_to, grain) - ONE_DAY
    days = [day for day in actual.days if day <= actual_to] + [day for day in forecast.days if day > actual_to]
    last = max(actual_to, forecast.last or actual_to)
    finest = min((one.grain for one in (actual, forecast) if one.grain), key=FINEST_FIRST.index)
    return ScenarioDates(
        name=f"{actual.name}+{forecast.name}",
        first=min(day for day in (actual.first, forecast.first) if day),
        last=last,
        grain=finest,
        days=tuple(sorted(days)),
        outlook=Outlook(actual, forecast, actual_to),
    )


def dates_of(
    name: str | None, days: Sequence[date], written: Grain | None = None, calendar: Calendar = CIVIL
) -> ScenarioDates:
    """How far a scenario with rows on these days runs.

    Parameters
    ----------
    written : the grain that all of the dates are written in, such as months, where it is none of days.
    calendar : the reporting calendar, whose periods the days may be the starts or ends of.

    Days that are all starts, or all ends, of some grain mean the coarsest such grain and stand for
    whole periods; a lone day is itself.

    >>> dates_of("budget", [date(2026, 1, 1), date(2026, 2, 1)]).last
    datetime.date(2026, 2, 28)
    """
    if not days:
        return ScenarioDates(name=name)
    civil = written or _grain_of(days, CIVIL)
    grain = civil if calendar == CIVIL else _grain_of(days, calendar)
    misfit = civil if is_finer(grain, civil) else None
    cut_by, periods = (calendar, grain) if misfit is None else (CIVIL, civil)
    return ScenarioDates(
        name=name,
        first=cut_by.start(min(days), periods),
        last=cut_by.end(max(days), periods),
        grain=grain,
        days=tuple(sorted(set(days))),
        misfit=misfit,
    )


def _grain_of(days: Sequence[date], calendar: Calendar) -> Grain:
    if len(set(days)) == 1:
        return Grain.DAY
    for grain in reversed(FINEST_FIRST):
        if all(day == calendar.start(day, grain) for day in days):
            return grain
        if all(day == calendar.end(day, grain) for day in days):
            return grain
    return Grain.DAY


def scenario_named(known: Sequence[ScenarioDates], name: str) -> ScenarioDates | None:
    return next((one for one in known if one.name and one.name.casefold() == name.casefold()), None)


def current_scenarios(
    known: Sequence[ScenarioDates], asked: str | None
) -> tuple[ScenarioDates, ScenarioDates | None]:
    """The current side's scenario, and the one that goes on from it where an outlook is asked for.

    Raises Mistake where there is none so named, or none that is named actual.
    """
    if asked is not None:
        whole = scenario_named(known, asked)
        actual, sign, forecast = asked.partition("+")
        if whole is None and sign:
            return _found(known, actual.strip()), _found(known, forecast.strip())
        return whole or _found(known, asked), None
    if len(known) == 1:
        return known[0], None
    for name in ACTUAL_NAMES:
        if found := scenario_named(known, name):
            return found, None
    if not known:
        raise Mistake("no row has an amount", "See what the columns hold with marvex survey.")
    names = listed(one.name for one in known if one.name is not None)
    raise Mistake(
        f"none of the scenarios is named actual: there are {names}", f"Name the current one with {setting('of')}."
    )


def _found(known: Sequence[ScenarioDates], asked: str) -> ScenarioDates:
    found = scenario_named(known, asked)
    if found is not None:
        return found
    names = [one.name for one in known if one.name is not None]
    if not names:
        raise Mistake(
            f"{setting('of')} {asked}: the data have no scenarios",
            f"Leave {setting('of')} out, or name the column with {setting('scenario')}.",
        )
    raise Mistake(f"no scenario '{asked}' in the data; there are {listed(names)}", did_you_mean(asked, names))
