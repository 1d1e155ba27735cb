"""The dates of a source as they are written, and the day that each stands for, in a table beside its facts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from itertools import pairwise

from marvex.core.compare.reservation import Reservation
from marvex.core.errors import Mistake, setting
from marvex.core.time.calendar import CIVIL, FINEST_FIRST, Calendar, Grain
from marvex.core.values import dataclass
from marvex.sources.columns import Column
from marvex.sources.dates import (
    Written,
    is_of_reporting_year,
    names_two_years,
    nested,
    period_alone,
    read_days,
    written,
)
from marvex.sources.engine import facts as facts_of
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import dated, part_of_year
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import WrittenPeriod
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.wide import AmountColumn
from marvex.sources.years_said import runs_on

MONTHS = 12

_YEARS_APART = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class DatesFound:
    """What the dates of a source are as they are written.

    Parameters
    ----------
    grain : the finest that they are written in, where it is none of days; `grains` the same of each scenario, where
        they are not alike.
    periods : what they stand for that is longer than a day.
    """

    grain: Grain | None
    grains: dict[str, Grain | None]
    periods: tuple[WrittenPeriod, ...]
    cautions: tuple[str, ...]
    doubts: tuple[Reservation, ...]


def create_days(
    facts: Facts, columns: Sequence[Column], asked: AskedOfSource, engine: Engine, name: str
) -> DatesFound:
    """Creates the table of every written date and its day.

    Raises Mistake where a scenario has a period and a part of it: it would count twice.
    """
    texts = [str(row[0]) for row in engine.rows(facts_of.WRITTEN_DATES, name)]
    column = next((one for one in columns if one.name == facts.roles.date), None)
    place = f"{name}, column {facts.roles.date}" if column else f"{name}, headings"
    says_date = column is not None and column.says_date
    cautions: tuple[str, ...] = ()
    doubts: tuple[Reservation, ...] = ()
    year = _checked_year(asked, column, columns, place)
    said = {text: _numbered(text, year, column) for text in texts}
    of_said = read_days(said.values(), asked.dates, place, serials=says_date, calendar=asked.calendar, year=year)
    days = {text: of_said[one] for text, one in said.items()}
    in_order = [(one.name, its) for one in facts.roles.amounts if one.period and (its := days.get(one.period))]
    _check_years(days, asked.calendar, place)
    if asked.calendar == CIVIL and (
        text := min((one for one in texts if is_of_reporting_year(said[one])), default="")
    ):
        months = [(name, its) for name, its in in_order if its.grain is Grain.MONTH]
        if names_two_years(text) and (its := days[text]) and its.grain is not Grain.YEAR:
            raise Mistake(
                f"{place}: '{text}' is of a year that does not begin in January",
                f"Say in which month it does: {setting('year_starts', 'april')}.",
            )
        if runs_on([its.first.month for _, its in months]):
            (start, its), (end, _) = months[0], months[-1]
            raise Mistake(
                f"{place}: {start} … {end} run past December, and are of no year from January on",
                f"Say in which month it begins: {_begins(its.first)}.",
            )
        if not asked.is_year_said:
            doubts += (_year_taken(text, days[text]),)
    grains = {found.grain for found in days.values() if found}
    by_scenario: dict[str, Grain | None] = {}
    of_scenarios: dict[str, dict[str, bool]] = {}  # each text, and whether a row with it is kept
    if len(grains) > 1:
        for scenario, text, is_kept in engine.rows(facts_of.DATES_OF_SCENARIOS, name):
            of_scenarios.setdefault(scenario, {})[str(text)] = is_kept
        both = _nested(days, list(of_scenarios.values()))
        if both is not None and not asked.wanted.wishes.keep_parts:
            whole, part = both
            narrowed = setting("where", f"{facts.roles.date}!={whole}")
            if column is None:
                finer = {text for text, its in days.items() if its and (of := days[part]) and its.grain is of.grain}
                narrowed = setting("amount", ",".join(one.name for one in facts.roles.amounts if one.period in finer))
            raise Mistake(
                f"{place}: '{whole}' stands beside '{part}', which is a part of it, and would count with it",
                f"{narrowed} {'leaves the one out' if column else 'takes the parts alone'}, "
                f"{setting('totals', 'keep')} keeps both.",
            )
        if both is not None:
            cautions += (f"{place}: '{both[0]}' counts with its part '{both[1]}'",)
        days = _without_lone_years(days, list(of_scenarios.values()))
        by_scenario = {scenario: _finest(days[text] for text in its) for scenario, its in of_scenarios.items()}
    firsts = [None if (found := days[text]) is None else found.first for text in texts]
    cautions += _long_before(texts, firsts, place)
    table = "SELECT unnest(?::VARCHAR[]) AS date_text, unnest(?::DATE[]) AS day"
    engine.run(Query(f"CREATE TEMP TABLE {facts.days} AS {table}", (texts, firsts)), name)
    return DatesFound(
        grain=_finest(days.values()),
        grains=by_scenario,
        periods=_periods(days, of_scenarios, asked),
        cautions=cautions,
        doubts=doubts,
    )


def _periods(
    days: dict[str, Written | None], of_scenarios: dict[str, dict[str, bool]], asked: AskedOfSource
) -> tuple[WrittenPeriod, ...]:
    """What the dates of rows that are kept stand for that is longer than a day."""
    kept: dict[str | None, list[str]] = {
        scenario: [text for text, is_kept in of.items() if is_kept] for scenario, of in of_scenarios.items()
    }
    kept = kept or {None: list(days)}
    return tuple(
        WrittenPeriod(
            text=text,
            scenario=asked.name or scenario or None,
            first=its.first,
            last=_last(its, asked.calendar),
            grain=its.grain,
        )
        for scenario, texts in kept.items()
        for text in texts
        if (its := days[text]) and its.grain is not Grain.DAY
    )


def _last(its: Written, calendar: Calendar) -> date:
    """The last day of a period, of the civil calendar where it begins with none of the reporting one."""
    of = calendar if calendar.start(its.first, its.grain) == its.first else CIVIL
    return of.end(its.first, its.grain)


def _year_taken(text: str, its: Written | None) -> Reservation:
    """That a period of a reporting year was taken for one of a year from January on, and for which."""
    months = its is not None and its.grain.months
    month = f"{its.first:%B %Y}, " if its is not None and months == 1 else ""
    return Reservation(
        what=f"'{text}' is read as {month}of a year from January on", mend=f"{setting('year_starts')} says otherwise"
    )


def _numbered(text: str, year: str | None, column: Column | None) -> str:
    """A period that is a number alone with the year that a call says, by the heading that it stands under."""
    its = period_alone(text)
    if year is None or column is None or its is None or its[0]:
        return text
    is_reporting, letter = part_of_year("", column.name)
    if letter:
        return dated(is_reporting, letter, (year, str(its[1]))) or text
    return f"{date(2000, its[1], 1):%B}" if its[1] <= MONTHS else text


def _checked_year(asked: AskedOfSource, column: Column | None, columns: Sequence[Column], place: str) -> str | None:
    """The year that a call says; raises Mistake where dates say theirs, or its first month has to be said too."""
    year = asked.wanted.year
    if year and column is not None and not column.is_undated:
        raise Mistake(f"{place}: its dates say their years", f"Leave {setting('year', year)} out.")
    kept = {one.partition("=")[0].strip().casefold() for one in asked.where}
    own = [one for one in columns if one.distinct > 1 and one.says_years and one.name.casefold() not in kept]
    if year and column is None and own:
        last = max(own[0].few, default=year)
        raise Mistake(
            f"{place}: {own[0].name} says the years of its rows, which {setting('year', year)} would make one",
            f"Leave it out, or keep the rows of one with {setting('where', f'{own[0].name}={last}')}.",
        )
    if year and "/" in year and asked.calendar == CIVIL and column is not None:
        raise Mistake(
            f"{place}: {setting('year', year)} is a year that does not begin in January",
            f"Say in which month it does: {setting('year_starts', 'april')}.",
        )
    return year


def _check_years(days: Mapping[str, Written | None], calendar: Calendar, place: str) -> None:
    """Raises Mistake where a year is said by the day on which it ends, and the calendar has no such year."""
    for text, its in sorted(days.items()):
        is_own = its is not None and its.grain is Grain.YEAR and its.first.month > 1
        if its is not None and is_own and calendar.start(its.first, Grain.YEAR) != its.first:
            raise Mistake(
                f"{place}: '{text}' is a year that does not begin in January",
                f"Say in which month it does: {_begins(its.first)}.",
            )


def _begins(day: date) -> str:
    return setting("year_starts", f"{day:%B}".lower())


def told_of_two_years(amounts: Sequence[AmountColumn], calendar: Calendar) -> tuple[str, ...]:
    """That the twelve months of a sheet are of two years, and what makes them one."""
    said = {
        its.first: one.period
        for one in amounts
        if one.period and (its := written(one.period)) and its.grain is Grain.MONTH
    }
    days = list(said)
    if calendar != CIVIL or len(days) != 12 or not runs_on([one.month for one in days]) or days != sorted(days):
        return ()
    return (f"{said[days[0]]} … {said[days[-1]]} are of two years: {_begins(days[0])} makes them one",)


def _finest(days: Iterable[Written | None]) -> Grain | None:
    """The finest grain that some dates are written in; None where it is that of days."""
    finest = min((found.grain for found in days if found), key=FINEST_FIRST.index, default=Grain.DAY)
    return None if finest is Grain.DAY else finest


def _long_before(texts: Sequence[str], firsts: Sequence[date | None], place: str) -> tuple[str, ...]:
    """That a date stands years before all others: 1900-01-01 is often written where there is none."""
    in_order = sorted((first, text) for first, text in zip(firsts, texts, strict=True) if first)
    for (day, text), (later, _) in reversed(list(pairwise(in_order))):
        if (years := (later - day).days // 365) >= _YEARS_APART:
            return (f"{place}: '{text}' is {years} years before the next date: is there none in such rows?",)
    return ()


def _nested(days: dict[str, Written | None], of_scenarios: Sequence[dict[str, bool]]) -> tuple[str, str] | None:
    """A period and a part of it that one scenario has rows of."""
    for texts in of_scenarios:
        kept = {text: found for text, is_kept in texts.items() if is_kept and (found := days[text])}
        if both := nested(kept):
            return both
    return None


def _without_lone_years(
    days: dict[str, Written | None], of_scenarios: Sequence[dict[str, bool]]
) -> dict[str, Written | None]:
    """What each text stands for, but that a year alone among a scenario's days is no date."""
    lone = {
        text
        for texts in of_scenarios
        if any((found := days[text]) and found.grain is Grain.DAY for text in texts)
        for text in texts
        if (found := days[text]) and found.grain is Grain.YEAR
    }
    return {text: None if text in lone else found for text, found in days.items()}
