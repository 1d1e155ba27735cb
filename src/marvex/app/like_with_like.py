"""What of a comparison is matched: what one side alone has, and the parts of totals that both sides have rows for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.core.compare.comparison import Basis, Comparison, UnmatchedPart
from marvex.core.compare.matched import matched_sides
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import MatchedPart, Point
from marvex.core.compare.side import Side, Span
from marvex.core.errors import Mistake, listed, setting
from marvex.core.exact import EXACT, ZERO
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import Ledger

Extents = Mapping[tuple[str, str | None], tuple[date, date]]


def like_with_like(book: Ledger, plan: Plan, comparison: Comparison) -> Comparison:
    """The comparison with what is unmatched, and with the matched part of each total whose rows begin or end in it."""
    comparison = replace(comparison, unmatched=_unmatched(book, plan))
    if plan.base is None or not plan.parts or plan.is_chained or plan.basis is Basis.SCENARIO:
        return comparison
    whole = comparison.total
    if book.first.filters:
        whole = _with_matched(book, plan, [whole], by_category=False)[0]
    if not book.width:
        return replace(comparison, total=whole)
    if comparison.every is None:
        return replace(comparison, total=whole, points=_with_matched(book, plan, comparison.points, by_category=True))
    return replace(
        comparison, total=whole, panel_totals=_with_matched(book, plan, comparison.panel_totals, by_category=True)
    )


def with_periods_checked(book: Ledger, plan: Plan, settings: Settings) -> Plan:
    """The plan, with a caution where one side lacks periods that say no year, and all was asked for.

    Raises Mistake where it was not: what is not there yet would be a variance.
    """
    if plan.base is None or book.undated is None:
        return plan
    for current, base in ((plan.current, plan.base), *((one.current, one.base) for one in plan.pairs)):
        now, then = (book.undated.of(side.span) if side else {} for side in (current, base))
        if current and base and now and then and now.keys() != then.keys():
            break
    else:
        return plan
    (lacks, less), (has, more) = (current, now), (base, then)
    if not then.keys() - now.keys():
        (lacks, less), (has, more) = (has, more), (lacks, less)
    which = listed([text for key, text in more.items() if key not in less], 4)
    years = [f"{one.window.last.year}" if one.window else "one side" for one in (lacks, has)]
    is_one = lacks.scenario == has.scenario
    sides = years if is_one else [one.scenario or year for one, year in zip((lacks, has), years, strict=True)]
    column, condition = book.undated.where(has.scenario)
    what = f"{column} says no year, and {sides[0]} has nothing in {which}, which {sides[1]} has"
    if settings.full_base or settings.absent == "zero":
        return replace(plan, cautions=(*plan.cautions, f"{what}: the two sides are not of the same periods"))
    both = ",".join(text for key, text in more.items() if key in less)
    dated = f"Read both as one date with {setting('date', f'{book.first.roles.date},{column}')}"
    first = dated if book.first.roles.date else "Write the year with it, as in Jan 2026"
    kept = f", keep what both have with {setting('where', f'{condition}={both}')}" if both else ""
    raise Mistake(
        f"{book.name}: {what}",
        f"{first}{kept}, or compare all with {setting('full_base')}.",
    )


def _unmatched(book: Ledger, plan: Plan) -> tuple[UnmatchedPart, ...]:
    if not plan.unmatched:
        return ()
    amounts = _amounts(book, [one.side.span for one in plan.unmatched])
    return tuple(
        UnmatchedPart(side=one.side, is_base=one.is_base, amount=amount)
        for one in plan.unmatched
        if (amount := amounts.get(one.side.span)) is not None
    )


def _amounts(book: Ledger, spans: Sequence[Span]) -> dict[Span, Decimal | None]:
    """What each span comes to: of a statement its result, to which income adds and from which costs are taken."""
    result = book.statement.result if book.statement else None
    if book.statement is None or result is None:
        return {span: one.amount for span, one in book.totals(spans).items()}
    signs, found = book.statement.counts_in(result), dict[Span, Decimal | None]()
    for cell in book.cells(spans):
        if cell.amount is not None and (sign := signs.get(cell.category)):
            amount = EXACT.multiply(cell.amount, Decimal(sign))
            found[spans[cell.place]] = EXACT.add(found.get(spans[cell.place]) or ZERO, amount)
    return found


def _with_matched(book: Ledger, plan: Plan, points: Sequence[Point], *, by_category: bool) -> tuple[Point, ...]:
    """The points, each with the part of it in which its rows have begun, and not ended, on both sides."""
    assert plan.base is not None
    extents = book.extents(by_category=by_category)
    found: dict[str, tuple[Side, Side]] = {}
    for point in points:
        name = point.category or "" if by_category else ""
        reach = _extent(extents, name, plan.current), _extent(extents, name, plan.base)
        if point.change is not None and (sides := matched_sides(plan.current, plan.base, plan.parts, reach)):
            found[name] = sides
    if not found:
        return tuple(points)
    spans = list(dict.fromkeys(side.span for sides in found.values() for side in sides))
    cells = book.cells(spans, by_category=by_category)
    figures = {(spans[cell.place], cell.category): cell.amount for cell in cells}

    def with_matched(point: Point) -> Point:
        name = point.category or "" if by_category else ""
        if name not in found:
            return point
        now, then = (figures.get((side.span, name)) for side in found[name])
        if now is None or then is None or (now, then) == (point.current, point.base):
            return point  # what is left out has no rows either, or what is left has none on one side
        return replace(point, matched=MatchedPart(current=now, base=then, sides=found[name]))

    return tuple(with_matched(point) for point in points)


def _extent(extents: Extents, name: str, side: Side) -> tuple[date, date] | None:
    """From the first to the last day of a category in any of the scenarios of a side."""
    scenarios = {one.scenario for one in side.span.stretches}
    found = [extents[name, scenario] for scenario in scenarios if (name, scenario) in extents]
    return (min(first for first, _ in found), max(last for _, last in found)) if found else None
