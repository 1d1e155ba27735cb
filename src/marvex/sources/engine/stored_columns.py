"""The columns of a table that a database or a cluster has, in the statements that it answers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from functools import partial
from typing import TYPE_CHECKING, Any

from marvex.core.errors import Mistake, setting
from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.columns_asked import ColumnsAsked
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.derived import date_parts, dated, lookup_of, part_of_year
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.engine.typed_columns import FEW_DECIMALS, decimals_left, least_decimals
from marvex.sources.expression import columns_in, is_expression, names_no_column, parse_expression
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.source_file import SourceFile
from marvex.sources.readers.store import ENOUGH_ROWS, Kind, Store, as_text, told_otherwise
from marvex.sources.where import Filter, filter_text

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement, Select


@dataclass(frozen=True, slots=True, kw_only=True)
class Made:
    """A column that a table does not have itself: its texts are made here, of those of some of its columns."""

    of: tuple[str, ...]
    make: Callable[[tuple[str | None, ...]], str | None]


@dataclass(slots=True, eq=False)
class StoredColumns:
    """The columns of a store, and those that are made of them.

    Parameters
    ----------
    made : the columns that the table does not have itself, by heading.
    codes : of a lookup, the column of the codes and those that it has.
    """

    store: Store
    made: Mapping[str, Made] = field(default_factory=dict)
    codes: tuple[str, frozenset[str]] | None = None
    _binary: dict[str, int] = field(default_factory=dict)  # how many decimals the figures of a column have

    def made_of(self, heading: str, texts: Mapping[str, str | None]) -> str | None:
        made = self.made[heading]
        return made.make(tuple(texts[one] for one in made.of))

    def day(self, name: str, facts: Facts) -> ColumnElement[Any]:
        """A column of dates without their times, which there are more of than days."""
        from sqlalchemy import Date, cast, func

        if self.store.kinds[name] is Kind.TIME:
            return cast(self.store.column(name), Date)
        return func.substr(self.store.text(name), 1, 10) if facts.has_times else self.store.grouped(name)

    def columns_of(self, headings: Sequence[str]) -> list[str]:
        """The columns of the table that some headings need, each once."""
        return list(
            dict.fromkeys(name for one in headings for name in (self.made[one].of if one in self.made else (one,)))
        )

    def kept(self, filters: Sequence[Filter]) -> ColumnElement[Any] | None:
        """What is true of the rows to keep, never unknown; None where all are kept."""
        from sqlalchemy import and_

        return and_(*map(self._passes, filters)) if filters else None

    def _passes(self, one: Filter) -> ColumnElement[Any]:
        passes = self._as_condition(one)
        if not self.store.is_tried and one.column not in self.made:
            from sqlalchemy import case, select

            asked = select(self.store.text(one.column), case((passes, 1), else_=0)).select_from(self.store.table)
            for text, is_kept in self.store.rows(asked.limit(ENOUGH_ROWS)):
                if one.keeps(as_text(text) or "") is not bool(is_kept):
                    raise told_otherwise(
                        self.store.name, setting("where", filter_text(one.column, one.sign, one.values))
                    )
        return passes

    def _as_condition(self, one: Filter) -> ColumnElement[Any]:
        from sqlalchemy import Numeric, String, case, cast, func, literal, or_

        if one.column in self.made:
            of = self.made[one.column].of
            found = self.store.rows(self.different(of))
            rows = [tuple(map(as_text, row)) for row in found]
            passing = [row for row in rows if one.keeps(self.made[one.column].make(row) or "")]
            return self.is_among(of, passing)
        text = func.coalesce(func.trim(self.store.text(one.column)), "")
        if one.sign in ("=", "!="):
            return text.in_(one.texts) if one.sign == "=" else text.not_in(one.texts)
        if one.sign == "~":
            return or_(*(text.like(_like(value), escape="!") for value in one.values))
        value = one.values[0]
        if one.is_about_figures:
            number = Numeric(MOST_DIGITS, 10)
            if self.store.kinds[one.column] is Kind.FIGURE:
                figure: Any = cast(self.store.column(one.column), number)
            else:
                # Only a text that is a figure is read as one.
                is_figure = text.regexp_match(r"^-?[0-9]+(\.[0-9]+)?$")
                figure = cast(case((is_figure, text), else_=None), number)
            return func.coalesce(figure.op(one.sign)(cast(literal(one.figure, String), number)), False)
        own = func.substr(text, 1, len(value)) if one.is_about_days else text
        return (text != "") & own.op(one.sign)(literal(value))

    def different(self, columns: Sequence[str]) -> Select[Any]:
        from sqlalchemy import select

        return select(*(self.store.text(one) for one in columns)).select_from(self.store.table).distinct()

    def is_among(self, columns: Sequence[str], rows: Sequence[tuple[str | None, ...]]) -> ColumnElement[Any]:
        """Whether some columns have the texts of one of several rows."""
        from sqlalchemy import and_, false, func, or_

        texts = [func.coalesce(func.trim(self.store.text(one)), "") for one in columns]
        if len(texts) == 1:
            return texts[0].in_([row[0] or "" for row in rows]) if rows else false()
        alike = (and_(*(text == (value or "") for text, value in zip(texts, row, strict=True))) for row in rows)
        return or_(false(), *alike)

    def decimals(self, name: str) -> int:
        """To how many decimals the binary figures of a column are rounded."""
        is_typed = self.store.has_types or name in self.store.worked_out
        if is_typed and self.store.kinds[name] is not Kind.BINARY:
            return MOST_DIGITS
        if name not in self._binary:
            from sqlalchemy import func, select

            column = self.store.column(name)
            shifted = [column * 10.0**few for few in range(FEW_DECIMALS)]
            off = (func.max(func.abs(one - func.round(one))) for one in shifted)
            statement = select(func.max(func.abs(column)), *off).select_from(self.store.table)
            largest, *missed = (None if one is None else float(one) for one in self.store.rows(statement)[0])
            self._binary[name] = least_decimals(decimals_left(largest), missed)
        return self._binary[name]

    def check_figures(self, names: Sequence[str], source: str) -> None:
        """Raises Mistake where a column cannot be added up."""
        for name in names:
            if not self.store.holds_figures(name):
                raise Mistake(
                    f"{source}, column {name} holds {self.store.kinds[name].value}, and no figures",
                    f"Name another, or make it exact in a query: {setting('query', 'FILE.sql')}.",
                )

    def values(self, column: str) -> list[str]:
        of = self.made[column].of if column in self.made else (column,)
        rows = [tuple(map(as_text, row)) for row in self.store.rows(self.different(of))]
        texts = (self.made[column].make(row) if column in self.made else row[0] for row in rows)
        return sorted({text or "" for text in texts})

    def other_than(self, value: str, column: str, most: int) -> list[str]:
        """The first so many cells of a column of the table that say another than a value, trimmed."""
        from sqlalchemy import func, select

        if column in self.made:
            return []
        text = func.coalesce(func.trim(self.store.text(column)), "")
        asked = select(text).select_from(self.store.table).where(text != value).limit(most)
        return [str(row[0]) for row in self.store.rows(asked)]


def _like(pattern: str) -> str:
    """A pattern in which only `*` stands for any text, as LIKE has it."""
    escaped = "".join(f"!{sign}" if sign in "!%_" else sign for sign in pattern)
    return escaped.replace("*", "%")


def stored_columns(
    store: Store, asked: AskedOfSource, lookup: SourceFile | None, engine: Engine, name: str
) -> tuple[StoredColumns, tuple[str, ...], ColumnsAsked]:
    """The columns of a store, its headings with those of columns that are made of others, and what is asked by them.

    Raises Mistake where an amount cannot be worked out of its columns.
    """
    headings, columns = tuple(store.kinds), asked.columns
    for text in columns.amounts:
        if is_expression(text, headings):
            store = _with_worked_out(store, text, name)
            columns = replace(columns, worked_out=(*columns.worked_out, text))
    headings = tuple(store.kinds)
    made: dict[str, Made] = {}
    codes = None
    if lookup is not None:
        joined = lookup_of(headings, lookup, asked.lookup_column, engine, name)
        texts = ", ".join(f"trim(CAST({quoted_name(one)} AS VARCHAR))" for one in (joined.key, *joined.added))
        table = engine.rows(Query(f"SELECT {texts} FROM {lookup.relation()}"), lookup.name)
        codes = joined.code, frozenset(str(row[0]) for row in table if row[0])
        for place, heading in enumerate(joined.added, 1):
            made[heading] = Made(of=(joined.code,), make=_LookedUp({row[0]: row[place] for row in table}))
    parts = date_parts(headings, columns, name)
    if parts is not None:
        heading = " and ".join(parts)
        made[heading] = Made(of=parts, make=partial(dated, *part_of_year(*parts)))
        columns = replace(columns, date=heading)
    return StoredColumns(store, made, codes), (*headings, *made), columns


def _with_worked_out(store: Store, text: str, name: str) -> Store:
    """The store with an amount that is worked out, as one more of its columns."""
    expression = parse_expression(text, tuple(store.kinds), name)
    names = columns_in(expression)
    if not names:
        raise names_no_column()
    own = StoredColumns(store)
    own.check_figures(names, name)
    is_exact = {one: store.has_types and store.kinds[one] is Kind.FIGURE for one in names}
    decimals = {one: store.decimals_met(one) if is_exact[one] else own.decimals(one) for one in names}
    return store.with_worked_out(text, expression, decimals)


@dataclass(frozen=True, slots=True)
class _LookedUp:
    """What a lookup has for a code."""

    known: Mapping[str | None, str | None]

    def __call__(self, texts: tuple[str | None, ...]) -> str | None:
        return self.known.get((texts[0] or "").strip()) or None
