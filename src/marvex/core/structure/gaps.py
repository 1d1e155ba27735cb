"""Days or weeks that one of several series lacks, where it has nearly all others and the others have these."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from datetime import date, timedelta
from itertools import pairwise

from marvex.core.values import dataclass

_LEAST_UNITS = 12  # days or weeks with rows, to say what is usual
_MOST_DAYS = 45  # what is longer is no slip: somebody closed, or began
_OFF_DAY = 10  # a series works on a weekday if it has a tenth of the rows there that it has on its busiest
_YEARS = (timedelta(days=364), timedelta(days=-364))  # so that weekdays are the same
_TIMES = 3  # as long as the next longest run that the same series lacks
_CHANCE = 0.03  # that any series lacks so long a run as it lacks single days
_COME_AND_GO = 3  # of so many series at most one other has a run like it, in its midst or at its end


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """The days that some series lack, by the first and the last of them."""

    names: tuple[str, ...]
    first: date
    last: date
    is_end: bool


@dataclass(frozen=True, slots=True)
class _Run:
    """Days in a row that a series lacks, of those on which it could have rows."""

    days: tuple[date, ...]
    is_end: bool

    @property
    def length(self) -> int:
        return len(self.days)


def gaps(days: Mapping[str, Collection[date]]) -> tuple[Gap, ...]:
    """Runs of days that a series lacks though most others have rows on them, by chance about never.

    A day counts where any series has a row on it, and a series has rows on its weekday, so that nothing is lacking
    where nobody works. Nothing is told of what begins or ends for good, of a series that is lacking as long at
    another time or a year apart (closed each August), or where many come and go.

    Parameters
    ----------
    days : of each series those on which it has rows; of data kept by week the one day of each.

    >>> june = [date(2026, 6, day) for day in range(1, 29)]
    >>> [(one.names, one.first.day, one.last.day) for one in gaps({"North": june, "South": june[:9] + june[16:]})]
    [(('South',), 10, 16)]
    """
    units = sorted({day for one in days.values() for day in one})
    of_weekdays = {name: _own_days(units, its) for name, its in days.items() if its}
    regular = {name: {*days[name]} for name, own in of_weekdays.items() if 2 * len({*days[name]} & {*own}) > len(own)}
    if len(units) < _LEAST_UNITS or len(regular) < 2:
        return ()
    met = Counter(day for its in regular.values() for day in its)
    runs = {name: _runs(of_weekdays[name], its) for name, its in regular.items()}
    found: dict[_Run, list[str]] = {}
    for name, own in runs.items():
        if _is_odd(own, len(regular[name]), len(regular)):
            found.setdefault(own[0], []).append(name)
    told: dict[tuple[date, date, bool], list[str]] = {}  # two may lack a Sunday, on which one of them is closed
    for run, names in found.items():
        alike = {name for name, own in runs.items() if any(_is_like(one, run) for one in own)} - {*names}
        is_long = (run.days[-1] - run.days[0]).days >= _MOST_DAYS
        have = sum(met[day] for day in run.days)
        if not is_long and 2 * have >= run.length * len(regular) and _COME_AND_GO * len(alike) <= len(regular):
            told.setdefault((run.days[0], run.days[-1], run.is_end), []).extend(names)
    return tuple(
        Gap(names=tuple(names), first=first, last=last, is_end=is_end)
        for (first, last, is_end), names in told.items()
    )


def _own_days(units: Sequence[date], days: Collection[date]) -> list[date]:
    """The units from the first day of a series on, of the weekdays on which it has rows."""
    counts = Counter(day.weekday() for day in days)
    first, busiest = min(days), max(counts.values())
    return [day for day in units if day >= first and _OFF_DAY * counts[day.weekday()] >= busiest]


def _runs(own: Sequence[date], days: Collection[date]) -> list[_Run]:
    """The runs of a series' own units that it lacks, but at the same time of several years; the longest first."""
    places = [place for place, day in enumerate(own) if day in days]
    runs = [
        _Run(tuple(own[one + 1 : later]), is_end=later == len(own))
        for one, later in pairwise((*places, len(own)))
        if later - one > 1
    ]
    lacking = {day for run in runs for day in run.days}
    once = [
        run
        for run in runs
        if not any(2 * sum(day + shift in lacking for day in run.days) > run.length for shift in _YEARS)
    ]
    return sorted(once, key=lambda run: -run.length)


def _is_like(one: _Run, run: _Run) -> bool:
    """Whether a run of another series shows that such runs are nothing out of the way."""
    return _TIMES * one.length > run.length and (run.is_end or not one.is_end)


def _is_odd(runs: Sequence[_Run], filled: int, series: int) -> bool:
    """Whether the longest of some runs is out of the ways of its series, one of so many."""
    if not runs or filled < _LEAST_UNITS or any(_TIMES * run.length > runs[0].length for run in runs[1:2]):
        return False
    # How likely a single unit is lacking, as those are that are left, by Jeffreys' prior.
    rest = sum(run.length for run in runs[1:])
    lacking = (rest + 0.5) / (filled + rest + 1)
    return lacking ** runs[0].length * (1 if runs[0].is_end else filled) * series <= _CHANCE
