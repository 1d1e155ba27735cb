"""Balances: the closing date of each side, and the categories that have no figure on it but a little before."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.app.comparing import CheckedComparison
from marvex.core.compare.point import Point, SideOf
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import listed, setting
from marvex.core.words.units import FigureFormat
from marvex.sources.engine.closing_days import closing_end
from marvex.sources.engine.ledger import Ledger


def with_closing(book: Ledger, made: CheckedComparison, total_as: TotalAs) -> CheckedComparison:
    """The comparison of balances with its closing dates, and with what has lapsed before them marked as such."""
    one, plan = made.comparison, made.plan
    if total_as.way is not Total.CLOSING or one.current.window is None:
        return made
    sides = {SideOf.CURRENT: plan.current} | ({SideOf.BASE: plan.base} if plan.base is not None else {})
    now, then = (
        closing_end(book.scenarios, book.calendar, sides[side].span) if side in sides else None for side in SideOf
    )
    one = replace(one, closing=(now, then))
    if total_as.is_each or not book.width or one.every is not None:
        return replace(made, comparison=one)
    spans = {side: plan_side.span for side, plan_side in sides.items()}
    last_days = book.last_days(list(spans.values()))
    amounts: dict[tuple[SideOf, str, date], Decimal | None] = {}
    for side, span in spans.items():
        for day in {day for (of, _), day in last_days.items() if of == span}:
            until = replace(sides[side], stretches=()).within([(span.stretches[0].first or day, day)])
            amounts |= {(side, cell.category, day): cell.amount for cell in book.cells([until.span])}
    lapsed = []

    def marked(point: Point) -> Point:
        for side, span in spans.items():
            amount = point.current if side is SideOf.CURRENT else point.base
            day = last_days.get((span, point.category or ""))
            if amount is None and day is not None:
                lapsed.append((point.category or "", day, amounts.get((side, point.category or "", day))))
                point = replace(point, lapsed=side)
        return point

    points = tuple(marked(point) for point in one.points)
    # What is on neither closing date is no point at all.
    known = {point.category or "" for point in (*points, *made.left_out)}
    for side, span in spans.items():
        gone = [(name, day) for (of, name), day in last_days.items() if of == span and name not in known]
        lapsed += [(name, day, amounts.get((side, name, day))) for name, day in gone]
        known.update(name for name, _ in gone)
    return replace(made, comparison=replace(one, points=points), lapsed=tuple(lapsed))


def closing_cautions(made: CheckedComparison, figures: FigureFormat) -> tuple[str, ...]:
    """What has no figure on the closing date, when it last had one, and what would carry that."""
    if not made.lapsed:
        return ()
    told = [
        (name, f"of {day}" + (f" ({figures.headline(amount)})" if amount is not None else ""))
        for name, day, amount in made.lapsed
    ]
    if len(told) == 1:
        lapsed = f"{told[0][0]} has no figure on the closing date, its last is {told[0][1]}"
    else:
        names = listed((f"{name}, whose last is {last}" for name, last in told), 3)
        lapsed = f"{len(told)} have no figure on the closing date: {names}"
    way_on = f"{setting('total_as', 'closing:each')} takes each category's own last date in the period"
    return (f"{lapsed}: {way_on}",)
