"""Months that are not as the others of their series: signed the other way round, in thousands, copied, not whole."""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping, Sequence
from decimal import Decimal
from enum import Enum
from statistics import median
from typing import TypeVar

LEAST_MONTHS = 6  # with amounts, of each of the values that tell
_LEAST_VALUES, _LEAST_COPIED, _LEAST_DIGITS = 2, 3, 3
_LEAST_BEFORE, _LOOKED_BACK = 3, 12  # months before the last that have what it has not
_LEAST_PART = Decimal("0.1")  # of what all values usually come to, by size
_MOST = 3  # of so many months at most one is odd: of more it would be how they are
_LIKE = (Decimal("0.3"), Decimal(3))  # times what is usual of a value, where it is that but for its sign
_UNIT = 1000

Period = TypeVar("Period", bound=Hashable)


class Oddity(Enum):
    """In what a month differs from those of its series."""

    TURNED = "has the other sign throughout"
    SMALL = "is a thousandth of what is usual"
    LARGE = "is a thousand times what is usual"
    COPIED = "has the very amounts of an earlier one"


def odd_months(
    values: Sequence[Mapping[Period, Decimal]], months: Sequence[Period], *, may_be_alike: bool
) -> Iterator[tuple[Period, Oddity, Period | None]]:
    """The months in which all values at once are other than in the rest of them, with the one that each is a copy of.

    Parameters
    ----------
    values : of each its amounts by month.
    months : in their order.
    may_be_alike : the amounts of a plan are often those of the month before.

    >>> fares, fuel = [410, 425, -418, 433, 402, 441], [122, 131, -125, 119, 128, 133]
    >>> both = [dict(enumerate(map(Decimal, one))) for one in (fares, fuel)]
    >>> list(odd_months(both, range(6), may_be_alike=False))
    [(2, <Oddity.TURNED: 'has the other sign throughout'>, None)]
    """
    filled = [{month: amount for month, amount in one.items() if amount} for one in values]
    of_many = [one for one in filled if len(one) >= LEAST_MONTHS]
    usual = [Decimal(median(one.values())) for one in of_many]
    found = [(month, oddity, None) for month in months if (oddity := _oddity(of_many, usual, month)) is not None]
    copies = [] if may_be_alike else list(_copies(filled, months))
    for odd in (found, copies):
        if len(odd) * _MOST <= len(months):
            yield from odd


def not_yet_there(
    values: Mapping[str, Mapping[Period, Decimal]], months: Sequence[Period]
) -> tuple[tuple[str, ...], int]:
    """The values without an amount in the last month that each month before it has, and how many those months are.

    None where it has nothing of what it could have, or where they are little by their size: less than a tenth.

    Parameters
    ----------
    values : of each its amounts by month.
    months : in their order; of those before the last one the latest twelve are looked at.

    >>> fares, fuel, crew = ({month: Decimal(9) for month in range(size)} for size in (6, 5, 5))
    >>> not_yet_there({"Fares": fares, "Fuel": fuel, "Crew": crew}, range(6))
    (('Fuel', 'Crew'), 5)
    """
    before, last = months[:-1][-_LOOKED_BACK:], months[-1:]
    if len(before) < _LEAST_BEFORE:
        return (), 0
    always = {name: one for name, one in values.items() if all(one.get(month) for month in before)}
    lacking = tuple(name for name, one in always.items() if not one.get(last[0]))
    sizes = {name: Decimal(median(abs(one[month]) for month in before)) for name, one in always.items()}
    is_little = sum(sizes[name] for name in lacking) < _LEAST_PART * sum(sizes.values())
    return ((), 0) if is_little or len(lacking) == len(always) else (lacking, len(before))


def _oddity(values: Sequence[Mapping[Period, Decimal]], usual: Sequence[Decimal], month: Period) -> Oddity | None:
    times = [one[month] / whole for one, whole in zip(values, usual, strict=True) if month in one and whole]
    if len(times) < _LEAST_VALUES:
        return None
    least, most = _LIKE
    if all(-most <= one <= -least for one in times) and all(_is_of_one_sign_but(one, month) for one in values):
        return Oddity.TURNED
    if all(least <= one * _UNIT <= most for one in times):
        return Oddity.SMALL
    return Oddity.LARGE if all(least <= one / _UNIT <= most for one in times) else None


def _is_of_one_sign_but(value: Mapping[Period, Decimal], month: Period) -> bool:
    return len({amount > 0 for its, amount in value.items() if its != month}) == 1


def _copies(
    values: Sequence[Mapping[Period, Decimal]], months: Sequence[Period]
) -> Iterator[tuple[Period, Oddity, Period | None]]:
    seen: dict[tuple[Decimal | None, ...], Period] = {}
    for month in months:
        amounts = tuple(one.get(month) for one in values)
        told = [one for one in amounts if one and len(one.normalize().as_tuple().digits) >= _LEAST_DIGITS]
        if len(set(told)) < _LEAST_COPIED:
            continue
        if amounts in seen:
            yield month, Oddity.COPIED, seen[amounts]
        seen.setdefault(amounts, month)
