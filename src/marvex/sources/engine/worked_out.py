"""An amount that is worked out row by row, in whole numbers of the least unit, so that no digit is lost on the way."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

from marvex.core.values import dataclass
from marvex.sources import cells
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.figure_columns import Table, readings, text_of
from marvex.sources.engine.typed_columns import Typed, with_decimals
from marvex.sources.expression import (
    DIVISION_BY_ZERO,
    ColumnName,
    Expression,
    Number,
    columns_in,
    decimals_of_quotients,
    names_no_column,
)
from marvex.sources.quoting import quoted_name

if TYPE_CHECKING:
    from marvex.sources.engine.derived import Relation

_OWN = "\u2060worked "  # before the names of columns that are only used on the way


@dataclass(frozen=True, slots=True)
class _Whole:
    """A whole number in a query, of units with so many decimals."""

    sql: str
    decimals: int = 0

    def at(self, decimals: int) -> str:
        """The same in units as small or smaller."""
        more = decimals - self.decimals
        return f"({self.sql} * {10**more}::HUGEINT)" if more else self.sql

    def times(self, other: _Whole | None) -> _Whole:
        if other is None:
            return self
        return _Whole(f"({self.sql} * {other.sql})", self.decimals + other.decimals)


@dataclass(frozen=True, slots=True)
class _Part:
    """A part of an amount, as the quotient that it is: nothing is rounded before the end."""

    over: _Whole
    under: _Whole | None = None


class _Working:
    """The rows of a source with the columns that lead to an amount, each worked out once."""

    def __init__(self, relation: Relation, text: str) -> None:
        self.relation = relation
        self._text, self._count = text, 0
        self.odd: list[str] = []  # what an amount is in place of a figure, as arms of a CASE

    def column(self, sql: str) -> str:
        self._count += 1
        name = quoted_name(f"{_OWN}{self._count} {self._text}")
        self.relation = replace(self.relation, sql=f"(SELECT *, {sql} AS {name} FROM {self.relation.sql})")
        return name

    def part(self, expression: Expression, columns: Mapping[str, _Whole]) -> _Part:
        match expression:
            case Number(text):
                whole, _, after = text.partition(".")
                return _Part(_Whole(f"{int(whole + after)}::HUGEINT", len(after)))
            case ColumnName(name):
                return _Part(columns[name])
        left, right = self.part(expression.left, columns), self.part(expression.right, columns)
        if expression.sign == "/":
            by = self.column(right.over.sql)
            self.odd.append(f"WHEN {by} = 0 THEN '{DIVISION_BY_ZERO}'")
            right = _Part(
                right.under or _Whole("1::HUGEINT"), _Whole(f"({by} + ({by} = 0)::INTEGER)", right.over.decimals)
            )
        under = left.under.times(right.under) if left.under else right.under
        if expression.sign in "*/":
            return _Part(left.over.times(right.over), under)
        one, other = left.over.times(right.under), right.over.times(left.under)
        decimals = max(one.decimals, other.decimals)
        if not (columns_in(expression.left) and columns_in(expression.right)):
            return _Part(_Whole(f"({one.at(decimals)} {expression.sign} {other.at(decimals)})", decimals), under)
        # An empty cell counts as nothing beside one with a figure, as the debit of a row with a credit does.
        first, second = self.column(one.at(decimals)), self.column(other.at(decimals))
        both = f"{first} {expression.sign} {second}, {first}, {expression.sign}{second}"
        return _Part(_Whole(f"coalesce({both})", decimals), under)

    def rounded(self, part: _Part, decimals: int) -> _Whole:
        """A quotient to so many decimals, half even, and what is none as it is.

        The engine's whole division drops what remains, whose sign is the dividend's.
        """
        if part.under is None:
            return part.over
        least = max(part.over.decimals, decimals + part.under.decimals)
        over = self.column(part.over.at(least))
        under = self.column(part.under.at(least - decimals))
        whole, twice = self.column(f"{over} // {under}"), self.column(f"2 * abs({over} % {under})")
        is_up = f"{twice} > abs({under}) OR ({twice} = abs({under}) AND {whole} % 2 <> 0)"
        # No CASE: what stands in one is worked out anew wherever it is named.
        return _Whole(f"({whole} + ({is_up})::INTEGER * sign({over}) * sign({under}))", decimals)


def with_worked_out(
    relation: Relation,
    text: str,
    expression: Expression,
    typed: Mapping[str, Typed],
    numbers: str,
    engine: Engine,
    source: str,
) -> Relation:
    """The rows with one more column, the amount as a text; a cell that is no figure stands there just as it is."""
    names = columns_in(expression)
    if not names:
        raise names_no_column()
    figures = {
        name: own if own.decimals is not None else with_decimals(own, relation.sql, engine, source)
        for name in names
        if (own := typed.get(name)) is not None and own.is_figure
    }
    read = readings(Table(relation.sql, engine, source, numbers), [name for name in names if name not in figures])
    working = _Working(relation, text)
    columns = {}
    for name in names:
        if name in figures:
            amount, decimals = figures[name].sql, figures[name].decimals or 0
        else:
            cell = text_of(name)
            amount, decimals = working.column(read[name].amount(cell)), read[name].decimals
            working.odd.append(f"WHEN {amount} IS NULL AND NOT {cells.is_nothing(cell)} THEN {cell}")
        digits = f"replace(CAST({amount} AS VARCHAR), '.', '')"
        columns[name] = _Whole(working.column(f"CAST({digits} AS HUGEINT)"), decimals)
    decimals = decimals_of_quotients(one.decimals for one in columns.values())
    found = working.rounded(working.part(expression, columns), decimals)
    written = _written(working.column(found.sql), found.decimals, "," if numbers == "comma" else ".")
    return working.relation.with_column(
        text, f"CASE {' '.join(working.odd)} ELSE {written} END" if working.odd else written
    )


def _written(whole: str, decimals: int, sign: str) -> str:
    """The text of a whole number of units with so many decimals, without zeros at its end.

    But never with three decimals, which could be thousands in the other convention.
    """
    if not decimals:
        return f"CAST({whole} AS VARCHAR)"
    unit, size = f"{10**decimals}::HUGEINT", f"abs({whole})"
    text = f"CAST({size} // {unit} AS VARCHAR) || '{sign}' || lpad(CAST({size} % {unit} AS VARCHAR), {decimals}, '0')"
    text = f"left('-', ({whole} < 0)::INTEGER) || rtrim(rtrim({text}, '0'), '{sign}')"
    return f"regexp_replace({text}, '([{sign}][0-9]{{3}})$', '\\10')"
