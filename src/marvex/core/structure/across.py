"""Columns that lead from one to another: what a row began with, what moved it, and what it came to."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from decimal import Decimal
from itertools import combinations

from marvex.core.exact import ZERO, difference, total
from marvex.core.structure.total_names import are_ends, is_closing_name, is_opening_name
from marvex.core.values import dataclass

_LEAST_MOVES, _MOST_MOVES = 2, 8  # columns: one is a difference; of more, signs are not tried


@dataclass(frozen=True, slots=True, kw_only=True)
class Led:
    """Columns side by side whose ends say that the first leads to the last.

    Parameters
    ----------
    names : of the first, its movements and the last.
    wrong : the place of the first row in which the last is not what all others come to, and `by` how much it is more;
        None where there is no such row.
    turned : the movements that lower what they lead to, and are stored as positive.
    """

    names: tuple[str, ...]
    turned: tuple[str, ...] = ()
    wrong: int | None = None
    by: Decimal = ZERO


def led_across(columns: Mapping[str, Sequence[Decimal | None]], sides: Collection[str]) -> Led | None:
    """The columns that lead from one to another, in every row or in most.

    Parameters
    ----------
    columns : the figures of each, a row each, in their order.
    sides : those whose names say a period or a scenario, which no movement's does.

    >>> columns = {"2025": [9, 4], "Won": [2, 0], "Lost": [-1, -3], "2026": [10, 1], "Trips": [5, 5]}
    >>> table = {name: [Decimal(one) for one in figures] for name, figures in columns.items()}
    >>> led_across(table, {"2025", "2026"}).names, led_across({"Trips": table["Trips"], "Won": table["Won"]}, ())
    (('2025', 'Won', 'Lost', '2026'), None)
    >>> table["2026"][1] += 5
    >>> led_across(table, {"2025", "2026"}).wrong
    1
    """
    found = list(_found(columns, sides))
    return next((one for one in found if one.wrong is None), next(iter(found), None))


def _found(columns: Mapping[str, Sequence[Decimal | None]], sides: Collection[str]) -> Iterator[Led]:
    names = list(columns)
    for first, start in enumerate(names):
        for last in range(first + _LEAST_MOVES + 1, len(names)):
            moves, end = names[first + 1 : last], names[last]
            are_apart = start in sides and end in sides
            are_named = are_apart or are_ends(start, end) or (is_opening_name(start) and is_closing_name(end))
            if are_named and {*moves}.isdisjoint(sides):
                own = names[first : last + 1]
                rows = [[one or ZERO for one in row] for row in zip(*(columns[one] for one in own), strict=True)]
                if any(any(row[1:-1]) for row in rows) and (led := _led(own, rows)) is not None:
                    yield led


def _led(names: Sequence[str], rows: Sequence[Sequence[Decimal]]) -> Led | None:
    """Columns that lead to the last: as they are, with signs turned, or but for a few rows of them."""
    missed = [difference(row[-1], total(row[:-1])) for row in rows]
    wrong = [place for place, by in enumerate(missed) if by]
    if not wrong:
        return Led(names=tuple(names))
    if turned := _turned(names, rows):
        return Led(names=tuple(names), turned=turned)
    if 2 * len(wrong) > max(len(rows), 2):
        return None
    return Led(names=tuple(names), wrong=wrong[0], by=missed[wrong[0]])


def _turned(names: Sequence[str], rows: Sequence[Sequence[Decimal]]) -> tuple[str, ...]:
    """The fewest movements that lower what they lead to in every row, though they are stored as positive."""
    moves = range(1, len(names) - 1)
    if len(moves) > _MOST_MOVES:
        return ()
    for count in range(1, len(moves) + 1):
        for turned in combinations(moves, count):
            if all(
                total(-one if at in turned else one for at, one in enumerate(row[:-1])) == row[-1] for row in rows
            ):
                return tuple(names[at] for at in turned)
    return ()
