"""Plans whose months do not hold a month each: a year's figure in every month, or a quarter's in every third."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from decimal import Decimal

from marvex.app.values_by_month import columns_by_month
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.scenario_words import is_planned
from marvex.core.exact import EXACT, ZERO, total
from marvex.core.time.calendar import Grain, is_finer
from marvex.sources.engine.ledger import Ledger

_LEAST_MONTHS = 3
_ABOUT_A_YEAR = (Decimal(8), Decimal(18))  # months

ByMonth = Mapping[date, Decimal]


def phasing_caution(book: Ledger, comparison: Comparison) -> tuple[str, ...]:
    """That the plan seems to be of years or of quarters, though it stands in months."""
    base = comparison.base
    if base is None or not is_planned(base.scenario):
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
            return (f"{base.scenario} has figures in every third month alone, as if it were kept by quarter",)
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
        return (
            f"{base.scenario} is the same in every month and about twelve times what it is set against, as if each "
            "month held the year's",
        )
    return ()


def _by_month(book: Ledger, scenario: str | None) -> dict[str, ByMonth]:
    """What each value of the first column of names comes to in each month of a scenario."""
    found: dict[str, dict[date, Decimal]] = {}
    seen = set()
    for column in columns_by_month(book):
        if column.source.name in seen:
            continue
        seen.add(column.source.name)
        for name, of_month in column.amounts.items():
            for (its, month), amount in of_month.items():
                if (its or column.source.scenario) == scenario and month is not None:
                    of_name = found.setdefault(name, {})
                    of_name[month] = EXACT.add(of_name.get(month, ZERO), amount or ZERO)
    return dict(found)
