"""What is odd about a month beside the others: all of its amounts, one of them, or that some are not there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterator, Mapping, Sequence
from datetime import date, timedelta
from decimal import Decimal
from functools import partial
from itertools import product

from marvex.app.columns_by_month import ColumnByMonth, columns_by_month
from marvex.app.gaps import gaps_of
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenario_words import says_planned
from marvex.core.compare.scenarios import ScenarioDates
from marvex.core.compare.totals import Total
from marvex.core.errors import listed, setting
from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.odd_months import Oddity, doubled, is_taken_over, lacking, odd_amounts, odd_months, runs_on
from marvex.core.structure.renamed import renamed
from marvex.core.time.calendar import CIVIL, Calendar, Grain, add_months, coarsest
from marvex.core.time.notation import notation
from marvex.core.time.period import period_of
from marvex.core.words.printable import printable
from marvex.sources.engine.ledger import Ledger

_ODD = {
    Oddity.TURNED: "has the other sign than the other months, for each {0}",
    Oddity.SMALL: "is about a thousandth of the other months, for each {0}, as where it is in thousands",
    Oddity.LARGE: "is about a thousand times the other months, for each {0}, as where those are in thousands",
    Oddity.COPIED: "has the very amounts of {other:%Y-%m}, for each {0}",
    Oddity.TO_DATE: "holds the months of its year before it, for each {0}, as a year to date does",
}


def odd_times_of(book: Ledger, as_of: date | None = None) -> tuple[Reservation, ...]:
    """The months that are not written as the others are, and the days and weeks that are lacking.

    Parameters
    ----------
    as_of : to where the data are known, where that is said: a month that goes on after it is not looked at.
    """
    # The views of a pack have many pictures of one ledger: a quarter of the demo's was looking at its months again.
    months = book.first.rows.gathered.once(("odd months", book.sources, book.scenarios), lambda: _odd_months_of(book))
    if as_of is not None:
        months = tuple(one for one in months if not any(first <= as_of < last for first, last in one.of))
    return (*months, *gaps_of(book, months))


def _odd_months_of(book: Ledger) -> tuple[Reservation, ...]:
    """The months that are not written as the others are, by the values of some column."""
    told: dict[str, Reservation] = {}
    known: set[tuple[str | None, date]] = set()
    columns = list(columns_by_month(book))
    for column in columns:
        for dates in book.scenarios:
            values = [
                {month: amount for (its, month), amount in of_month.items() if its == dates.name and month}
                for of_month in column.amounts.values()
            ]
            months = sorted({month for one in values for month in one})
            so_far = partial(_year_so_far, months, book.calendar)
            is_plan = says_planned(dates.name)
            for month, oddity, other in odd_months(values, months, may_be_alike=is_plan, year_so_far=so_far):
                one = _told(column.source.name, dates, month, _ODD[oddity].format(column.name, other=other))
                told[one.what] = one
                known.add((dates.name, month))
        told |= {one.what: one for one in _as_planned(book, column, columns)}
        told |= {one.what: one for one in _not_as_the_others(book, column, known)}
    return (*told.values(), *_loaded_twice(book))


def _year_so_far(months: Sequence[date], calendar: Calendar, month: date) -> list[date]:
    return [one for one in months if calendar.start(month, Grain.YEAR) <= one < month]


def _is_sum(book: Ledger) -> bool:
    """Whether amounts are added up over time; balances may be there twice a month, and may rise."""
    return book.first.asked.total_as.way is Total.SUM


def _as_planned(book: Ledger, column: ColumnByMonth, columns: Sequence[ColumnByMonth]) -> Iterator[Reservation]:
    """That the last month of actuals is just what is planned of it, in any source, where others are not."""
    plans = [one for one in book.scenarios if says_planned(one.name)]
    its = [one for one in columns if one is column or (_is_compared(one) and _is_compared(column))]
    for dates, plan, of_plan in product((one for one in book.scenarios if one not in plans), plans, its):
        own, planned = _whole_months(column, dates), _whole_months(of_plan, plan)
        months = sorted({month for one in own.values() for month in one})
        if is_taken_over(list(own.values()), [planned.get(name, {}) for name in own], months):
            told = f"has the very amounts of {plan.name}, for each {column.name}, as if it were not known yet"
            yield _told(column.source.name, dates, months[-1], told)


def _is_compared(column: ColumnByMonth) -> bool:
    return column.name in column.source.roles.by[:1]


def _loaded_twice(book: Ledger) -> Iterator[Reservation]:
    """That a month of a scenario has twice the amounts of each other, or of balances a day.

    That they are the very same rows is told elsewhere, of sums.
    """
    if not _is_sum(book) and book.first.asked.total_as.way is not Total.CLOSING:
        return
    known = {span for one in book.reservations for span in one.of}
    counts: dict[str | None, Counter[date]] = {}
    amounts: dict[str | None, dict[date, Decimal]] = {}
    for one in book.kept_by_day():
        when = one.day.replace(day=1) if _is_sum(book) else one.day
        counts.setdefault(one.scenario, Counter())[when] += one.rows
        so_far = amounts.setdefault(one.scenario, {})
        so_far[when] = EXACT.add(so_far.get(when, ZERO), one.amount)
    for dates in (one for one in book.scenarios if one.name in counts):
        of_months, sums = counts[dates.name], amounts[dates.name]
        twice = doubled(of_months, sums)
        if twice is not None and (twice, CIVIL.end(twice, Grain.MONTH)) not in known:
            has = f"has {of_months[twice]} amounts that come to {sums[twice]:,f}"
            each = _grain(dates).value if _is_sum(book) else "day"
            told = f"{has}, about twice those of each other {each}, as if it had been loaded twice"
            yield _told("", dates, CIVIL.start(twice, Grain.MONTH), told)


def _not_as_the_others(
    book: Ledger, column: ColumnByMonth, known: Container[tuple[str | None, date]]
) -> Iterator[Reservation]:
    """That a month lacks what each other month has, or has an amount far from all others.

    Parameters
    ----------
    known : the months of a scenario of which it is told that all of their amounts are odd.
    """
    for dates in book.scenarios:
        values = _whole_months(column, dates)
        goes_on = renamed(values, sorted({month for one in values.values() for month in one}))
        # What goes on under another name is not lacking.
        yield from _lacking(column, dates, values, {old for old, _, _ in goes_on})
        yield from _renamed(column, dates, goes_on)
        yield from _running(column, dates.name, values, book.calendar) if _is_sum(book) else ()
        for odd in (one for one in odd_amounts(values) if (dates.name, one.month) not in known):
            others = f"{odd.least:,f}" if odd.least == odd.most else f"{odd.least:,f} to {odd.most:,f}"
            told = f"has {odd.amount:,f} of {_shown(odd.name)}, where the {odd.count} others are of {others}"
            yield _told(column.source.name, dates, odd.month, told)


def _whole_months(column: ColumnByMonth, dates: ScenarioDates) -> dict[str, dict[date, Decimal]]:
    """What each value comes to in the months of a scenario, but for those at its ends that are part filled."""
    met = {month for of_month in column.amounts.values() for its, month in of_month if its == dates.name and month}
    ends = {month: CIVIL.end(month, _grain(dates)) for month in met if dates.first and dates.first <= month}
    whole = {month for month, end in ends.items() if dates.known_through(end)}
    if dates.thin is not None:
        whole = {month for month in whole if ends[month] <= dates.thin.after}
    return {
        name: {
            month: amount
            for (its, month), amount in of_month.items()
            if its == dates.name and amount and month in whole and month is not None
        }
        for name, of_month in column.amounts.items()
    }


def _lacking(
    column: ColumnByMonth,
    dates: ScenarioDates,
    values: Mapping[str, Mapping[date, Decimal]],
    renamed: Container[str],
) -> Iterator[Reservation]:
    months = sorted({month for one in values.values() for month in one})
    for month, names, count in lacking(values, months, lambda month: add_months(month, -12)):
        its = [one for one in names if one not in renamed]
        if not its:
            continue
        told, mend = f"has no amount of {listed(map(_shown, its), 4)}, which each of the {count}", ""
        if month == months[-1] and not says_planned(dates.name):
            told += " before has, as if not all were booked"
            mend = f"{setting('as_of', month - timedelta(days=1))} leaves it out"
        else:
            told += " others has, as if some were missing"
        yield _told(column.source.name, dates, month, told, mend)


def _renamed(
    column: ColumnByMonth, dates: ScenarioDates, goes_on: Sequence[tuple[str, str, date]]
) -> Iterator[Reservation]:
    """That one of the names that are compared ends where another begins."""
    if column.name not in column.source.roles.by:
        return
    mend = f"{setting('name_map', 'FILE')} shows them as one"
    for old, new, month in goes_on:
        begins = f"{_shown(new)} begins in {_period(dates, month)}"
        told = f"{begins} where {_shown(old)} ends, of its size, as if it were the same"
        yield Reservation(what=told, mend=mend, source=column.source.name)


def _running(
    column: ColumnByMonth, scenario: str | None, values: Mapping[str, Mapping[date, Decimal]], calendar: Calendar
) -> Iterator[Reservation]:
    """That one of several values holds in each month of a year those before it."""
    for name, of_month in values.items():
        years: dict[date, list[date]] = {}
        for month in sorted(of_month):
            years.setdefault(calendar.start(month, Grain.YEAR), []).append(month)
        for months in years.values():
            if runs_on([of_month[month] for month in months]):
                first, last = (f"{of_month[one]:,f} in {one:%Y-%m}" for one in (months[0], months[-1]))
                of = f"{_shown(name)} of {scenario}" if scenario else _shown(name)
                told = f"{of} adds about as much each month as it begins with ({first}, {last})"
                span = months[0], CIVIL.end(months[-1], Grain.MONTH)
                what = f"{told}, as if it ran to date"
                yield Reservation(what=what, source=column.source.name, of=(span,), scenario=scenario)


def _shown(name: str) -> str:
    return printable(name) or NO_NAME


def _grain(dates: ScenarioDates) -> Grain:
    """The grain of a scenario's amounts by month, where one may stand for a quarter or a year."""
    return coarsest(dates.grain or Grain.MONTH, Grain.MONTH)


def _period(dates: ScenarioDates, month: date) -> str:
    return notation(period_of(month, _grain(dates), CIVIL))


def _told(source: str, dates: ScenarioDates, month: date, what: str, mend: str = "") -> Reservation:
    of = f"{_period(dates, month)} of {dates.name}" if dates.name else _period(dates, month)
    is_of = (month, CIVIL.end(month, _grain(dates)))
    return Reservation(what=f"{of} {what}", mend=mend, source=source, of=(is_of,), scenario=dates.name)
