"""A total that hides among the categories of facts, where no sheet shows it as one of its lines."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.point import Point, total_of
from marvex.core.exact import ZERO
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.finder import found_structure
from marvex.core.structure.total_names import is_total_name, naming

MOST = 400  # categories, among which a total is looked for


def hidden_total(points: Sequence[Point]) -> tuple[Point | None, tuple[Point, ...]]:
    """The first category that its name makes a total and whose figures prove it, with those that it is the sum of.

    >>> from decimal import Decimal
    >>> one, two, all_of = (Point(category=name, current=Decimal(size), base=None) for name, size in
    ...     (("North", 3), ("South", 4), ("Total", 7)))
    >>> hidden_total([one, two, all_of])[0].label
    'Total'
    """
    if not 1 < len(points) <= MOST or not any(naming(point.label).is_total for point in points):
        return None, ()
    lines = [
        TableLine(label=point.label, figures=(point.current, point.base), naming=naming(point.label))
        for point in points
    ]
    for point in points:
        others = [one for one in points if one is not point]
        if is_total_name(point.label) and (point.current or point.base) and _is_sum(point, others):
            return point, tuple(others)
    # Facts come in any order: what is called a total is looked for behind all others.
    totals = [place for place, line in enumerate(lines) if line.naming.is_total]
    for order in (range(len(lines)), *([*_without(lines, place), place] for place in totals)):
        structure = found_structure([lines[place] for place in order], only_named=True)
        if structure.sums:
            first, places = structure.sums[0], list(order)
            return points[places[first.line]], tuple(points[places[part]] for part, _ in first.parts)
    return None, ()


def _is_sum(point: Point, others: Sequence[Point]) -> bool:
    whole = total_of(others)
    sides = ((point.current, whole.current), (point.base, whole.base))
    return all((own or ZERO) == (of_others or ZERO) for own, of_others in sides)


def _without(lines: Sequence[TableLine], place: int) -> list[int]:
    return [one for one in range(len(lines)) if one != place]
