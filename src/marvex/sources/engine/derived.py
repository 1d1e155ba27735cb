"""Columns that a source does not have itself: amounts that are worked out, a year and a month as one date, a lookup."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import floor, log10

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, listed, setting
from marvex.sources import cells
from marvex.sources.cells import BINARY_DIGITS, NARROW_DIGITS, Convention, FigureReading, is_absent, value_of
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.expression import (
    ColumnName,
    Expression,
    Number,
    Worked,
    columns_in,
    is_expression,
    parse_expression,
)
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.source_file import ROW_COLUMN, SourceFile
from marvex.sources.roles import DATE_NAMES, ColumnsAsked, found_column

DECIMALS = 6  # of each column that an amount is worked out of
_YEARS = {"year", "fy", "jahr", "année", "annee", "año", "anno", "jaar", "ano", "år", "vuosi"}
_MONTHS = {"month", "mth", "monat", "mois", "mes", "mese", "maand", "mês", "måned", "månad", "kuukausi", "quarter"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Relation:
    """What a source's rows are selected from, and its headings.

    Parameters
    ----------
    row_column : that holds each row's number; where a lookup is joined, rows are numbered before.
    key : the column that a lookup is joined by, and `missing` the one that is true where it has no such key.
    """

    sql: str
    headings: tuple[str, ...]
    row_column: str | None
    key: str | None = None
    missing: str | None = None

    def with_column(self, heading: str, sql: str) -> Relation:
        """The same with one more column of text."""
        return replace(
            self,
            sql=f"(SELECT *, {sql} AS {quoted_name(heading)} FROM {self.sql})",
            headings=(*self.headings, heading),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """A column that has a type in its source, and need not be read as text.

    Parameters
    ----------
    sql : what it is in a query.
    decimals : of a figure; None of a day, and of a binary figure until they are asked for.
    is_wide : it may have more digits than a machine word holds.
    largest : of a binary figure, the size of the largest of its column.
    """

    sql: str
    decimals: int | None = None
    is_wide: bool = False
    largest: float | None = None

    @property
    def is_figure(self) -> bool:
        return self.decimals is not None or self.largest is not None


_WHOLE = ("TINYINT", "SMALLINT", "INTEGER", "UTINYINT", "USMALLINT", "UINTEGER")
_WIDE = ("BIGINT", "UBIGINT", "HUGEINT")
_DECIMAL = re.compile(r"DECIMAL\((\d+), ?(\d+)\)")
_AS_IT_IS = "\u2060binary "  # before the name of a binary column, where it is beside its text
FEW_DECIMALS = 7  # of binary figures, that are looked for before all that 15 digits leave


def typed_columns(
    relation: str, described: Sequence[tuple[str, str]], named: Sequence[str], engine: Engine, source: str
) -> tuple[str, dict[str, Typed]]:
    """A relation whose binary figures are written with the decimals that 15 digits leave; and its typed columns.

    Those decimals are of the column's largest figure. A column with what is no number in it is text alone, so that
    it is told of.

    Parameters
    ----------
    described : its headings with their types.
    named : the columns that a call names as amounts; no other is one then, and its size need not be known.
    """
    found: dict[str, Typed] = {}
    for name, kind in described:
        decimal, own = _DECIMAL.fullmatch(kind), quoted_name(name)
        if kind == "DATE":
            found[name] = Typed(sql=own)
        elif kind in _WHOLE or kind in _WIDE:
            found[name] = Typed(sql=own, decimals=0, is_wide=kind in _WIDE)
        elif decimal:
            found[name] = Typed(sql=own, decimals=int(decimal[2]), is_wide=int(decimal[1]) > NARROW_DIGITS)
    binary = [name for name, kind in described if kind in ("DOUBLE", "FLOAT")]
    binary = [name for name in binary if not named or any(name in text for text in named)]
    if not binary:
        return relation, found
    names = [quoted_name(name) for name in binary]
    asked = (f"max(abs({one})) FILTER (isfinite({one})), coalesce(bool_and(isfinite({one})), true)" for one in names)
    sizes = engine.rows(Query(f"SELECT {', '.join(asked)} FROM {relation}"), source)[0]
    texts = []
    for name, own, size, is_all_finite in zip(binary, names, sizes[::2], sizes[1::2], strict=True):
        decimals = decimals_left(size)
        rounded = f"format('{{:.{decimals}f}}', {own})"
        plain = f"regexp_replace({rounded}, '(\\.[0-9]*?)0+$', '\\1')" if decimals else rounded
        texts.append(f"CASE WHEN isfinite({own}) THEN rtrim({plain}, '.') ELSE CAST({own} AS VARCHAR) END AS {own}")
        if is_all_finite and (size or 0) < 10**BINARY_DIGITS:
            found[name] = Typed(sql=quoted_name(_AS_IT_IS + name), largest=float(size or 0))
    kept = ", ".join(f"{quoted_name(name)} AS {found[name].sql}" for name in binary if name in found)
    columns = f"* REPLACE ({', '.join(texts)})" + (f", {kept}" if kept else "")
    return f"(SELECT {columns} FROM {relation})", found


def with_decimals(typed: Typed, relation: str, engine: Engine, source: str) -> Typed:
    """A column of binary figures as one of decimals: of no more than some figure of it needs.

    A figure has so many decimals where it is as near to one that has them as its 15 digits tell.
    """
    own = typed.sql
    off = (f"max(abs({own} * 1e{few} - round({own} * 1e{few})))" for few in range(FEW_DECIMALS))
    found = engine.rows(Query(f"SELECT {', '.join(off)} FROM {relation}"), source)[0]
    decimals = least_decimals(decimals_left(typed.largest), found)
    return Typed(sql=f"CAST({own} AS DECIMAL({NARROW_DIGITS}, {decimals}))", decimals=decimals)


def least_decimals(most: int, off: Sequence[float | None]) -> int:
    """How many decimals binary figures have, at most as many as their digits leave.

    Parameters
    ----------
    off : by how much they miss 0, 1, 2 … decimals at most, in units of the last of them.
    """
    near = (few for few, one in enumerate(off) if few <= most and (one or 0) <= 0.5 * 10.0 ** (few - most))
    return next(near, most)


def decimals_left(size: float | None) -> int:
    """How many decimals 15 significant digits leave, of a column's largest figure."""
    return max(0, min(BINARY_DIGITS, BINARY_DIGITS - 1 - floor(log10(size)))) if size else 0


def derived(
    relation: Relation, asked: ColumnsAsked, numbers: str, engine: Engine, source: str
) -> tuple[Relation, ColumnsAsked]:
    """The relation with the columns that are worked out, and what is asked with their names."""
    for text in asked.amounts:
        if is_expression(text, relation.headings):
            expression = parse_expression(text, relation.headings, source)
            relation = relation.with_column(text, _worked_out(relation, expression, numbers, engine, source))
    parts = date_parts(relation.headings, asked, source)
    if parts is not None:
        year, period = (f"trim(CAST({quoted_name(one)} AS VARCHAR))" for one in parts)
        is_quarter = parts[1].casefold() == "quarter"
        number = f"{year} || '-Q' || {period}" if is_quarter else f"{year} || '-' || lpad({period}, 2, '0')"
        whole = (
            f"CASE WHEN regexp_full_match({period}, '[0-9]{{1,2}}') THEN {number} ELSE {year} || ' ' || {period} END"
        )
        heading = f"{parts[0]} and {parts[1]}"
        relation = relation.with_column(heading, whole)
        asked = replace(asked, date=heading)
    return relation, asked


def date_parts(headings: Sequence[str], asked: ColumnsAsked, source: str) -> tuple[str, str] | None:
    """The two columns that a year and a month or a quarter stand in, as named or by their headings.

    Beside a column that is called date they are parts of it, or of its file's place.
    """
    if asked.date is not None:
        names = [one.strip() for one in asked.date.split(",")]
        if asked.date in headings or len(names) != 2:
            return None
        first, second = (found_column(one, headings, source, "date") for one in names)
        return first, second
    known = {heading.strip().casefold(): heading for heading in headings}
    if DATE_NAMES[0] in known:
        return None
    year = next((known[word] for word in known if word in _YEARS), None)
    month = next((known[word] for word in known if word in _MONTHS), None)
    return (year, month) if year and month else None


def _worked_out(relation: Relation, expression: Expression, numbers: str, engine: Engine, source: str) -> str:
    """The text of an amount that is worked out; of a cell that is no figure just as it stands, to be told of."""
    columns = columns_in(expression)
    if not columns:
        raise Mistake(f"{setting('amount')} names no column", "Write it as quantity * price.")
    texts = {name: f"trim(CAST({quoted_name(name)} AS VARCHAR))" for name in columns}
    sample = engine.rows(Query(f"SELECT {', '.join(texts.values())} FROM {relation.sql} LIMIT 1000"), source)
    readings = {
        name: FigureReading(DECIMALS, True, _convention([str(row[place] or "") for row in sample], numbers))
        for place, name in enumerate(columns)
    }
    amounts = {name: readings[name].amount(texts[name]) for name in columns}
    cases = " ".join(
        f"WHEN NOT {cells.is_nothing(texts[name])} AND {amounts[name]} IS NULL THEN {texts[name]}" for name in columns
    )
    number = f"CAST({_sql(expression, amounts)} AS VARCHAR)"
    plain = f"regexp_replace(regexp_replace({number}, '(\\.[0-9]*?)0+$', '\\1'), '\\.$', '')"
    return f"CASE {cases} ELSE {plain} END"


def _sql(expression: Expression, amounts: dict[str, str]) -> str:
    match expression:
        case Number(text):
            return f"CAST({text} AS DECIMAL(19, {DECIMALS}))"
        case ColumnName(name):
            return f"CAST({amounts[name]} AS DECIMAL(25, {DECIMALS}))"
        case Worked(sign, left, right):
            one, other = _sql(left, amounts), _sql(right, amounts)
            if sign == "*":
                factors = (f"CAST({side} AS DECIMAL(19, {DECIMALS}))" for side in (one, other))
                return f"CAST({' * '.join(factors)} AS DECIMAL(38, {2 * DECIMALS}))"
            if sign == "/":
                # To six more digits than the columns', half even, as rates and means are.
                quotient = f"CAST({one} AS DOUBLE) / nullif(CAST({other} AS DOUBLE), 0)"
                return f"CAST(round_even({quotient}, {2 * DECIMALS}) AS DECIMAL(38, {2 * DECIMALS}))"
            return f"CAST({one} {sign} {other} AS DECIMAL(38, {2 * DECIMALS}))"


def _convention(texts: Sequence[str], numbers: str) -> Convention:
    """The convention that is said, else that in which more of a column can be read."""
    if numbers != "auto":
        return Convention(numbers)
    filled = [text for text in texts if not is_absent(text)]
    readable = {one: sum(value_of(text, one) is not None for text in filled) for one in Convention}
    return Convention.COMMA if readable[Convention.COMMA] > readable[Convention.POINT] else Convention.POINT


def looked_up(relation: Relation, lookup: SourceFile, column: str | None, engine: Engine, source: str) -> Relation:
    """The relation joined with a second table by the column that both have; every row stays.

    Raises Mistake where they share none or several columns, or its keys are not unique.
    """
    joined = lookup_of(relation.headings, lookup, column, engine, source)
    table = "lookup_" + "".join(sign for sign in source if sign.isalnum())
    engine.run(Query(f"CREATE TEMP TABLE {quoted_name(table)} AS SELECT * FROM {lookup.relation()}"), lookup.name)
    missing = f"{ROW_COLUMN} missing"
    number = "" if relation.row_column else f", row_number() OVER () AS {quoted_name(ROW_COLUMN)}"
    columns = ", ".join(f"CAST(l.{quoted_name(one)} AS VARCHAR) AS {quoted_name(one)}" for one in joined.added)
    text = f"trim(CAST(s.{quoted_name(joined.code)} AS VARCHAR))"
    found = f"l.{quoted_name(joined.key)}"
    sql = (
        f"(SELECT s.*{', ' + columns if columns else ''}, ({found} IS NULL) AS {quoted_name(missing)} "
        f"FROM (SELECT *{number} FROM {relation.sql}) AS s LEFT JOIN {quoted_name(table)} AS l "
        f"ON {text} = trim(CAST({found} AS VARCHAR)))"
    )
    return Relation(
        sql=sql,
        headings=(*relation.headings, *joined.added),
        row_column=relation.row_column or ROW_COLUMN,
        key=joined.code,
        missing=missing,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Lookup:
    """How a second table is joined: its key, the column of the source that has its codes, and what it adds."""

    key: str
    code: str
    added: tuple[str, ...]


def lookup_of(headings: Sequence[str], lookup: SourceFile, column: str | None, engine: Engine, source: str) -> Lookup:
    """How a second table is joined by the column that both have.

    Raises Mistake where they share none or several columns, or its keys are not unique.
    """
    described = engine.run(Query(f"SELECT * FROM {lookup.relation()} LIMIT 0"), lookup.name).description or []
    others = [str(one[0]) for one in described if str(one[0]) != ROW_COLUMN]
    own = {heading.strip().casefold(): heading for heading in headings}
    shared = [one for one in others if one.strip().casefold() in own]
    if column is not None:
        shared = [found_column(column, others, lookup.name, "lookup")]
        if shared[0].strip().casefold() not in own:
            raise Mistake(f"{source} has no column '{column}' to look up", f"It has {listed(headings, 6)}.")
    if len(shared) != 1:
        what = f"share {listed(shared)}" if shared else "have no column in common"
        joined_by = f"{lookup.name}:{shared[0] if shared else 'COL'}"
        raise Mistake(f"{source} and {lookup.name} {what}", f"Say which to join by: {setting('lookup', joined_by)}.")
    key = f"trim(CAST({quoted_name(shared[0])} AS VARCHAR))"
    twice = engine.rows(
        Query(f"SELECT {key} FROM {lookup.relation()} WHERE {key} <> '' GROUP BY 1 HAVING count(*) > 1 LIMIT 1"),
        lookup.name,
    )
    if twice:
        raise Mistake(f"{lookup.name} has {shared[0]} '{twice[0][0]}' twice", "Give each code one row.")
    return Lookup(
        key=shared[0],
        code=own[shared[0].strip().casefold()],
        added=tuple(one for one in others if one != shared[0] and one.strip().casefold() not in own),
    )


def codes_not_found(relation: Relation, amount: str, engine: Engine, source: str) -> tuple[str, ...]:
    """A caution about the codes that a lookup does not have, with their amounts.

    Parameters
    ----------
    amount : the expression of a row's amount.
    """
    if relation.missing is None or relation.key is None:
        return ()
    code = f"coalesce(trim(CAST({quoted_name(relation.key)} AS VARCHAR)), '')"
    rows = engine.rows(
        Query(
            f"SELECT {code}, sum({amount}) FROM {relation.sql} WHERE {quoted_name(relation.missing)} "
            f"GROUP BY 1 ORDER BY abs(coalesce(sum({amount}), 0)) DESC, 1"
        ),
        source,
    )
    if not rows:
        return ()
    names = listed((f"{one or NO_NAME} ({total or 0:,})" for one, total in rows), 4)
    return (f"{source}: the lookup has no {relation.key} {names}",)
