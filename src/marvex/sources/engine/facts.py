"""How one source becomes its table of facts: each cell read, one row a category, scenario and written date.

The questions that are asked of the facts of all sources together are in `query`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field

from marvex.core.values import dataclass
from marvex.sources import cells
from marvex.sources.cells import MOST_DIGITS, FigureReading
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name, quoted_text
from marvex.sources.roles import Roles
from marvex.sources.where import Filter


def sample(relation: str, names: Sequence[str], rows: int) -> Query:
    """The first rows, every cell as text."""
    return Query(f"SELECT {', '.join(_text(name) for name in names)} FROM {relation} LIMIT {rows}")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Facts:
    """How one source becomes its table of facts.

    Parameters
    ----------
    place : which of the sources it is; its table is `facts_0`, `facts_1`, …
    relation : the table function that reads it.
    reading : how amounts are read.
    is_negative : the source stores its amounts with the other sign.
    power : the power of ten that its figures are in.
    is_numbered : each category's first row is kept, for their given order.
    has_times : dates may have a time of day, which is left out before grouping.
    row_column : the column that holds each row's number in the source, where the rows were put together.
    key : the column whose values are counted, for a distinct count.
    has_counts : rows that are alike but for nothing are one, with their number.
    names : the table that says which name is shown for one in the source, or nothing.
    has_signs : that table says of each name whether its amounts are turned.
    has_ends : the highest and lowest amounts are asked for.
    per_reading : how the column that amounts are divided by is read.
    held : the scenario that the source is said to hold, if any.
    held_as : the names under which it has that one among others; none where all of its rows are of it.
    typed : the columns that are figures or days in the source itself, and not read as text; what each is in a query.
    """

    place: int
    relation: str
    roles: Roles
    filters: tuple[Filter, ...]
    reading: FigureReading
    is_negative: bool = False
    power: int = 0
    is_numbered: bool = False
    has_times: bool = False
    row_column: str | None = None
    key: str | None = None
    has_counts: bool = False
    names: str = ""
    has_signs: bool = False
    has_ends: bool = False
    per_reading: FigureReading = field(default_factory=lambda: FigureReading(0))
    held: str | None = None
    held_as: tuple[str, ...] = ()
    typed: Mapping[str, str] = field(default_factory=dict)

    @property
    def scenario(self) -> str:
        """Of which scenario a row is, in a query; NULL where it is one of others than the source is said to hold."""
        if self.held is None:
            return _SCENARIO
        if not self.held_as:
            return quoted_text(self.held)
        names = ", ".join(map(quoted_text, self.held_as))
        return f"CASE WHEN {_SCENARIO} IN ({names}) THEN {quoted_text(self.held)} END"

    @property
    def has_typed_amount(self) -> bool:
        """Whether its amounts are figures in the source itself: none of them can be misread."""
        return len(self.roles.amounts) == 1 and self.roles.amounts[0].name in self.typed

    @property
    def table(self) -> str:
        return f"facts_{self.place}"

    @property
    def days(self) -> str:
        """The table of every written date of the source and the day it stands for."""
        return f"days_{self.place}"

    @property
    def rows(self) -> str:
        """The table of all rows with their keys, where distinct ones are counted."""
        return f"rows_{self.place}"

    @property
    def keys(self) -> str:
        """The view of those rows as facts are: names trimmed, dates read."""
        return f"keys_{self.place}"

    def create_rows(self) -> Query:
        """Creates the table of all rows with their keys: added up by key they would be no fewer."""
        source, values = self.source_rows(self.is_numbered)
        stored = [name for name, constant in self._columns_of_rows() if constant is None]
        return Query(f"CREATE TEMP TABLE {self.rows} AS SELECT {', '.join(stored)} FROM ({source})", tuple(values))

    def _columns_of_rows(self) -> list[tuple[str, str | None]]:
        """What the table of all rows has: a column's name, and its value where all rows have the same."""
        roles = self.roles
        return [
            *((f"c{place}", None) for place in range(len(roles.by))),
            *([] if roles.by else [("c0", "NULL")]),
            ("row", None if roles.each_row else "NULL::BIGINT"),
            ("number", None if self.is_numbered else "NULL::BIGINT"),
            ("position", "0"),
            ("scenario_text", None if roles.has_scenarios else "NULL::VARCHAR"),
            ("date_text", None if roles.has_dates else "NULL::VARCHAR"),
            ("key", None),
            ("kept", None if self.filters else "true"),
            ("n", None if self.has_counts else "1"),
        ]

    def _all_rows(self) -> str:
        """The table of all rows, with the columns that are the same in all."""
        return f"(SELECT *, {self._same_in_all} FROM {self.rows})"

    @property
    def _same_in_all(self) -> str:
        return ", ".join(f"{value} AS {name}" for name, value in self._columns_of_rows() if value is not None)

    def create_raw(self) -> Query:
        """Creates the table `raw`."""
        found = self._raw_of_keys() if self.key else self.raw()
        return Query(f"CREATE OR REPLACE TEMP TABLE raw AS {found.sql}", found.values)

    def raw(self) -> Query:
        """What the source comes to: categories c0, c1 …, texts of scenario and date, and figures."""
        source, values = self.source_rows(self.is_numbered, as_typed=True)
        amount = self.reading.amount("amount_text")
        unread, decimals, doubtful = "0", str(self.reading.decimals), "false"
        # What is written just as the decimal would be needs no second look; most amounts are.
        odd = "kept AND amount_text <> CAST(amount AS VARCHAR)"
        if not self.has_typed_amount:
            nothing = cells.is_nothing("amount_text")
            unread = f"count(CASE WHEN amount IS NULL AND kept AND NOT {nothing} THEN 1 END)"
            decimals = f"max(CASE WHEN {odd} THEN {self.reading.decimals_in('amount_text')} END)"
            misread = cells.might_be_misread("amount_text")
            doubtful = f"bool_or(CASE WHEN {odd} THEN {misread} ELSE false END)"
        ends = "max(amount) AS highest, min(amount) AS lowest" if self.has_ends else "NULL AS highest, NULL AS lowest"
        per = "NULL::DECIMAL(38, 0) AS per, 0 AS per_unread, 0 AS per_decimals"
        if self.roles.per:
            divisor, nothing = self.per_reading.amount("per_text"), cells.is_nothing("per_text")
            per = (
                f"sum({divisor}) AS per, count(CASE WHEN kept AND {divisor} IS NULL AND NOT {nothing} THEN 1 END) "
                f"AS per_unread, max({self.per_reading.decimals_in('per_text')}) AS per_decimals"
            )
        # What is the same in all rows tells none apart, and to group by it costs a third of the time.
        same = {name: value for name, value in self._columns_of_rows() if value is not None}
        others = ("row", "scenario_text", "date_text", "kept")
        shown = ", ".join(f"{same[name]} AS {name}" if name in same else name for name in others)
        keys = [f"c{place}" for place in range(len(self.roles.by))] + [name for name in others if name not in same]
        # Dates are read after grouping: a ledger has far fewer of them than rows.
        return Query(
            f"""SELECT * REPLACE (CAST(date_text AS VARCHAR) AS date_text) FROM (
            SELECT {self.categories()}, {shown},
                sum(amount) AS amount, count(amount) AS figures, {ends}, count(*) AS rows,
                {unread} AS unread, {decimals} AS decimals, {doubtful} AS doubtful,
                {per},
                {self._first_row} AS first_row
            FROM (SELECT *, {amount} AS amount FROM ({source})) GROUP BY {", ".join(keys) or "()"})""",
            tuple(values),
        )

    def _raw_of_keys(self) -> Query:
        """The same of the rows whose keys are counted: each is one, and there is no figure to be read."""
        told_apart = [
            name for name, constant in self._columns_of_rows() if constant is None and name not in _OF_A_ROW
        ]
        first_row = "min(number * 1000)" if self.is_numbered else "NULL::BIGINT"
        count = "sum(n)::BIGINT" if self.has_counts else "count(*)"
        grouped = f"SELECT {', '.join((*told_apart, f'{count} AS n'))}, {first_row} AS first_row FROM {self.rows}"
        constants = [(name, value) for name, value in self._columns_of_rows() if value and name != "n"]
        same = ", ".join(f"{value} AS {name}" for name, value in constants)
        return Query(
            f"""SELECT {self.categories()}, row, scenario_text, date_text, kept,
                n::DECIMAL(18, 0) AS amount, n AS figures, NULL AS highest, NULL AS lowest,
                n AS rows, 0 AS unread, 0 AS decimals, false AS doubtful,
                NULL::DECIMAL(38, 0) AS per, 0 AS per_unread, 0 AS per_decimals, first_row
            FROM (SELECT *, {same} FROM ({grouped} GROUP BY ALL))"""
        )

    @property
    def _first_row(self) -> str:
        return "min(number * 1000 + position)" if self.is_numbered else "NULL::BIGINT"

    def create(self) -> Query:
        """Creates the table of facts from `raw` and the table of days."""
        sign = "-" if self.is_negative else ""
        amount = self.scaled("amount")
        amount = f"CASE WHEN n0.turned THEN -{amount} ELSE {amount} END" if self.has_signs else f"{sign}{amount}"
        ends = ("lowest", "highest") if self.is_negative else ("highest", "lowest")
        return Query(
            f"""CREATE TEMP TABLE {self.table} AS
            SELECT {self.place} AS source, {self.shown()}, row, {self.scenario} AS scenario, days.day, date_text, kept,
                {amount} AS amount, {sign}{self.scaled(ends[0])} AS highest, {sign}{self.scaled(ends[1])} AS lowest,
                figures, rows, per, first_row
            FROM {self.with_days("raw")}"""
        )

    def scaled(self, amount: str) -> str:
        """An amount in money, where the source has it in thousands or the like."""
        if not self.power:
            return amount
        type_ = f"DECIMAL({MOST_DIGITS - self.power - 1}, {self.reading.decimals})"
        return f"(CAST({amount} AS {type_}) * CAST({10**self.power} AS DECIMAL({self.power + 1}, 0)))"

    def create_keys(self) -> Query:
        """Creates the view of all rows with their keys."""
        where = f"WHERE {self.scenario} IS NOT NULL" if self.held_as else ""
        # A row without a date is in no window.
        rows = self.with_days(self._all_rows(), "JOIN" if self.roles.has_dates else "LEFT JOIN")
        return Query(
            f"CREATE TEMP VIEW {self.keys} AS SELECT {self.shown()}, row, {self.scenario} AS scenario, days.day, kept, "
            f"nullif(trim(key), '') AS key, n FROM {rows} {where}"
        )

    def shown(self) -> str:
        """The categories, trimmed, and as `--name-map` shows them."""
        shown = [
            f"{f'coalesce(n{place}.shown, {trimmed})' if place < self.named else trimmed} AS c{place}"
            for place, trimmed in enumerate(self._trimmed())
        ]
        return ", ".join(shown) or "NULL AS c0"

    @property
    def named(self) -> int:
        """How many of the columns compared by are shown by other names: of a statement, that of accounts alone."""
        return 0 if not self.names else 1 if self.has_signs else len(self.roles.by)

    def with_days(self, table: str, join: str = "LEFT JOIN") -> str:
        joins = [
            f"LEFT JOIN {self.names} AS n{place} ON n{place}.name = trim(c{place})" for place in range(self.named)
        ]
        return f"{table} {join} {self.days} AS days USING (date_text) {' '.join(joins)}"

    def last_times(self, days: int) -> Query:
        """The last so many dates that carry a time of day, each with the last time on it as '18:30', newest first."""
        date = _text(self.roles.date or "")
        timed = f"regexp_full_match({date}, '\\d{{4}}-\\d\\d-\\d\\d[T ]\\d\\d:\\d\\d.*')"
        return Query(
            f"SELECT left({date}, 10) AS day, max(substr({date}, 12, 5)) FROM {self.relation} WHERE {timed} "
            f"GROUP BY 1 ORDER BY 1 DESC LIMIT {days}"
        )

    def conventions(self) -> Query:
        """In how many ways the amounts are written, as `convention_counts` says."""
        source, values = self.source_rows(False)
        return Query(
            f"SELECT {cells.convention_counts('trim(amount_text)')} FROM ({source}) WHERE kept", tuple(values)
        )

    def currencies(self, column: str | None) -> Query:
        """The different currencies of the kept rows: in a column of their own, or beside the figures."""
        source, values = self.source_rows(False, [column] if column else ())
        found = "trim(whole[1])" if column else cells.currency_in("amount_text")
        return Query(
            f"SELECT DISTINCT {found} AS found FROM ({source}) WHERE kept AND found <> '' ORDER BY 1",
            tuple(values),
        )

    def met(self) -> Query:
        """Each category of kept rows with a figure, its scenario, its written date, whether all are 0, their sum."""
        found = self.raw()
        return met_in(f"({found.sql})", self.scenario, found.values)

    def unreadable_figure(self) -> Query:
        """Row number, column and text of the first amount that is no figure."""
        amount = self.reading.amount("amount_text")
        return self._first(f"NOT {cells.is_nothing('amount_text')} AND {amount} IS NULL", "amount_text")

    def unreadable_per(self) -> Query:
        """Row number, column and text of the first cell divided by that is no figure."""
        per = self.per_reading.amount("per_text")
        found = self._first(f"NOT {cells.is_nothing('per_text')} AND {per} IS NULL", "per_text")
        name = quoted_text(self.roles.per or "")
        return Query(found.sql.replace("SELECT number, amount_column", f"SELECT number, {name}", 1), found.values)

    def unreadable_date(self) -> Query:
        """Row number, column and text of the first date that is none."""
        undated = f"date_text IN (SELECT date_text FROM {self.days} WHERE day IS NULL)"
        return self._first(f"NOT {cells.is_nothing('date_text')} AND {undated}", "date_text")

    def _first(self, condition: str, text: str) -> Query:
        source, values = self.source_rows(True)
        return Query(
            f"SELECT number, amount_column, {text} FROM ({source}) WHERE kept AND {condition} "
            "ORDER BY number LIMIT 1",
            tuple(values),
        )

    def appearance(self, rows: int | None) -> Query:
        """The categories of the kept rows in the order of the source, within its first so many rows."""
        columns = self.categories()
        if self.is_numbered:
            return Query(f"SELECT {columns} FROM {self.table} WHERE kept GROUP BY {columns} ORDER BY min(first_row)")
        source, values = self.source_rows(True)
        limit = f" LIMIT {rows}" if rows else ""
        trimmed = ", ".join(f"{name} AS c{place}" for place, name in enumerate(self._trimmed()))
        return Query(
            f"SELECT {columns} FROM (SELECT {trimmed}, number, position FROM ({source}) WHERE kept{limit}) "
            f"GROUP BY {columns} ORDER BY min(number * 1000 + position)",
            tuple(values),
        )

    def source_rows(
        self, numbered: bool, whole: Sequence[str] = (), *, as_typed: bool = False
    ) -> tuple[str, list[str]]:
        """The source with its columns by role, one row an amount; as text, but for what has types where asked."""
        conditions = [one.condition() for one in self.filters]
        values = [value for _, bound in conditions for value in bound]
        kept = " AND ".join(sql for sql, _ in conditions) or "true"
        roles = self.roles
        number = _text(self.row_column) + "::BIGINT" if self.row_column else "row_number() OVER ()"
        columns = [
            *(f"{self.category(name)} AS c{place}" for place, name in enumerate(roles.by)),
            f"{number if roles.each_row else 'NULL::BIGINT'} AS row",
            f"{number if numbered else 'NULL::BIGINT'} AS number",
            f"{_text(self.key) if self.key else 'NULL::VARCHAR'} AS key",
            f"{_text(roles.per) if roles.per else 'NULL::VARCHAR'} AS per_text",
            *self._amount_columns(as_typed=as_typed),
            *([f"[{', '.join(_text(heading) for heading in whole)}] AS whole"] if whole else []),
            f"{KEPT} AS kept",
        ]
        return f"SELECT {', '.join(columns)} FROM (SELECT *, {kept} AS {KEPT} FROM {self.relation})", values

    def category(self, name: str) -> str:
        """A category's text as the source has it: names are trimmed after grouping, which is cheaper."""
        text = self._unnested("category") if name == self.roles.headings else _text(name)
        # Rows that are not kept say only how far the data go.
        is_plain = not self.filters or name == self.roles.headings
        return text if is_plain else f"CASE WHEN {KEPT} THEN {text} END"

    def _amount_columns(self, *, as_typed: bool) -> list[str]:
        roles = self.roles
        typed: Mapping[str, str] = self.typed if as_typed else {}
        date = _column(roles.date, typed) if roles.date else "NULL::VARCHAR"
        if self.has_times:
            timed = f"regexp_full_match({date}, '\\d{{4}}-\\d\\d-\\d\\d[T ]+\\d\\d?:\\d\\d.*')"
            date = f"CASE WHEN {timed} THEN left({date}, 10) ELSE {date} END"
        scenario = _text(roles.scenario) if roles.scenario else "NULL::VARCHAR"
        if roles.unnamed:
            scenario = f"coalesce(nullif(trim({scenario}), ''), {quoted_text(roles.unnamed)})"
        if not roles.amounts:
            return [
                "'1' AS amount_text",
                f"{scenario} AS scenario_text",
                f"{date} AS date_text",
                "'rows' AS amount_column",
                "0 AS position",
            ]
        if len(roles.amounts) == 1:
            only = roles.amounts[0]
            scenario = quoted_text(only.scenario) if only.scenario else scenario
            date = quoted_text(only.period) if only.period else date
            amount, column, position = _column(only.name, typed), quoted_text(only.name), "0"
        else:
            if any(one.scenario for one in roles.amounts):
                scenario = self._unnested("scenario")
            if any(one.period for one in roles.amounts):
                date = self._unnested("period")
            amount = f"unnest([{', '.join(_text(one.name) for one in roles.amounts)}])"
            column, position = self._unnested("name"), f"unnest(range({len(roles.amounts)}))"
        return [
            f"{amount} AS amount_text",
            f"{scenario} AS scenario_text",
            f"{date} AS date_text",
            f"{column} AS amount_column",
            f"{position} AS position",
        ]

    def _unnested(self, field: str) -> str:
        """What the headings say, one text an amount column, in step with the amounts."""
        texts = [getattr(one, field) for one in self.roles.amounts]
        listed = ", ".join("NULL" if text is None else quoted_text(text) for text in texts)
        return f"unnest([{listed}]::VARCHAR[])"

    def _trimmed(self) -> list[str]:
        return [cells.name(f"c{place}") for place in range(len(self.roles.by))]

    def categories(self) -> str:
        return ", ".join(f"c{place}" for place in range(len(self.roles.by))) or "NULL AS c0"


# Of a name that no source has: its own columns may be called anything.
KEPT = quoted_name("\u2060kept")
_OF_A_ROW = ("number", "key", "n")  # what each row has of its own
_SCENARIO = f"nullif({cells.name('scenario_text')}, '')"
RAW_SUMMARY = Query(
    "SELECT sum(rows)::BIGINT, coalesce(sum(unread), 0)::BIGINT, "
    "coalesce(max(decimals), 0), coalesce(bool_or(doubtful), false), "
    "coalesce(sum(rows) FILTER (kept), 0)::BIGINT, coalesce(max(per_decimals), 0), "
    "coalesce(sum(per_unread), 0)::BIGINT FROM raw"
)
# Every category of the kept rows that has a figure, with its amount.
ACCOUNTS = Query(
    f"SELECT {cells.name('c0')} AS account, sum(amount) FROM raw WHERE kept AND figures > 0 GROUP BY 1 ORDER BY 1"
)
DATES_OF_SCENARIOS = Query(
    f"SELECT coalesce({_SCENARIO}, ''), date_text, bool_or(kept) FROM raw WHERE date_text IS NOT NULL GROUP BY ALL"
)
WRITTEN_DATES = Query("SELECT DISTINCT date_text FROM raw WHERE date_text IS NOT NULL")


def met_in(raw: str, scenario: str, values: tuple[object, ...] = ()) -> Query:
    """What `Facts.met` asks, of a table such as `Facts.raw` describes."""
    is_zero = "bool_and(highest = 0 AND lowest = 0)"
    return Query(
        f"SELECT {cells.name('c0')} AS name, {scenario} AS scenario, date_text, {is_zero}, sum(amount) "
        f"FROM {raw} WHERE kept AND figures > 0 GROUP BY ALL",
        values,
    )


def without_scenario(table: str) -> Query:
    """How many amounts of kept rows are of no scenario, and their sum."""
    return Query(
        f"SELECT coalesce(sum(figures), 0)::BIGINT, sum(amount) FROM {table} WHERE kept AND scenario IS NULL"
    )


def undated(table: str) -> Query:
    """How many kept rows have an unreadable date, how many amounts have no day at all, and their sum."""
    blank = cells.is_nothing("date_text")
    return Query(
        f"SELECT coalesce(sum(rows) FILTER (NOT {blank}), 0)::BIGINT, coalesce(sum(figures), 0)::BIGINT, sum(amount) "
        f"FROM {table} WHERE kept AND day IS NULL"
    )


def unread_dates(table: str) -> Query:
    """The texts of kept rows that are no date, with their rows and amounts."""
    return Query(
        f"SELECT date_text, sum(rows)::BIGINT, sum(amount) FROM {table} "
        f"WHERE kept AND day IS NULL AND NOT {cells.is_nothing('date_text')} GROUP BY 1 ORDER BY 1"
    )


def _column(name: str, typed: Mapping[str, str]) -> str:
    """A column as it is where it has a type, else as text."""
    return typed.get(name) or _text(name)


def _text(name: str) -> str:
    return f"CAST({quoted_name(name)} AS VARCHAR)"
