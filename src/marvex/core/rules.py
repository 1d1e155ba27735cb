"""The variance rules: an ordered list of bands, the first of which holds is the point's own.

How a rule is written is read in `rule_language`; here is what it means.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.comparison import Better, Point
from marvex.core.exact import ZERO


class Tone(Enum):
    """A colour role; which colour it is, a style says."""

    BETTER = "better"
    WORSE = "worse"
    WATCH = "watch"
    PLAIN = "plain"
    STANDING = "standing"
    FAINT = "faint"


class Unit(Enum):
    """What a value in a condition is: an amount, a percentage, or a plain count."""

    AMOUNT = "an amount"
    PERCENT = "a percentage"
    COUNT = "a plain number"


class Quantity(Enum):
    """What a condition can ask about."""

    CURRENT = "current"
    BASE = "base"
    CHANGE = "change"
    FAVOURABLE = "favourable"
    ADVERSE = "adverse"
    SHARE = "share"
    RANK = "rank"

    @property
    def units(self) -> tuple[Unit, ...]:
        """What it can be compared with."""
        if self in (Quantity.CHANGE, Quantity.FAVOURABLE, Quantity.ADVERSE):
            return (Unit.AMOUNT, Unit.PERCENT)
        if self is Quantity.SHARE:
            return (Unit.PERCENT,)
        return (Unit.COUNT,) if self is Quantity.RANK else (Unit.AMOUNT,)


@dataclass(frozen=True, slots=True)
class Measures:
    """The figures of one point that a rule can ask for, exact; None is absent.

    `ratio` is change ÷ |base|; `share` and `rank` are the point's place among its fellows.
    """

    current: Decimal | None
    base: Decimal | None
    change: Decimal | None
    ratio: Fraction | None
    better: Better
    share: Fraction | None = None
    rank: int | None = None

    def of(self, quantity: Quantity, unit: Unit) -> Fraction | None:
        """The quantity in that unit, percentages as fractions of one."""
        match quantity:
            case Quantity.CURRENT:
                return _fraction(self.current)
            case Quantity.BASE:
                return _fraction(self.base)
            case Quantity.SHARE:
                return self.share
            case Quantity.RANK:
                return None if self.rank is None else Fraction(self.rank)
        change = self.ratio if unit is Unit.PERCENT else _fraction(self.change)
        if change is None or quantity is Quantity.CHANGE:
            return change
        upwards_is_good = self.better is Better.UP
        wants_good = quantity is Quantity.FAVOURABLE
        return max(change if upwards_is_good == wants_good else -change, Fraction(0))


def _fraction(amount: Decimal | None) -> Fraction | None:
    return None if amount is None else Fraction(amount)


class Condition:
    """What a band asks of a point: one of the kinds below."""

    def holds(self, measures: Measures) -> bool:
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Value:
    """A number in a condition, a percentage as a fraction of one."""

    number: Fraction
    unit: Unit


class Comparator(Enum):
    LESS = "<"
    AT_MOST = "<="
    MORE = ">"
    AT_LEAST = ">="
    EQUAL = "="
    UNEQUAL = "!="

    def holds(self, left: Fraction, right: Fraction) -> bool:
        match self:
            case Comparator.LESS:
                return left < right
            case Comparator.AT_MOST:
                return left <= right
            case Comparator.MORE:
                return left > right
            case Comparator.AT_LEAST:
                return left >= right
            case Comparator.EQUAL:
                return left == right
            case Comparator.UNEQUAL:
                return left != right


@dataclass(frozen=True, slots=True)
class Compared(Condition):
    """`change > 5%`, `current >= base`; does not hold where a quantity is absent."""

    left: Quantity
    comparator: Comparator
    right: Value | Quantity

    def holds(self, measures: Measures) -> bool:
        if isinstance(self.right, Value):
            unit, right = self.right.unit, self.right.number
        else:
            unit = Unit.AMOUNT
            other = measures.of(self.right, unit)
            if other is None:
                return False
            right = other
        left = measures.of(self.left, unit)
        return left is not None and self.comparator.holds(left, right)


@dataclass(frozen=True, slots=True)
class Between(Condition):
    """`change between -2% and 2%`, both ends included."""

    left: Quantity
    low: Value
    high: Value

    def holds(self, measures: Measures) -> bool:
        left = measures.of(self.left, self.low.unit)
        return left is not None and self.low.number <= left <= self.high.number


@dataclass(frozen=True, slots=True)
class Not(Condition):
    inner: Condition

    def holds(self, measures: Measures) -> bool:
        return not self.inner.holds(measures)


@dataclass(frozen=True, slots=True)
class Every(Condition):
    parts: tuple[Condition, ...]

    def holds(self, measures: Measures) -> bool:
        return all(part.holds(measures) for part in self.parts)


@dataclass(frozen=True, slots=True)
class Either(Condition):
    parts: tuple[Condition, ...]

    def holds(self, measures: Measures) -> bool:
        return any(part.holds(measures) for part in self.parts)


class Otherwise(Condition):
    """Always holds."""

    def holds(self, measures: Measures) -> bool:  # noqa: ARG002
        return True


@dataclass(frozen=True, slots=True)
class Band:
    """A named class of variances: who is in it, its tone, and whether meeting it fails a gate."""

    name: str
    tone: Tone
    condition: Condition | None
    text: str  # the condition as it was written, for the legend
    fails: bool = False


NO_BASE = Band("No base", Tone.FAINT, None, "")
NO_CURRENT = Band("No current", Tone.FAINT, None, "")
UNCLASSIFIED = Band("Unclassified", Tone.PLAIN, None, "no band holds")
WHERE_MET = (NO_BASE, NO_CURRENT, UNCLASSIFIED)


@dataclass(frozen=True, slots=True)
class Rule:
    """Bands in order: the first that holds wins."""

    bands: tuple[Band, ...]

    def judge(self, measures: Measures) -> Band:
        """The band of a point with these figures; `No base`, `No current` before any is asked."""
        if measures.base is None:
            return NO_BASE
        if measures.current is None:
            return NO_CURRENT
        for band in self.bands:
            if band.condition is not None and band.condition.holds(measures):
                return band
        return UNCLASSIFIED

    def legend(self, met: Sequence[Band | None]) -> tuple[Band, ...]:
        """Every band of the rule, met or not, then those without a condition that were met."""
        return self.bands + tuple(band for band in WHERE_MET if band in met)


def measures_of(point: Point, better: Better, share: Fraction | None = None, rank: int | None = None) -> Measures:
    """What a rule can ask of a point."""
    return Measures(point.current, point.base, point.change, point.change_ratio, better, share, rank)


def direction(better: Better) -> Rule:
    """Rise, Fall, Level: the ready rule where the base is another time."""
    return _by_direction("Rise", "Fall", "Level", better)


def budget(better: Better, base_name: str) -> Rule:
    """Over, Under and On the base: the ready rule where the base is a scenario."""
    name = base_name.casefold()
    return _by_direction(f"Over {name}", f"Under {name}", f"On {name}", better)


def effect() -> Rule:
    """Better, Worse, Level: the ready rule where income and costs meet."""
    return Rule(
        (
            Band("Better", Tone.BETTER, _above_zero(Quantity.FAVOURABLE), "favourable > 0"),
            Band("Worse", Tone.WORSE, _above_zero(Quantity.ADVERSE), "adverse > 0"),
            Band("Level", Tone.PLAIN, Otherwise(), "otherwise"),
        )
    )


def _by_direction(up: str, down: str, level: str, better: Better) -> Rule:
    tones = (Tone.BETTER, Tone.WORSE) if better is Better.UP else (Tone.WORSE, Tone.BETTER)
    falls = Compared(Quantity.CHANGE, Comparator.LESS, Value(Fraction(ZERO), Unit.AMOUNT))
    return Rule(
        (
            Band(up, tones[0], _above_zero(Quantity.CHANGE), "change > 0"),
            Band(down, tones[1], falls, "change < 0"),
            Band(level, Tone.PLAIN, Otherwise(), "otherwise"),
        )
    )


def _above_zero(quantity: Quantity) -> Condition:
    return Compared(quantity, Comparator.MORE, Value(Fraction(0), Unit.AMOUNT))
