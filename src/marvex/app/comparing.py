"""From a plan of two sides to a comparison: the cells are asked for, put side by side, and tied out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal

from marvex.app.like_with_like import like_with_like
from marvex.app.tie_out import ties_out, ties_out_by_day
from marvex.app.totals_among import by_side, totals_among
from marvex.core.compare.comparison import Comparison, compare
from marvex.core.compare.history import with_unusual
from marvex.core.compare.plan import Plan
from marvex.core.compare.point import Cell, Kind, PanelsOf, Point, SideOf, total_of
from marvex.core.compare.ranking import Arrangement, Keep, Order, arranged, arranged_panels, arrangement, by_panel
from marvex.core.compare.result import Check
from marvex.core.compare.side import Pair, Side, Span
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake, setting
from marvex.core.time.timeline import busy_days, merged, points_along
from marvex.core.values import dataclass
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import Ledger


@dataclass(frozen=True, slots=True)
class Lapsed:
    """A category that has no figure on a closing date, but one before it.

    Parameters
    ----------
    name : empty where there are no categories.
    day : the last on which it has one, before the last of so many closing dates; `amount` is that day's.
    is_shown : it has one a little before it, or on the other side's.
    """

    name: str
    times: int
    day: date
    amount: Decimal | None
    is_shown: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class CheckedComparison:
    """A comparison with its plan and its check.

    Parameters
    ----------
    left_out : the categories that are not comparable.
    kept_totals : the categories that are added up with their own parts, as was asked.
    zeroed : the points with a side without rows that counts as nothing.
    lapsed : of balances, what has no figure on a closing date.
    """

    plan: Plan
    comparison: Comparison
    ties_out: Check
    rows_used: int
    left_out: tuple[Point, ...] = ()
    kept_totals: tuple[str, ...] = ()
    zeroed: tuple[Point, ...] = ()
    lapsed: tuple[Lapsed, ...] = ()


def totals_of_both(book: Ledger, plan: Plan, settings: Settings) -> tuple[str, ...]:
    """The categories that are totals of others as the figures of both sides say, and count with them as was asked.

    Raises Mistake where there is one and that was not asked.
    """
    now, then = by_side(book, plan)
    return totals_among(book, compare(now, then, book.in_given_order(now, then)), are_kept=settings.keeps_totals)


def compared(book: Ledger, plan: Plan, total_as: TotalAs, settings: Settings) -> CheckedComparison:
    """The comparison that a plan asks for, before anything is put in order or gathered.

    Raises Mistake where there are no rows, or where the points do not tie out with the source.
    """
    spans = [side.span for side in plan.sides]
    *rows, used = book.rows_in([*spans, Span(merged(plan.sides))])
    if not any(rows):
        raise Mistake(
            "no rows in the window have an amount" + (f" and pass {setting('where')}" if book.first.narrowed else ""),
            "Ask for another window or keep more rows.",
        )
    now, then = by_side(book, plan) if book.width else ((), ())
    categories = compare(now, then, book.in_given_order(now, then, by_calendar=settings.order != "given"))
    kept_totals: tuple[str, ...] = ()
    if not settings.is_of_list and total_as.adds_rows and total_as.per is None:
        kept_totals = totals_among(book, categories, are_kept=settings.keeps_totals)
    if plan.every is not None:
        one = _along_time(book, plan, total_as, categories, used)
    else:
        one = _by_category(book, plan, total_as, categories, (now, then), used)
    one = replace(one, comparison=like_with_like(book, plan, one.comparison))
    if book.first.roles.inner:
        one = replace(one, comparison=_with_parts(book, one.comparison))
    return replace(one, kept_totals=kept_totals)


def _by_category(
    book: Ledger,
    plan: Plan,
    total_as: TotalAs,
    points: tuple[Point, ...],
    cells: tuple[tuple[Cell, ...], tuple[Cell, ...]],
    used: int,
) -> CheckedComparison:
    whole = total_of(points) if total_as.adds_up else whole_point(book, plan, None)
    rows = [sum(cell.rows for cell in side) for side in cells]
    comparison = Comparison(
        current=plan.current, base=plan.base, points=_with_history(book, plan, points), total=whole, basis=plan.basis
    )
    check = ties_out(book, plan, points, total_as, rows)
    return CheckedComparison(
        plan=plan, comparison=comparison, ties_out=check, rows_used=_rows_used(book, plan, total_as, rows, used)
    )


def _with_history(book: Ledger, plan: Plan, points: tuple[Point, ...]) -> tuple[Point, ...]:
    """The points with how unusual their changes are, where that is asked for."""
    if not plan.earlier:
        return points
    spans = _spans_of(plan.earlier)
    cells = book.cells(spans, by_category=bool(book.width))
    return with_unusual(points, plan.earlier, _by_span(spans, cells))


def _spans_of(pairs: Sequence[Pair]) -> list[Span]:
    """What is asked for both sides of some pairs, each span once."""
    sides = (side for pair in pairs for side in (pair.current, pair.base) if side is not None)
    return list(dict.fromkeys(side.span for side in sides))


def _by_span(spans: Sequence[Span], cells: Sequence[Cell]) -> dict[tuple[Span, str], Decimal | None]:
    """The figure of each span and category; the category is empty where there are none."""
    return {(spans[cell.place], cell.category): cell.amount for cell in cells}


def _rows_used(book: Ledger, plan: Plan, total_as: TotalAs, rows: Sequence[int], used: int) -> int:
    """How many rows both sides are made of together, each counted once.

    Parameters
    ----------
    rows : those of each figure, for balances, which are of some days only.
    used : those in both windows.
    """
    if total_as.way is Total.CLOSING:
        return sum(rows)
    # Both sides of a row are one row where they are columns of it.
    if book.first.roles.sides_are_columns:
        return book.rows_across([side.span for side in plan.sides])
    return used


def _along_time(
    book: Ledger, plan: Plan, total_as: TotalAs, categories: tuple[Point, ...], used: int
) -> CheckedComparison:
    """Each period of the plan as a point, within a panel for each category where there are some."""
    assert plan.every is not None
    spans = _spans_of(plan.pairs)
    # Without categories the whole is asked for together with its periods, so that the rows are gone through once.
    wholes = [] if book.width else [side.span for side in plan.sides]
    asked = list(dict.fromkeys((*spans, *wholes)))
    found = book.cells(asked, by_category=bool(book.width))
    known = {asked[cell.place]: cell.amount for cell in found} if wholes else None
    cells = tuple(cell for cell in found if cell.place < len(spans))
    # A balance may be there in one period and gone at the end, so that the whole does not have it.
    panels = [name for _, name in book.in_given_order(cells)] if book.width else [None]
    points = busy_days(points_along(plan.pairs, _by_span(spans, cells), panels), plan.every)
    points = _with_volumes(points, {(spans[cell.place], cell.category): cell.volume for cell in cells})
    whole = whole_point(book, plan, None, is_sum=total_as.adds_up_over_time, known=known)
    if None in (whole.current, whole.base):
        # Along time a side without a figure is missing: the whole is neither new nor ended.
        whole = replace(whole, lapsed=SideOf.BASE if whole.base is None else SideOf.CURRENT)
    by_name = {point.category: point for point in categories}
    totals = tuple(
        replace(
            by_name.get(name, Point(category=name, current=None, base=None)),
            name=whole.name,
            panels=PanelsOf.CATEGORIES,
            kind=Kind.TOTAL,
        )
        for name in panels
        if name is not None
    )
    points = _with_history(book, plan, points)
    beyond = _beyond(book, plan, panels)
    comparison = Comparison(
        current=plan.current,
        base=plan.base,
        points=points,
        total=whole,
        basis=plan.basis,
        every=plan.every,
        panel_totals=totals,
        has_total=not plan.is_chained,
        is_chained=plan.is_chained,
        beyond=beyond,
        last=None if not plan.is_chained or not book.width else _last_whole(book, points, whole),
    )
    used = _rows_used(book, plan, total_as, [cell.rows for cell in cells], used)
    return CheckedComparison(
        plan=plan, comparison=comparison, ties_out=ties_out_by_day(book, spans, cells, total_as), rows_used=used
    )


def _last_whole(book: Ledger, points: Sequence[Point], whole: Point) -> Point | None:
    """The last period in which any category can be compared, of all of them together."""
    pairs = sorted(
        (one.pair for one in points if one.pair and one.change is not None), key=lambda one: one.period.first
    )
    if not pairs:
        return None
    pair = pairs[-1]
    figures = book.totals([side.span for side in (pair.current, pair.base) if side is not None])
    now, then = (figures[side.span].amount if side is not None else None for side in (pair.current, pair.base))
    return replace(whole, name=None, kind=Kind.POINT, pair=pair, current=now, base=then)


def _beyond(book: Ledger, plan: Plan, panels: Sequence[str | None]) -> tuple[Point, ...]:
    """What the base comes to in the periods that the current side has not reached."""
    spans = _spans_of(plan.beyond)
    figures = _by_span(spans, book.cells(spans, by_category=bool(book.width)))
    return tuple(point for point in points_along(plan.beyond, figures, panels) if point.base is not None)


def _with_volumes(points: tuple[Point, ...], volumes: Mapping[tuple[Span, str], Decimal | None]) -> tuple[Point, ...]:
    """The points along time with the volumes of both their sides, where those were asked for."""
    if all(volume is None for volume in volumes.values()):
        return points

    def volume_of(point: Point, side: Side | None) -> Decimal | None:
        return None if side is None else volumes.get((side.span, point.panel or ""))

    return tuple(
        replace(point, volumes=(volume_of(point, point.pair.base), volume_of(point, point.pair.current)))
        if point.pair
        else point
        for point in points
    )


def _with_parts(book: Ledger, one: Comparison) -> Comparison:
    """The comparison with what each point, and each panel, is made of one level down."""
    points = (*one.points, *one.panel_totals)
    sides = [side for point in points for side in point.sides(one.current, one.base) if side is not None]
    spans = list(dict.fromkeys(side.span for side in sides))
    figures: dict[tuple[Span, str], dict[str, Decimal]] = {}
    volumes: dict[tuple[Span, str], dict[str, Decimal]] = {}
    for cell in book.parts(spans):
        if cell.amount is not None:
            figures.setdefault((spans[cell.place], cell.category), {})[cell.part] = cell.amount
        if cell.volume is not None:
            volumes.setdefault((spans[cell.place], cell.category), {})[cell.part] = cell.volume

    def with_parts(point: Point) -> Point:
        category = point.category or ""
        now, then = (
            figures.get((side.span, category), {}) if side else {} for side in point.sides(one.current, one.base)
        )
        # Volumes come with the amounts of a side, and so under the same names.
        sizes = [
            volumes.get((side.span, category), {}) if side else {} for side in point.sides(one.current, one.base)
        ]
        parts = (
            Point(
                category=name,
                current=now.get(name),
                base=then.get(name),
                volumes=(sizes[1].get(name), sizes[0].get(name)) if volumes else None,
            )
            for name in dict.fromkeys((*now, *then))
        )
        return replace(point, parts=tuple(sorted(parts, key=lambda part: (-abs(part.movement), part.label))))

    points, totals = (tuple(with_parts(point) for point in group) for group in (one.points, one.panel_totals))
    return replace(one, points=points, panel_totals=totals)


def whole_point(
    book: Ledger,
    plan: Plan,
    among: Sequence[str] | None,
    *,
    is_sum: bool = False,
    known: Mapping[Span, Decimal | None] | None = None,
) -> Point:
    """The point over all rows, or those of some categories, worked out by the engine and not added up.

    Parameters
    ----------
    known : the figures of both sides, where they have been asked for already.
    """
    spans = [side.span for side in plan.sides]
    if known is None:
        known = {spans[cell.place]: cell.amount for cell in book.cells(spans, by_category=False, among=among)}
    amounts = [*(known.get(span) for span in spans), None]
    return Point(
        name="Total" if is_sum else "Total (not a sum)", current=amounts[0], base=amounts[1], kind=Kind.TOTAL
    )


def in_arrangement(
    book: Ledger, all_compared: Sequence[CheckedComparison], settings: Settings, total_as: TotalAs
) -> list[CheckedComparison]:
    """The comparisons in the order asked for, the categories that are not kept gathered as Other."""
    order = Order(settings.order) if settings.order else None
    keep = keep_of(settings)
    comparisons = [one.comparison for one in all_compared]
    is_timed = comparisons[0].every is not None
    if is_timed and not comparisons[0].panel_totals:
        for field, is_said in (("order", order not in (None, Order.GIVEN)), ("keep", keep is not None)):
            if is_said:
                raise Mistake(
                    f"{setting(field)} is about categories: points along time stay in calendar order",
                    f"Name a column with {setting('by')}, or leave it out.",
                )
    plan = arrangement([by_panel(one) if is_timed else one for one in comparisons], order, keep)
    return [replace(one, comparison=_arranged(book, one, plan, total_as)) for one in all_compared]


def keep_of(settings: Settings) -> Keep | None:
    """How many points are kept, where that is asked for."""
    asked = settings.keep
    return Keep(asked.count, from_bottom=asked.word == "bottom", alone=asked.alone) if asked else None


def _arranged(book: Ledger, one: CheckedComparison, plan: Arrangement, total_as: TotalAs) -> Comparison:
    gathered = [label for _, label in plan.gathered]
    if one.comparison.every is None:
        other = None if total_as.adds_up or not gathered else whole_point(book, one.plan, gathered)
        return arranged(one.comparison, plan, other)
    if not gathered:
        return arranged_panels(one.comparison, plan, (), None)
    pairs = one.plan.pairs
    spans = _spans_of(pairs)
    cells = book.cells(spans, by_category=False, among=gathered)
    points = points_along(pairs, _by_span(spans, cells), [None])
    whole = whole_point(book, one.plan, gathered, is_sum=total_as.adds_up_over_time)
    return arranged_panels(one.comparison, plan, points, whole)
