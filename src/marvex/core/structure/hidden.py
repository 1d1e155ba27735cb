"""A total that hides among the categories of facts, where no sheet shows it as one of its lines."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from marvex.core.compare.point import NO_NAME, Point, total_of
from marvex.core.exact import ZERO
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.total_names import Naming, is_closing_name, is_total_name, naming

DIGITS_THAT_TELL = 4  # by chance one figure in ten thousand would be the sum
DIGITS_OF_ANY = 8  # of both sides together, by which any name's figures tell, where others are many
MOST = 400  # categories, among which a total is looked for
_NAMELESS = (NO_NAME, "-", "–", "—")
_LEVELS = 3  # of subtotals without a name
_PARTS, _PARTS_IN_GROUPS = 3, 5  # at least, that any name's figures are the sum of


Parts = tuple[tuple[Point, int], ...]  # each with its sign


def hidden_total(points: Sequence[Point]) -> tuple[Point | None, Parts]:
    """The first category that is a total by its name, or for want of one, and by its figures, or by these alone; with
    what it is the sum of, none where the others hold totals too.

    >>> from decimal import Decimal
    >>> one, two, all_of = (Point(category=name, current=Decimal(size), base=None) for name, size in
    ...     (("North", 3), ("South", 4), ("Total", 7)))
    >>> hidden_total([one, two, all_of])[0].label
    'Total'
    """
    of_all = total_of(points)
    for point in points if len(points) > 1 else ():
        # Exports of pivot tables leave the names of what a subtotal adds up blank.
        is_nameless = point.label in _NAMELESS
        may_be = is_nameless or naming(point.label) is Naming.WHOLE
        may_be = may_be and len(points) > 2
        is_told = may_be and (tells(point) or (not is_nameless and point.current and point.base))
        is_named = is_total_name(point.label) or bool(is_told) or (is_closing_name(point.label) and len(points) > 2)
        if not (point.current or point.base) or not (is_named or _tells_of_any(point)):
            continue
        if _is_of_others(point, of_all, 1) and (is_named or _is_largest(point, points, _PARTS)):
            return point, tuple((one, 1) for one in points if one is not point)
        if is_nameless and any(_is_of_others(point, of_all, times) for times in range(2, _LEVELS + 1)):
            return point, ()
        if _is_of_others(point, of_all, Fraction(1, 2)) and _is_largest(point, points, _PARTS_IN_GROUPS):
            return point, ()
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


def _is_of_others(point: Point, whole: Point, times: int | Fraction) -> bool:
    """Whether its figures are so many times what all others of a whole come to."""
    sides = ((point.current, whole.current), (point.base, whole.base))
    both = ((Fraction(own or ZERO), Fraction(of_all or ZERO)) for own, of_all in sides)
    return all(own == times * (of_all - own) for own, of_all in both)


def _is_largest(point: Point, points: Sequence[Point], least: int) -> bool:
    """Whether there are at least so many others, each of which is smaller: of equal ones all may be a sum by chance."""
    filled = [one for one in points if one is not point and (one.current or one.base)]
    return len(filled) >= least and all(abs(one.current or ZERO) < abs(point.current or ZERO) for one in filled)


def _tells_of_any(point: Point) -> bool:
    """Whether no name need speak for its being a sum of others, so many digits have its two sides."""
    return bool(point.current and point.base) and point.current != point.base and _digits(point) >= DIGITS_OF_ANY


def _digits(point: Point) -> int:
    return sum(len(side.normalize().as_tuple().digits) for side in (point.current, point.base) if side)


def tells(point: Point) -> bool:
    """Whether its figures have digits enough that to be a sum of others is no chance, where no name speaks for it."""
    is_of_two = bool(point.current and point.base) and point.current != point.base
    return _digits(point) >= DIGITS_THAT_TELL - is_of_two  # that two sides agree says more than their digits


def _without(count: int, place: int) -> list[int]:
    return [one for one in range(count) if one != place]
