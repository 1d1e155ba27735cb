"""A waterfall's steps: from the standing opening, through floating steps, to the standing closing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from marvex.core.comparison import Comparison, Kind, Point
from marvex.core.exact import EXACT, ZERO, difference
from marvex.core.judging import Judged


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar of a waterfall; `start` is the running total before it, `end` after it.

    A standing bar starts at zero and ends at its height; it has no band.
    """

    judged: Judged
    start: Decimal
    end: Decimal

    @property
    def point(self) -> Point:
        return self.judged.point

    @property
    def label(self) -> str:
        return self.point.label

    @property
    def is_standing(self) -> bool:
        return self.point.kind is not Kind.STEP

    @property
    def movement(self) -> Decimal:
        return difference(self.end, self.start)


@dataclass(frozen=True, slots=True)
class Walk:
    """All bars in order, and by how much the steps miss the closing: zero, or it does not foot."""

    bars: tuple[Bar, ...]
    difference: Decimal

    @property
    def steps(self) -> tuple[Bar, ...]:
        return tuple(bar for bar in self.bars if not bar.is_standing)


CUT_BELOW = Decimal("0.15")  # of the tallest bar: steps that together span less are hard to see
ROOM_BELOW = Decimal("0.4")  # of the steps' span is kept between the cut and the lowest of them


def fitting_cut(walk: Walk) -> Decimal | None:
    """Where the standing bars are cut so that small steps can be seen; None where they need no cut.

    A round amount between zero and all that the steps touch, on the side on which the bars stand.
    """
    near, far = _nearest_and_furthest(walk)
    span = difference(far, near).copy_abs()
    if not near or (near > 0) != (far > 0) or not span or span >= CUT_BELOW * abs(far):
        return None
    side = 1 if far > 0 else -1
    step = Decimal(1).scaleb(span.adjusted())
    cut = (abs(near) - ROOM_BELOW * span) // step * step
    return side * cut if cut > 0 else None


def can_cut_at(walk: Walk, cut: Decimal) -> bool:
    """Whether a cut lies between zero and all that the bars reach."""
    near, _ = _nearest_and_furthest(walk)
    return bool(cut) and bool(near) and (cut > 0) == (near > 0) and abs(cut) < abs(near)


def _nearest_and_furthest(walk: Walk) -> tuple[Decimal, Decimal]:
    """Of all levels at which a bar begins or ends above zero: the nearest to zero and the furthest.

    The nearest is zero where levels lie on both sides of it.
    """
    levels = [bar.end for bar in walk.bars] + [bar.start for bar in walk.steps]
    if min(levels) < 0 < max(levels):
        return ZERO, max(levels, key=abs)
    return min(levels, key=abs), max(levels, key=abs)


def walk_change(comparison: Comparison, judged: Sequence[Judged], opening: str, closing: str) -> Walk:
    """From the base total, through each point's change, to the current total.

    An absent side counts as nothing, so that the walk foots: a new category's step is its whole
    amount, an ended one's is minus its base.

    Parameters
    ----------
    judged : the comparison's points in order, each with its band.
    opening, closing : what the standing bars are called.
    """
    start = comparison.total.base or ZERO
    end = comparison.total.current or ZERO
    bars = [Bar(Judged(Point(opening, None, start, Kind.OPENING), None), ZERO, start)]
    running = start
    for one in judged:
        after = EXACT.add(running, one.point.movement)
        bars.append(Bar(one, running, after))
        running = after
    bars.append(Bar(Judged(Point(closing, end, None, Kind.CLOSING), None), ZERO, end))
    return Walk(tuple(bars), difference(running, end))
