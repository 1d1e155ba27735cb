"""Columns that lead from one to another: what a row began with, what moved it, and what it came to."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from decimal import Decimal

from marvex.core.exact import ZERO, total
from marvex.core.structure.total_names import are_ends, is_closing_name, is_opening_name

_LEAST_MOVES = 2  # columns: one is a difference


def led_across(columns: Mapping[str, Sequence[Decimal | None]], sides: Collection[str]) -> tuple[str, ...]:
    """The columns side by side of which the last is what all others come to in every row, and whose ends say so.

    Parameters
    ----------
    columns : the figures of each, a row each, in their order.
    sides : those whose names say a period or a scenario, which no movement's does.

    Returns none where there are no such columns.

    >>> columns = {"2025": [9, 4], "Won": [2, 0], "Lost": [-1, -3], "2026": [10, 1], "Trips": [5, 5]}
    >>> table = {name: [Decimal(one) for one in figures] for name, figures in columns.items()}
    >>> led_across(table, {"2025", "2026"}), led_across(table, ())
    (('2025', 'Won', 'Lost', '2026'), ())
    """
    names = list(columns)
    for first, start in enumerate(names):
        for last in range(first + _LEAST_MOVES + 1, len(names)):
            moves, end = names[first + 1 : last], names[last]
            are_apart = sides and start in sides and end in sides
            if not (are_apart or are_ends(start, end) or (is_opening_name(start) and is_closing_name(end))):
                continue
            if sides and not {*moves}.isdisjoint(sides):
                continue
            if _leads([columns[one] for one in names[first : last + 1]]):
                return (start, *moves, end)
    return ()


def _leads(columns: Sequence[Sequence[Decimal | None]]) -> bool:
    rows = [[one or ZERO for one in row] for row in zip(*columns, strict=True)]
    is_moved = any(any(row[1:-1]) for row in rows) and any(row[0] for row in rows)
    return is_moved and all(total(row[:-1]) == row[-1] for row in rows)
