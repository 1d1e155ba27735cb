"""Plans whose months do not hold a month each: a year's figure in every month, or a quarter's in every third.

All of a plan may be so, or some of what is planned.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from decimal import Decimal
from itertools import pairwise

from marvex.app.columns_by_month import columns_by_month
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.scenario_words import is_planned
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.time.calendar import CIVIL, Grain, is_finer
from marvex.core.time.period import periods_within
from marvex.core.words.printable import printable
from marvex.sources.engine.ledger import Ledger

_LEAST_MONTHS = 3
_ABOUT_A_YEAR = (Decimal(8), Decimal(18))  # months
_PARTS = (1, 2, 4)  # of a year, that a figure of a plan may be of
# Months in which the other side has it, of so many a part at least, and within so many times of one another.
_LEAST_EACH, _NEARLY_ALL, _ALIKE = 4, 0.75, 3

ByMonth = Mapping[date, Decimal]


def unlike_phasing(book: Ledger, comparison: Comparison) -> tuple[Reservation, ...]:
    """That the plan seems to be of years or of quarters, though it stands in months."""
    base = comparison.base
    if base is None or not is_planned(base.scenario) or book.is_spread(base.scenario):
        return ()
    if any(
        one.grain and not is_finer(one.grain, Grain.QUARTER) for one in book.scenarios if one.name == base.scenario
    ):
        return ()  # as its dates say
    plan, other = (_by_month(book, one) for one in (base.scenario, comparison.current.scenario))
    if not plan and comparison.every is Grain.MONTH and not book.width:
        dated = [(one.pair.period.first, one) for one in comparison.points if one.pair is not None]
        plan = {"": {month: one.base for month, one in dated if one.base is not None}}
        other = {"": {month: one.current for month, one in dated if one.current is not None}}
    both = {name: of_month for name, of_month in plan.items() if name in other}
    if not both:
        return ()
    of_plan, of_other = (
        {month for of_month in its.values() for month, amount in of_month.items() if amount} for its in (plan, other)
    )
    first = min(of_plan, default=None)
    if first is not None and len(of_plan) >= 2 and len(of_other) > len(of_plan):
        between = {month for month in of_other if first <= month <= max(of_plan)}
        is_third = all(month.month % 3 == first.month % 3 for month in of_plan)
        if is_third and len(between - of_plan) >= len(between) / 2:
            return (
                Reservation(
                    what=f"{base.scenario} has figures in every third month alone, as if it were kept by quarter"
                ),
            )
    are_level = all(len(its) >= _LEAST_MONTHS and len(set(its.values())) == 1 for its in both.values())
    sums = [
        total(
            amount
            for name in both
            for month, amount in its[name].items()
            if month in both[name] and month in other[name]
        )
        for its in (plan, other)
    ]
    least, most = (abs(EXACT.multiply(months, sums[1])) for months in _ABOUT_A_YEAR)
    if are_level and sums[1] and least <= abs(sums[0]) <= most:
        told = f"{base.scenario} is the same in every month and about twelve times what it is set against"
        return (Reservation(what=f"{told}, as if each month held the year's"),)
    return tuple(Reservation(what=one) for one in _by_parts_of_a_year(book, comparison, plan, other))


def _by_parts_of_a_year(
    book: Ledger, comparison: Comparison, plan: Mapping[str, ByMonth], other: Mapping[str, ByMonth]
) -> Iterator[str]:
    """What a plan has in one, two or four months of the year alone, and that is there month by month on the other side.

    Told is only what does not stand for as many months as are compared: four quarters of a plan are those of a year.
    """
    base, window = comparison.base, comparison.current.window
    if base is None or window is None or window.first < book.calendar.start(window.end, Grain.YEAR):
        return
    start, end = (way(window.end, Grain.YEAR) for way in (book.calendar.start, book.calendar.end))
    compared = [period.first for period in periods_within(window, Grain.MONTH, CIVIL)]
    for name, of_month in other.items():
        sizes = {month: abs(amount) for month, amount in of_month.items() if amount and start <= month <= end}
        if len(sizes) < _LEAST_EACH or len(sizes) < _NEARLY_ALL * (1 + (max(sizes) - min(sizes)).days / 30.5):
            continue
        planned = sorted(month for month, one in plan.get(name, {}).items() if one and start <= month <= end)
        held = 12 // len(planned) if planned else 0
        is_even = all((later.month - month.month) % 12 == held for month, later in pairwise(planned))
        if len(planned) not in _PARTS or not is_even:
            continue
        covered = held * sum(month in compared for month in planned)
        if covered != len(compared) and max(sizes.values()) <= _ALIKE * min(sizes.values()):
            alone = "one month of the year alone, as if it"
            if len(planned) > 1:
                alone = f"{len(planned)} months of the year alone, as if each"
            told = f"{base.scenario} has {printable(name) or NO_NAME} in {alone} held {held}"
            yield f"{told}: {covered} months of it stand against {len(compared)}"


def _by_month(book: Ledger, scenario: str | None) -> dict[str, ByMonth]:
    """What each value of the first column of names comes to in each month of a scenario."""
    found: dict[str, dict[date, Decimal]] = {}
    seen = set()
    for column in columns_by_month(book):
        if column.source.facts.place in seen:  # files of several folders may have one name
            continue
        seen.add(column.source.facts.place)
        for name, of_month in column.amounts.items():
            for (its, month), amount in of_month.items():
                if (its or column.source.scenario) == scenario and month is not None:
                    of_name = found.setdefault(name, {})
                    of_name[month] = EXACT.add(of_name.get(month, ZERO), amount or ZERO)
    return dict(found)
