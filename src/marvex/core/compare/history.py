"""A series' own earlier changes, and how far a change is from what is usual among them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.point import Point
from marvex.core.compare.side import Pair, Span
from marvex.core.exact import EXACT, difference
from marvex.core.time.base_window import before
from marvex.core.time.window import Window

LEAST_CHANGES = 8
NORMAL = Fraction("1.4826")  # makes the median absolute deviation of a normal sample its standard deviation


def unusual(change: Decimal, earlier: Sequence[Decimal]) -> Fraction | None:
    """(change − median) ÷ (1.4826 × median absolute deviation) of the earlier changes.

    None with fewer than eight of them, or where they do not deviate.

    >>> unusual(Decimal(20), [Decimal(n) for n in (1, 2, 3, 4, 5, 6, 7, 8, 9)])
    Fraction(12500, 2471)
    """
    if len(earlier) < LEAST_CHANGES:
        return None
    # In decimals, which sort faster than fractions: a median is half of these, a deviation half of its own.
    middle = _twice_the_median(earlier)
    deviations = [abs(EXACT.subtract(EXACT.add(one, one), middle)) for one in earlier]
    spread = Fraction(_twice_the_median(deviations)) / 4
    return (Fraction(change) - Fraction(middle) / 2) / (NORMAL * spread) if spread else None


def _twice_the_median(amounts: Sequence[Decimal]) -> Decimal:
    ordered, half = sorted(amounts), len(amounts) // 2
    return EXACT.add(ordered[half], ordered[half if len(ordered) % 2 else half - 1])


def earlier_windows(window: Window, first: date) -> tuple[Window, ...]:
    """The windows of the same kind before one, each just before the next, as far back as a day; oldest first."""
    found: list[Window] = []
    one = before(window)
    while one.first >= first:
        found.append(one)
        one = before(one)
    return tuple(reversed(found))


def with_unusual(
    points: Sequence[Point], earlier: Sequence[Pair], figures: Mapping[tuple[Span, str], Decimal | None]
) -> tuple[Point, ...]:
    """The points, each with how unusual its change is among those of its series before it.

    Parameters
    ----------
    earlier : what was set against what before the window, in order of time.
    figures : the figure of each span and category; the category is empty where there are none.
    """
    series: dict[str, list[Decimal]] = {}
    found = []
    for point in points:
        name = point.category or ""
        if name not in series:
            series[name] = _changes(name, earlier, figures)
        known = series[name]
        change = point.change
        found.append(replace(point, unusual=None if change is None else unusual(change, known)))
        if point.pair and change is not None:
            known.append(change)
    return tuple(found)


def _changes(name: str, earlier: Sequence[Pair], figures: Mapping[tuple[Span, str], Decimal | None]) -> list[Decimal]:
    changes = []
    for pair in earlier:
        now, then = (figures.get((side.span, name)) if side else None for side in (pair.current, pair.base))
        if now is not None and then is not None:
            changes.append(difference(now, then))
    return changes
