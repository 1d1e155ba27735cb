"""Amounts that run to date, as their figures show: each month holds those before it, until the year begins again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from itertools import pairwise
from statistics import median

LEAST_VALUES, LEAST_STEPS = 3, 4
_RISING = 0.95  # of all steps from a month to the next within a year
_BEGINS_AGAIN = 0.8  # of the values, which fall to less than half
# What a month adds, at first and on the whole, in amounts of the first: what rises with a season adds less at first.
_LEAST_ADDED, _MOST_ADDED = Decimal("0.4"), Decimal(3)


def runs_to_date(values: Sequence[Mapping[int, Decimal]]) -> bool:
    """Whether the amounts of several values hold those of the months before them.

    Parameters
    ----------
    values : of each the amount of every month that it has, the months counted through.

    >>> rents = [{1: 10, 2: 19, 3: 31, 4: 40, 5: 52, 6: 9}, {1: 7, 2: 14, 3: 20, 4: 29, 5: 36, 6: 8}]
    >>> runs_to_date([{month: Decimal(one) for month, one in each.items()} for each in (*rents, rents[0])])
    True
    """
    months = sorted({month for one in values for month in one})
    starts = [months[0], *(month for month in months[1:] if _begins_again(values, month))] if months else []
    if any((two - one) % 12 for one, two in pairwise(starts[1:])):
        return False
    years = [_added(values, start, end) for start, end in pairwise((*starts, (months[-1] if months else 0) + 1))]
    added = [one for year in years for of_step in year for one in of_step]
    if max(map(len, years), default=0) < LEAST_STEPS or sum(one >= 0 for one in added) < _RISING * len(added):
        return False
    at_first = [one for year in years for of_step in year[:2] for one in of_step]
    return all(_LEAST_ADDED <= median(some) <= _MOST_ADDED for some in (added, at_first))


def _begins_again(values: Sequence[Mapping[int, Decimal]], month: int) -> bool:
    pairs = [(one[month - 1], one[month]) for one in values if month in one and one.get(month - 1)]
    fallen = sum(2 * abs(now) < abs(before) for before, now in pairs)
    return len(pairs) >= LEAST_VALUES and fallen >= _BEGINS_AGAIN * len(pairs)


def _added(values: Sequence[Mapping[int, Decimal]], start: int, end: int) -> list[list[Decimal]]:
    """What each month from the second on adds to each value, in amounts of its first month; where enough have it."""
    found = []
    for month in range(start + 1, end):
        of_step = [
            (one[month] - one[month - 1]) / one[start]
            for one in values
            if one.get(start) and month in one and month - 1 in one
        ]
        if len(of_step) >= LEAST_VALUES:
            found.append(of_step)
    return found
