"""Months that are not as the others of their series: signed the other way round, in thousands, copied, not whole."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from decimal import Decimal
from enum import Enum
from itertools import pairwise
from statistics import median
from typing import Generic, TypeVar

from marvex.core.values import dataclass

LEAST_MONTHS = 6  # with amounts, of each of the values that tell
_LEAST_VALUES, _LEAST_COPIED, _LEAST_DIGITS = 2, 3, 3
_LEAST_OTHERS, _LOOKED_BACK = 3, 12  # months that have what one has not
_COME_AND_GO = 4  # of so many values one may be there in all months but two or three
# An amount is odd where so many others are within so many times of one another, and it is so many times beyond them.
_LEAST_BEFORE, _ALIKE, _FAR = 8, 3, 8
_LEAST_EFFECT, _MOST_ODD = Decimal("0.02"), 3  # of what all values usually come to in a month, by size
_TWICE, _NEARLY = 1.75, 1.25  # about twice as many, where the others are as many as one another
_LEAST_STEPS, _STEP = 4, (Decimal("0.5"), Decimal(2))  # from a month to the next, in amounts of the first
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
    TO_DATE = "holds those of its year before it"


def odd_months(
    values: Sequence[Mapping[Period, Decimal]],
    months: Sequence[Period],
    *,
    may_be_alike: bool,
    year_so_far: Callable[[Period], Sequence[Period]] | None = None,
) -> Iterator[tuple[Period, Oddity, Period | None]]:
    """The months in which all values at once are other than in the rest of them, with the one that each is a copy of.

    Parameters
    ----------
    values : of each its amounts by month.
    months : in their order.
    may_be_alike : the amounts of a plan are often those of the month before.
    year_so_far : the months of a month's year before it.

    >>> fares, fuel = [410, 425, -418, 433, 402, 441], [122, 131, -125, 119, 128, 133]
    >>> both = [dict(enumerate(map(Decimal, one))) for one in (fares, fuel)]
    >>> list(odd_months(both, range(6), may_be_alike=False))
    [(2, <Oddity.TURNED: 'has the other sign throughout'>, None)]
    >>> fares, fuel = [410, 425, 418, 433, 402, 2530], [122, 131, 125, 119, 128, 754]
    >>> both = [dict(enumerate(map(Decimal, one))) for one in (fares, fuel)]
    >>> list(odd_months(both, range(6), may_be_alike=False, year_so_far=range))
    [(5, <Oddity.TO_DATE: 'holds those of its year before it'>, None)]
    """
    filled = [{month: amount for month, amount in one.items() if amount} for one in values]
    of_many = [one for one in filled if len(one) >= LEAST_MONTHS]
    usual = [Decimal(median(one.values())) for one in of_many]
    found = [(month, oddity, None) for month in months if (oddity := _oddity(of_many, usual, month)) is not None]
    before = {month: year_so_far(month) if year_so_far else () for month in months}
    to_date = [(one, Oddity.TO_DATE, None) for one in months if _is_to_date(of_many, usual, one, before[one])]
    copies = [] if may_be_alike else list(_copies(filled, months))
    for odd in (found, to_date, copies):
        if len(odd) * _MOST <= len(months):
            yield from odd


def lacking(
    values: Mapping[str, Mapping[Period, Decimal]],
    months: Sequence[Period],
    year_before: Callable[[Period], Period] = lambda month: month,
) -> tuple[tuple[Period, tuple[str, ...], int], ...]:
    """The months without an amount of what each other month has, with the names of that, and how many the others are.

    Not told is what is little by its size beside all that each month has; what is new in the second month; what the
    same month of the year before has not either; and nothing where many values come and go, or many months lack one.

    Parameters
    ----------
    values : of each its amounts by month.
    months : in their order; the latest of them are looked at.

    >>> fares, fuel, crew = ({month: Decimal(9) for month in range(size)} for size in (6, 5, 5))
    >>> lacking({"Fares": fares, "Fuel": fuel, "Crew": crew}, range(6))
    ((5, ('Fuel', 'Crew'), 5),)
    """
    recent = months[-_LOOKED_BACK:]
    if len(recent) <= _LEAST_OTHERS:
        return ()
    missed = {name: [month for month in recent if not one.get(month)] for name, one in values.items()}
    whole = [name for name, its in missed.items() if not its]
    if _COME_AND_GO * sum(len(its) in (2, 3) for its in missed.values()) > len(whole):
        return ()
    sizes = {name: Decimal(median(abs(amount) for amount in one.values())) for name, one in values.items() if one}
    found = []
    for month in recent[1:]:
        names = tuple(name for name, its in missed.items() if its == [month])
        before = year_before(month)
        if before != month and before in months:
            names = tuple(name for name in names if values[name].get(before))
        size = sum(sizes[name] for name in names)
        if whole and names and size >= _LEAST_EFFECT * (size + sum(sizes[name] for name in whole)):
            found.append((month, names, len(recent) - 1))
    return tuple(found) if len(found) * _MOST <= len(recent) else ()


@dataclass(frozen=True, slots=True, kw_only=True)
class OddAmount(Generic[Period]):
    """An amount far from all others of its value, which are alike: `count` of them, from `least` to `most` by size."""

    name: str
    month: Period
    amount: Decimal
    least: Decimal
    most: Decimal
    count: int


def odd_amounts(values: Mapping[str, Mapping[Period, Decimal]]) -> tuple[OddAmount[Period], ...]:
    """The amounts of a month that are of the other sign than all others of their value, or many times more or less.

    Told is only what matters beside a usual month of all values, and none where there are many.

    >>> fuel = dict(enumerate(map(Decimal, (41, 45, 42, 44, 420, 43, 45, 41, 46))))
    >>> [(one.month, str(one.amount), str(one.least), str(one.most)) for one in odd_amounts({"Fuel": fuel})]
    [(4, '420', '41', '46')]
    """
    usual = sum(Decimal(median(map(abs, one.values()))) for one in values.values() if one)
    found = []
    for name, amounts in values.items():
        for month in _ends(amounts):
            rest = sorted((amount for other, amount in amounts.items() if other != month), key=abs)
            effect = abs(amounts[month] - Decimal(median(rest))) if rest else 0
            if effect >= _LEAST_EFFECT * usual and _is_beyond(amounts[month], rest):
                least, *_, most = rest
                odd = OddAmount(
                    name=name, month=month, amount=amounts[month], least=least, most=most, count=len(rest)
                )
                found.append(odd)
    return tuple(found) if len(found) <= _MOST_ODD else ()


def doubled(counts: Mapping[Period, int], amounts: Mapping[Period, Decimal]) -> Period | None:
    """The month with about twice as many amounts as each other month, or more, and with about twice what those come to.

    >>> doubled(dict(enumerate((4, 4, 8, 4, 4))), dict(enumerate(map(Decimal, (110, 118, 241, 121, 109)))))
    2
    """
    if len(counts) <= _LEAST_OTHERS:
        return None
    month = max(counts, key=counts.__getitem__)
    others = [one for other, one in counts.items() if other != month]
    if not 2 <= median(others) <= counts[month] / _TWICE or max(others) > _NEARLY * min(others):
        return None
    of_them = [abs(one) for other, one in amounts.items() if other != month]
    return month if abs(amounts[month]) >= Decimal(_TWICE) * max(of_them) else None


def runs_on(amounts: Sequence[Decimal]) -> bool:
    """Whether the amounts of the months of a year, in their order, each hold those before them, as their steps show.

    Each adds about what the first month has: from half to twice as much.

    >>> [runs_on(list(map(Decimal, one))) for one in ((9, 19, 30, 38, 49), (9, 10, 9, 11, 10), (9, 10, 30, 31, 49))]
    [True, False, False]
    """
    steps = (
        [later / amounts[0] for later in (later - one for one, later in pairwise(amounts))] if all(amounts) else []
    )
    return len(steps) >= _LEAST_STEPS and all(_STEP[0] <= one <= _STEP[1] for one in steps)


def is_taken_over(
    values: Sequence[Mapping[Period, Decimal]], planned: Sequence[Mapping[Period, Decimal]], months: Sequence[Period]
) -> bool:
    """Whether every value has in the last month the very amount that is planned of it, as few others do.

    >>> actual, plan = ({1: 412, 2: 40, 3: 451}, {1: 333, 3: 317}, {1: 7, 3: 129}), ({3: 451}, {1: 3, 3: 317}, {3: 129})
    >>> sides = [[{at: Decimal(one) for at, one in each.items()} for each in side] for side in (actual, plan)]
    >>> is_taken_over(*sides, [1, 2, 3])
    True
    """
    both = {month: [tuple(one.get(month) for one in side) for side in (values, planned)] for month in months}
    same = [month for month, (own, plan) in both.items() if own == plan and _tell(own)]
    return months[-1:] == same[-1:] != [] and len(same) * _MOST <= len(months)


def _tell(amounts: Sequence[Decimal | None]) -> bool:
    """Whether amounts are so many and so long that they are not the same as others by chance."""
    told = {one for one in amounts if one and len(one.normalize().as_tuple().digits) >= _LEAST_DIGITS}
    return len(told) >= _LEAST_COPIED


def _ends(amounts: Mapping[Period, Decimal]) -> set[Period]:
    """The months that could be odd: of the smallest and the largest amount by size, and that of a sign of its own."""
    by_size = sorted(amounts, key=lambda month: abs(amounts[month]))
    up, down = ([month for month in by_size if (amounts[month] > 0) is is_up] for is_up in (True, False))
    return {*by_size[:1], *by_size[-1:], *(one[0] for one in (up, down) if len(one) == 1)}


def _is_beyond(amount: Decimal, rest: Sequence[Decimal]) -> bool:
    """Whether an amount is unlike all others, which are in order of their size and like one another."""
    least, most = abs(rest[0]), abs(rest[-1])
    if len(rest) < _LEAST_BEFORE or most > _ALIKE * least or len({one > 0 for one in rest}) > 1:
        return False
    if (amount > 0) is not (rest[0] > 0):
        return abs(amount) * _ALIKE >= least
    return abs(amount) >= _FAR * most or abs(amount) * _FAR <= least


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


def _is_to_date(
    values: Sequence[Mapping[Period, Decimal]], usual: Sequence[Decimal], month: Period, before: Sequence[Period]
) -> bool:
    """Whether each value has in a month what it has in those before it together, and about a usual month more."""
    if len(before) < _LEAST_OTHERS:
        return False
    more = [
        (one[month] - sum(one.get(other, Decimal(0)) for other in before)) / whole
        for one, whole in zip(values, usual, strict=True)
        if month in one and whole
    ]
    least, most = _LIKE
    return len(more) >= _LEAST_VALUES and all(least <= one <= most for one in more)


def _is_of_one_sign_but(value: Mapping[Period, Decimal], month: Period) -> bool:
    return len({amount > 0 for its, amount in value.items() if its != month}) == 1


def _copies(
    values: Sequence[Mapping[Period, Decimal]], months: Sequence[Period]
) -> Iterator[tuple[Period, Oddity, Period | None]]:
    seen: dict[tuple[Decimal | None, ...], Period] = {}
    for month in months:
        amounts = tuple(one.get(month) for one in values)
        if not _tell(amounts):
            continue
        if amounts in seen:
            yield month, Oddity.COPIED, seen[amounts]
        seen.setdefault(amounts, month)
