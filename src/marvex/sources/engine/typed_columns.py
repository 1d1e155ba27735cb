"""Columns that have a type in their source, and need not be read as text: days, decimals, and binary figures."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from math import floor, log10

from marvex.core.values import dataclass
from marvex.sources.cells import BINARY_DIGITS, NARROW_DIGITS
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_name
from marvex.sources.readers.parquet import as_meant


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """A column that has a type in its source, and need not be read as text.

    Parameters
    ----------
    sql : what it is in a query.
    decimals : of a figure; None of a day, and of a binary figure until they are asked for.
    is_wide : it may have more digits than a machine word holds.
    largest : of a binary figure, the size of the largest of its column.
    off : by how much its column's binary figures miss 0, 1 and 2 decimals at most, in units of the last of them.
    """

    sql: str
    decimals: int | None = None
    is_wide: bool = False
    largest: float | None = None
    off: tuple[float | None, ...] = ()

    @property
    def is_figure(self) -> bool:
        return self.decimals is not None or self.largest is not None


_WHOLE = ("TINYINT", "SMALLINT", "INTEGER", "UTINYINT", "USMALLINT", "UINTEGER")
_WIDE = ("BIGINT", "UBIGINT", "HUGEINT")
_DECIMAL = re.compile(r"DECIMAL\((\d+), ?(\d+)\)")
AS_IT_IS = "\u2060binary "  # before the name of a binary column, where it is beside its text
FEW_DECIMALS = 7  # of binary figures, that are looked for before all that 15 digits leave
_OF_MONEY = 3  # of these, that are looked for with the column's size: most tables are read once less by it


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
    relation = as_meant(relation, described)
    binary = [name for name, kind in described if kind in ("DOUBLE", "FLOAT")]
    others = [name for name in binary if named and not any(name in text for text in named)]
    if others:  # a code, a year: whole figures are written without decimals
        whole = (f"regexp_replace(CAST({one} AS VARCHAR), '\\.0$', '') AS {one}" for one in map(quoted_name, others))
        relation = f"(SELECT * REPLACE ({', '.join(whole)}) FROM {relation})"
    binary = [name for name in binary if name not in others]
    if not binary:
        return relation, found
    names = [quoted_name(name) for name in binary]
    sizes = ", ".join(f"[max(abs({one})) FILTER (isfinite({one})), {_off(one, range(_OF_MONEY))}]" for one in names)
    finite = ", ".join(f"coalesce(bool_and(isfinite({one})), true)" for one in names)
    told = engine.rows(Query(f"SELECT {sizes}, {finite} FROM {relation}"), source)[0]
    texts = []
    for name, own, (size, *off), is_all_finite in zip(
        binary, names, told[: len(names)], told[len(names) :], strict=True
    ):
        decimals = decimals_left(size)
        rounded = f"format('{{:.{decimals}f}}', {own})"
        plain = f"regexp_replace({rounded}, '(\\.[0-9]*?)0+$', '\\1')" if decimals else rounded
        texts.append(f"CASE WHEN isfinite({own}) THEN rtrim({plain}, '.') ELSE CAST({own} AS VARCHAR) END AS {own}")
        if is_all_finite and (size or 0) < 10**BINARY_DIGITS:
            found[name] = Typed(sql=quoted_name(AS_IT_IS + name), largest=float(size or 0), off=tuple(off))
    kept = ", ".join(f"{quoted_name(name)} AS {found[name].sql}" for name in binary if name in found)
    columns = f"* REPLACE ({', '.join(texts)})" + (f", {kept}" if kept else "")
    return f"(SELECT {columns} FROM {relation})", found


def with_decimals(typed: Typed, relation: str, engine: Engine, source: str) -> Typed:
    """A column of binary figures as one of decimals: of no more than some figure of it needs.

    A figure has so many decimals where it is as near to one that has them as its 15 digits tell.
    """
    most, off = decimals_left(typed.largest), typed.off
    if _nearest(most, off) is None:
        rest = _off(typed.sql, range(len(off), FEW_DECIMALS))
        off += engine.rows(Query(f"SELECT {rest} FROM {relation}"), source)[0]
    decimals = least_decimals(most, off)
    return Typed(sql=f"CAST({typed.sql} AS DECIMAL({NARROW_DIGITS}, {decimals}))", decimals=decimals)


def _off(own: str, decimals: Iterable[int]) -> str:
    return ", ".join(f"max(abs({own} * 1e{few} - round({own} * 1e{few})))" for few in decimals)


def least_decimals(most: int, off: Sequence[float | None]) -> int:
    """How many decimals binary figures have, at most as many as their digits leave.

    Parameters
    ----------
    off : by how much they miss 0, 1, 2 … decimals at most, in units of the last of them.
    """
    near = _nearest(most, off)
    return most if near is None else near


def _nearest(most: int, off: Sequence[float | None]) -> int | None:
    near = (few for few, one in enumerate(off) if few <= most and (one or 0) <= 0.5 * 10.0 ** (few - most))
    return next(near, None)


def decimals_left(size: float | None) -> int:
    """How many decimals 15 significant digits leave, of a column's largest figure."""
    return max(0, min(BINARY_DIGITS, BINARY_DIGITS - 1 - floor(log10(size)))) if size else 0
