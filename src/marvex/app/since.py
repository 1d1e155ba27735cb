"""`--since`: the windows of an earlier run are asked again of today's source, point by point."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.app.session import Session
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.compare.side import Span
from marvex.core.compare.since import EarlierPoint, Rebanded, Restated, Since
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO
from marvex.core.rules.conditions import Quantity
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger

_ASKED_AGAIN = ("point", "line", "step", "total")
_OF_FELLOWS = (Quantity.SHARE, Quantity.RANK, Quantity.UNUSUAL, Quantity.CONTRIBUTION)
Days = tuple[date, date]


def with_since(session: Session, request: Request, analysis: Analysis) -> Analysis:
    """The analysis with what has changed since an earlier run, where one is named."""
    path = request.settings.since
    if path is None:
        return analysis
    from marvex.request.figures_file import earlier_points

    points, *scenarios = earlier_points(path)
    book = session.ledger(request)
    known = {one.name for one in book.scenarios}
    for scenario in scenarios:
        if scenario is not None and scenario not in known and not request.settings.current:
            raise Mistake(
                f"{setting('since')} {path.name} is of {scenario}, and the data have no such scenario",
                "Name the figures of a run of one scenario against another, or against another time.",
            )
    sides = (scenarios[0], scenarios[1] or scenarios[0])
    now, then = _figures_today(book, points, sides)
    today = {(one.point.panel, one.point.label): one.point for one in analysis.first.shown}
    restated, rebanded = [], []
    judges_alone = not any(analysis.first.rules.asks_for(quantity) for quantity in _OF_FELLOWS)
    # What drove a change is worked out, and no row is of it.
    made = {driver.name for one in analysis.first.comparison.points for driver in one.drivers}
    for point in points:
        if point.kind == "step" and (point.label in made or request.settings.walk == "matched"):
            continue
        like = today.get(point.key)
        name = _category(point, like, book)
        if name is None:
            continue
        found = [_of(now, point.days, name), _of(then, point.base_days, name)]
        if point.state.startswith("not in"):
            found = [ZERO if amount is None else amount for amount in found]
        for is_base, was, amount in ((False, point.current, found[0]), (True, point.base, found[1])):
            days = point.base_days if is_base else point.days
            if was != amount and days is not None:
                span = _span(book, sides[is_base], days)
                restated.append(Restated(point=point, is_base=is_base, was=was, now=amount, span=span, category=name))
        if point.band is not None and judges_alone and point.kind != "total":
            again = replace(like or Point(category=name, current=None, base=None), current=found[0], base=found[1])
            band = analysis.first.rules.judge(again)
            if band is not None and band.name != point.band:
                rebanded.append(Rebanded(point=point, was=point.band, now=band.name))
    name = request.since_name or path.name
    since = Since(file=name, restated=tuple(restated), rebanded=tuple(rebanded))
    if request.since_name and not since.has_changed:
        return analysis
    return replace(analysis, since=since, since_is_gate=request.settings.since_gate)


def _figures_today(
    book: Ledger, points: tuple[EarlierPoint, ...], scenarios: tuple[str | None, str | None]
) -> tuple[Mapping[tuple[Days, str], Decimal | None], Mapping[tuple[Days, str], Decimal | None]]:
    """Today's figure of each span and category, on either side; the category is empty for all of them."""
    found = []
    for scenario, days in (
        (scenarios[0], [point.days for point in points]),
        (scenarios[1], [point.base_days for point in points]),
    ):
        asked = list(dict.fromkeys(one for one in days if one is not None))
        spans = [span for one in asked if (span := _span(book, scenario, one)) is not None]
        cells = [*book.cells(spans, by_category=False), *(book.cells(spans) if book.width else ())]
        figures: dict[tuple[Days, str], Decimal | None] = {}
        for cell in cells:
            figures.setdefault((asked[cell.place], cell.category), cell.amount)
        found.append(figures)
    return found[0], found[1]


def _span(book: Ledger, scenario: str | None, days: Days) -> Span | None:
    """What is asked of a scenario for some days; None where the data have no such scenario."""
    dates = next((one for one in book.scenarios if one.name == scenario), None)
    return None if dates is None else Span((dates.stretch(*days),))


def _of(figures: Mapping[tuple[Days, str], Decimal | None], days: Days | None, name: str) -> Decimal | None:
    return None if days is None else figures.get((days, name))


def _category(point: EarlierPoint, like: Point | None, book: Ledger) -> str | None:
    """The category that an earlier point is of, empty for all of them; None where it is made of others."""
    if point.kind not in _ASKED_AGAIN or point.label.startswith("Other ("):
        return None
    if like is not None:
        is_made = like.is_cost is not None and like.kind in (Kind.TOTAL, Kind.RATIO)
        return None if is_made else (like.category or "")
    if point.kind == "total":
        return point.panel or ""
    return point.label if book.width else ""
