"""The variance rules: an ordered list of bands, the first of which holds is the point's own.

How a rule is written is read in `rule_language`; here is what it means.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from enum import Enum
from fnmatch import fnmatchcase
from fractions import Fraction

from marvex.core.comparison import Better, Kind, Point
from marvex.core.exact import ZERO
from marvex.core.frozen import frozen


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
    UNUSUAL = "unusual"

    @property
    def units(self) -> tuple[Unit, ...]:
        """What it can be compared with."""
        if self in (Quantity.CHANGE, Quantity.FAVOURABLE, Quantity.ADVERSE):
            return (Unit.AMOUNT, Unit.PERCENT)
        if self is Quantity.SHARE:
            return (Unit.PERCENT,)
        return (Unit.COUNT,) if self in (Quantity.RANK, Quantity.UNUSUAL) else (Unit.AMOUNT,)


@frozen
class Measures:
    """The figures of one point that a rule can ask for, exact; None is absent.

    `ratio` is change ÷ |base|; `share` and `rank` are the point's place among its fellows; `unusual`
    is how far the change is from the series' own earlier ones.
    """

    current: Decimal | Fraction | None
    base: Decimal | Fraction | None
    change: Decimal | Fraction | None
    ratio: Fraction | None
    better: Better
    share: Fraction | None = None
    rank: int | None = None
    unusual: Fraction | None = None
    is_ratio: bool = False

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
            case Quantity.UNUSUAL:
                return self.unusual
        change = self.ratio if unit is Unit.PERCENT else _fraction(self.change)
        if self.is_ratio:
            # A percentage compares points; an amount means nothing to a ratio line.
            change = _fraction(self.change) if unit is Unit.PERCENT else None
        if change is None or quantity is Quantity.CHANGE:
            return change
        upwards_is_good = self.better is Better.UP
        wants_good = quantity is Quantity.FAVOURABLE
        return max(change if upwards_is_good == wants_good else -change, Fraction(0))


def _fraction(amount: Decimal | Fraction | None) -> Fraction | None:
    return None if amount is None else Fraction(amount)


class Condition:
    """What a band asks of a point: one of the kinds below."""

    def holds(self, measures: Measures) -> bool:
        raise NotImplementedError

    def comparisons(self) -> Iterator[Compared | Between]:
        """The comparisons that it is made of, from left to right."""
        for part in self.inside:
            yield from part.comparisons()

    @property
    def inside(self) -> tuple[Condition, ...]:
        return ()


@frozen
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


@frozen
class Compared(Condition):
    """`change > 5%`, `current >= base`; does not hold where a quantity is absent."""

    left: Quantity
    comparator: Comparator
    right: Value | Quantity

    @property
    def values(self) -> tuple[Value, ...]:
        """The thresholds that it names."""
        return (self.right,) if isinstance(self.right, Value) else ()

    def comparisons(self) -> Iterator[Compared | Between]:
        yield self

    def holds(self, measures: Measures) -> bool:
        if isinstance(self.right, Value):
            unit, right = self.right.unit, self.right.number
            if measures.is_ratio and not right and unit is Unit.AMOUNT:
                unit = Unit.PERCENT  # nothing is nothing in any unit
        else:
            unit = Unit.AMOUNT
            other = measures.of(self.right, unit)
            if other is None:
                return False
            right = other
        left = measures.of(self.left, unit)
        return left is not None and self.comparator.holds(left, right)


@frozen
class Between(Condition):
    """`change between -2% and 2%`, both ends included."""

    left: Quantity
    low: Value
    high: Value

    @property
    def values(self) -> tuple[Value, ...]:
        """The thresholds that it names."""
        return self.low, self.high

    def comparisons(self) -> Iterator[Compared | Between]:
        yield self

    def holds(self, measures: Measures) -> bool:
        left = measures.of(self.left, self.low.unit)
        return left is not None and self.low.number <= left <= self.high.number


@frozen
class Not(Condition):
    inner: Condition

    @property
    def inside(self) -> tuple[Condition, ...]:
        return (self.inner,)

    def holds(self, measures: Measures) -> bool:
        return not self.inner.holds(measures)


@frozen
class Every(Condition):
    parts: tuple[Condition, ...]

    @property
    def inside(self) -> tuple[Condition, ...]:
        return self.parts

    def holds(self, measures: Measures) -> bool:
        return all(part.holds(measures) for part in self.parts)


@frozen
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


@frozen
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


@frozen
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


@frozen
class NamedRule:
    """A rule with what else a file says of it.

    Parameters
    ----------
    better : the direction that is good news for what it judges; None leaves it to the call.
    applies_to : patterns of the categories that it judges, `*` for any text; without any, all points.
    """

    rule: Rule
    name: str = ""
    better: Better | None = None
    applies_to: tuple[str, ...] = ()

    def judges(self, category: str | None) -> bool:
        if not self.applies_to:
            return True
        name = (category or "").casefold()
        return category is not None and any(fnmatchcase(name, one.casefold()) for one in self.applies_to)


@frozen
class RuleSet:
    """The rules of a comparison: each point is judged by the first that applies to it.

    Parameters
    ----------
    better : what the call says is better; None leaves it to the rules.
    is_ready : it is a ready rule, not the analyst's own.
    """

    rules: tuple[NamedRule, ...]
    better: Better | None = None
    is_ready: bool = False

    def rule_for(self, point: Point) -> NamedRule | None:
        category = point.category
        if point.kind is Kind.TOTAL and not point.panel and point.is_cost is None:
            category = None
        return next((one for one in self.rules if one.judges(category)), None)

    def better_for(self, point: Point) -> Better:
        """The direction that is good news for a point: as the call says, else its rule, else up."""
        if point.is_cost is not None:
            return Better.DOWN if point.is_cost else Better.UP
        found = self.rule_for(point)
        return self.better or (found.better if found else None) or Better.UP

    def measures(self, point: Point, share: Fraction | None = None, rank: int | None = None) -> Measures:
        """What a rule can ask of a point."""
        better = self.better_for(point)
        ratio = point.change_ratio
        return Measures(
            point.current,
            point.base,
            point.change,
            ratio,
            better,
            share,
            rank,
            point.unusual,
            point.kind is Kind.RATIO,
        )

    def judge(self, point: Point, share: Fraction | None = None, rank: int | None = None) -> Band | None:
        """The band of a point; a total that no rule applies to has none."""
        found = self.rule_for(point)
        if found is None:
            return None if point.kind is Kind.TOTAL else Rule(()).judge(self.measures(point))
        return found.rule.judge(self.measures(point, share, rank))

    def legend(self, met: Sequence[Band | None]) -> tuple[Band, ...]:
        """Every band of every rule, met or not, then those without a condition that were met."""
        bands = dict.fromkeys(band for one in self.rules for band in one.rule.bands)
        return tuple(bands) + tuple(band for band in WHERE_MET if band in met)

    def asks_for(self, quantity: Quantity) -> bool:
        conditions = (band.condition for one in self.rules for band in one.rule.bands if band.condition)
        return any(one.left is quantity for condition in conditions for one in condition.comparisons())


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
