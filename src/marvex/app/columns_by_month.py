"""What the values of each column of names or codes come to, month by month."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from decimal import Decimal
from functools import partial

from marvex.core.exact import EXACT, ZERO, total
from marvex.core.structure.cost_names import KINDS
from marvex.core.structure.parents import MOST_LINES, number_an_outline
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out
from marvex.sources.cells import Convention, value_of
from marvex.sources.columns import Column
from marvex.sources.engine.by_month import Amounts, ByMonth, by_month, stored_by_month
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.rows import FileRows
from marvex.sources.engine.source import Source

_CODE_LENGTHS = range(3, 11)  # digits of a code
_MOST_VALUES = 200  # of a column that are looked at month by month


@dataclass(frozen=True, slots=True, eq=False)
class ColumnByMonth:
    """The values of a column of a source, in its order, with what each comes to in each month of a scenario."""

    source: Source
    name: str
    amounts: Amounts
    found: ByMonth

    @property
    def sums(self) -> dict[str, Decimal]:
        """What each value comes to in all, with the sign that is asked for."""
        return {
            name: self.source.asked.signed(total(amount for amount in of_month.values() if amount is not None))
            for name, of_month in self.amounts.items()
        }


def columns_by_month(book: Ledger) -> Iterator[ColumnByMonth]:
    """The columns of names or codes that say what a row of a source is of, where both are few."""
    for source in filter(is_few, book.sources):
        key = "names of", *source.of_rows, *sorted(map(str, source.roles.taken))
        columns = source.rows.gathered.once(key, partial(names_of, source))
        for name, its in zip(columns, _by_month(book, source, columns), strict=True):
            place = source.headings.index(name)
            in_order = dict.fromkeys(one for row in source.sample if (one := row[place] or "") in its.amounts)
            rest = sorted(its.amounts.keys() - in_order)
            if len(its.amounts) < 2:
                continue
            yield ColumnByMonth(source, name, {one: its.amounts[one] for one in (*in_order, *rest)}, its)


def outlines_by_month(book: Ledger) -> Iterator[ColumnByMonth]:
    """The same of columns of the numbers of an outline, which stand beside the names that are asked about."""
    for source in filter(is_few, book.sources):
        others = {*names_of(source), *source.roles.taken}
        free = [(at, one.name) for at, one in enumerate(source.columns) if one.name not in others]
        shown = {name: {cell for row in source.sample if (cell := row[at])} for at, name in free}
        names = [name for name, codes in shown.items() if len(codes) <= _MOST_VALUES and number_an_outline(codes)]
        for name, its in zip(names, _by_month(book, source, names), strict=True):
            yield ColumnByMonth(source, name, its.amounts, its)


def codes_by_month(book: Ledger) -> Iterator[ColumnByMonth]:
    """The same of columns of numbers that are compared, or that are all of one length as those of stores are."""
    for source in filter(is_few, book.sources):
        names = [
            one.name
            for place, one in enumerate(source.columns)
            if one.is_figures
            and not one.is_code
            and one.name not in source.roles.taken
            and (one.name in source.roles.by or _are_codes({row[place] or "" for row in source.sample}))
        ]
        for name, its in zip(names, _by_month(book, source, names), strict=True):
            yield ColumnByMonth(source, name, its.amounts, its)


def _are_codes(cells: Collection[str]) -> bool:
    codes = {cell for cell in cells if cell}
    lengths = {*map(len, codes)}
    is_one = len(lengths) == 1 and lengths.pop() in _CODE_LENGTHS
    return is_one and 1 < len(codes) <= _MOST_VALUES and all(map(str.isdecimal, codes))


def numbers_by_month(book: Ledger, most: int) -> Iterator[ColumnByMonth]:
    """The same of columns of figures that nothing is taken from, with so many different ones at most."""
    for source in filter(is_few, book.sources):
        names = [
            one.name
            for one in source.columns
            if one.is_figures and not one.is_code and one.name not in source.roles.taken
            if one.distinct <= most and 1 < len(source.values(one.name)) <= most
        ]
        for name, its in zip(names, _by_month(book, source, names), strict=True):
            yield ColumnByMonth(source, name, its.amounts, its)


def amounts_of_values(book: Ledger) -> Iterator[Amounts]:
    """The amount of each value in each month, of every column of names or codes."""
    return (column.amounts for column in columns_by_month(book))


def sums_of_values(book: Ledger) -> Iterator[dict[str, Decimal]]:
    """What each value of a column of names or codes comes to; of both sides together where there are no dates."""
    yield from (column.sums for column in columns_by_month(book))
    for source in book.sources:
        if source.are_few and not source.roles.has_dates:
            yield from (sums() for _, _, sums in first_rows(source))


def first_rows(source: Source) -> Iterator[tuple[str, list[str], Callable[[], dict[str, Decimal]]]]:
    """Each column of names that nothing is compared by, with those of the first rows, and what each comes to there."""
    headings, roles = source.headings, source.roles
    amounts = [headings.index(one.name) for one in roles.amounts if one.name in headings]
    way = source.facts.reading.convention or Convention.POINT
    kept = [row for row in source.sample if all(one.keeps_row(row, headings) for one in source.filters)]

    def sums_of(names: Sequence[str]) -> dict[str, Decimal]:
        sums = dict.fromkeys(names, ZERO)
        for name, row in zip(names, kept, strict=True):
            own = total(value_of(row[at] or "", way) or ZERO for at in amounts)
            sums[name] = EXACT.add(sums[name], source.asked.signed(own))
        return sums

    for place, column in enumerate(source.columns):
        if column.is_text and column.name not in roles.compared_by and 1 < column.distinct <= MOST_LINES:
            names = [(row[place] or "").strip() for row in kept]
            yield column.name, names, partial(sums_of, names)


def names_of(source: Source) -> list[str]:
    """The columns of names or codes of a source.

    Of several that tell the rows apart in the same way, as a code and its name do, the first that says names, or else
    the first; and one of kinds.
    """
    others = source.roles.taken
    names: dict[tuple[int, ...], Column] = {}
    for place, column in enumerate(source.columns):
        is_named = column.is_text or column.is_code
        if column.name in others or not is_named or not 1 < len(source.values(column.name)) <= _MOST_VALUES:
            continue
        numbers: dict[str | None, int] = {}
        told = [numbers.setdefault(row[place], len(numbers)) for row in source.sample]
        # The first rows of what is in its order do not tell it apart from others.
        alone = (column.name,) if len(numbers) == 1 else ()
        is_kind, count = column.name.strip().casefold() in KINDS, len(source.values(column.name))
        key = (is_kind, count, *alone, *told)
        if key not in names or _says_names(column) > _says_names(names[key]):
            names[key] = column
    return [one.name for one in names.values()]


def _says_names(column: Column) -> tuple[bool, bool]:
    """How far a column says names, not codes: by its cells, and by its heading."""
    return column.is_text, not column.is_code or "name" in spelled_out(column.name).casefold().split()


def is_few(source: Source) -> bool:
    """Whether its dated rows are so few that all of them can be asked about."""
    store = source.file.store
    is_slow = store is not None and not store.is_quick
    return source.roles.has_dates and source.are_few and not is_slow


def _by_month(book: Ledger, source: Source, columns: Sequence[str]) -> list[ByMonth]:
    if not columns:
        return []
    facts, asked, is_file = source.facts, source.asked, isinstance(source.rows, FileRows)
    read = (facts.filters, facts.roles.amounts, facts.roles.scenario, facts.roles.date, facts.reading)
    key = (*source.of_rows, *columns, *read, asked.name, asked.dates, asked.calendar)

    def made() -> list[ByMonth]:
        if is_file:
            return by_month(source, columns, book.engine)
        return [stored_by_month(source, column, book.engine) for column in columns]

    return source.rows.gathered.once(key, made)
