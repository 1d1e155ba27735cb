"""What the names of totals, openings and closings are: asked of here by every reader, list and table."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.compare.point import Point, total_of
from marvex.core.exact import ZERO, difference

_TOTAL = re.compile(r"\b(grand\s+)?(sub-?\s?)?(total|totals|sum)\b", re.IGNORECASE)
_OPENING = re.compile(r"opening\b.*|(balance )?(brought forward|b/f)|start|.*\bat (the )?start", re.IGNORECASE)
_CLOSING = re.compile(r"closing\b.*|(balance )?(carried forward|c/f)|end|.*\bat (the )?end", re.IGNORECASE)


def is_total_name(label: str) -> bool:
    """Whether a label is the name of a total and nothing else: 'Total', 'Subtotal'.

    >>> is_total_name("Grand total"), is_total_name("Total Marine")
    (True, False)
    """
    return _TOTAL.fullmatch(label.strip()) is not None


def speaks_of_total(label: str) -> bool:
    """Whether a label has the name of a total in it: 'Total income'."""
    return _TOTAL.search(label) is not None


def without_total_name(label: str) -> str:
    """What a label says beside: of 'Total income', 'income'."""
    return _TOTAL.sub("", label).strip()


def is_opening_name(label: str) -> bool:
    """Whether a row so named is what a list starts from."""
    return _OPENING.fullmatch(label) is not None


def is_closing_name(label: str) -> bool:
    """Whether a row so named is what a list comes to."""
    return _CLOSING.fullmatch(label) is not None


def hidden_total(points: Sequence[Point]) -> Point | None:
    """The point that is named a total and is the sum of all others on both sides, if there is one.

    >>> from decimal import Decimal
    >>> one, two = (Point(category=name, current=Decimal(3), base=None) for name in ("North", "Total"))
    >>> hidden_total([one, two]).label
    'Total'
    """
    named = [point for point in points if is_total_name(point.label)]
    if not named or len(points) < 2:
        return None
    whole = total_of(points)
    for point in named:
        sides = ((point.current, whole.current), (point.base, whole.base))
        if all(difference(all_of or ZERO, own or ZERO) == (own or ZERO) for own, all_of in sides) and (
            point.current or point.base
        ):
            return point
    return None
