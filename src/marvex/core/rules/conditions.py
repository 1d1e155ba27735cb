"""What a band asks of a point: quantities, and comparisons of them joined by and, or, not."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.compare.point import Better
from marvex.core.exact import exactly
from marvex.core.values import dataclass

BEYOND = Fraction(10**100)  # more than any percentage that can be written


class ValueKind(Enum):
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
    CONTRIBUTION = "contribution"
    RANK = "rank"
    UNUSUAL = "unusual"

    @property
    def units(self) -> tuple[ValueKind, ...]:
        """What it can be compared with."""
        if self in (Quantity.CHANGE, Quantity.FAVOURABLE, Quantity.ADVERSE):
            return (ValueKind.AMOUNT, ValueKind.PERCENT)
        if self in (Quantity.SHARE, Quantity.CONTRIBUTION):
            return (ValueKind.PERCENT,)
        return (ValueKind.COUNT,) if self in (Quantity.RANK, Quantity.UNUSUAL) else (ValueKind.AMOUNT,)


@dataclass(frozen=True, slots=True, kw_only=True)
class Measures:
    """The figures of one point that a rule can ask for, exact; None is absent.

    `share` and `rank` are the point's place among its fellows; `contribution` is its change in points of the
    base total; `unusual`
    is how far the change is from the series' own earlier ones.
    """

    current: Decimal | Fraction | None
    base: Decimal | Fraction | None
    change: Decimal | Fraction | None
    better: Better
    share: Fraction | None = None
    rank: int | None = None
    unusual: Fraction | None = None
    contribution: Fraction | None = None
    is_ratio: bool = False

    def of(self, quantity: Quantity, unit: ValueKind) -> Fraction | None:
        """The quantity in that unit, percentages as fractions of one."""
        match quantity:
            case Quantity.CURRENT:
                return _fraction(self.current)
            case Quantity.BASE:
                return _fraction(self.base)
            case Quantity.SHARE:
                return self.share
            case Quantity.CONTRIBUTION:
                return self.contribution
            case Quantity.RANK:
                return None if self.rank is None else Fraction(self.rank)
            case Quantity.UNUSUAL:
                return self.unusual
        change = self._ratio if unit is ValueKind.PERCENT else _fraction(self.change)
        if self.is_ratio:
            # A percentage compares points; an amount means nothing to a ratio line.
            change = _fraction(self.change) if unit is ValueKind.PERCENT else None
        if change is None or quantity is Quantity.CHANGE:
            return change
        upwards_is_good = self.better is Better.UP
        wants_good = quantity is Quantity.FAVOURABLE
        return max(change if upwards_is_good == wants_good else -change, Fraction(0))

    @property
    def _ratio(self) -> Fraction | None:
        """change ÷ |base|; of nothing it is beyond every percentage, with the sign of the change."""
        change, base = _fraction(self.change), _fraction(self.base)
        if change is None or base is None:
            return None
        if base:
            return change / abs(base)
        return BEYOND if change > 0 else -BEYOND if change < 0 else Fraction(0)


def _fraction(amount: Decimal | Fraction | None) -> Fraction | None:
    return None if amount is None else exactly(amount)


class Condition:
    """What a band asks of a point: one of the kinds below."""

    def holds(self, measures: Measures) -> bool:
        raise NotImplementedError

    def comparisons(self) -> Iterator[Relation | Between]:
        """The comparisons that it is made of, from left to right."""
        for part in self.inside:
            yield from part.comparisons()

    @property
    def inside(self) -> tuple[Condition, ...]:
        return ()


@dataclass(frozen=True, slots=True)
class Value:
    """A number in a condition, a percentage as a fraction of one."""

    number: Fraction
    unit: ValueKind


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
class Relation(Condition):
    """`change > 5%`, `current >= base`; does not hold where a quantity is absent."""

    left: Quantity
    comparator: Comparator
    right: Value | Quantity

    @property
    def values(self) -> tuple[Value, ...]:
        """The thresholds that it names."""
        return (self.right,) if isinstance(self.right, Value) else ()

    def comparisons(self) -> Iterator[Relation | Between]:
        yield self

    def holds(self, measures: Measures) -> bool:
        if isinstance(self.right, Value):
            unit, right = self.right.unit, self.right.number
            if measures.is_ratio and not right and unit is ValueKind.AMOUNT:
                unit = ValueKind.PERCENT  # nothing is nothing in any unit
        else:
            unit = ValueKind.AMOUNT
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

    @property
    def values(self) -> tuple[Value, ...]:
        """The thresholds that it names."""
        return self.low, self.high

    def comparisons(self) -> Iterator[Relation | Between]:
        yield self

    def holds(self, measures: Measures) -> bool:
        left = measures.of(self.left, self.low.unit)
        return left is not None and self.low.number <= left <= self.high.number


@dataclass(frozen=True, slots=True)
class Not(Condition):
    inner: Condition

    @property
    def inside(self) -> tuple[Condition, ...]:
        return (self.inner,)

    def holds(self, measures: Measures) -> bool:
        return not self.inner.holds(measures)


@dataclass(frozen=True, slots=True)
class Every(Condition):
    parts: tuple[Condition, ...]

    @property
    def inside(self) -> tuple[Condition, ...]:
        return self.parts

    def holds(self, measures: Measures) -> bool:
        return all(part.holds(measures) for part in self.parts)


@dataclass(frozen=True, slots=True)
class Either(Condition):
    parts: tuple[Condition, ...]

    @property
    def inside(self) -> tuple[Condition, ...]:
        return self.parts

    def holds(self, measures: Measures) -> bool:
        return any(part.holds(measures) for part in self.parts)


class Otherwise(Condition):
    """Always holds."""

    def holds(self, measures: Measures) -> bool:  # noqa: ARG002
        return True
