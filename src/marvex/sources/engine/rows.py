"""The rows of a source, and what is asked of them: here of files, which the engine reads itself."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, Protocol

from marvex.core.compare.side import Stretch
from marvex.core.values import dataclass
from marvex.sources.columns import Column
from marvex.sources.engine import facts as facts_of
from marvex.sources.engine import rows_behind
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import Relation, codes_not_found
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.query import Query
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.quoting import quoted_name, quoted_text

Row = tuple[Any, ...]
ROWS_AT_ONCE = 50_000
APPEARANCE_ROWS = 100_000


class Rows(Protocol):
    """What is asked of the rows of a source, wherever they are; all else is asked of its facts."""

    @property
    def gathered(self) -> Gathered:
        """What the requests of the session have in common of it."""

    @property
    def row_column(self) -> str | None:
        """The column that holds each row's number, where the rows were put together."""

    def sample(self, headings: Sequence[str], most: int) -> Sequence[Sequence[str | None]]:
        """The first rows, every cell as text."""

    def create_raw(self, facts: Facts, asked: AskedOfSource, columns: Sequence[Column]) -> None:
        """Creates the table `raw`, as `Facts.raw` describes it."""

    def create_table(self, facts: Facts, table: str) -> None:
        """Creates a table as `Facts.raw` describes it, which all requests see, whatever others have in common."""

    def create_rows(self, facts: Facts) -> None:
        """Creates the table of all rows with their keys, of which distinct ones are counted."""

    def conventions(self, facts: Facts) -> Row:
        """In how many ways amounts are written, as `Facts.conventions` counts them."""

    def currencies(self, facts: Facts, column: str | None) -> list[str]:
        """The different currencies of the kept rows."""

    def met(self, facts: Facts) -> list[Row]:
        """Each category of kept rows with a figure, its scenario, its written date, whether all are 0, their sum."""

    def last_times(self, facts: Facts, days: int) -> list[Row]:
        """The last so many dates with a time of day, each with the last time on it, newest first."""

    def unreadable(self, facts: Facts, what: str) -> Row:
        """Row number, column and text of the first cell that cannot be read: a `figure`, a `divisor` or a `date`."""

    def values(self, column: str) -> list[str]:
        """The different values of a column, trimmed, in order; that of rows which say nothing is empty."""

    def other_than(self, value: str, column: str, most: int) -> list[str]:
        """The first so many cells of a column that say another than a value, trimmed."""

    def codes_not_found(self, facts: Facts) -> tuple[str, ...]:
        """A caution about the codes that a lookup does not have."""

    def appearances(self, facts: Facts) -> Iterator[list[Row]]:
        """The categories in the order of the source, of ever more rows until they are all."""

    def largest(
        self, facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
    ) -> list[Row]:
        """The rows that count most in one figure: number, amount column, amount as it counts, all cells."""

    def largest_of_each(
        self, facts: Facts, stretches: Sequence[tuple[int, Stretch]], headings: Sequence[str], most: int
    ) -> list[Row]:
        """The same of each category of each stretch, behind its place and its names."""

    def with_a_figure(self, facts: Facts, stretches: Sequence[Stretch]) -> int:
        """How many rows have an amount in one of the stretches."""

    def each_row(self, facts: Facts) -> Iterator[Row]:
        """Every amount by itself: categories, row, scenario, date, whether it is kept, amount, divisor and key."""


@dataclass(frozen=True, slots=True, eq=False)
class FileRows:
    """The rows of a source that the engine reads."""

    relation: Relation
    engine: Engine
    name: str
    gathered: Gathered

    @property
    def row_column(self) -> str | None:
        return self.relation.row_column

    def sample(self, headings: Sequence[str], most: int) -> Sequence[Sequence[str | None]]:
        return self._rows(facts_of.sample(self.relation.sql, headings, most))

    def create_raw(self, facts: Facts, asked: AskedOfSource, columns: Sequence[Column]) -> None:
        gathered = self.gathered.raw_of(facts, asked, columns, self.create_table)
        self.engine.run(gathered or facts.create_raw(), self.name)

    def create_table(self, facts: Facts, table: str) -> None:
        found = facts.raw()
        self.engine.run(Query(f"CREATE OR REPLACE TABLE {table} AS {found.sql}", found.values), self.name)

    def create_rows(self, facts: Facts) -> None:
        self.engine.run(facts.create_rows(), self.name)

    def conventions(self, facts: Facts) -> Row:
        return self._rows(facts.conventions())[0]

    def currencies(self, facts: Facts, column: str | None) -> list[str]:
        return [str(row[0]) for row in self._rows(facts.currencies(column))]

    def met(self, facts: Facts) -> list[Row]:
        return self._rows(facts.met())

    def last_times(self, facts: Facts, days: int) -> list[Row]:
        return self._rows(facts.last_times(days))

    def unreadable(self, facts: Facts, what: str) -> Row:
        asked = {"figure": facts.unreadable_figure, "divisor": facts.unreadable_per, "date": facts.unreadable_date}
        return self._rows(asked[what]())[0]

    def values(self, column: str) -> list[str]:
        text = f"coalesce(trim(CAST({quoted_name(column)} AS VARCHAR)), '')"
        asked = Query(f"SELECT DISTINCT {text} FROM {self._different(column)} ORDER BY 1")
        return [str(row[0]) for row in self._rows(asked)]

    def other_than(self, value: str, column: str, most: int) -> list[str]:
        text = f"coalesce(trim(CAST({quoted_name(column)} AS VARCHAR)), '')"
        asked = Query(f"SELECT {text} FROM {self.relation.sql} WHERE {text} <> ? LIMIT {most}", (value,))
        return [str(row[0]) for row in self._rows(asked)]

    def like(self, column: str, pattern: str, most: int) -> list[str]:
        """So many of the different values of a column that are as a pattern of small letters has them."""
        text = f"trim(CAST({quoted_name(column)} AS VARCHAR))"
        where = f"WHERE regexp_full_match(lower({text}), {quoted_text(pattern)})"
        asked = Query(f"SELECT DISTINCT {text} FROM {self._different(column)} {where} ORDER BY 1 LIMIT {most}")
        return [str(row[0]) for row in self._rows(asked)]

    def _different(self, column: str) -> str:
        """The different cells of a column: of ten million rows five times as fast as to trim each of them."""
        return f"(SELECT DISTINCT {quoted_name(column)} FROM {self.relation.sql})"

    def codes_not_found(self, facts: Facts) -> tuple[str, ...]:
        amount = facts.reading.amount(f"CAST({quoted_name(facts.roles.amounts[0].name)} AS VARCHAR)")
        return codes_not_found(self.relation, amount, self.engine, self.name)

    def appearances(self, facts: Facts) -> Iterator[list[Row]]:
        # Most ledgers show all their categories early: only where one is missing is all of it read.
        yield self._rows(facts.appearance(APPEARANCE_ROWS))
        if not facts.is_numbered:
            yield self._rows(facts.appearance(None))

    def largest(
        self, facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
    ) -> list[Row]:
        return self._rows(rows_behind.largest(facts, stretch, names, headings, most))

    def largest_of_each(
        self, facts: Facts, stretches: Sequence[tuple[int, Stretch]], headings: Sequence[str], most: int
    ) -> list[Row]:
        return self._rows(rows_behind.largest_of_each(facts, stretches, headings, most))

    def with_a_figure(self, facts: Facts, stretches: Sequence[Stretch]) -> int:
        return int(self._rows(rows_behind.rows_with_a_figure(facts, stretches))[0][0])

    def each_row(self, facts: Facts) -> Iterator[Row]:
        answer = self.engine.run(rows_behind.each_row(facts), self.name)
        while found := answer.fetchmany(ROWS_AT_ONCE):
            yield from found

    def _rows(self, asked: Query) -> list[Row]:
        return self.engine.rows(asked, self.name)
