"""Names that end where another like them begins, with amounts of like size: one name, written in two ways."""

from __future__ import annotations

import re
from collections.abc import Hashable, Mapping, Sequence
from decimal import Decimal
from difflib import SequenceMatcher
from itertools import pairwise
from statistics import median
from typing import TypeVar

LEAST_BEFORE = 3  # months of the name that ends
_LIKE_SIZE = (Decimal("0.6"), Decimal("1.6"))
_LIKE_LETTERS = 0.75
_SAYS_NOTHING = frozenset(("and", "the", "for", "not", "new", "old", "other", "total", "cost", "costs", "account"))

Period = TypeVar("Period", bound=Hashable)


def renamed(
    values: Mapping[str, Mapping[Period, Decimal]], months: Sequence[Period]
) -> tuple[tuple[str, str, Period], ...]:
    """The pairs of names of which the second begins where the first ends, in the month that is told.

    They share a word, or most of their letters; a name that two could follow is in no pair.

    Parameters
    ----------
    values : of each its amounts by month.
    months : in their order.

    >>> fuel = {month: Decimal(40 + month) for month in range(6)}
    >>> oil = {month: Decimal(40 + month) for month in range(6, 10)}
    >>> renamed({"Fuel": fuel, "Fuel and oil": oil, "Crew": fuel | oil}, range(10))
    (('Fuel', 'Fuel and oil', 6),)
    """
    places = {month: place for place, month in enumerate(months)}
    spans = {name: (min(its), max(its)) for name, one in values.items() if (its := [places[month] for month in one])}
    found = []
    for before, month in pairwise(months):
        ended = [name for name, (_, last) in spans.items() if last == places[before] and _is_long(values[name])]
        begun = [name for name, (first, _) in spans.items() if first == places[month]]
        pairs = [(old, new) for old in ended for new in begun if _are_alike(old, new, values)]
        for old, new in pairs:
            if sum(old in pair for pair in pairs) == sum(new in pair for pair in pairs) == 1:
                found.append((old, new, month))
    return tuple(found)


def _is_long(amounts: Mapping[Period, Decimal]) -> bool:
    return len(amounts) >= LEAST_BEFORE


def _are_alike(old: str, new: str, values: Mapping[str, Mapping[Period, Decimal]]) -> bool:
    sizes = [Decimal(median(values[name].values())) for name in (old, new)]
    if not sizes[0] or not _LIKE_SIZE[0] <= sizes[1] / sizes[0] <= _LIKE_SIZE[1]:
        return False
    words, others = (set(re.findall(r"[^\W\d_]{3,}", name.casefold())) for name in (old, new))
    is_like = SequenceMatcher(None, old.casefold(), new.casefold()).ratio() >= _LIKE_LETTERS
    return bool((words & others) - _SAYS_NOTHING) or (is_like and words != others)
