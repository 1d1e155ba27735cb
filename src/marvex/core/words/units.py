"""Figures as text: scale, decimals, signs and rounding, all decided here and nowhere else.

A displayed figure is rounded on its own from the exact value, half away from zero; words and
pictures that share a `FigureFormat` therefore always show the same digits.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal, localcontext
from enum import Enum
from fractions import Fraction

from babel.numbers import format_decimal, get_currency_name, get_currency_symbol

from marvex.core.compare.point import Kind, Point
from marvex.core.exact import EXACT, POWERS, ZERO, difference, rounded_ratio
from marvex.core.values import dataclass

MINUS = "−"
NOT_MEANINGFUL = "n/m"
ABSENT = "n/a"
MOST_RATIO = Fraction(999, 100)


MOST_DECIMALS = 2  # of a figure in a sentence


class Unit(Enum):
    """What figures are shown in: how many powers of ten, the letter behind a figure, the word for all."""

    ONE = "one"
    K = "k"
    M = "m"
    BN = "bn"
    PERCENT = "percent"  # whose changes are in points

    @property
    def power(self) -> int:
        return -2 if self is Unit.PERCENT else POWERS.get(self.value, 0)

    @property
    def letter(self) -> str:
        return {"one": "", "percent": "%"}.get(self.value, self.value)

    @property
    def word(self) -> str:
        return {"k": "thousand", "m": "million", "bn": "billion"}.get(self.value, "")

    @property
    def behind_amount(self) -> str:
        """What stands behind each amount: a per cent sign, or nothing, for other units are said once."""
        return "%" if self is Unit.PERCENT else ""

    @property
    def behind_change(self) -> str:
        return " pts" if self is Unit.PERCENT else ""


SCALES = (Unit.ONE, Unit.K, Unit.M, Unit.BN)  # from the smallest on


class Signs(Enum):
    """How the sign of a change is written: +12 −12, 12 −12, 12 (12), or 12 12 where a mark and a colour say it."""

    PLUS = "plus"
    MINUS = "minus"
    UNSIGNED = "unsigned"
    PARENTHESES = "parentheses"


def rounded(amount: Decimal, unit: Unit, decimals: int) -> Decimal:
    """The amount in the unit, to that many decimals, half away from zero.

    >>> rounded(Decimal("-2500"), Unit.K, 0)
    Decimal('-3')
    """
    exponent = Decimal(1).scaleb(-decimals)
    scaled = EXACT.scaleb(amount, -unit.power)
    return scaled.quantize(exponent, rounding=ROUND_HALF_UP, context=_ROUNDING)


def exact_ratio(ratio: Fraction) -> Decimal:
    """A ratio for `--figures`: a fraction to six decimals, half even."""
    return rounded_ratio(ratio, 6, ROUND_HALF_EVEN)


_ROUNDING = EXACT.copy()
_ROUNDING.clear_traps()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class FigureFormat:
    """How the figures of one picture or table are written: one unit, one number of decimals."""

    unit: Unit = Unit.ONE
    decimals: int = 0
    locale: str = "en_GB"
    signs: Signs = Signs.PLUS
    currency: str | None = None

    @property
    def in_words(self) -> FigureFormat:
        """The same for a sentence, where no mark says a direction, and brackets hold whole phrases."""
        plain = {Signs.UNSIGNED: Signs.PLUS, Signs.PARENTHESES: Signs.MINUS}
        return replace(self, signs=plain.get(self.signs, self.signs))

    def amount(self, amount: Decimal | None) -> str:
        """An amount without a plus sign; `n/a` where it is absent, '<1' where it rounds to nothing and is none."""
        if amount is None:
            return ABSENT
        below, shown = _told(amount, rounded(amount, self.unit, self.decimals))
        return self._signed(shown, "", self.unit.behind_amount, below)

    def change(self, change: Decimal | None) -> str:
        """A change with its sign; one that rounds to nothing is less than the least figure: '+<0.1'."""
        if change is None:
            return ABSENT
        return self._change(change, rounded(change, self.unit, self.decimals), self.unit.behind_change)

    def ratio(self, point: Point) -> str:
        """The change ratio in per cent; `n/m` where it means nothing, `>999%` beyond that."""
        ratio = point.change_ratio
        if point.kind is Kind.RATIO:
            return ""
        if ratio is None:
            return ABSENT if point.change is None else NOT_MEANINGFUL
        if point.current and point.base and (point.current < 0) != (point.base < 0):
            return NOT_MEANINGFUL
        if abs(ratio) > MOST_RATIO:
            return ">999%" if ratio > 0 else f"<{MINUS}999%"
        return self._in_per_cent(ratio, "%")

    def amount_of(self, point: Point, amount: Decimal | None) -> str:
        """One side of a point: an amount, or the percentage of a ratio line."""
        return self.percentage(amount) if point.kind is Kind.RATIO and amount is not None else self.amount(amount)

    def change_of(self, point: Point) -> str:
        """A point's change with its sign; that of a ratio line in points: '+2.1 pts'."""
        if point.kind is not Kind.RATIO or point.change is None:
            return self.change(point.change)
        return self.points(point.change)

    def contribution(self, point: Point) -> str:
        """The change in points of the base total: '+1.2 pts'."""
        return ABSENT if point.contribution is None else self.points(point.contribution)

    def percentage(self, ratio: Decimal) -> str:
        """A ratio line's figure: '41.7%'."""
        below, shown = _told(ratio, rounded_ratio(Fraction(ratio) * 100, 1))
        return self._signed(shown, "", "%", below)

    def points(self, change: Decimal | Fraction) -> str:
        """The change of a ratio, with its sign: '+2.1 pts'."""
        return self._in_per_cent(Fraction(change), " pts")

    def headline(self, amount: Decimal) -> str:
        """The size of an amount with its unit, for a sentence: '412k', '€1.9m', '−3k'."""
        shown, unit = self._in_a_sentence(amount)
        symbol = get_currency_symbol(self.currency, locale=self.locale) if self.currency else ""
        minus = MINUS if shown < 0 else ""
        return f"{minus}{symbol}{self._digits(shown)}{unit.letter}"

    def size_of_change(self, change: Decimal) -> str:
        """How much a change is, without its direction: '412k', '1.9 pts'."""
        text = self.headline(abs(change))
        return text.removesuffix("%") + self.unit.behind_change if self.unit is Unit.PERCENT else text

    def signed_headline(self, change: Decimal) -> str:
        """A change with its sign and its unit, for a sentence: '+412k'."""
        is_rise = self._in_a_sentence(change)[0] > 0
        sign = "+" if is_rise and self.signs is Signs.PLUS else ""
        text = sign + self.headline(change)
        return text.removesuffix("%") + self.unit.behind_change if self.unit is Unit.PERCENT else text

    def _in_a_sentence(self, amount: Decimal) -> tuple[Decimal, Unit]:
        """An amount as rounded: with more decimals, or in a smaller unit, where it would be told as nothing."""
        unit, shown = self.unit, rounded(amount, self.unit, self.decimals)
        if not amount or shown:
            return shown, unit
        for decimals in range(self.decimals + 1, MOST_DECIMALS + 1):
            if shown := rounded(amount, unit, decimals):
                return shown, unit
        smaller = list(SCALES[: SCALES.index(unit)]) if unit in SCALES else []
        while not shown and smaller:
            unit = smaller.pop()
            shown = rounded(amount, unit, 0)
        return shown, unit

    @property
    def unit_words(self) -> str:
        """What the figures are in, said once: 'thousand euros', 'in thousands', or nothing."""
        if self.currency:
            return f"{self.unit.word} {get_currency_name(self.currency, count=2, locale=self.locale)}".strip()
        return f"in {self.unit.word}s" if self.unit.word else ""

    def _in_per_cent(self, ratio: Fraction, suffix: str) -> str:
        return self._change(ratio, rounded_ratio(ratio * 100, 1), suffix)

    def _change(self, exact: Decimal | Fraction, shown: Decimal, suffix: str = "") -> str:
        """A change as it is shown, with the sign that is asked for."""
        below, shown = _told(exact, shown)
        if self.signs is Signs.UNSIGNED:
            return below + self._digits(shown) + suffix
        return self._signed(shown, "+" if self.signs is Signs.PLUS else "", suffix, below)

    def _signed(self, shown: Decimal, plus: str, suffix: str = "", below: str = "") -> str:
        digits = below + self._digits(shown) + suffix
        if shown < 0:
            return f"({digits})" if self.signs is Signs.PARENTHESES else MINUS + digits
        return plus + digits if shown > 0 else digits

    def _digits(self, shown: Decimal) -> str:
        decimals = -int(shown.as_tuple().exponent)
        pattern = "#,##0" + ("." + "0" * decimals if decimals > 0 else "")
        with localcontext(_ROUNDING):  # figures have more digits than decimals have by themselves
            return str(format_decimal(abs(shown), format=pattern, locale=self.locale))


def _told(exact: Decimal | Fraction, shown: Decimal) -> tuple[str, Decimal]:
    """A figure as rounded, and what stands before its digits: what rounds to nothing is less than the least figure."""
    if not exact or shown:
        return "", shown
    return "<", Decimal(-1 if exact < 0 else 1).scaleb(int(shown.as_tuple().exponent))


def fitting_unit(amounts: Sequence[Decimal], changes: Sequence[Decimal]) -> Unit:
    """The unit in which the largest amount has at most four digits before the point.

    Whole amounts of up to five digits are shown as they are.
    Where the changes would then need more than one decimal, it is the next smaller one.
    """
    largest = max((abs(amount) for amount in amounts), default=ZERO)
    if largest < 100_000 and all(amount == amount.to_integral_value() for amount in amounts):
        return Unit.ONE
    units = SCALES
    fitting = next((unit for unit in units[:-1] if rounded(largest, unit, 0) < 10_000), Unit.BN)
    if fitting is not Unit.ONE and fitting_decimals(amounts, changes, fitting) > 1:
        return units[units.index(fitting) - 1]
    return fitting


RATE_BELOW = 100
RATE_DECIMALS = 2  # of amounts of at most two digits, such as rates
LEAST_DIGITS = 2  # of the largest change
LARGEST_DIGITS = 3  # of the largest figure, where nothing changes
MOST_DIGITS = 5  # of the largest figure, which needs three: decimals are added up to two more


def fitting_decimals(amounts: Sequence[Decimal], changes: Sequence[Decimal], unit: Unit) -> int:
    """The least at which no change reads as nothing or as far from what it is, and the largest has two digits.

    At most two more than the largest figure needs, and no more than the amounts themselves have; a
    change that is told as nothing even so is written as less than the least figure.
    """
    known = (one for one in (*amounts, *changes) if one)
    own = max((unit.power - int(one.normalize().as_tuple().exponent) for one in known), default=0)
    if own <= 0 or not amounts or unit is Unit.PERCENT:
        return max(0, min(MOST_DECIMALS, own))
    largest = EXACT.scaleb(max(abs(amount) for amount in amounts), -unit.power)
    most = min(own, MOST_DIGITS - max(1, largest.adjusted() + 1))
    least = min(RATE_DECIMALS, own) if unit is Unit.ONE and largest < RATE_BELOW else 0
    furthest = EXACT.scaleb(max((abs(change) for change in changes), default=ZERO), -unit.power)
    if not furthest:  # where nothing is compared, the figures themselves are what is looked at
        least = max(least, min(most, LARGEST_DIGITS - 1 - largest.adjusted()))
    else:
        least = max(least, min(most, LEAST_DIGITS - 1 - furthest.adjusted()))
    found = least
    for change in {abs(change) for change in changes if change}:
        if found >= most:
            break
        if rounded(change, unit, most):
            found = next(one for one in range(found, most + 1) if one == most or _reads_true(change, unit, one))
    return max(found, least)


def _reads_true(change: Decimal, unit: Unit, decimals: int) -> bool:
    """Whether a change reads as what it is, within a third: neither as nothing, nor as one where it is a half."""
    shown = EXACT.scaleb(rounded(change, unit, decimals), unit.power)
    return bool(shown) and 3 * abs(difference(shown, change)) <= abs(change)
