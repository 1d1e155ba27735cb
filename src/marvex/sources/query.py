"""The one query: what is asked of a source, as SQL text with quoted names and bound values.

`facts` is the source with each cell read, grouped to one row a category, scenario and written
date; every later question is asked of it, so a source is read once however many sides there are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.core.comparison import Span
from marvex.sources import cells
from marvex.sources.cells import FigureReading
from marvex.sources.files import quoted_name, quoted_text
from marvex.sources.roles import Roles
from marvex.sources.where import Filter


@dataclass(frozen=True, slots=True)
class Query:
    """SQL text and the values bound to its question marks."""

    sql: str
    values: tuple[object, ...] = ()


def sample(relation: str, names: Sequence[str], rows: int) -> Query:
    """Creates `sample`, the first rows with every column as text."""
    columns = ", ".join(f"{_text(name)} AS {quoted_name(name)}" for name in names)
    return Query(f"CREATE TEMP TABLE sample AS SELECT {columns} FROM {relation} LIMIT {rows}")


def column_kinds(names: Sequence[str], scenarios: Sequence[str]) -> Query:
    """For each column of the sample: cells filled, figures, dates, scenario names; four figures each."""
    known = ", ".join(quoted_text(one) for one in scenarios)
    parts = []
    for column in names:
        text = quoted_name(column)
        parts += [
            f"count(*) FILTER (NOT {cells.is_blank(text)})",
            f"count(*) FILTER ({cells.is_figure(text)})",
            f"count(*) FILTER ({cells.day(text)} IS NOT NULL)",
            f"count(*) FILTER (lower(trim({text})) IN ({known}))",
        ]
    return Query(f"SELECT {', '.join(parts)} FROM sample")


def most_decimals(amounts: Sequence[str]) -> Query:
    """The most decimals that the amounts of the sample are written with."""
    reading = FigureReading(0, is_strict=True)
    most = ", ".join(f"max({reading.decimals_in(quoted_name(name))})" for name in amounts)
    return Query(f"SELECT greatest(0, {most}) FROM sample")


@dataclass(frozen=True, slots=True)
class Facts:
    """How a source becomes `facts`: its relation, roles, filters, and how amounts are read."""

    relation: str
    roles: Roles
    filters: tuple[Filter, ...]
    reading: FigureReading
    is_negative: bool  # the source stores its amounts with the other sign
    is_numbered: bool  # each category's first row is kept, for their given order

    def create(self) -> Query:
        """Creates the table: categories c0, c1 …, row, scenario, day, kept, amount, and counts."""
        raw, values = self._raw(self.is_numbered)
        amount = self.reading.amount("amount_text")
        # Cells are read after grouping wherever that can be: a ledger has far fewer dates than rows.
        grouped = f"""
            SELECT {self._categories()}, row, scenario_text, date_text, kept,
                sum({amount}) AS amount,
                count({amount}) AS figures,
                count(*) AS rows,
                count(*) FILTER (kept AND NOT {cells.is_blank("amount_text")}) AS written,
                max(CASE WHEN kept THEN {self.reading.decimals_in("amount_text")} END) AS decimals,
                bool_or({cells.might_be_misread("amount_text")}) AS doubtful,
                {"min(number)" if self.is_numbered else "NULL"} AS first_row
            FROM ({raw}) GROUP BY ALL"""
        sign = "-" if self.is_negative else ""
        return Query(
            f"""CREATE OR REPLACE TEMP TABLE facts AS
            SELECT {self._categories()}, row, nullif({cells.name("scenario_text")}, '') AS scenario,
                {cells.day("date_text")} AS day, date_text, kept, {sign}amount AS amount,
                figures, rows, written, decimals, doubtful, first_row
            FROM ({grouped})""",
            tuple(values),
        )

    def unreadable_figures(self) -> Query:
        """Row number, column and text of the amounts that are no figures, the first ones first."""
        return self._unreadable(
            f"NOT {cells.is_blank('amount_text')} AND {self.reading.amount('amount_text')} IS NULL",
            "amount_text",
        )

    def unreadable_dates(self) -> Query:
        """Row number, column and text of the dates that are none, the first ones first."""
        return self._unreadable(
            f"NOT {cells.is_blank('date_text')} AND {cells.day('date_text')} IS NULL", "date_text"
        )

    def _unreadable(self, condition: str, text: str) -> Query:
        raw, values = self._raw(numbered=True)
        return Query(
            f"SELECT number, amount_column, {text} FROM ({raw}) WHERE kept AND {condition} ORDER BY number LIMIT 1",
            tuple(values),
        )

    def _raw(self, numbered: bool = False) -> tuple[str, list[str]]:
        """The source with its columns by role, as text, one row an amount."""
        conditions = [one.condition() for one in self.filters]
        values = [value for _, bound in conditions for value in bound]
        kept = " AND ".join(sql for sql, _ in conditions) or "true"
        roles = self.roles
        columns = [
            *(
                # Rows that are not kept say only how far the data go.
                f"CASE WHEN kept THEN {cells.name(_text(name))} END AS c{place}"
                for place, name in enumerate(roles.by)
            ),
            f"{'row_number() OVER ()' if roles.each_row else 'NULL'} AS row",
            f"{'row_number() OVER ()' if numbered else 'NULL'} AS number",
            f"{_text(roles.date) if roles.date else 'NULL::VARCHAR'} AS date_text",
            "kept",
        ]
        columns += self._amount_columns()
        source = f"(SELECT *, {kept} AS kept FROM {self.relation})"
        return f"SELECT {', '.join(columns)} FROM {source}", values

    def _amount_columns(self) -> list[str]:
        roles = self.roles
        texts = [_text(name) for name in roles.amounts]
        names = [quoted_text(name) for name in roles.amounts]
        if roles.has_sides_as_columns:
            return [
                f"unnest([{', '.join(texts)}]) AS amount_text",
                f"unnest([{', '.join(names)}]) AS scenario_text",
                f"unnest([{', '.join(names)}]) AS amount_column",
            ]
        scenario = _text(roles.scenario) if roles.scenario else "NULL::VARCHAR"
        return [f"{texts[0]} AS amount_text", f"{scenario} AS scenario_text", f"{names[0]} AS amount_column"]

    def _categories(self) -> str:
        return ", ".join(f"c{place}" for place in range(len(self.roles.by))) or "NULL AS c0"

    def appearance(self, rows: int | None) -> Query:
        """The categories of the kept rows in the order of the source, within its first so many rows."""
        columns = self._categories()
        if self.is_numbered:
            return Query(f"SELECT {columns} FROM facts WHERE kept GROUP BY {columns} ORDER BY min(first_row)")
        raw, values = self._raw(numbered=True)
        limit = f" LIMIT {rows}" if rows else ""
        return Query(
            f"SELECT {columns} FROM (SELECT * FROM ({raw}){limit}) WHERE kept "
            f"GROUP BY {columns} ORDER BY min(number)",
            tuple(values),
        )


READ_SUMMARY = Query(
    "SELECT sum(rows)::BIGINT, sum(written - figures) FILTER (kept), max(decimals), bool_or(doubtful), "
    "sum(rows) FILTER (kept AND day IS NULL AND trim(coalesce(date_text, '')) <> ''), "
    "sum(rows) FILTER (kept AND day IS NULL), sum(amount) FILTER (kept AND day IS NULL), "
    "coalesce(sum(rows) FILTER (kept), 0)::BIGINT FROM facts"
)

# Every day on which a scenario has an amount, kept or not: how far the data are known.
SCENARIO_DAYS = Query(
    "SELECT scenario, day FROM facts WHERE figures > 0 AND day IS NOT NULL GROUP BY ALL ORDER BY scenario, day"
)


def cells_of(span: Span, categories: int) -> Query:
    """The amounts of one span by category: names, row, exact sum, and the number of rows in it."""
    columns = ", ".join(f"c{place}" for place in range(categories))
    where, values = _within(span)
    return Query(
        f"SELECT {columns}, row, sum(amount), sum(figures)::BIGINT FROM facts WHERE {where} "
        f"GROUP BY {columns}, row HAVING sum(figures) > 0",
        values,
    )


def total_of(span: Span) -> Query:
    """The exact sum of one span over all categories, and the number of rows in it."""
    where, values = _within(span)
    return Query(f"SELECT sum(amount), coalesce(sum(figures), 0)::BIGINT FROM facts WHERE {where}", values)


def _within(span: Span) -> tuple[str, tuple[object, ...]]:
    where = "kept AND scenario IS NOT DISTINCT FROM ?"
    values: tuple[object, ...] = (span.scenario,)
    if span.first is not None:
        where += " AND day BETWEEN ? AND ?"
        values += (span.first, span.last)
    return where, values


def _text(name: str) -> str:
    return f"CAST({quoted_name(name)} AS VARCHAR)"
