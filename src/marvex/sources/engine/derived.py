"""Columns that a source does not have itself: amounts that are worked out, a year and a month as one date, a lookup."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, listed, setting
from marvex.core.values import dataclass
from marvex.sources.columns import DATE_NAMES
from marvex.sources.columns_asked import ColumnsAsked, found_column
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.typed_columns import Typed
from marvex.sources.engine.worked_out import with_worked_out
from marvex.sources.expression import is_expression, parse_expression
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.source_file import ROW_COLUMN, SourceFile

_YEARS = {"year", "years", "yr", "fy", "jahr", "gjahr", "année", "annee", "año", "anno", "jaar", "ano", "år", "vuosi"}
_MONTHS = {
    "month",
    "months",
    "mth",
    "mon",
    "mo",
    "monat",
    "mois",
    "mes",
    "mese",
    "maand",
    "mês",
    "måned",
    "månad",
    "kuukausi",
}
_PERIODS = {"period", "per", "prd", "pd", "perio", "poper", "periode", "période", "periodo"}
_WEEKS, _QUARTERS = {"week", "weeks", "wk"}, {"quarter", "quarters", "qtr"}
_PARTS = (_MONTHS, _PERIODS, _WEEKS, _QUARTERS)  # of a year; the first that there is dates the rows
_DAYS = {"day", "dd", "tag", "jour", "día", "dia", "giorno", "dag", "päivä"}
_REPORTING = {"fiscal", "financial", "reporting", "accounting"}  # of a year that is not the civil one, if they differ
_DAY = re.compile(r"[0-9]{1,2}")
_BEFORE = _REPORTING | {"posting", "calendar"}
_BEHIND = {"no", "nr", "num", "number", "name", "#"}  # `Month no`, `Period name`


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


def derived(
    relation: Relation,
    typed: Mapping[str, Typed],
    asked: ColumnsAsked,
    numbers: str,
    engine: Engine,
    source: str,
) -> tuple[Relation, ColumnsAsked]:
    """The relation with the columns that are worked out, and what is asked with their names."""
    for text in asked.amounts:
        if is_expression(text, relation.headings):
            expression = parse_expression(text, relation.headings, source)
            relation = with_worked_out(relation, text, expression, typed, numbers, engine, source)
            asked = replace(asked, worked_out=(*asked.worked_out, text))
    parts = date_parts(relation.headings, asked, source)
    if parts is not None:
        heading = " and ".join(parts)
        relation = relation.with_column(heading, _of_parts(*parts))
        asked = replace(asked, date=heading)
    return relation, asked


def _of_parts(year: str, part: str, *day: str) -> str:
    """The text of a date whose year is in one column and its month or another part in another, as `dated` says it."""
    of_year, number, *of_day = (f"trim(CAST({quoted_name(one)} AS VARCHAR))" for one in (year, part, *day))
    number = f"regexp_replace({number}, '^0([0-9]{{2}})$', '\\1')"  # 001, as some ledgers number periods
    is_reporting, letter = part_of_year(year, part)
    if is_reporting:
        of_year = f"'FY' || regexp_replace({of_year}, '^FY\\s*', '', 'i')"
    padded = number if letter else f"lpad({number}, 2, '0')"
    is_number = f"regexp_full_match({number}, '[0-9]{{1,2}}')"
    of_days = "".join(
        f"WHEN regexp_full_match({one}, '[0-9]{{1,2}}') AND {is_number} "
        f"THEN {of_year} || '-' || {padded} || '-' || lpad({one}, 2, '0') "
        f"WHEN regexp_full_match({one}, '[0-9]{{1,2}}') AND NOT regexp_matches({number}, '[0-9]') "
        f"THEN {one} || ' ' || {number} || ' ' || {of_year} "
        for one in of_day
    )
    return (
        f"CASE {of_days}WHEN {is_number} THEN {of_year} || '-{letter}' || {padded} "
        f"WHEN regexp_matches({number}, '[0-9]{{4}}') THEN {number} ELSE {of_year} || ' ' || {number} END"
    )


def dated(is_reporting: bool, letter: str, texts: tuple[str | None, ...]) -> str | None:
    """A year and a part of it as one text; a part that names its year itself, such as `2026-01`, alone."""
    year, part, *days = texts
    if year is None or part is None:
        return None
    part = re.sub(r"^0([0-9]{2})$", r"\1", part)
    if is_reporting:
        year = "FY" + re.sub(r"^FY\s*", "", year, flags=re.IGNORECASE)
    for day in (one for one in days if one and _DAY.fullmatch(one)):
        if _DAY.fullmatch(part):
            return f"{year}-{part.zfill(2)}-{day.zfill(2)}"
        if not re.search(r"[0-9]", part):
            return f"{day} {part} {year}"
    if re.fullmatch(r"[0-9]{1,2}", part):
        return f"{year}-{letter}{part if letter else part.zfill(2)}"
    return part if re.search(r"[0-9]{4}", part) else f"{year} {part}"


def part_of_year(year: str, part: str, *_: str) -> tuple[bool, str]:
    """Whether two columns of a date are of the reporting year, by their headings, and the letter of its numbers."""
    kind = _bare(part)
    is_reporting = kind in _PERIODS or _bare(year) in ("fy", "gjahr") or bool(_REPORTING & set(_words(year)))
    letters = ((_QUARTERS, "Q"), (_WEEKS, "W"), (_PERIODS, "P"))
    return is_reporting, next((one for kinds, one in letters if kind in kinds), "M" if is_reporting else "")


def _words(heading: str) -> list[str]:
    """The words of a heading, whatever stands between them: of `FiscalYear` two."""
    return re.sub(r"[_.\s-]+", " ", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", heading)).casefold().split()


def _bare(heading: str) -> str:
    """What a heading of a part of a date says without what kind of year it is of: `Posting period` is a period."""
    words = [word for word in _words(heading) if word not in _BEFORE]
    return " ".join(words[:-1] if len(words) > 1 and words[-1] in _BEHIND else words)


def date_parts(headings: Sequence[str], asked: ColumnsAsked, source: str) -> tuple[str, ...] | None:
    """The columns that a year and a month or another part of it stand in, as named or by their headings; of a month its
    day may stand in a third.

    Beside a column that is called date they are parts of it, or of its file's place.
    """
    if asked.date is not None:
        names = [one.strip() for one in asked.date.split(",")]
        if asked.date in headings or len(names) not in (2, 3):
            return None
        return tuple(found_column(one, headings, source, "date") for one in names)
    known = {_bare(heading): heading for heading in reversed(headings)}
    if DATE_NAMES[0] in known:
        return None
    year = next((known[word] for word in known if word in _YEARS), None)
    part = next((known[word] for words in _PARTS for word in known if word in words), None)
    if not year or not part:
        return None
    day = next((known[word] for word in known if word in _DAYS), None)
    return (year, part, day) if day and part_of_year(year, part) == (False, "") else (year, part)


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
