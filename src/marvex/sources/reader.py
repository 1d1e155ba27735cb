"""A source opened and read once: its roles, how far its scenarios run, and the cells of any span."""

from __future__ import annotations

import contextlib
import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

import duckdb

from marvex.core.comparison import Cell, Span
from marvex.core.errors import MarvexError, did_you_mean, listed
from marvex.core.exact import ZERO
from marvex.core.sides import ScenarioDates, dates_of
from marvex.sources import query, roles
from marvex.sources.cells import MOST_DIGITS, FigureReading
from marvex.sources.files import SourceFile, opened, quoted_name
from marvex.sources.query import Facts, Query
from marvex.sources.roles import Column, Roles
from marvex.sources.where import Filter, parse_filters

SAMPLE_ROWS = 2_000
APPEARANCE_ROWS = 100_000
NO_NAME = "(none)"


@dataclass(frozen=True, slots=True)
class Asked:
    """What a call says of the reading."""

    source: str
    columns: roles.Asked
    where: tuple[str, ...] = ()
    is_negative: bool = False
    blank_bad_cells: bool = False


@dataclass(frozen=True, slots=True)
class SpanTotal:
    """The exact sum of a span over all categories, worked out by the engine, and its rows."""

    amount: Decimal
    rows: int


class Reader:
    """A source that has been read into `facts`; use within `reading`."""

    def __init__(self, file: SourceFile, connection: duckdb.DuckDBPyConnection, asked: Asked) -> None:
        self._connection = connection
        self._asked = asked
        self.name = file.name
        self._file = file
        self._relation = file.relation()
        self._names = self._headings()
        columns = self._all = self._columns()
        self.roles: Roles = roles.work_out(columns, asked.columns, file.name)
        self.filters = parse_filters(asked.where, [column.name for column in columns], file.name)
        self._check_filters()
        self.rows_read = 0
        self.rows_kept = 0
        self.cautions: tuple[str, ...] = ()
        self._facts = self._read()
        self.scenarios: tuple[ScenarioDates, ...] = self._scenarios()

    def cells(self, span: Span) -> tuple[Cell, ...]:
        """One cell for each category that has an amount in the span."""
        width = len(self.roles.by)
        found = self._rows(query.cells_of(span, width))
        return tuple(
            Cell(self._category(one[:width]), one[width + 1], one[width + 2], one[width]) for one in found
        )

    def total(self, span: Span) -> SpanTotal:
        amount, rows = self._rows(query.total_of(span))[0]
        return SpanTotal(ZERO if amount is None else amount, rows)

    def in_given_order(self, *cells: Sequence[Cell]) -> tuple[tuple[int | None, str], ...]:
        """The keys of the cells in the order in which the source first gives them."""
        keys = {cell.key for cell in itertools.chain(*cells)}
        if self.roles.each_row:
            return tuple(sorted(keys, key=lambda key: key[0] or 0))
        places: dict[str, int] = {}
        # Most ledgers show all their categories early: only where one is missing is all of it read.
        for rows in (APPEARANCE_ROWS, None):
            found = self._rows(self._facts.appearance(rows))
            places = {self._category(names): place for place, names in enumerate(found)}
            if all(name in places for _, name in keys):
                break
        return tuple(sorted(keys, key=lambda key: places[key[1]]))

    @property
    def categories(self) -> str:
        """The columns that could be compared by, in words."""
        texts = [column.name for column in self._all if column.is_text or column.is_code]
        return listed(name for name in texts if name not in (self.roles.date, self.roles.scenario))

    @property
    def taken_for(self) -> str:
        """In one line, what each column was taken for."""
        parts = [f"{self.roles.date} as date"] if self.roles.date else []
        if self.roles.has_sides_as_columns:
            parts.append(f"{self.roles.amounts[0]} as current, {self.roles.amounts[1]} as base")
        else:
            parts.append(f"{self.roles.amounts[0]} as amount")
        if self.roles.scenario:
            known = listed(one.name for one in self.scenarios if one.name)
            parts.append(f"{self.roles.scenario} as scenario ({known})")
        if self.roles.each_row:
            parts.append(f"each row as {self.roles.by[0]}")
        return f"{self.name}: took {', '.join(parts)}"

    def _category(self, names: Sequence[object]) -> str:
        return " / ".join(str(name) or NO_NAME for name in names)

    def _columns(self) -> tuple[Column, ...]:
        self._execute(query.sample(self._relation, self._names, SAMPLE_ROWS))
        kinds = query.column_kinds(self._names, roles.scenario_words())
        counts = [int(one) for one in self._rows(kinds)[0]]
        columns = tuple(Column(name, *four) for name, four in zip(self._names, _fours(counts), strict=True))
        if not any(column.filled for column in columns):
            raise MarvexError(f"{self.name} has headings but no rows", "Give a file with rows of data.")
        return columns

    def _headings(self) -> tuple[str, ...]:
        if self._file.layout is not None:
            return self._file.layout.headings
        answer = self._execute(Query(f"SELECT * FROM {self._relation} LIMIT 0"))
        return tuple(one[0] for one in answer.description or [])

    def _check_filters(self) -> None:
        for one in self.filters:
            if one.column == self.roles.scenario:
                raise MarvexError(
                    f"--where {one.spoken} is about the scenario",
                    "Scenarios are chosen with --of and --versus.",
                )

    def _read(self) -> Facts:
        """Creates `facts`, with the reading widened until no digit is lost and no cell left doubtful."""
        sampled = self._rows(query.most_decimals(self.roles.amounts))
        reading = FigureReading(min(int(sampled[0][0]), MOST_DIGITS))
        while True:
            facts = Facts(
                self._relation,
                self.roles,
                self.filters,
                reading,
                self._asked.is_negative,
                self._file.is_small,
            )
            self._execute(facts.create())
            rows, unread, decimals, doubtful, bad_days, no_day, no_day_amount, kept = self._rows(
                query.READ_SUMMARY
            )[0]
            wider = _widened(reading, int(decimals or 0), bool(doubtful), int(unread or 0))
            if wider is None:
                break
            reading = wider
        self.rows_read, self.rows_kept = int(rows or 0), int(kept or 0)
        if self.roles.has_sides_as_columns:
            self.rows_read //= len(self.roles.amounts)
            self.rows_kept //= len(self.roles.amounts)
        if unread:
            self._bad_cells(facts.unreadable_figures(), int(unread), "is not a figure")
        if self.roles.date and bad_days:
            self._bad_cells(facts.unreadable_dates(), int(bad_days), "is not a date")
        if self.roles.date and no_day:
            rows_are = "row without a date is" if no_day == 1 else "rows without a date are"
            self.cautions += (f"{no_day} {rows_are} in no window: {no_day_amount or 0} in all",)
        if not self.rows_kept:
            self._nothing_kept()
        return facts

    def _bad_cells(self, first: Query, count: int, what: str) -> None:
        if self._asked.blank_bad_cells:
            cells_are = "cell that cannot be read is" if count == 1 else "cells that cannot be read are"
            self.cautions += (f"{count} {cells_are} taken as absent (--bad-cells blank)",)
            return
        number, column, text = self._rows(first)[0]
        if what.endswith("date"):
            column = self.roles.date
        row = int(number) + self._file.first_row - 1
        more = f" (and {count - 1} more)" if count > 1 else ""
        raise MarvexError(
            f"{self.name}, row {row}, column {column}: '{_shortened(str(text))}' {what}{more}",
            "--bad-cells blank reads such cells as absent.",
        )

    def _nothing_kept(self) -> None:
        if not self.filters:
            raise MarvexError(f"{self.name} has headings but no rows", "Give a file with rows of data.")
        for one in self.filters:
            known = self._values_of(one)
            missing = next((value for value in one.values if value not in known), None)
            if one.sign == "=" and missing is not None:
                raise MarvexError(
                    f"no row has {one.column} '{missing}'",
                    did_you_mean(missing, known, f"There are {listed(known, 6)}."),
                )
        raise MarvexError(
            f"no row passes --where {' and '.join(one.spoken for one in self.filters)}", "Keep more rows."
        )

    def _values_of(self, one: Filter) -> list[str]:
        column = quoted_name(one.column)
        sql = f"SELECT DISTINCT trim(CAST({column} AS VARCHAR)) FROM {self._relation} ORDER BY 1"
        return [str(found[0]) for found in self._rows(Query(sql)) if found[0] is not None]

    def _scenarios(self) -> tuple[ScenarioDates, ...]:
        days: dict[str | None, list[date]] = {}
        for scenario, day in self._rows(query.SCENARIO_DAYS):
            days.setdefault(scenario, []).append(day)
        if self.roles.date is None:
            found = self._rows(Query("SELECT DISTINCT scenario FROM facts ORDER BY 1"))
            return tuple(ScenarioDates(one[0]) for one in found)
        return tuple(dates_of(name, found) for name, found in days.items())

    def _rows(self, asked: Query) -> list[tuple[Any, ...]]:
        return self._execute(asked).fetchall()

    def _execute(self, asked: Query) -> duckdb.DuckDBPyConnection:
        try:
            return self._connection.execute(asked.sql, list(asked.values))
        except duckdb.OutOfRangeException as problem:
            raise MarvexError(
                f"{self.name}: the sum has more than {MOST_DIGITS} digits", "Sum fewer rows with --where."
            ) from problem
        except duckdb.Error as problem:
            raise self._unreadable(str(problem)) from problem

    def _unreadable(self, problem: str) -> MarvexError:
        """What the engine says of a file, in the analyst's words."""
        line = re.search(r"on Line: (\d+)", problem)
        widths = re.search(r"Expected Number of Columns: (\d+) Found: (\d+)", problem)
        if line and widths:
            expected, found = widths.groups()
            return MarvexError(
                f"{self.name}, row {line[1]} has {found} cells where the headings have {expected}",
                "Mend the row, or put cells that hold the delimiter in quotes.",
            )
        return MarvexError(
            f"{self.name} cannot be read: {_shortened(problem.splitlines()[0], 160)}",
            "Check that it is a table with one heading row.",
        )


@contextlib.contextmanager
def reading(asked: Asked) -> Iterator[Reader]:
    """The source read, and closed again at the end."""
    with opened(asked.source) as file, duckdb.connect() as connection:
        connection.execute("SET enable_progress_bar = false")
        yield Reader(file, connection, asked)


def _widened(reading: FigureReading, decimals: int, doubtful: bool, unread: int) -> FigureReading | None:
    """A reading that misses less, or None where this one misses nothing that another would not."""
    if doubtful and not reading.is_strict:
        return replace(reading, is_strict=True)
    if decimals > reading.decimals and reading.decimals < MOST_DIGITS:
        return replace(reading, decimals=min(decimals, MOST_DIGITS), is_wide=True)
    if unread and not reading.is_wide:
        return replace(reading, is_wide=True)
    return None


def _fours(counts: Sequence[int]) -> list[Sequence[int]]:
    return [counts[start : start + 4] for start in range(0, len(counts), 4)]


def _shortened(text: str, most: int = 40) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
