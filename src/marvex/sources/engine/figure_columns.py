"""Columns of figures beside the amounts: what amounts are worked out of or divided by, and what rows are kept by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from marvex.core.errors import setting
from marvex.core.values import dataclass
from marvex.sources import cells
from marvex.sources.cells import Convention, FigureReading, convention_told, unclear_convention
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.typed_columns import Typed
from marvex.sources.quoting import quoted_name
from marvex.sources.scales import unit_of
from marvex.sources.where import Filter

_DECIMALS = 10  # of figures that are read plainly


@dataclass(frozen=True, slots=True)
class Table:
    """The rows of a source, as columns of theirs are asked about: what they are selected from, and its name."""

    sql: str
    engine: Engine
    name: str
    numbers: str  # how figures are written, as the call says
    shown: Convention | None = None  # what other cells show of that, where its own do not

    def asked(self, what: str, where: str = "true") -> list[Any]:
        return list(self.engine.rows(Query(f"SELECT {what} FROM {self.sql} WHERE {where} LIMIT 1"), self.name)[0])


def text_of(column: str) -> str:
    return f"trim(CAST({quoted_name(column)} AS VARCHAR))"


def readings(table: Table, columns: Sequence[str], beside: Sequence[str] = ()) -> dict[str, FigureReading]:
    """How the figures of each column are read, by all of its cells: in which convention, and with how many decimals.

    A column that shows neither a decimal point nor a decimal comma is read as the others are.
    Raises Mistake where they do not show it either.

    Parameters
    ----------
    beside : more columns that may show it.
    """
    found = _plain(table, columns) if columns and table.numbers != "comma" else {}
    if len(found) == len(columns):
        return found
    ways = [FigureReading(0, True, way) for way in Convention]
    texts = {name: text_of(name) for name in dict.fromkeys((*columns, *beside))}
    each = (
        f"{cells.convention_counts(text)}, {', '.join(f'max({way.decimals_in(text)})' for way in ways)}"
        for text in texts.values()
    )
    asked = [int(one or 0) for one in table.asked(", ".join(each))]
    parts = {name: asked[place * 8 : place * 8 + 8] for place, name in enumerate(texts)}
    point, comma = (sum(one[place] for one in parts.values()) for place in (0, 1))
    of_all = None if point == comma else Convention.COMMA if comma > point else Convention.POINT
    for name in columns:
        *counts, of_point, of_comma = parts[name]
        told = convention_told(counts) or of_all or table.shown
        told = told if table.numbers == "auto" else Convention(table.numbers)
        if told is None:
            example = table.asked(texts[name], cells.is_ambiguous(texts[name]))[0]
            raise unclear_convention(f"{table.name}, {name}", str(example))
        decimals = of_comma if told is Convention.COMMA else of_point
        found[name] = FigureReading(min(decimals, cells.MOST_DIGITS - 1), True, told)
    return found


def _plain(table: Table, columns: Sequence[str]) -> dict[str, FigureReading]:
    """The columns of which every cell is a plain figure, and some figure shows that its point is no thousands'.

    Of five million rows this takes two seconds, the patterns of all ways to write a figure six.
    """
    texts = {name: text_of(name) for name in columns}
    each = (
        f"bool_and({text} IS NULL OR {text} = '' OR TRY_CAST({text} AS DECIMAL(38, {_DECIMALS})) IS NOT NULL "
        f"AND translate({text}, 'eE_', '') = {text}), "
        f"max(length({text}) - strpos({text}, '.')) FILTER (contains({text}, '.')), "
        f"min(length({text}) - strpos({text}, '.')) FILTER (contains({text}, '.'))"
        for text in texts.values()
    )
    asked = table.asked(", ".join(each))
    found = {}
    for place, name in enumerate(texts):
        is_plain, most, least = asked[place * 3 : place * 3 + 3]
        if is_plain and (most or 0) <= _DECIMALS and (table.numbers == "point" or (most, least) != (3, 3)):
            found[name] = FigureReading(most or 0, True)
    return found


def in_money(
    filters: Sequence[Filter], amounts: Sequence[str], power: int
) -> tuple[tuple[Filter, ...], tuple[str, ...]]:
    """The filters of amounts that are in thousands: `10k` is money, a plain figure as they stand, which is said."""
    found, cautions = [], []
    for one in filters:
        is_asked = power and one.is_about_figures and one.column in amounts
        found.append(replace(one, power=power) if is_asked and one.is_in_money else one)
        if is_asked and not one.is_in_money:
            cautions.append(f"{setting('where', one.spoken)} compares figures as they stand, in {unit_of(power)[1]}")
    return tuple(found), tuple(cautions)


def with_readings(
    filters: Sequence[Filter], table: Table, typed: Mapping[str, Typed], beside: Sequence[str]
) -> tuple[tuple[Filter, ...], tuple[str, ...]]:
    """The filters with how they read the figures that they compare, and a caution of cells that are none.

    Parameters
    ----------
    beside : the columns that show how figures are written where a filter's own does not.
    """
    found, cautions = [], []
    for one in filters:
        if not one.is_about_figures or one.column in typed:
            found.append(one)
            continue
        reading = readings(table, [one.column], beside)[one.column]
        found.append(replace(one, reading=reading))
        if reading.convention is None:
            continue  # all of it is plain
        text = text_of(one.column)
        odd = f"NOT {cells.is_nothing(text)} AND {reading.amount(text)} IS NULL"
        number, example = table.asked(f"count(*) FILTER ({odd}), min({text}) FILTER ({odd})")
        if number:
            cautions.append(
                f"{setting('where')} {one.spoken}: {one.column} is no figure in {number} of the rows "
                f"('{example}'), which do not pass"
            )
    return tuple(found), tuple(cautions)
