"""Small multiples: the points of a comparison in a panel for each value of a column, or for each period."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from marvex.core.comparison import Comparison, Kind, Point, Span, total_of
from marvex.core.errors import MarvexError
from marvex.core.exact import difference
from marvex.core.judging import Judged
from marvex.core.levels import panel_title
from marvex.core.notation import notation
from marvex.core.ranking import Arrangement, Keep, Order, arranged, arrangement
from marvex.core.result import Analysis
from marvex.core.totals import TotalAs
from marvex.core.wording import small_finding
from marvex.pack.comparing import Compared
from marvex.pack.settings import Settings
from marvex.sources.ledger import Ledger

MOST = 36


def by_column(book: Ledger, one: Compared, total_as: TotalAs, settings: Settings) -> Compared:
    """The comparison of the panels as one of the categories within each.

    Parameters
    ----------
    one : compared by the panels' column, each point with its parts.
    """
    given = {name: place for place, name in enumerate(book.parts_in_given_order())}
    totals, points = [], []
    for whole in one.comparison.points:
        parts = sorted(whole.parts, key=lambda part: given.get(part.label, len(given)))
        points += [replace(part, panel=whole.label) for part in parts]
        totals.append(replace(whole, label="Total", panel=whole.label, kind=Kind.TOTAL, parts=()))
    if total_as.adds_up:
        _check_parts_add_up(points, totals)
    comparison = replace(one.comparison, points=tuple(points), panel_totals=tuple(totals))
    return replace(one, comparison=_arranged_within(comparison, total_as, settings))


def by_period(book: Ledger, one: Compared, total_as: TotalAs, settings: Settings) -> Compared:
    """The comparison along time turned round: each period a panel, the categories its points."""
    comparison = one.comparison
    points = [
        replace(point, label=point.panel or "", panel=point.label, panel_is_period=True)
        for point in comparison.points
        if point.current is not None or point.base is not None
    ]
    points.sort(key=lambda point: point.pair.period.first if point.pair else 0)
    panels = dict.fromkeys(point.panel for point in points)
    totals = [
        replace(_whole_of(book, point, total_as), panel=notation(pair.period), pair=pair, panel_is_period=True)
        for point in {point.panel: point for point in points}.values()
        if (pair := point.pair) is not None
    ]
    assert len(totals) == len(panels)
    turned = replace(comparison, points=tuple(points), panel_totals=tuple(totals))
    return replace(one, comparison=_arranged_within(turned, total_as, settings))


def _whole_of(book: Ledger, point: Point, total_as: TotalAs) -> Point:
    """The total of a period over all categories, worked out from the rows."""
    assert point.pair is not None
    sides = (point.pair.current, point.pair.base)
    amounts = []
    for side in sides:
        span: Span | None = side.span if side else None
        amounts.append(book.total(span).amount if span else None)
    return Point("Total" if total_as.adds_up else "Total (not a sum)", amounts[0], amounts[1], Kind.TOTAL)


def _check_parts_add_up(points: Sequence[Point], totals: Sequence[Point]) -> None:
    """Each panel's points against the panel's own figure, which was asked for by itself."""
    for whole in totals:
        parts = total_of(point for point in points if point.panel == whole.panel)
        missing = [
            difference(side or 0, other or 0)  # type: ignore[arg-type]
            for side, other in ((whole.current, parts.current), (whole.base, parts.base))
        ]
        if any(missing):
            raise MarvexError(
                f"the points of {whole.panel} do not tie out with the source: {missing[0]} is missing", ""
            )


def _arranged_within(comparison: Comparison, total_as: TotalAs, settings: Settings) -> Comparison:
    """The points of each panel in one order for all, those not kept gathered within their panel."""
    panels = list(dict.fromkeys(point.panel for point in comparison.points))
    if len(panels) > MOST:
        raise MarvexError(
            f"--panels-by {settings.panels_by} makes {len(panels)} panels, and {MOST} are the most",
            "Keep fewer with --where, or name another column or a longer period.",
        )
    order = Order(settings.order) if settings.order else None
    keep = Keep(settings.keep.count, settings.keep.word == "bottom") if settings.keep else None
    if keep is not None and not total_as.adds_up:
        raise MarvexError(
            f"--keep gathers the rest of each panel, and {total_as.spoken} does not add up", "Leave --keep out."
        )
    labels = list(dict.fromkeys(point.label for point in comparison.points))
    overall = tuple(
        total_of((point for point in comparison.points if point.label == label), label, Kind.POINT)
        for label in labels
    )
    plan: Arrangement = arrangement([replace(comparison, points=overall)], order, keep)
    points: list[Point] = []
    for panel in panels:
        own = tuple(point for point in comparison.points if point.panel == panel)
        kept = arranged(replace(comparison, points=own), plan).points
        points += [
            replace(point, panel=panel, pair=own[0].pair, panel_is_period=own[0].panel_is_period) for point in kept
        ]
    return replace(comparison, points=tuple(points))


def panel_words(
    analysis: Analysis, name: str | None, points: Sequence[Judged], total: Judged | None
) -> tuple[str, str]:
    """A panel's name and its finding."""
    if name is None:
        return "", ""
    first: Point = points[0].point
    title = panel_title(first, analysis.figures.locale) if first.panel_is_period else name
    return title, small_finding(total.point, analysis.figures) if total else ""
