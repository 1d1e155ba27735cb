"""What is a real movement, and what is only a different span: the walk `matched`."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, Point
from marvex.core.exact import EXACT, ZERO, difference, total
from marvex.core.values import dataclass

MATCHED = "Matched change"


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchedChange:
    """The change from the whole base to the whole current side, in what both have and what one alone has.

    Parameters
    ----------
    opening, closing : both sides in the whole of their windows.
    steps : the matched change, new, ended, and the periods that one side lacks, as far as there are such.
    """

    opening: Decimal
    closing: Decimal
    steps: tuple[Point, ...]


def matched_change(comparison: Comparison, only_in_base: str, only_in_current: str) -> MatchedChange:
    """The change told apart.

    A category whose rows begin or end within the window is matched as far as both sides have rows; what it has
    beyond that is new, or ended.

    Parameters
    ----------
    only_in_base, only_in_current : what the periods are called that the other side lacks.
    """
    whole = comparison.total
    categories = [] if comparison.every is not None else list(comparison.points)
    now: list[Decimal | None] = []
    then: list[Decimal | None] = []
    new: list[Decimal | None] = []
    ended: list[Decimal | None] = []
    for one in categories or [whole]:
        part = one.matched
        if one.current is None or one.base is None:
            new.append(one.current)
            ended.append(one.base)
        elif part is None:
            now.append(one.current)
            then.append(one.base)
        else:
            now.append(part.current)
            then.append(part.base)
            new.append(difference(one.current, part.current or ZERO))
            ended.append(difference(one.base, part.base or ZERO))
    lone_now, lone_then = (
        [one.amount for one in comparison.unmatched if one.is_base is is_base] for is_base in (False, True)
    )
    steps = (
        _step(MATCHED, _sum(now), _sum(then)),
        _step("New", _sum(new), ZERO),
        _step("Ended", ZERO, _sum(ended)),
        _step(only_in_base, ZERO, _sum(lone_then)),
        _step(only_in_current, _sum(lone_now), ZERO),
    )
    return MatchedChange(
        opening=EXACT.add(whole.base or ZERO, total(lone_then)),
        closing=EXACT.add(whole.current or ZERO, total(lone_now)),
        steps=tuple(step for step in steps if step.current or step.base),
    )


def _step(name: str, current: Decimal, base: Decimal) -> Point:
    return Point(name=name, current=current, base=base, kind=Kind.STEP)


def _sum(amounts: Iterable[Decimal | None]) -> Decimal:
    return total(one for one in amounts if one is not None)


def stepwise(comparison: Comparison, found: MatchedChange) -> Comparison:
    """The comparison whose points are those steps, and whose total is of the whole windows."""
    whole = replace(comparison.total, current=found.closing, base=found.opening, matched=None)
    return replace(comparison, points=found.steps, total=whole, every=None)
