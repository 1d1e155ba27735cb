"""Order, keep, share and rank: which points come first, which are shown, and how much each is of all."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal
from enum import Enum
from fractions import Fraction

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, PanelsOf, Point, in_panels, total_of
from marvex.core.exact import ZERO, exactly, total
from marvex.core.values import dataclass

Key = tuple[int | None, str]


class Order(Enum):
    """What the points are put in order by; the largest comes first."""

    GIVEN = "given"
    CURRENT = "current"
    BASE = "base"
    CHANGE = "change"
    PERCENT = "percent"
    NAME = "name"


@dataclass(frozen=True, slots=True)
class Keep:
    """How many points are shown; the rest are gathered as Other, or stand alone and the rest is left out."""

    count: int
    from_bottom: bool = False
    alone: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class Arrangement:
    """Which categories are shown, in which order, and which are gathered as Other, or left out."""

    shown: tuple[Key, ...]
    gathered: tuple[Key, ...]
    alone: bool = False


def arrangement(comparisons: Sequence[Comparison], order: Order | None, keep: Keep | None) -> Arrangement:
    """One arrangement for several comparisons of the same categories, by the figures of the first.

    Without an order points stay as given. The top are those whose figure ordered by, else whose change, is the
    largest in size, so that no large fall is gathered under small rises; the bottom are the last of an order.
    """
    points = in_order(comparisons[0].points, order or Order.GIVEN)
    elsewhere = tuple(point.key for one in comparisons[1:] for point in one.points)
    keys = tuple(dict.fromkeys((*(point.key for point in points), *elsewhere)))
    if keep is None or keep.count >= len(keys):
        return Arrangement(keys, ())
    figure = _FIGURES.get(order or Order.CHANGE, _FIGURES[Order.CHANGE])
    is_as_listed = order in _FIGURES and keep.from_bottom

    def size(point: Point) -> Fraction:
        return abs(Fraction(figure(point) or 0))

    ranking = points if is_as_listed else sorted(points, key=size, reverse=True)
    kept = {point.key for point in (ranking[-keep.count :] if keep.from_bottom else ranking[: keep.count])}
    rest = tuple(key for key in keys if key not in kept)
    return Arrangement(tuple(key for key in keys if key in kept), rest, keep.alone)


def arranged(comparison: Comparison, plan: Arrangement, other: Point | None = None) -> Comparison:
    """The comparison with its points so arranged, those gathered as one last point, `Other (n)`.

    Parameters
    ----------
    other : the point of those gathered, where figures do not add up; otherwise it is their sum.
    """
    by_key = {point.key: point for point in comparison.points}
    points = [by_key[key] for key in plan.shown if key in by_key]
    rest = [by_key[key] for key in plan.gathered if key in by_key]
    if not rest:
        return replace(comparison, points=tuple(points))
    size = len(plan.gathered)
    gathered = replace(other or total_of(rest), category=f"Other ({size})", name=None, kind=Kind.POINT, gathered=size)
    if plan.alone:
        return replace(comparison, points=tuple(points), not_shown=(gathered,))
    return replace(comparison, points=(*points, gathered))


def by_panel(comparison: Comparison) -> Comparison:
    """The comparison as though each panel were one point, its total: what panels are put in order by."""
    wholes = (replace(one, name=None, pair=None, panels=PanelsOf.NOTHING) for one in comparison.panel_totals)
    return replace(comparison, points=tuple(wholes))


def arranged_panels(
    comparison: Comparison, plan: Arrangement, other: Sequence[Point], other_total: Point | None
) -> Comparison:
    """The comparison with its panels so arranged, those gathered as one last panel, `Other (n)`.

    Parameters
    ----------
    other, other_total : the points and the total of those gathered.
    """
    if not comparison.panel_totals:
        return comparison
    own, wholes = in_panels(comparison.points), in_panels(comparison.panel_totals)
    points = [one for _, panel in plan.shown for one in own.get(panel, [])]
    totals = [one for _, panel in plan.shown for one in wholes.get(panel, [])]
    if other_total is not None:
        size = len(plan.gathered)
        labels = {one.label for one in comparison.points}
        rest = [one for one in (*other, other_total) if one is other_total or one.label in labels]
        rest = [replace(one, category=f"Other ({size})", panels=PanelsOf.CATEGORIES, gathered=size) for one in rest]
        if plan.alone:
            return replace(comparison, points=tuple(points), panel_totals=tuple(totals), not_shown=(rest[-1],))
        points, totals = [*points, *rest[:-1]], [*totals, rest[-1]]
    return replace(comparison, points=tuple(points), panel_totals=tuple(totals))


def in_order(points: Sequence[Point], order: Order) -> tuple[Point, ...]:
    """The points, largest first, absent figures last; by name from A to Z."""
    if order is Order.GIVEN:
        return tuple(points)
    if order is Order.NAME:
        return tuple(sorted(points, key=lambda point: point.label.casefold()))
    figure = _FIGURES[order]

    def place(point: Point) -> tuple[bool, Fraction]:
        value = figure(point)
        return (value is None, -Fraction(value) if value is not None else Fraction(0))

    return tuple(sorted(points, key=place))


_FIGURES: dict[Order, Callable[[Point], Decimal | Fraction | None]] = {
    Order.CURRENT: lambda point: point.current,
    Order.BASE: lambda point: point.base,
    Order.CHANGE: lambda point: point.movement,
    Order.PERCENT: lambda point: point.change_ratio,
}


@dataclass(frozen=True, slots=True)
class ShareAndRank:
    """A point's part of the total |change|, and its rank by |change|; None where it is not ranked."""

    share: Fraction | None
    rank: int | None


def with_contribution(comparison: Comparison) -> Comparison:
    """The comparison with what each change is in points of the base total, that of its panel where there are panels.

    >>> from marvex.core.compare.side import Side
    >>> fuel, whole = Point(category="Fuel", current=Decimal(9), base=Decimal(5)), Point(current=None, base=Decimal(50))
    >>> one = Comparison(current=Side(None, None), base=Side(None, None), points=(fuel,), total=whole)
    >>> with_contribution(one).points[0].contribution
    Fraction(2, 25)
    """
    if comparison.base is None or comparison.is_chained:
        return comparison
    bases = {whole.panel: whole.base for whole in comparison.panel_totals if whole.is_cost is None}

    def contributing(point: Point) -> Point:
        base = bases.get(point.panel, comparison.total.base)
        means_nothing = point.kind is Kind.RATIO or not base or (point.change is None and point.pair is not None)
        found = None if means_nothing or not base else exactly(point.movement) / abs(exactly(base))
        return replace(point, contribution=found)

    points, totals = (
        tuple(contributing(one) for one in group) for group in (comparison.points, comparison.panel_totals)
    )
    return replace(comparison, points=points, panel_totals=totals, total=contributing(comparison.total))


def places(points: Sequence[Point]) -> tuple[ShareAndRank, ...]:
    """Share and rank of each point, in the order of the points; ties share the better rank.

    >>> rise = Point(category="a", current=Decimal(3), base=Decimal(0))
    >>> fall = Point(category="b", current=Decimal(1), base=Decimal(2))
    >>> places([rise, fall])[0]
    ShareAndRank(share=Fraction(3, 4), rank=1)
    """
    sizes = [abs(point.movement) if point.is_ranked else None for point in points]
    present = sorted((size for size in sizes if size is not None), reverse=True)
    whole = total(present)
    ranks = {size: len(present) - place for place, size in enumerate(reversed(present))}
    return tuple(
        ShareAndRank(None, None)
        if size is None
        else ShareAndRank(Fraction(size) / Fraction(whole) if whole > ZERO else None, ranks[size])
        for size in sizes
    )
