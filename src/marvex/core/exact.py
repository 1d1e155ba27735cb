"""Exact arithmetic on amounts: decimals that are never rounded, ratios as fractions."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Context, Decimal, Inexact, InvalidOperation, Overflow
from fractions import Fraction
from typing import Any

# Wide enough for any sum of 38-digit amounts; Inexact is trapped so that a digit is never lost in silence.
EXACT = Context(prec=200, Emax=10_000, Emin=-10_000, traps=[Inexact, InvalidOperation, Overflow])

ZERO = Decimal(0)


class Rounded(Decimal):
    """A figure that no decimal is, such as 20 ÷ 3, rounded half even to be shown; judged is what it is `exact`ly.

    >>> str(Rounded.of(Fraction(22, 3), 6)), Rounded.of(Fraction(22, 3), 6).exact
    ('7.333333', Fraction(22, 3))
    """

    exact: Fraction

    @classmethod
    def of(cls, exact: Fraction, decimals: int) -> Rounded:
        figure = cls(rounded_ratio(exact, decimals, ROUND_HALF_EVEN))
        figure.exact = exact
        return figure

    def __reduce__(self) -> tuple[Any, ...]:
        """As it is sent to another process: with what it exactly is, which a decimal would leave behind."""
        return Rounded.of, (self.exact, _decimals(self))


def exactly(amount: Decimal | Fraction) -> Fraction:
    """The figure itself, whatever it is rounded to."""
    return amount.exact if isinstance(amount, Rounded) else Fraction(amount)


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
    """left − right, exactly; of figures that are rounded to be shown, the difference of what they are."""
    if isinstance(left, Rounded) or isinstance(right, Rounded):
        return Rounded.of(exactly(left) - exactly(right), max(_decimals(left), _decimals(right)))
    return EXACT.subtract(left, right)


def _decimals(amount: Decimal) -> int:
    return max(0, -int(amount.as_tuple().exponent))


def change_ratio(current: Decimal, base: Decimal) -> Fraction | None:
    """(current − base) ÷ |base|; None, not meaningful, where the base is zero.

    >>> change_ratio(Decimal(-80), Decimal(-100))
    Fraction(1, 5)
    """
    if not base:
        return None
    if isinstance(current, Rounded) or isinstance(base, Rounded):
        return (exactly(current) - exactly(base)) / abs(exactly(base))
    change, change_of = difference(current, base).as_integer_ratio()
    size, size_of = base.as_integer_ratio()
    return Fraction(change * size_of, change_of * abs(size))


def rounded_ratio(ratio: Fraction, places: int, rounding: str = ROUND_HALF_UP) -> Decimal:
    """A fraction as a decimal, half away from zero unless told otherwise, without a step in between."""
    scaled = ratio * 10**places
    whole, rest = divmod(abs(scaled.numerator), scaled.denominator)
    twice = 2 * rest
    up = twice > scaled.denominator or (twice == scaled.denominator and (rounding == ROUND_HALF_UP or whole % 2 == 1))
    number = Decimal(whole + up).scaleb(-places, context=EXACT)
    return -number if scaled < 0 and number else number
