"""Small multiples: the points of a comparison in a panel for each value of a column, or for each period."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from marvex.app.comparing import CheckedComparison, keep_of
from marvex.core.compare.comparison import Comparison, last_compared
from marvex.core.compare.point import Kind, PanelsOf, Point, in_panels, total_of
from marvex.core.compare.ranking import Arrangement, Order, arranged, arrangement
from marvex.core.compare.result import Analysis
from marvex.core.compare.side import Pair
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import Mistake, setting
from marvex.core.exact import difference
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, completed, completed_in_panels, with_lines
from marvex.core.words.period_names import panel_title
from marvex.core.words.wording import small_finding
from marvex.request.axis import has_period_panels
from marvex.request.settings import Settings
from marvex.sources.engine.ledger import Ledger

MOST = 36


def of_statement(book: Ledger, one: CheckedComparison, statement: Statement, settings: Settings) -> CheckedComparison:
    """The comparison as a statement, or as one in each panel, whose total is its result."""
    panels_by = settings.panels_by
    if has_period_panels(settings):
        along = completed(one.comparison, statement)
        points = _turned_round(along)
        result = along.total.category
        totals = [replace(point, name="Total", is_cost=None) for point in points if point.category == result]
        comparison = replace(along, points=points, panel_totals=tuple(totals))
    elif panels_by is not None:
        if one.comparison.every is not None:
            raise Mistake(
                f"{setting('every')} makes panels of the lines, and {setting('panels_by')} {panels_by} of its own",
                "Leave one of them out.",
            )
        known = {part.label for line in one.comparison.points for part in line.parts}
        names = [name for name in book.parts_in_given_order() if name in known]
        comparison = completed_in_panels(one.comparison, statement, names)
    else:
        return replace(one, comparison=with_lines(completed(one.comparison, statement), statement, settings.lines))
    _check_number(len(comparison.panel_totals), str(panels_by))
    return replace(one, comparison=with_lines(comparison, statement, settings.lines))


def by_column(book: Ledger, one: CheckedComparison, total_as: TotalAs, settings: Settings) -> CheckedComparison:
    """The comparison of the panels as one of the categories within each.

    Parameters
    ----------
    one : compared by the panels' column, each point with its parts.
    """
    given = {name: place for place, name in enumerate(book.parts_in_given_order())}
    totals, points = [], []
    for whole in one.comparison.points:
        parts = sorted(whole.parts, key=lambda part: given.get(part.label, len(given)))
        points += [replace(part, group=whole.category, panels=PanelsOf.GROUPS) for part in parts]
        own = replace(whole, category=None, group=whole.category, panels=PanelsOf.GROUPS)
        totals.append(replace(own, name="Total", kind=Kind.TOTAL, parts=()))
    if total_as.adds_up:
        _check_parts_add_up(points, totals)
    comparison = replace(one.comparison, points=tuple(points), panel_totals=tuple(totals))
    return replace(one, comparison=_arranged_within(comparison, total_as, settings))


def by_period(book: Ledger, one: CheckedComparison, total_as: TotalAs, settings: Settings) -> CheckedComparison:
    """The comparison along time turned round: each period a panel, the categories its points."""
    comparison = one.comparison
    points = _turned_round(comparison)
    panels = dict.fromkeys(point.panel for point in points)
    pairs = [point.pair for point in {point.panel: point for point in points}.values() if point.pair]
    totals = _wholes(book, pairs, total_as)
    assert len(totals) == len(panels)
    turned = replace(comparison, points=points, panel_totals=tuple(totals))
    return replace(one, comparison=_arranged_within(turned, total_as, settings))


def _turned_round(comparison: Comparison) -> tuple[Point, ...]:
    """The points along time as categories within the panels that their periods are; those without a figure aside."""
    points = [
        replace(point, panels=PanelsOf.PERIODS)
        for point in comparison.points
        if point.current is not None or point.base is not None
    ]
    return tuple(sorted(points, key=lambda point: point.pair.period.first if point.pair else date.min))


def _wholes(book: Ledger, pairs: Sequence[Pair], total_as: TotalAs) -> list[Point]:
    """The total of each period over all categories, worked out from the rows."""
    known = book.totals([side.span for pair in pairs for side in (pair.current, pair.base) if side])
    name = "Total" if total_as.adds_up else "Total (not a sum)"
    totals = []
    for pair in pairs:
        now, then = (known[side.span].amount if side else None for side in (pair.current, pair.base))
        totals.append(Point(name=name, current=now, base=then, kind=Kind.TOTAL, pair=pair, panels=PanelsOf.PERIODS))
    return totals


def _check_parts_add_up(points: Sequence[Point], totals: Sequence[Point]) -> None:
    """Each panel's points against the panel's own figure, which was asked for by itself."""
    within = in_panels(points)
    for whole in totals:
        parts = total_of(within.get(whole.panel, []))
        missing = [
            difference(side or 0, other or 0)  # type: ignore[arg-type]
            for side, other in ((whole.current, parts.current), (whole.base, parts.base))
        ]
        if any(missing):
            raise Mistake(f"the points of {whole.panel} do not tie out with the source: {missing[0]} is missing", "")


def _arranged_within(comparison: Comparison, total_as: TotalAs, settings: Settings) -> Comparison:
    """The points of each panel in one order for all, those not kept gathered within their panel."""
    panels = in_panels(comparison.points)
    _check_number(len(panels), str(settings.panels_by))
    order = Order(settings.order) if settings.order else None
    keep = keep_of(settings)
    if keep is not None and not total_as.adds_up:
        raise Mistake(
            f"{setting('keep')} gathers the rest of each panel, and {total_as.spoken} does not add up",
            f"Leave {setting('keep')} out.",
        )
    labels = list(dict.fromkeys(point.label for point in comparison.points))
    overall = tuple(
        replace(
            total_of(point for point in comparison.points if point.label == label),
            category=label,
            name=None,
            kind=Kind.POINT,
        )
        for label in labels
    )
    plan: Arrangement = arrangement([replace(comparison, points=overall)], order, keep)
    points: list[Point] = []
    not_shown: list[Point] = []
    for own in panels.values():
        kept = arranged(replace(comparison, points=tuple(own)), plan)
        points += [point.within(own[0]) for point in kept.points]
        not_shown += [point.within(own[0]) for point in kept.not_shown]
    return replace(comparison, points=tuple(points), not_shown=tuple(not_shown))


def _check_number(panels: int, panels_by: str) -> None:
    if panels > MOST:
        raise Mistake(
            f"{setting('panels_by')} {panels_by} makes {panels} panels, and {MOST} are the most",
            f"Keep fewer with {setting('where')}, or name another column or a longer period.",
        )


def panel_words(
    analysis: Analysis, name: str | None, points: Sequence[Judged], total: Judged | None
) -> tuple[str, str]:
    """A panel's name and its finding."""
    if name is None:
        return "", ""
    one = total.point if total else points[0].point
    title = panel_title(one, analysis.figures.locale) if one.panels is PanelsOf.PERIODS else name
    heading = total.point if total else None
    if analysis.first.comparison.is_chained:
        # Points that overlap, or follow one another, have no total: the last that can be compared stands for them.
        heading = last_compared([judged.point for judged in points])
        heading = heading.without_panel if heading and one.panels is PanelsOf.CATEGORIES else heading
    return title, small_finding(heading, analysis.figures) if heading else ""
