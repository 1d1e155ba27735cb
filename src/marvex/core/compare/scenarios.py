"""Scenarios: which there are, how far each runs, at which grain, and which is the current one."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import date, timedelta

from marvex.core.compare.scenario_words import (
    ACTUAL_NAMES,
    ACTUAL_WORDS,
    PLANNED_WORDS,
    PRIOR_NAMES,
    is_planned,
    says_planned,
    version_said,
)
from marvex.core.compare.side import Side, Stretch
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.time.calendar import (
    A_WEEK,
    CIVIL,
    FINEST_FIRST,
    ONE_DAY,
    THURSDAY,
    Calendar,
    Grain,
    coarsest,
    is_finer,
)
from marvex.core.time.window import Window
from marvex.core.values import dataclass

LEAST_PERIODS, NEAR_DAYS = 3, 3  # of one posting each, so near their ends: 28 December is that of a year's last month
USUAL_WEEKDAY = 0.5  # a weekday with rows in this part of its weeks is one on which rows are expected


@dataclass(frozen=True, slots=True)
class ThinEnd:
    """The few amounts after a day, how many there usually are in a month or a coarser period, and that day."""

    few: int
    usual: int
    after: date

    @property
    def spoken(self) -> str:
        return f"{self.few} amount{'s' if self.few > 1 else ''} after {self.after}"


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenarioDates:
    """How far one scenario runs: its first day, the last day its dates stand for, and its grain.

    Parameters
    ----------
    name : None in a table without scenarios; the days are None in one without dates.
    days : every day on which an amount of it counts, in order.
    weekdays : those on which it usually has rows, 0 for Monday.
    ahead : by how many days those are ahead of its dates: a week counts where its Thursday is.
    stops : what is said of its last day where that is part filled; else empty.
    misfit : the civil grain of its dates, where the reporting calendar has no such periods.
    outlook : what it is made of, where it is actuals as far as they go and forecast for the rest.
    amounts_to : the last day of its last period with an amount other than 0, where there are later ones without.
    zeros_to : the last day of those, once they are taken for not known yet.
    thin : how it ends, where with far fewer amounts than usual.
    runs_to_date : each of its periods holds those of its year before it.
    is_written : its grain is that in which its dates are written, and not one that was taken from its days.
    dated_as : the scenario whose periods its lone day was taken to be one of.
    """

    name: str | None
    first: date | None = None
    last: date | None = None
    grain: Grain | None = None
    days: tuple[date, ...] = ()
    weekdays: tuple[int, ...] = ()
    ahead: int = 0
    stops: str = ""
    misfit: Grain | None = None
    outlook: Outlook | None = None
    amounts_to: date | None = None
    zeros_to: date | None = None
    thin: ThinEnd | None = None
    runs_to_date: bool = False
    is_written: bool = False
    dated_as: str | None = None

    @property
    def spoken(self) -> str:
        return self.name or "data"

    def side(self, window: Window | None) -> Side:
        """The side that is this scenario in a window."""
        if window is None:
            return Side(self.name, window)
        if self.outlook is not None:
            stretches = self.outlook.stretches(window)
            return Side(self.name, window, stretches, self.outlook.actual_to if len(stretches) > 1 else None)
        if not self.ahead:
            return Side(self.name, window)
        return Side(self.name, window, (self.stretch(window.first, window.end),))

    def stretch(self, first: date, last: date) -> Stretch:
        return Stretch(self.name, first, last, self.ahead)

    def lacks(self, period: Window) -> bool:
        """Whether it has no row at all in a period; a day without business, such as a Sunday, is not lacking."""
        if self.days_within(period.first, period.end) or self.first is None or self.last is None:
            return False
        is_day = period.grain is Grain.DAY
        is_outside = period.end < self.first or period.first > self.last
        return is_outside or not is_day or period.first.weekday() in self.weekdays

    def as_known(self, as_of: date | None) -> ScenarioDates:
        """The scenario as far as it is known: periods of zeros at its end are not, unless they are asked for."""
        if self.amounts_to is None or (as_of is not None and as_of > self.amounts_to):
            return self
        days = tuple(day for day in self.days if day <= self.amounts_to)
        return replace(self, days=days, last=self.amounts_to, zeros_to=self.last, stops="", thin=None)

    def known_through(self, day: date) -> bool:
        """Whether there is nothing to come up to a day: the data reach it, but for weekdays without business, or, of
        weeks, the next has its Thursday after it."""
        if self.last is None or self.first is None:
            return False
        if self.grain is Grain.WEEK:
            return day < self.last + _TO_THURSDAY
        to_come = ((self.last + (n + 1) * ONE_DAY).weekday() for n in range((day - self.last).days))
        is_regular = self.grain is Grain.DAY and bool(self.weekdays) and self.last - self.first > A_WEEK
        return day <= self.last or (is_regular and day - self.last < A_WEEK and not set(to_come) & set(self.weekdays))

    def usual_days(self, first: date, before: date) -> int:
        """How many days from one on and before another are of the weekdays on which it usually has rows, if by day."""
        if self.grain is not Grain.DAY:
            return 0
        days = (first + n * ONE_DAY for n in range((before - first).days))
        return sum(day.weekday() in self.weekdays for day in days)

    def days_within(self, first: date | None, last: date | None) -> tuple[date, ...]:
        """The days between two, both included, on which it has a row."""
        if first is None or last is None:
            return ()
        return self.days[bisect_left(self.days, first) : bisect_right(self.days, last)]


_TO_THURSDAY = timedelta(days=4)  # from the Sunday that a week ends with


@dataclass(frozen=True, slots=True)
class Outlook:
    """Actuals to a day, and a forecast from the day after on: never both for one period."""

    actual: ScenarioDates
    forecast: ScenarioDates
    actual_to: date

    def stretches(self, window: Window) -> tuple[Stretch, ...]:
        return self.between(window.first, window.end)

    def between(self, first: date, last: date) -> tuple[Stretch, ...]:
        """What the days from one to another are of, both included."""
        parts = []
        if first <= self.actual_to:
            parts.append(self.actual.stretch(first, min(last, self.actual_to)))
        if last > self.actual_to:
            parts.append(self.forecast.stretch(max(first, self.actual_to + ONE_DAY), last))
        return tuple(parts)


def outlook_of(
    actual: ScenarioDates, forecast: ScenarioDates, as_of: date | None, calendar: Calendar
) -> ScenarioDates:
    """The outlook: actuals up to the last period of the data that is complete, forecast for the rest."""
    known_to = as_of or actual.last
    assert known_to is not None
    grains = [one.grain for one in (actual, forecast) if one.grain]
    grain = coarsest(*grains)
    end = calendar.end(known_to, grain)
    is_complete = end <= known_to or (as_of is None and actual.known_through(end))
    actual_to = end if is_complete else calendar.start(known_to, grain) - ONE_DAY
    days = [day for day in actual.days if day <= actual_to] + [day for day in forecast.days if day > actual_to]
    return ScenarioDates(
        name=f"{actual.name}+{forecast.name}",
        first=min(day for day in (actual.first, forecast.first) if day),
        last=max(actual_to, forecast.last or actual_to),
        grain=grain,
        days=tuple(sorted(days)),
        weekdays=actual.weekdays,
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
    is_as_written = written is not None and all(calendar.start(day, written) == day for day in days)
    grain = civil if calendar == CIVIL or is_as_written else _grain_of(days, calendar)
    misfit = civil if is_finer(grain, civil) else None
    cut_by, periods = (calendar, grain) if misfit is None else (CIVIL, civil)
    ahead = 0
    if grain is Grain.WEEK and not calendar.weeks_make_years:
        ahead = (THURSDAY - (min(days) - calendar.start(min(days), Grain.WEEK))).days
    return ScenarioDates(
        name=name,
        first=cut_by.start(min(days), periods),
        last=cut_by.end(max(days), periods),
        grain=grain,
        days=tuple(day + timedelta(days=ahead) for day in sorted(set(days))),
        weekdays=_usual_weekdays(set(days)),
        ahead=ahead,
        misfit=misfit,
        is_written=written is not None,
    )


def of_lone_day(
    one: ScenarioDates, others: Sequence[ScenarioDates], calendar: Calendar = CIVIL
) -> ScenarioDates | None:
    """A scenario whose only day is the start, or the end, of a period of another in the same table, as that period.

    A year's first month has one date, as the budget beside it has twelve. None where it is nothing such.

    >>> months = dates_of("budget", [date(2026, month, 1) for month in (1, 2, 3)])
    >>> of_lone_day(dates_of("actual", [date(2026, 1, 1)]), [months]).last
    datetime.date(2026, 1, 31)
    """
    if len(one.days) != 1 or one.is_written or one.grain is not Grain.DAY:
        return None
    day = one.days[0]
    for other in others:
        grain = other.grain
        if grain in (None, Grain.DAY) or other.misfit is not None or len(other.days) < 2:
            continue
        dated = other.days[0] - timedelta(days=other.ahead)
        ends_it = calendar.start(dated, grain) != dated
        made = dates_of(one.name, one.days, grain, calendar)
        if made.grain is grain and day == (calendar.end(day, grain) if ends_it else calendar.start(day, grain)):
            return replace(made, is_written=False, runs_to_date=one.runs_to_date, dated_as=other.spoken)
    return None


def _usual_weekdays(days: Collection[date]) -> tuple[int, ...]:
    """The weekdays that have rows in at least half of the weeks."""
    weeks = max(1.0, ((max(days) - min(days)).days + 1) / 7)
    counts = Counter(day.weekday() for day in days)
    return tuple(sorted(weekday for weekday, count in counts.items() if count >= USUAL_WEEKDAY * weeks))


def _grain_of(days: Sequence[date], calendar: Calendar) -> Grain:
    if len(set(days)) == 1:
        return Grain.DAY
    for grain in reversed(FINEST_FIRST):
        if all(day == calendar.start(day, grain) for day in days):
            return grain
        if all(day == calendar.end(day, grain) for day in days) or _are_near_ends(set(days), grain, calendar):
            return grain
    return Grain.DAY


def _are_near_ends(days: Collection[date], grain: Grain, calendar: Calendar) -> bool:
    """Whether each of several periods has one day, near its end or near its start: last working days, or first ones."""
    if grain in (Grain.DAY, Grain.WEEK) or not LEAST_PERIODS <= len(days) <= (max(days) - min(days)).days // 28 + 2:
        return False
    if len({calendar.start(day, grain) for day in days}) < len(days):
        return False
    to_end = max((calendar.end(day, grain) - day).days for day in days)
    from_start = max((day - calendar.start(day, grain)).days for day in days)
    return min(to_end, from_start) <= NEAR_DAYS


def scenario_named(known: Sequence[ScenarioDates], name: str) -> ScenarioDates | None:
    return next((one for one in known if one.name and one.name.casefold() == name.casefold()), None)


def actual_among(known: Sequence[ScenarioDates]) -> ScenarioDates | None:
    """The scenario that is named actual, or that alone says so otherwise ('ACT', 'FY25 Actual')."""
    named = next((one for name in ACTUAL_NAMES if (one := scenario_named(known, name))), None)
    saying = [one for one in known if (said := version_said(one.name)) and said.is_actual]
    return named or (saying[0] if len(saying) == 1 else None)


def is_version(name: str | None, *, is_column: bool) -> bool:
    """Whether a scenario is a version of the numbers, such as a budget, in which what is not there is nothing.

    Parameters
    ----------
    is_column : it is the heading of a column, which may as well be a year's.
    """
    words = (name or "").casefold()
    if is_column:
        named = any(word in words.split() or words.startswith(word) for word in PLANNED_WORDS)
        return named or says_planned(name)
    return bool(words) and words not in PRIOR_NAMES


def unnamed(named: Collection[str]) -> str | None:
    """What is the scenario of amounts that have none, beside others: actual, where all others are planned."""
    are_planned = all(map(is_planned, named))
    return ACTUAL_WORDS[0] if named and are_planned else None


def current_scenarios(
    known: Sequence[ScenarioDates], asked: str | None, as_of: date | None = None
) -> tuple[ScenarioDates, ScenarioDates | None]:
    """The current side's scenario as far as it is known, and the one that an outlook goes on with from there.

    Raises Mistake where there is none so named, or none that is named actual.
    """
    of, forecast = _current(known, asked)
    return of.as_known(as_of), forecast


def _current(known: Sequence[ScenarioDates], asked: str | None) -> tuple[ScenarioDates, ScenarioDates | None]:
    if asked is not None:
        whole = scenario_named(known, asked)
        actual, sign, forecast = asked.partition("+")
        if whole is None and sign:
            return _found(known, actual.strip()), _found(known, forecast.strip())
        return whole or _found(known, asked), None
    if len(known) == 1:
        return known[0], None
    if found := actual_among(known):
        return found, None
    if not known:
        raise Mistake("no row has an amount", "See what the columns hold with marvex survey.")
    names = [one.name for one in known if one.name is not None]
    likely = next((one for one in names if not one.casefold().startswith(PLANNED_WORDS)), names[0])
    raise Mistake(
        f"none of the scenarios is named actual: there are {listed(names)}",
        f"Name the current one, such as {setting('of', likely)}.",
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
