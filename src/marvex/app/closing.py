"""Balances: the closing date of each side, and the categories that have no figure on it but a little before."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from operator import itemgetter

from marvex.app.comparing import CheckedComparison, Lapsed
from marvex.core.compare.point import Cell, Point, SideOf
from marvex.core.compare.reservation import Reservation
from marvex.core.compare.side import Side, Span
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
    now, then = (
        closing_end(book.scenarios, book.calendar, side.span) if side else None for side in (plan.current, plan.base)
    )
    return _with_lapsed(book, replace(made, comparison=replace(one, closing=(now, then))), is_each=total_as.is_each)


def _with_lapsed(book: Ledger, made: CheckedComparison, *, is_each: bool) -> CheckedComparison:
    """The same with what has no row on a closing date, of all or of each period along time, and its last before it.

    What has none on any is not there at all, however long before it had its last.
    """
    one, plan = made.comparison, made.plan
    pairs = plan.pairs if one.every is not None else (plan,)
    sides = {side.span: side for pair in pairs for side in (pair.current, pair.base) if side is not None}
    spans = list(sides)
    there = {(spans[cell.place], cell.category) for cell in _cells(book, spans) if cell.amount is not None}
    gone = {} if is_each else {key: day for key, day in book.last_days(spans).items() if key not in there}
    shown = {*(name for _, name in there), *(name for _, name in gone)}
    dropped = {key: day for key, day in book.last_days(spans, is_whole=True).items() if key[1] not in shown}
    days: dict[str, list[tuple[date, Side]]] = {}
    for (span, name), day in (*gone.items(), *dropped.items()):
        days.setdefault(name, []).append((day, sides[span]))
    last = {name: max(found, key=itemgetter(0)) for name, found in days.items()}
    until = {
        name: replace(side, stretches=()).within([(side.span.stretches[0].first or day, day)]).span
        for name, (day, side) in last.items()
    }
    asked = list(dict.fromkeys(until.values()))
    amounts = {(asked[cell.place], cell.category): cell.amount for cell in _cells(book, asked)}
    lapsed = tuple(
        Lapsed(name, len(days[name]), day, amounts.get((until[name], name)), is_shown=name in shown)
        for name, (day, _) in last.items()
    )

    def marked(point: Point) -> Point:
        for of, side, amount in ((SideOf.CURRENT, plan.current, point.current), (SideOf.BASE, plan.base, point.base)):
            if side is not None and amount is None and (side.span, point.category or "") in gone:
                point = replace(point, lapsed=of)
        return point

    points = one.points if one.every is not None else tuple(map(marked, one.points))
    return replace(made, comparison=replace(one, points=points), lapsed=lapsed)


def _cells(book: Ledger, spans: list[Span]) -> Sequence[Cell]:
    return book.cells(spans, by_category=bool(book.width))


def lapsed_balances(made: CheckedComparison, figures: FigureFormat) -> tuple[Reservation, ...]:
    """What has no figure on the closing date, when it last had one, and what would carry that."""
    found = [one for one in made.lapsed if one.is_shown]
    dropped = [one for one in made.lapsed if not one.is_shown]

    def dates(one: Lapsed) -> str:
        return "the closing date" if one.times == 1 else f"{one.times} closing dates"

    def last(one: Lapsed) -> str:
        return f"of {one.day}" + (f" ({figures.headline(one.amount)})" if one.amount is not None else "")

    told: tuple[Reservation, ...] = ()
    if dropped:
        each = listed((f"{one.name or 'what is kept'}, whose last is {last(one)}" for one in dropped), 3)
        told = (Reservation(what=f"not shown, having no figure on a closing date: {each}"),)
    if not found:
        return told
    if len(found) == 1:
        one = found[0]
        lapsed = f"{one.name or 'what is kept'} has no figure on {dates(one)}, its last is {last(one)}"
    else:
        each = listed((f"{one.name}, whose last before {dates(one)} is {last(one)}" for one in found), 3)
        lapsed = f"{len(found)} have no figure on a closing date: {each}"
    way_on = f"{setting('total_as', 'closing:each')} takes each category's own last date in the period"
    return (Reservation(what=lapsed, mend=way_on), *told)
