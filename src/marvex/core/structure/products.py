"""Which amounts are two others multiplied, as revenue is of volume and price: unlike, whatever they are called."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from itertools import combinations
from math import log2

_LEAST_ROWS = 3
_LEAST_BITS = 14.0  # as a sum without a name needs
_MOST_NAMES = 12


def product_among(columns: Mapping[str, Sequence[Decimal | None]]) -> tuple[str, str, str] | None:
    """The first names of which the third has, row by row, the figures of the others multiplied, but for rounding.

    Parameters
    ----------
    columns : by name, all of the same rows.

    >>> columns = {"Menge": [100, 50, 110], "Preis": ["10.00", "20.00", "10.50"], "Umsatz": [1000, 1000, 1155]}
    >>> told = {name: [Decimal(one) for one in rows] for name, rows in columns.items()}
    >>> product_among(told), product_among(told | {"Umsatz": told["Menge"]})
    (('Menge', 'Preis', 'Umsatz'), None)
    """
    if len(columns) > _MOST_NAMES:
        return None
    for name, product in columns.items():
        for one, other in combinations([its for its in columns if its != name], 2):
            if _are_multiplied(columns[one], columns[other], product):
                return one, other, name
    return None


def _are_multiplied(
    one: Sequence[Decimal | None], other: Sequence[Decimal | None], product: Sequence[Decimal | None]
) -> bool:
    told: list[float] = []
    for bits in map(_bits_of, one, other, product):
        if bits == 0:
            return False  # most pairs miss in the first row
        told += [] if bits is None else [bits]
    return len(told) >= _LEAST_ROWS and sum(told) >= _LEAST_BITS


def _bits_of(one: Decimal | None, other: Decimal | None, product: Decimal | None) -> float | None:
    """The bits that say that a figure is the product of two: 0 where it is not, None where it would be anyhow."""
    if not one or not other or not product or 1 in (abs(one), abs(other)):
        return None
    # Of what is multiplied one is counted, and the other rounded.
    room = min(abs(one) * _half_unit(other), abs(other) * _half_unit(one)) + _half_unit(product)
    if abs(one * other - product) > room:
        return 0.0
    return max(0.0, log2(abs(product) / (2 * room)))


def _half_unit(figure: Decimal) -> Decimal:
    """Half a unit of the last digit that a figure is written with."""
    exponent = figure.as_tuple().exponent
    return Decimal(5).scaleb(exponent - 1) if isinstance(exponent, int) else Decimal(0)
