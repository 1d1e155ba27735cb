"""`--where 'COL=VALUE[,VALUE…]'`: the rows to keep, as a condition of SQL with bound values."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterable, Sequence
from decimal import Decimal
from fnmatch import fnmatchcase
from operator import ge, gt, le, lt
from typing import Any

from marvex.core.compare.point import NO_NAME
from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, POWERS
from marvex.core.values import dataclass
from marvex.sources.cells import Convention, FigureReading, is_absent, value_of
from marvex.sources.columns_asked import found_column
from marvex.sources.quoting import quoted_name

_FILTER = re.compile(r"\s*(?P<column>.+?)\s*(?P<sign>!=|>=|<=|=|<|>|~)\s*(?P<values>.*?)\s*", re.DOTALL)
_ORDERS: dict[str, Callable[[Any, Any], bool]] = {">=": ge, "<=": le, "<": lt, ">": gt}
_NUMBER = re.compile(r"(-?\d+(?:\.\d+)?)(k|m|bn|%)?")
_POWERS = {**POWERS, "%": -2}
_DAY = re.compile(r"\d{4}-\d\d(-\d\d)?")


@dataclass(frozen=True, slots=True)
class Filter:
    """One `--where`: a column, a sign, and the values any of which will do."""

    column: str
    sign: str
    values: tuple[str, ...]
    reading: FigureReading | None = None  # of the figures that are compared, where they are written as text
    power: int = 0  # of ten that they are in, where the value is in money

    @property
    def spoken(self) -> str:
        return f"{self.column}{self.sign}{','.join(self.values)}"

    @property
    def texts(self) -> tuple[str, ...]:
        """The texts that are meant: a cell without one is shown as (none), and so may be asked for."""
        return (*self.values, "") if NO_NAME in self.values else self.values

    @property
    def names_one(self) -> str | None:
        """The single value that all kept rows have, where the filter says so."""
        return self.values[0] if self.sign == "=" and len(self.values) == 1 else None

    @property
    def is_about_figures(self) -> bool:
        """Whether it compares figures, and not texts."""
        return self.sign in _ORDERS and _NUMBER.fullmatch(self.values[0]) is not None

    @property
    def is_in_money(self) -> bool:
        """Whether its value says its unit, as in `10k`."""
        return self.is_about_figures and self.values[0][-1] in "kmn"

    @property
    def is_about_days(self) -> bool:
        """Whether it compares days or months as they are written in 2026-03-31, of which a time is no part."""
        return self.sign in _ORDERS and _DAY.fullmatch(self.values[0]) is not None

    @property
    def is_about_letters(self) -> bool:
        """Whether it compares texts, letter by letter."""
        return self.sign in _ORDERS and not self.is_about_figures and not self.is_about_days

    def suits(self, text: str | None) -> bool:
        """Whether a cell is blank, or says its day so that its letters are in the order of days."""
        return not (text or "").strip() or _DAY.match((text or "").strip()) is not None

    @property
    def figure(self) -> str:
        """The figure that others are compared with: 2500 of `2.5k`, and 2.5 where those are in thousands."""
        number = _NUMBER.fullmatch(self.values[0])
        assert number is not None
        return f"{EXACT.scaleb(Decimal(number[1]), (_POWERS[number[2]] if number[2] else 0) - self.power):f}"

    def condition(self) -> tuple[str, list[str]]:
        """SQL that is true for rows to keep, never NULL, and the values to bind."""
        text = f"coalesce(trim(CAST({quoted_name(self.column)} AS VARCHAR)), '')"
        if self.sign in ("=", "!="):
            marks = ", ".join("?" for _ in self.texts)
            return f"({text} {'NOT ' if self.sign == '!=' else ''}IN ({marks}))", list(self.texts)
        if self.sign == "~":
            patterns = [_glob(value) for value in self.values]
            return "(" + " OR ".join(f"{text} GLOB ?" for _ in patterns) + ")", patterns
        value = self.values[0]
        if self.is_about_figures:
            number = "DECIMAL(38, 10)"
            amount = f"TRY_CAST({text} AS {number})" if self.reading is None else self.reading.amount(text)
            return f"coalesce({amount} {self.sign} CAST(? AS {number}), false)", [self.figure]
        own = f"left({text}, {len(value)})" if self.is_about_days else text
        return f"({text} <> '' AND {own} {self.sign} ?)", [value]

    def keeps_row(self, row: Sequence[str | None], headings: Sequence[str]) -> bool:
        """Whether it keeps a row of cells; a column that is none of theirs tells nothing."""
        return self.column not in headings or self.keeps(row[headings.index(self.column)] or "")

    def keeps(self, text: str) -> bool:
        """Whether a row with this text in the column is kept, as the condition has it."""
        text = text.strip()
        if self.sign in ("=", "!="):
            return (text in self.texts) is (self.sign == "=")
        if self.sign == "~":
            return any(fnmatchcase(text, _glob(value)) for value in self.values)
        value = self.values[0]
        if self.is_about_figures:
            way = self.reading.convention if self.reading is not None else None
            own = None if is_absent(text) else value_of(text, way or Convention.POINT)
            return own is not None and _ORDERS[self.sign](own, Decimal(self.figure))
        return text != "" and _ORDERS[self.sign](text[: len(value)] if self.is_about_days else text, value)


def filter_text(column: str, sign: str, values: Iterable[str]) -> str:
    """A filter as it is written, each value in double quotes where it needs them.

    >>> filter_text("route", "!=", ["North", "South, by night"])
    'route!=North,"South, by night"'
    """
    cells = io.StringIO()
    csv.writer(cells, lineterminator="\r\n").writerow(list(values))
    return f"{column}{sign}{cells.getvalue().removesuffix(chr(13) + chr(10))}"


def parse_filters(texts: Sequence[str], columns: Sequence[str], source: str) -> tuple[Filter, ...]:
    """The filters so written; raises Mistake where one is not a filter or names no column."""
    return tuple(_parse(text, columns, source) for text in texts)


def filters_among(texts: Sequence[str], columns: Sequence[str], source: str) -> tuple[Filter, ...]:
    """Those of the filters that are about some columns; others may be about what a lookup or a sheet's name says.

    >>> [one.column for one in filters_among(["Port=Bow", "sheet=North"], ["Port", "2026"], "t.xlsx")]
    ['Port']
    """
    known = {one.strip().casefold() for one in columns}
    own = (text for text in texts if (found := _FILTER.fullmatch(text)) is None or _named(found) in known)
    return parse_filters(tuple(own), columns, source)


def _named(found: re.Match[str]) -> str:
    return found["column"].strip().casefold()


def _parse(text: str, columns: Sequence[str], source: str) -> Filter:
    found = _FILTER.fullmatch(text)
    if found is None:
        raise Mistake(
            f"{setting('where')} '{text}' is not a filter",
            "Write COL=VALUE, or with != >= <= < > or ~ and * for any text.",
        )
    column = found_column(found["column"], columns, source, "where")
    try:
        cells = next(csv.reader([found["values"]], skipinitialspace=True), [])
    except csv.Error:
        raise Mistake(
            f"{setting('where')} '{text}' has a line break in a value", "Put that value in double quotes."
        ) from None
    values = tuple(one.strip() for one in cells)
    if not values:
        values = ("",)
    if len(values) > 1 and found["sign"] in (">=", "<=", "<", ">"):
        raise Mistake(f"{setting('where')} '{text}' compares with more than one value", "Give one value.")
    return Filter(column, found["sign"], values)


def _glob(pattern: str) -> str:
    """The pattern with only `*` as a wildcard."""
    return "".join(f"[{sign}]" if sign in "?[" else sign for sign in pattern)
