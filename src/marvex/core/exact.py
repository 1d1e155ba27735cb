"""Exact arithmetic on amounts: decimals that are never rounded, ratios as fractions."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Context, Decimal, Inexact, InvalidOperation, Overflow
from fractions import Fraction

# Wide enough for any sum of 38-digit amounts; Inexact is trapped so that a digit is never lost in silence.
EXACT = Context(prec=200, Emax=10_000, Emin=-10_000, traps=[Inexact, InvalidOperation, Overflow])

ZERO = Decimal(0)
POWERS = {"k": 3, "m": 6, "bn": 9}  # of ten, by the letters behind a figure


def total(amounts: Iterable[Decimal]) -> Decimal:
    """The exact sum, with as many decimals as the amount that has most.

    >>> total([Decimal("0.1"), Decimal("0.20")])
    Decimal('0.30')
    """
    result = ZERO
    for amount in amounts:
        result = EXACT.add(result, amount)
    return result


def difference(left: Decimal, right: Decimal) -> Decimal:
    """left − right, exactly."""
    return EXACT.subtract(left, right)


def change_ratio(current: Decimal, base: Decimal) -> Fraction | None:
    """(current − base) ÷ |base|; None, not meaningful, where the base is zero.

    >>> change_ratio(Decimal(-80), Decimal(-100))
    Fraction(1, 5)
    """
    if not base:
        return None
    change, change_of = difference(current, base).as_integer_ratio()
    size, size_of = base.as_integer_ratio()
    return Fraction(change * size_of, change_of * abs(size))
