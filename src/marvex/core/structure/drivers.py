"""What drove a change in amounts that are volume × price: volume, mix and price, new items and ended ones.

Over the items with volume on both sides, q their volumes, p = amount ÷ q, Q = Σq, P0 = total0 ÷ Q0:

    volume = (Q1 − Q0) · P0
    mix    = Σ (q1/Q1 − q0/Q0) · Q1 · p0
    price  = Σ q1 · (p1 − p0)

Their sum is the change exactly. Without mix, volume is Σ (q1 − q0) · p0, which is volume and mix together.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from decimal import ROUND_HALF_EVEN, Decimal
from fractions import Fraction

from marvex.core.compare.point import Driver, Point
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO, rounded_ratio, total
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Drivers:
    """All that drove a change, in order; they add up to it exactly.

    Parameters
    ----------
    volumes, prices : those of both sides, base first, over the items with volume on both.
    negative : the items of negative volume.
    """

    steps: tuple[Driver, ...]
    volumes: tuple[Decimal, Decimal]
    prices: tuple[Fraction, Fraction]
    negative: tuple[str, ...]


def drivers(points: Sequence[Point], *, with_mix: bool = True) -> Drivers:
    """The drivers of the change of some items.

    Each is rounded to the amounts' digits, half even, price being the change less the others as rounded.

    Raises Mistake where the items with volume on both sides have none in all on one of them.

    >>> volumes = Decimal(10), Decimal(12)
    >>> found = drivers([Point(category="Day ticket", current=Decimal(66), base=Decimal(50), volumes=volumes)])
    >>> [(one.name, str(one.amount)) for one in found.steps]
    [('Volume', '10'), ('Mix', '0'), ('Price', '6')]
    """
    both = [one for one in points if all(_volumes(one))]
    now, then = (total(_volumes(one)[side] or ZERO for one in both) for side in (1, 0))
    if not both or now <= 0 or then <= 0:
        raise Mistake(
            "the items with volume on both sides have no volume above zero in all on one of them",
            f"Name the column of volumes with {setting('volume')}, or another window.",
        )
    amounts = [(one.base or ZERO, one.current or ZERO) for one in both]
    digits = max((-int(side.as_tuple().exponent) for pair in amounts for side in pair), default=0)
    before, after = (total(pair[side] for pair in amounts) for side in (0, 1))
    price0 = Fraction(before) / Fraction(then)
    whole = sum((_at_old_price(one) for one in both), Fraction(0))
    volume = (Fraction(now) - Fraction(then)) * price0
    mix = whole - Fraction(now) * price0
    if not with_mix:
        volume, mix = volume + mix, Fraction(0)
    first = [Driver("Volume", _rounded(volume, digits))]
    if with_mix:
        first.append(Driver("Mix", _rounded(mix, digits)))
    price = total([after, -before, *(-one.amount for one in first)])
    rest = (
        Driver("New", _moved(one for one in points if _is(one, new=True))),
        Driver("Ended", _moved(one for one in points if _is(one, new=False))),
        Driver("Without volume", _moved(one for one in points if not any(_volumes(one)))),
    )
    negative = tuple(one.label for one in points if any((side or ZERO) < 0 for side in _volumes(one)))
    return Drivers(
        steps=(*first, Driver("Price", price), *(one for one in rest if one.amount)),
        volumes=(then, now),
        prices=(price0, Fraction(after) / Fraction(now)),
        negative=negative,
    )


def with_drivers(points: Sequence[Point], whole: Point, *, with_mix: bool = True) -> tuple[tuple[Point, ...], Point]:
    """The items with what drove each of them, and their total with what drove it in all.

    An item's own volume is its base amount grown as the volume of all, its mix what it gained on that:
    added up over the items they are the volume and the mix of all, but for the rounding of each.
    """
    found = drivers(points, with_mix=with_mix)
    then, now = found.volumes
    grown = Fraction(now) / Fraction(then) - 1

    def driven(item: Point) -> Point:
        if not all(_volumes(item)):
            return item
        base = Fraction(item.base or 0)
        digits = max(-int((side or ZERO).as_tuple().exponent) for side in (item.base, item.current))
        volume = base * grown
        mix = _at_old_price(item) - base - volume
        if not with_mix:
            volume, mix = volume + mix, Fraction(0)
        steps = [Driver("Volume", _rounded(volume, digits))]
        if with_mix:
            steps.append(Driver("Mix", _rounded(mix, digits)))
        price = total([item.movement, *(-one.amount for one in steps)])
        return replace(item, drivers=(*steps, Driver("Price", price)))

    return tuple(driven(item) for item in points), replace(whole, drivers=found.steps)


def _at_old_price(item: Point) -> Fraction:
    """What an item's current volume would have come to at its price of the base."""
    then, now = _volumes(item)
    return Fraction(now or 0) * Fraction(item.base or 0) / Fraction(then or 1)


def _volumes(point: Point) -> tuple[Decimal | None, Decimal | None]:
    """An item's volumes, base first; nothing where it has none."""
    return point.volumes if point.volumes is not None else (None, None)


def _is(point: Point, *, new: bool) -> bool:
    """Whether an item has volume on the current side only, or on the base only."""
    then, now = _volumes(point)
    return bool(now) and not then if new else bool(then) and not now


def _moved(points: Iterable[Point]) -> Decimal:
    return total(point.movement for point in points)


def _rounded(amount: Fraction, digits: int) -> Decimal:
    return rounded_ratio(amount, max(0, digits), ROUND_HALF_EVEN)
