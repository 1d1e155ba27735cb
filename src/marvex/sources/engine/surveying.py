"""The queries of a survey: what is in a source, counted over all of its rows."""

from __future__ import annotations

import contextlib
import shlex
from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from marvex.core.compare.cautions import missing_periods, zeros
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.scenario_words import BASE_NAMES, says_planned, version_said
from marvex.core.compare.scenarios import current_scenarios
from marvex.core.compare.side import Span, Stretch
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO
from marvex.core.survey import (
    CategoryColumn,
    CategorySize,
    ColumnFacts,
    Outlier,
    Repeated,
    ScenarioFacts,
    Survey,
)
from marvex.core.time.calendar import FINEST_FIRST, Grain
from marvex.core.time.timeline import MONTHS_FROM
from marvex.sources import cells
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.query import Query, cells_of
from marvex.sources.engine.rows import FileRows
from marvex.sources.engine.source import Source
from marvex.sources.engine.stored_rows import StoredRows
from marvex.sources.quoting import quoted_name, quoted_text
from marvex.sources.readers.source_file import ROW_COLUMN

MOST_CATEGORIES = 200  # a column of more different names is no column of categories
SHOWN_CATEGORIES = 6
FAR_OUT = 12  # deviations from the median, in units of the usual one
LEAST_IN_GROUP = 12
FINEST = 2  # so many of the finest columns of categories say what an amount is compared with
SHOWN_OUTLIERS = 5


def surveyed(book: Ledger, source_text: str, taken: tuple[str, ...] = (), *, adds_up: bool = True) -> Survey:
    """The survey of the first source of a ledger that has been read.

    Parameters
    ----------
    source_text : the source as it was named in the call, for the commands to run next.
    taken : settings that what is unclear was taken with, which those commands need too.
    adds_up : figures of it add up, as the steps of a waterfall do.
    """
    source, engine = book.first, book.engine
    table: _Rows | _StoredTable = (
        _StoredTable(source.rows, source)
        if isinstance(source.rows, StoredRows)
        else _Rows(source, engine, is_daily=book.is_daily)
    )
    scenarios = tuple(_scenario(book, one.name) for one in book.scenarios)
    counts, duplicates = table.counted()
    columns = tuple(_column(source, table.count, place, *counts[place]) for place in range(len(source.headings)))
    categories = tuple(
        CategoryColumn(name, len(found), tuple(found[:SHOWN_CATEGORIES]))
        for name, found in table.sizes([one.name for one in columns if one.role == "categories"])
    )
    return Survey(
        name=source.name,
        rows=table.count,
        counted="rows",
        columns=columns,
        left_out=(*source.said, *table.said),
        scenarios=scenarios,
        duplicates=duplicates,
        doubled=table.doubled(duplicates),
        outliers=table.outliers([one.name for one in sorted(categories, key=lambda one: -one.distinct)[:FINEST]]),
        categories=categories,
        cautions=(*source.cautions, *_zeros(book)),
        next=tuple(
            " ".join((one, *(its for its in taken if its not in one)))
            for one in _next(source, source_text, categories, scenarios)
            if adds_up or not one.startswith("marvex draw waterfall")
        ),
    )


class _Rows:
    """The source's rows as a table of texts that the engine holds, with a number each, and its questions."""

    def __init__(self, source: Source, engine: Engine, *, is_daily: bool) -> None:
        self.source, self._engine, self._is_daily = source, engine, is_daily
        assert isinstance(source.rows, FileRows)
        self.relation = source.rows.relation.sql
        self._number = f"CAST({quoted_name(source.row_column)} AS BIGINT)" if source.row_column else "rowid + 1"
        if not source.row_column and self.relation.startswith("("):  # what is made of a table has no rowid
            self._number = quoted_name(ROW_COLUMN)
            self.relation = f"(SELECT *, row_number() OVER () AS {self._number} FROM {self.relation})"
        self.count = int(self.run(f"SELECT count(*) FROM {self.relation}")[0][0])
        self._keys = ", ".join(quoted_name(name) for name in source.headings)
        self.said: tuple[str, ...] = ()

    def run(self, sql: str) -> list[tuple[Any, ...]]:
        return self._engine.rows(Query(sql), self.source.name)

    def counted(self) -> tuple[list[tuple[int, int]], Repeated | None]:
        """For each column, how many cells are filled and how many different ones there are; and the rows that
        are the same as an earlier one in every column. Asked together, the parts are answered side by side."""
        # Whether a text says nothing is asked once of each different one, not of each cell.
        parts = [
            f"SELECT {place} AS place, coalesce(sum(n) FILTER (NOT {cells.is_nothing('text')}), 0)::BIGINT, count(text)"
            f" FROM (SELECT {quoted_name(name)} AS text, count(*) AS n FROM {self.relation} GROUP BY 1)"
            for place, name in enumerate(self.source.headings)
        ]
        parts.append(f"SELECT {len(parts)}, {self._repeats_of(self._keys)}, 0")
        *columns, (_, same, _) = sorted(self.run(" UNION ALL ".join(parts)))
        return [(filled, different) for _, filled, different in columns], self._repeated(same, self._keys)

    @property
    def amount(self) -> str | None:
        """The amount of a row as a decimal, in a table with one column of amounts."""
        amounts = self.source.roles.amounts
        return self.source.facts.reading.amount(quoted_name(amounts[0].name)) if len(amounts) == 1 else None

    @property
    def total(self) -> str:
        """The sum of all amounts of the rows, over every column of them."""
        reading = self.source.facts.reading
        sums = [f"sum({reading.amount(quoted_name(one.name))})" for one in self.source.roles.amounts]
        return " + ".join(f"coalesce({one}, 0)" for one in sums) if sums else "NULL::DECIMAL(38, 0)"

    def doubled(self, same: Repeated | None) -> Repeated | None:
        """Rows that are the same in all but their amounts, where a period has one row of a kind.

        Parameters
        ----------
        same : the rows that are the same in those too.
        """
        roles = self.source.roles
        amounts = {one.name for one in roles.amounts}
        keys = [quoted_name(name) for name in self.source.headings if name not in amounts]
        if not keys or not amounts or self._is_daily:
            return None
        among = ", ".join(keys)
        found = self._repeated(self.run(f"SELECT {self._repeats_of(among)}")[0][0], among)
        return None if found and same and same.rows == found.rows else found

    def _repeats_of(self, keys: str) -> str:
        """SQL for how many rows repeat another in those columns."""
        different = f"SELECT DISTINCT {keys} FROM {self.relation}"
        return f"(SELECT count(*) FROM {self.relation}) - (SELECT count(*) FROM ({different}))"

    def _repeated(self, rows: int, keys: str) -> Repeated | None:
        """So many rows, and the place of the first that repeats another."""
        if not rows:
            return None
        second = (
            f"SELECT min({self._number}, 2)[2] AS second FROM {self.relation} GROUP BY {keys} HAVING count(*) > 1"
        )
        return Repeated(rows, self.source.place_of(int(self.run(f"SELECT min(second) FROM ({second})")[0][0])))

    def outliers(self, categories: Sequence[str]) -> tuple[Outlier, ...]:
        """The amounts furthest from the median of their categories, in units of the usual deviation."""
        amount = self.amount
        if amount is None:
            return ()
        scenario = [self.source.roles.scenario] if self.source.roles.scenario else []
        groups = [*scenario, *categories]
        group = ", ".join(quoted_name(name) for name in groups) or "''"
        label = " || ' / ' || ".join(quoted_name(name) for name in categories) or "''"
        day = quoted_name(self.source.roles.date) if self.source.roles.date else "''"
        far = f"{FAR_OUT} * 1.4826 * spread"
        # Floating point is enough to say which amounts to show; they are shown as they are.
        rows = self.run(
            f"WITH known AS (SELECT {self._number} AS number, {label} AS label, {day} AS day, {amount} AS amount, "
            f"({group}) AS fellows FROM {self.relation}), "
            "usual AS (SELECT fellows, median(amount) AS usual, mad(amount::DOUBLE) AS spread FROM known "
            f"GROUP BY fellows HAVING count(amount) >= {LEAST_IN_GROUP} AND spread > 0 "
            # Most groups have none so far out, and are not looked through.
            f"AND greatest(max(amount) - usual, usual - min(amount))::DOUBLE > {far}) "
            "SELECT number, label, day, amount, usual FROM known JOIN usual "
            "ON known.fellows IS NOT DISTINCT FROM usual.fellows "
            f"WHERE abs(amount::DOUBLE - usual) > {far} "
            f"ORDER BY abs(amount::DOUBLE - usual) / spread DESC, number LIMIT {SHOWN_OUTLIERS}"
        )
        return tuple(
            Outlier(
                place=self.source.place_of(int(n)),
                category=name or "",
                day=str(at or ""),
                amount=value,
                usual=Decimal(str(round(usual, 2))),
            )
            for n, name, at, value, usual in rows
        )

    def sizes(self, names: Sequence[str]) -> list[tuple[str, list[CategorySize]]]:
        """The columns of categories, the values of each by their size."""
        total, rows_of = self.total, self.relation
        where = ""
        if self.source.roles.scenario:
            # Sizes are of what happened, not of what happened and what was planned together.
            known = ", ".join(map(quoted_text, _actuals(self.source, self.source.roles.scenario)))
            where = f"WHERE trim({quoted_name(self.source.roles.scenario)}) IN ({known})" if known else ""
        # As one query, whose parts are answered side by side.
        parts = [
            f"SELECT {place}, {name}, count(*), {total} FROM {rows_of} {where} GROUP BY {name}"
            for place, name in enumerate(map(quoted_name, names))
        ]
        sizes: list[list[CategorySize]] = [[] for _ in names]
        # Ordered from outside, where no column of the source can be taken for one of these.
        order = "AS sizes(place, label, n, total) ORDER BY place, abs(coalesce(total, 0)) DESC, n DESC, label"
        for place, label, count, amount in self.run(f"FROM ({' UNION ALL '.join(parts)}) {order}") if parts else ():
            sizes[place].append(CategorySize(str(label or NO_NAME), int(count), amount))
        return list(zip(names, sizes, strict=True))


class _StoredTable:
    """The same of a table that a database or a cluster has; repeated and odd rows are not looked for in it."""

    def __init__(self, rows: StoredRows, source: Source) -> None:
        self._rows, self._source = rows, source
        self.count = rows.count
        self.said = (f"{source.name}: repeated rows and odd amounts are looked for in files only",)

    def counted(self) -> tuple[list[tuple[int, int]], Repeated | None]:
        return [self._rows.counted(heading) for heading in self._source.headings], None

    def doubled(self, same: Repeated | None) -> Repeated | None:  # noqa: ARG002
        return None

    def outliers(self, categories: Sequence[str]) -> tuple[Outlier, ...]:  # noqa: ARG002
        return ()

    def sizes(self, names: Sequence[str]) -> list[tuple[str, list[CategorySize]]]:
        roles = self._source.roles
        among = _actuals(self._source, roles.scenario) if roles.scenario else []
        found = []
        for name in names:
            rows = self._rows.sizes(name, self._source.facts, roles.scenario if among else None, among)
            sizes = [CategorySize(label or NO_NAME, count, amount) for label, count, amount in rows]
            sizes.sort(key=lambda one: (-abs(one.amount or ZERO), -one.rows, one.name))
            found.append((name, sizes))
        return found


def _column(source: Source, rows: int, place: int, filled: int, distinct: int) -> ColumnFacts:
    name = source.headings[place]
    column = source.columns[place]
    cells = filter(None, dict.fromkeys(row[place] for row in source.sample))
    examples = tuple(dict.fromkeys(str(cell).strip() for cell in cells))[:3]
    role, why = _role(source, column, distinct)
    return ColumnFacts(
        name=name, role=role, why=why, filled=filled, absent=rows - filled, distinct=distinct, examples=examples
    )


def _role(source: Source, column: Any, distinct: int) -> tuple[str, str]:
    roles = source.roles
    amounts = {one.name: one for one in roles.amounts}
    if column.name == roles.date:
        return "date", "dates"
    if column.name in amounts:
        said = amounts[column.name]
        heading = " and ".join(
            word for word, has in (("a period", said.period), ("a scenario", said.scenario)) if has
        )
        return "amount", f"figures under {heading}" if heading else "figures"
    if column.name == roles.scenario:
        return "scenario", "names of scenarios"
    if column.is_dates:
        return "another date", "dates"
    if column.is_code and column.is_figures:
        return "code", "numbers that name the rows" if column.are_names else "named as one"
    if column.is_undated:
        return "categories", f"{distinct} periods of no year"
    if column.is_figures:
        return "more figures", "figures, but not the amount"
    if not column.filled:
        return "empty", "no cells in the sample"
    if 1 < distinct <= MOST_CATEGORIES:
        return "categories", f"{distinct} names"
    return "text", "one name only" if distinct == 1 else f"{distinct:,} texts"


def _zeros(book: Ledger) -> tuple[str, ...]:
    with contextlib.suppress(Mistake):  # none of the scenarios is the current one
        return zeros(current_scenarios(book.scenarios, None)[0])
    return ()


def _scenario(book: Ledger, name: str | None) -> ScenarioFacts:
    dates = next(one for one in book.scenarios if one.name == name)
    span = Span((Stretch(name, dates.first, dates.last),))
    found = book.engine.rows(cells_of([span], 0, TotalAs()), book.name)
    amount, rows = (found[0][2], found[0][4]) if found else (ZERO, 0)
    missing = missing_periods(dates.days, dates.grain, book.calendar) if dates.grain else ()
    return ScenarioFacts(dates=dates, rows=int(rows), amount=amount, missing=missing)


def _actuals(source: Source, scenario: str) -> list[str]:
    """The values of the column of scenarios that say actual."""
    return [one for one in source.rows.values(scenario) if (said := version_said(one)) and said.is_actual]


def _next(
    source: Source, source_text: str, categories: Sequence[CategoryColumn], scenarios: Sequence[ScenarioFacts]
) -> tuple[str, ...]:
    """Two or three commands worth running next, that run as printed."""
    file = shlex.quote(source_text)
    if source.lacks_headings:
        return ()
    if source.statement is not None:
        return (f"marvex table {file}", f"marvex draw statement {file}", f"marvex draw waterfall {file}")
    names = [(one.dates.name or "").casefold() for one in scenarios]
    short = [one.dates.name for one in scenarios if one.dates.name and says_planned(one.dates.name)]
    usual = next((name for name in BASE_NAMES if name in names), None)
    planned = usual or next(iter(short), None)
    # Of several budgets one has to be named.
    against = f" {setting('versus', planned)}" if usual is None and len(short) > 1 else ""
    has_base = planned is not None or _reaches_back(scenarios)
    by = [setting("by", one.name) for one in sorted(categories, key=lambda one: (one.distinct > 12, -one.distinct))]
    if not by and not source.roles.has_dates:
        texts = [column.name for column in source.columns if column.is_text and column.name != source.roles.scenario]
        label = next(iter((*source.roles.by, *texts)), None)
        by = [setting("by", label)] if label else []
    commands = [f"marvex table {file} {by[0]}{against}"] if by else []
    if by and has_base:
        commands.append(f"marvex draw waterfall {file} {by[0]}{against}")
    if source.roles.has_dates:
        both = (
            f" {setting('versus', 'year-ago')} {setting('versus', planned)}"
            if planned and _reaches_back(scenarios)
            else against
        )
        longest = max((one.grain for one in source.written_periods), key=FINEST_FIRST.index, default=Grain.MONTH)
        grain = f" {setting('every', max(longest, Grain.MONTH, key=FINEST_FIRST.index).value)}"
        grain = grain if _is_long(scenarios) else ""
        commands.append(f"marvex table {file}{grain}{both}")
    return tuple(commands)


def _is_long(scenarios: Sequence[ScenarioFacts]) -> bool:
    """Whether months say something: more than a couple of them, of data kept by month or more finely."""
    return any(
        one.dates.first and one.dates.last and (one.dates.last - one.dates.first).days > MONTHS_FROM
        for one in scenarios
    ) and all(one.dates.grain in (None, Grain.DAY, Grain.WEEK, Grain.MONTH) for one in scenarios)


def _reaches_back(scenarios: Sequence[ScenarioFacts]) -> bool:
    """Whether what happened can be set against the year before."""
    for one in scenarios:
        first, last = one.dates.first, one.dates.last
        said = version_said(one.dates.name)
        if (one.dates.name is None or (said and said.is_actual)) and first and last:
            return first.year < last.year
    return False
