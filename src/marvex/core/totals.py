"""How rows become one figure, and whether such figures add up."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.errors import MarvexError, did_you_mean
from marvex.core.units import rounded_ratio

MEAN_DECIMALS = 6  # beyond those of the amounts


class Total(Enum):
    """The ways in which rows become one figure."""

    SUM = "sum"
    MEAN = "mean"
    COUNT = "count"
    DISTINCT = "distinct"
    CLOSING = "closing"
    HIGHEST = "highest"
    LOWEST = "lowest"


@dataclass(frozen=True, slots=True)
class TotalAs:
    """A way, and for a distinct count the column whose values are counted."""

    way: Total = Total.SUM
    column: str | None = None

    @property
    def adds_up(self) -> bool:
        """Whether the figures of categories add up to that of all of them."""
        return self.way in (Total.SUM, Total.COUNT, Total.CLOSING)

    @property
    def needs_amounts(self) -> bool:
        return self.way not in (Total.COUNT, Total.DISTINCT)

    @property
    def spoken(self) -> str:
        """The way within a sentence: 'a mean', 'a distinct count'."""
        words = {Total.DISTINCT: "a distinct count", Total.HIGHEST: "the highest", Total.LOWEST: "the lowest"}
        return words.get(self.way, f"a {self.way.value}")


def parse_total_as(text: str) -> TotalAs:
    """`sum`, `mean`, …, or `distinct:COL`; raises MarvexError for anything else.

    >>> parse_total_as("distinct:ticket").column
    'ticket'
    """
    word, _, column = text.partition(":")
    ways = {way.value: way for way in Total}
    if word not in ways or bool(column) != (word == "distinct"):
        known = [*(name for name in ways if name != "distinct"), "distinct:COL"]
        raise MarvexError(
            f"--total-as: there is no '{text}'", did_you_mean(text, known, f"There are {', '.join(known)}.")
        )
    return TotalAs(ways[word], column or None)


def mean_of(amount: Decimal, count: int) -> Decimal:
    """The mean, with six decimals more than the amounts have, half away from zero."""
    decimals = max(0, -int(amount.as_tuple().exponent))
    return rounded_ratio(Fraction(amount) / count, decimals + MEAN_DECIMALS)
