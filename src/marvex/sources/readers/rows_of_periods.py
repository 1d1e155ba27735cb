"""Rows of a sheet along time that are totals or averages of its others: `Q1` below its months, `YTD`, `FY 2026`."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from decimal import Decimal

from marvex.core.errors import listed
from marvex.core.exact import ZERO, total
from marvex.core.structure.amount_names import adds_up, statistics_among
from marvex.core.structure.total_names import naming
from marvex.core.time.calendar import CIVIL, Grain, is_finer
from marvex.core.values import dataclass
from marvex.sources.dates import Written, is_like_a_date, is_of_reporting_year, period_alone, written
from marvex.sources.headings import RUNNING, TO_DATE, says_whole_year
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable, Wishes
from marvex.sources.readers.structure_words import plainly, said_of_sums

_MOST_ROWS = 2_000  # one for each of its periods
_LEAST_TOLD = 32  # times what rounding may take, of all columns together
_ANY_YEAR = 2001  # of periods that say none, to see which are parts of which


@dataclass(frozen=True, slots=True, kw_only=True)
class RowsOfPeriods:
    """The rows that are left out, by number, with what is said of them, and of those that rounding is in."""

    numbers: frozenset[int] = frozenset()
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class _Whole:
    """A row that is the sum, or the average, of others: from which to which, and by how much it misses them."""

    name: str
    number: int
    first: int
    last: int
    off: Decimal = ZERO
    is_mean: bool = False


def rows_of_periods(table: SheetTable, texts: Sequence[int], wishes: Wishes, year: str | None) -> RowsOfPeriods:
    """The rows that are sums, or averages, of rows of periods in every column that adds up, or in those that are named.

    A row is only looked at where its name says no period, or one that others are parts of; it is left out only where
    its figures prove it. What other columns tell apart has wholes of its own: those of a region are no sums of
    another's. Nothing is found where a period of it has several rows, as in a ledger.

    Parameters
    ----------
    table : with the columns of amounts that add up.
    texts : the columns that hold names or dates.
    year : that of periods that say none.
    """
    if not 1 < len(table.rows) <= _MOST_ROWS:
        return RowsOfPeriods()
    cells = {place: [row.cells[place] for row in table.rows] for place in texts}
    telling = [place for place in texts if any(_are_dated(cells[place])) and has_wholes(cells[place])]
    if len(telling) != 1:
        return RowsOfPeriods()
    beside = [place for place in texts if place not in telling and not all(_are_dated(cells[place]))]
    groups: dict[tuple[str, ...], list[SheetRow]] = {}
    for row in table.rows:
        groups.setdefault(tuple(row.cells[place] for place in beside), []).append(row)
    headings = [table.headings[column] for column in table.places]
    # What stands of a headcount or a price in the row of a total says nothing of the amounts beside it.
    additive = [at for at, heading in enumerate(headings) if adds_up(heading)] or range(len(headings))
    columns = [at for at in additive if headings[at] in wishes.amounts] or additive
    found = [
        one
        for rows in groups.values()
        for one in _wholes_of(table, rows, texts, telling[0], columns, says_year=bool(year))
        if one.name not in wishes.named
    ]
    sums = {one.number: (one.name, one.first, one.last) for one in found if not one.is_mean}
    rounded = [f"row {one.number} '{one.name}' (by {plainly(one.off)})" for one in found if one.off]
    are = "is" if len(rounded) == 1 else "are"
    off = f"{listed(rounded, 6)} {are} not just the sum of periods, which is taken for rounding"
    return RowsOfPeriods(
        numbers=frozenset(one.number for one in found),
        said=(*(said_of_sums(sums) if sums else ()), *_said_of_means([one for one in found if one.is_mean])),
        cautions=(off,) if rounded else (),
    )


def _said_of_means(means: Sequence[_Whole]) -> list[str]:
    if len(means) > 1:
        rows = listed((f"{one.number} '{one.name}'" for one in means), 3)
        return [f"rows {rows} are averages of rows of periods and were left out"]
    return [
        f"row {one.number} '{one.name}' is the average of rows {one.first}–{one.last} and was left out"
        for one in means
    ]


def _wholes_of(
    table: SheetTable,
    rows: Sequence[SheetRow],
    texts: Sequence[int],
    place: int,
    columns: Sequence[int],
    *,
    says_year: bool,
) -> Iterator[_Whole]:
    """Those of some rows that are wholes of others among them.

    Parameters
    ----------
    place : the column that says their periods.
    columns : those of figures, as places in `table.places`.
    says_year : the year of periods that say none is known.
    """
    names = [row.cells[place] for row in rows]
    periods = _periods(names)
    wholes = sorted(_wholes(names, periods))
    plain = [at for at, period in enumerate(periods) if at not in wholes and (period or is_like_a_date(names[at]))]
    averages = set(statistics_among([names[at] for at in wholes]))
    different = {tuple(rows[at].cells[one] for one in texts) for at in plain}
    # A year above months without one says whose they are.
    is_bare = any(written(names[at]) for at in wholes) and any(period_alone(names[at]) for at in plain)
    if not plain or len(different) < len(plain) or (is_bare and not says_year):
        return
    for at in wholes:
        name, number = names[at], rows[at].number
        for parts in _parts(at, names, periods, plain, wholes):
            its = [rows[part].number for part in parts]
            is_mean = name in averages
            off = _off_mean(table, number, its, columns) if is_mean else _off(table, number, its, columns)
            if off is not None:
                yield _Whole(name=name, number=number, first=its[0], last=its[-1], off=off, is_mean=is_mean)
                break


def has_wholes(names: Sequence[str]) -> bool:
    """Whether some of the names of rows along time are wholes of others.

    >>> [has_wholes(["2026-01", "2026-02", one]) for one in ("2026-Q1", "YTD", "2026-03")]
    [True, True, False]
    """
    return bool(_wholes(names, _periods(names)))


def _periods(names: Sequence[str]) -> list[Written | None]:
    """The periods that names say; one that says no year is of the year of what stands before it, or of any."""
    found: list[Written | None] = []
    year = next((its.first.year for name in names if (its := written(name))), _ANY_YEAR)
    for name in names:
        is_bare = period_alone(name) is not None and not name.isdigit()
        found.append(written(f"{name} {year}" if is_bare else name))
        year = year if found[-1] is None else found[-1].first.year
    return found


def _are_dated(names: Sequence[str]) -> list[bool]:
    return [period is not None or is_like_a_date(name) for name, period in zip(names, _periods(names), strict=True)]


def _wholes(names: Sequence[str], periods: Sequence[Written | None]) -> set[int]:
    """The rows whose names say a total, what runs to date, an average, or a period that others are parts of."""
    statistics = set(statistics_among(names))
    known = {period for period in periods if period}
    finer = {
        grain: [one for one in known if is_finer(one.grain, grain)] for grain in {period.grain for period in known}
    }
    # 03/04/2026 is a day, whichever.
    has_days = any(period is None and is_like_a_date(name) for name, period in zip(names, periods, strict=True))

    def is_whole(name: str, period: Written | None) -> bool:
        if period is None:
            is_of_all = says_whole_year(name) or TO_DATE.search(name) is not None
            return naming(name).is_total or is_of_all or name in statistics
        if is_of_reporting_year(name) or period_alone(name) or has_days:  # such a year begins when it does
            return bool(finer[period.grain]) or (has_days and period.grain is not Grain.DAY)
        return any(_is_within(one, period) for one in finer[period.grain])

    return {at for at, (name, period) in enumerate(zip(names, periods, strict=True)) if is_whole(name, period)}


def _is_within(part: Written, whole: Written) -> bool:
    return whole.first <= part.first <= CIVIL.end(whole.first, whole.grain)


def _parts(
    at: int, names: Sequence[str], periods: Sequence[Written | None], plain: Sequence[int], wholes: Sequence[int]
) -> Iterator[Sequence[int]]:
    """What a row may be the sum of: the periods within its own, those since the last such row, since the last that is
    as long, those before it, all."""
    own = periods[at]
    if own is not None:
        yield [one for one in plain if (its := periods[one]) is not None and _is_within(its, own)]
    before = [one for one in plain if one < at]
    last = max((one for one in wholes if one < at), default=-1)
    several = [[one for one in before if one > last], before, plain]
    if own is not None:  # as of a reporting year, whose halves begin when it does
        as_long = (one for one in wholes if one < at and (its := periods[one]) and not is_finer(its.grain, own.grain))
        since = max(as_long, default=-1)
        several.insert(1, [one for one in before if one > since])
    if RUNNING.search(names[at]):  # months of a plan may follow what has been
        several += [before[:many] for many in range(len(before) - 1, 1, -1)]
    yield from filter(None, several)


def _figures(
    table: SheetTable, number: int, parts: Sequence[int], columns: Sequence[int]
) -> Iterator[tuple[Decimal, list[Decimal]]]:
    """The figure of a row in each column that has one, with those of its parts."""
    of: Mapping[int, Sequence[Decimal | None]] = table.figures
    for column in columns:
        if (own := of[number][column]) is not None:
            yield own, [one for part in parts if (one := of[part][column]) is not None]


def _off(table: SheetTable, number: int, parts: Sequence[int], columns: Sequence[int]) -> Decimal | None:
    """By how much a row misses the sum of others, at most half a unit of the last digit for each; None where by more,
    or where it has no figure. Of what is still to come it is nothing."""
    found = list(_figures(table, number, parts, columns))
    if not parts or not found or (not any(its for _, its in found) and any(own for own, _ in found)):
        return None
    off = [abs(own - total(its)) for own, its in found]
    half = [_unit((own, *its)) / 2 * len(its) for own, its in found]
    is_exact = not any(off)
    told = total(own.copy_abs() / (2 * most + 1) for (own, _), most in zip(found, half, strict=True))
    # What is small is near by chance.
    is_near = len(parts) > 1 and all(map(Decimal.__le__, off, half)) and told >= _LEAST_TOLD
    return max(off) if is_exact or is_near else None


def _off_mean(table: SheetTable, number: int, parts: Sequence[int], columns: Sequence[int]) -> Decimal | None:
    """Nothing where a row is the average of others, as far as its digits say; else None."""
    found = list(_figures(table, number, parts, columns))
    is_mean = any(its for _, its in found) and all(
        its and abs(own - total(its) / len(its)) <= _unit((own,)) / 2 for own, its in found
    )
    return ZERO if is_mean else None


def _unit(figures: Sequence[Decimal]) -> Decimal:
    """One of the last digit that any of some figures has."""
    exponents = (int(one.as_tuple().exponent) for one in figures)
    return Decimal(1).scaleb(min(0, *exponents) if figures else 0)
