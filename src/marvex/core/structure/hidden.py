"""A total that hides among the categories of facts, where no sheet shows it as one of its lines."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.point import NO_NAME, Point, total_of
from marvex.core.exact import ZERO
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.total_names import Naming, is_total_name, naming

DIGITS_THAT_TELL = 4  # by chance one figure in ten thousand would be the sum
MOST = 400  # categories, among which a total is looked for


Parts = tuple[tuple[Point, int], ...]  # each with its sign


def hidden_total(points: Sequence[Point]) -> tuple[Point | None, Parts]:
    """The first category that its name, or none, makes a total and whose figures prove it, with what it is the sum of.

    >>> from decimal import Decimal
    >>> one, two, all_of = (Point(category=name, current=Decimal(size), base=None) for name, size in
    ...     (("North", 3), ("South", 4), ("Total", 7)))
    >>> hidden_total([one, two, all_of])[0].label
    'Total'
    """
    for point in points if len(points) > 1 else ():
        # Exports of pivot tables leave the names of what a subtotal adds up blank.
        may_be = point.label == NO_NAME or naming(point.label) is Naming.WHOLE
        may_be = may_be and len(points) > 2
        is_told = may_be and (tells(point) or (point.label != NO_NAME and point.current and point.base))
        is_named = is_total_name(point.label) or is_told
        if is_named and (point.current or point.base):
            others = [one for one in points if one is not point]
            if _is_sum(point, others):
                return point, tuple((one, 1) for one in others)
    totals = (
        [place for place, point in enumerate(points) if naming(point.label).is_total] if len(points) <= MOST else []
    )
    if not totals:
        return None, ()
    # The finder is loaded only where a name speaks of a total.
    from marvex.core.structure.finder import found_structure

    lines = [
        TableLine(label=point.label, figures=(point.current, point.base), naming=naming(point.label))
        for point in points
    ]
    # Facts come in any order: what is called a total is looked for behind all others.
    found: list[tuple[Point, Parts]] = []
    for order in (range(len(lines)), *([*_without(len(lines), place), place] for place in totals)):
        structure = found_structure([lines[place] for place in order], only_named=True)
        for one in structure.sums:
            whole, parts = order[one.line], tuple((points[order[part]], sign) for part, sign in one.parts)
            if lines[whole].naming.is_total:
                return points[whole], parts
            found.append((points[whole], parts))
    # Out of order 'Sales' may be what a profit and its costs come to, and no name says so.
    return found[0] if found else (None, ())


def _is_sum(point: Point, others: Sequence[Point]) -> bool:
    whole = total_of(others)
    sides = ((point.current, whole.current), (point.base, whole.base))
    return all((own or ZERO) == (of_others or ZERO) for own, of_others in sides)


def tells(point: Point) -> bool:
    """Whether its figures have digits enough that to be a sum of others is no chance, where no name speaks for it."""
    sides = [side for side in (point.current, point.base) if side]
    digits = sum(len(side.normalize().as_tuple().digits) for side in sides)
    return digits >= DIGITS_THAT_TELL - (len({*sides}) > 1)  # that two sides agree says more than their digits


def _without(count: int, place: int) -> list[int]:
    return [one for one in range(count) if one != place]
