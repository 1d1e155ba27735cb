"""Whether points tie out with their source: added up another way, nothing is missing."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from decimal import Decimal

from marvex.core.compare.plan import Plan
from marvex.core.compare.point import Cell, Point
from marvex.core.compare.result import Check
from marvex.core.compare.side import Span, Stretch
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake
from marvex.core.exact import ZERO, difference, total
from marvex.sources.engine.ledger import DayTotal, Ledger


def ties_out(book: Ledger, plan: Plan, points: Sequence[Point], total_as: TotalAs, rows: Sequence[int]) -> Check:
    """The points added up against the engine's own total of all rows; where they do not add up, their rows."""
    missing = ZERO
    sides = plan.sides
    wholes = book.totals([side.span for side in sides])
    for place, side in enumerate(sides):
        whole = wholes[side.span]
        if not total_as.adds_up:
            missing += abs(whole.rows - rows[place])
            continue
        amounts = [point.base if place else point.current for point in points]
        missing += abs(difference(whole.amount or ZERO, total(amount for amount in amounts if amount is not None)))
    return _checked(missing)


def ties_out_by_day(book: Ledger, spans: Sequence[Span], cells: Sequence[Cell], total_as: TotalAs) -> Check:
    """The figures of each span against those of its days, each day added up by itself."""
    if total_as.is_each:
        wholes = book.totals(spans)
        sums = {span: wholes[span].amount or ZERO for span in spans}
        for cell in cells:
            sums[spans[cell.place]] = difference(sums[spans[cell.place]], cell.amount or ZERO)
        return _checked(total(abs(one) for one in sums.values()))
    by_scenario: dict[str | None, list[DayTotal]] = {}
    for one in book.kept_by_day():
        by_scenario.setdefault(one.scenario, []).append(one)
    found: dict[int, list[Cell]] = {}
    for cell in cells:
        found.setdefault(cell.place, []).append(cell)
    missing = ZERO
    for place, span in enumerate(spans):
        days = [day for stretch in span.stretches for day in _days_in(by_scenario.get(stretch.scenario, []), stretch)]
        if total_as.way is Total.CLOSING and days:
            days = [one for one in days if one.day == max(day.day for day in days)]
        of_span = found.get(place, [])
        if total_as.adds_up:
            amounts = [cell.amount for cell in of_span if cell.amount is not None]
            missing += abs(difference(total(one.amount for one in days), total(amounts)))
        else:
            missing += abs(sum(one.rows for one in days) - sum(cell.rows for cell in of_span))
    return _checked(missing)


def _days_in(days: Sequence[DayTotal], stretch: Stretch) -> Sequence[DayTotal]:
    """Those of the days, which are in order, that a stretch holds."""
    first, last = stretch.as_dated
    assert first is not None and last is not None
    return days[bisect_left(days, first, key=lambda one: one.day) : bisect_right(days, last, key=lambda one: one.day)]


def _checked(missing: Decimal) -> Check:
    if missing:
        raise Mistake(f"the points do not tie out with the source: {missing} is missing", "")
    return Check("ties out", missing)
