"""What the name of a total is."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.compare.point import Point, total_of

TOTAL_NAME = re.compile(r"\b(grand\s+)?(sub-?\s?)?(total|totals|sum)\b", re.IGNORECASE)


def hidden_total(points: Sequence[Point]) -> Point | None:
    """The point that is named a total and is the sum of all others on both sides, if there is one.

    >>> from decimal import Decimal
    >>> one, two = (Point(name, Decimal(3), None) for name in ("North", "Total"))
    >>> hidden_total([one, two]).label
    'Total'
    """
    for point in points:
        others = total_of(other for other in points if other is not point)
        same = (point.current, point.base) == (others.current, others.base)
        if TOTAL_NAME.fullmatch(point.label) and len(points) > 1 and same:
            return point
    return None
