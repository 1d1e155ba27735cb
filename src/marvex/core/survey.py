"""What is in a source, before anything is drawn: the facts that a survey finds, as values."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from marvex.core.period import ONE_DAY, Grain, period_end, period_start
from marvex.core.sides import ScenarioDates

USUAL_WEEKDAY = 0.5  # a weekday with rows in this part of its weeks is one on which rows are expected


@dataclass(frozen=True, slots=True)
class ColumnFacts:
    """A column, the role it was taken for, and why."""

    name: str
    role: str
    why: str
    filled: int
    absent: int
    distinct: int
    examples: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ScenarioFacts:
    """A scenario: how many rows, how much, how far, and the periods within that have no row."""

    dates: ScenarioDates
    rows: int
    amount: Decimal | None
    missing: tuple[date, ...]


@dataclass(frozen=True, slots=True)
class CategorySize:
    """A category with its rows and its sum."""

    name: str
    rows: int
    amount: Decimal | None


@dataclass(frozen=True, slots=True)
class CategoryColumn:
    """A column of categories, with the largest of them first."""

    name: str
    distinct: int
    largest: tuple[CategorySize, ...]


@dataclass(frozen=True, slots=True)
class Outlier:
    """An amount far from the others of its category: where it is, and what is usual there."""

    place: str
    category: str
    day: str
    amount: Decimal
    usual: Decimal


@dataclass(frozen=True, slots=True)
class Repeated:
    """How many rows repeat another, and the place of the first that does."""

    rows: int
    place: str


@dataclass(frozen=True, slots=True)
class Survey:
    """All that a survey says of one source."""

    name: str
    rows: int
    counted: str
    columns: tuple[ColumnFacts, ...]
    left_out: tuple[str, ...]
    scenarios: tuple[ScenarioFacts, ...]
    duplicates: Repeated | None
    doubled: Repeated | None
    outliers: tuple[Outlier, ...]
    categories: tuple[CategoryColumn, ...]
    cautions: tuple[str, ...]
    next: tuple[str, ...]


def missing_periods(days: Iterable[date], grain: Grain) -> tuple[date, ...]:
    """The first days of the periods between the first and the last that have no row.

    Days are missed only on weekdays that usually have rows.

    >>> missing_periods([date(2026, 1, 1), date(2026, 3, 1)], Grain.MONTH)
    (datetime.date(2026, 2, 1),)
    """
    present = {period_start(day, grain) for day in days}
    if not present:
        return ()
    expected = []
    day = min(present)
    while day <= max(present):
        expected.append(day)
        day = period_end(day, grain) + ONE_DAY
    if grain is Grain.DAY:
        weekdays = _usual_weekdays(present, expected)
        expected = [one for one in expected if one.weekday() in weekdays]
    return tuple(one for one in expected if one not in present)


def _usual_weekdays(present: set[date], expected: list[date]) -> set[int]:
    weeks = max(1.0, len(expected) / 7)
    counts = {weekday: sum(day.weekday() == weekday for day in present) for weekday in range(7)}
    return {weekday for weekday, count in counts.items() if count >= USUAL_WEEKDAY * weeks}


def runs_of(days: Iterable[date], grain: Grain) -> tuple[tuple[date, date], ...]:
    """Days of missing periods as runs, each from its first day to the last day of its last period."""
    runs: list[tuple[date, date]] = []
    for day in days:
        end = period_end(day, grain)
        if runs and day - runs[-1][1] <= timedelta(days=1):
            runs[-1] = (runs[-1][0], end)
        else:
            runs.append((day, end))
    return tuple(runs)
