"""Whether the figures that a picture or table prints visibly add up, each as it is rounded there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from itertools import chain, groupby

from marvex.core.compare.across import across
from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, PanelsOf, Point, in_panels
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import Shown, ShownPoint
from marvex.core.exact import EXACT, ZERO, difference, rounded_ratio, total
from marvex.core.structure.statement import sums_of
from marvex.core.values import dataclass
from marvex.core.words.units import FigureFormat, rounded


@dataclass(frozen=True, slots=True, kw_only=True)
class Printed:
    """What a reader has before him to add up.

    Parameters
    ----------
    figures : those that stand at a point: `current`, `base`, `change`.
    sums : all points have them, and their total is printed too.
    """

    figures: tuple[str, ...]
    sums: bool = True


def adds_up(shown: Shown, printed: Printed) -> bool:
    """Whether every sum and difference that a reader could check comes out as it is printed."""
    figures, analysis = shown.analysis.figures, shown.analysis
    if shown.view == "waterfall":
        is_walk = printed.sums and "change" in printed.figures
        return not is_walk or all(_walks(list(bars), figures) for _, bars in groupby(shown.points, key=_panel_of))
    points = [one.judged.point for one in shown.points]
    rows_hold = not {"current", "base", "change"} <= set(printed.figures) or all(
        _subtracts(point, figures) for point in points
    )
    return rows_hold and (not printed.sums or all(_is_sum(*one, figures) for one in _sums(analysis, printed)))


def missing_in(analysis: Analysis) -> Decimal | None:
    """By how much points, or parts, fall short of what they add up to, none rounded; None where none does."""
    figures = ("current", "base", "change")
    short = (difference(whole, total(parts)) for parts, whole in _sums(analysis, Printed(figures=figures)))
    of_parts = (difference(whole, total(parts)) for parts, whole in _sums_of_parts(analysis, figures))
    return next(filter(None, chain(short, of_parts)), None)


def _sums_of_parts(analysis: Analysis, figures: Sequence[str]) -> Iterator[tuple[Sequence[Decimal], Decimal]]:
    """What each point is made of one level down, and the point."""
    for comparison in (one.comparison for one in analysis.comparisons if analysis.total_as.adds_up):
        for point in (*comparison.points, *comparison.panel_totals):
            for figure in figures if point.parts else ():
                parts = [amount for part in point.parts if (amount := _figure(part, figure)) is not None]
                if (amount := _figure(point, figure)) is not None:
                    yield parts, amount


def _panel_of(one: ShownPoint) -> str | None:
    return one.judged.point.panel


def _walks(bars: Sequence[ShownPoint], figures: FigureFormat) -> bool:
    """Whether the labels of the steps lead from each standing bar's label to the next one's."""
    level: Decimal | None = None
    for bar in bars:
        start, end = bar.start or ZERO, bar.end or ZERO
        if bar.judged.point.kind in (Kind.OPENING, Kind.SUBTOTAL, Kind.CLOSING):
            height = _as_shown(end, figures)
            if level is not None and level != height:
                return False
            level = height
        else:
            moved = _as_shown(difference(end, start), figures)
            level = EXACT.add(_as_shown(start, figures) if level is None else level, moved)
    return True


def _subtracts(point: Point, figures: FigureFormat) -> bool:
    """Whether current − base is the change, as all three are printed."""
    if point.current is None or point.base is None or point.change is None:
        return True
    if point.kind is Kind.RATIO:
        now, then, change = (
            rounded_ratio(Fraction(one) * 100, 1) for one in (point.current, point.base, point.change)
        )
    else:
        now, then, change = (_as_shown(one, figures) for one in (point.current, point.base, point.change))
    return difference(now, then) == change


def _as_shown(amount: Decimal, figures: FigureFormat) -> Decimal:
    return rounded(amount, figures.unit, figures.decimals)


def _is_sum(parts: Sequence[Decimal], whole: Decimal, figures: FigureFormat) -> bool:
    return total(_as_shown(part, figures) for part in parts) == _as_shown(whole, figures)


def _sums(analysis: Analysis, printed: Printed) -> Iterator[tuple[Sequence[Decimal], Decimal]]:
    """The parts of every printed total, and the total."""
    for one in across(analysis).comparisons:
        comparison = one.comparison
        for figure in printed.figures:
            if figure not in ("current", "base", "change") or (figure != "current" and comparison.base is None):
                continue
            if analysis.statement is not None:
                yield from _sums_of_lines(comparison, analysis, figure)
                continue
            for points, whole in _totals(comparison, analysis):
                if figure != "current" and _share_a_base(points):
                    continue
                amounts = [amount for point in points if (amount := _figure(point, figure)) is not None]
                if (amount := _figure(whole, figure)) is not None:
                    yield amounts, amount


def _figure(point: Point, figure: str) -> Decimal | None:
    if figure == "change":
        return None if point.current is None and point.base is None else point.movement
    return point.current if figure == "current" else point.base


def _sums_of_lines(
    comparison: Comparison, analysis: Analysis, figure: str
) -> Iterator[tuple[Sequence[Decimal], Decimal]]:
    """Of a statement's totals; a change adds up as the sides do."""
    assert analysis.statement is not None
    points = comparison.points
    if figure == "change":
        points = tuple(
            replace(point, current=_figure(point, "change"), base=None)
            for point in points
            if point.kind is not Kind.RATIO
        )
    if figure == "base":
        points = tuple(replace(point, current=point.base, base=None) for point in points)
    yield from sums_of([replace(point, base=None) for point in points], analysis.statement)


def _totals(comparison: Comparison, analysis: Analysis) -> Iterator[tuple[Sequence[Point], Point]]:
    """The totals that are shown as sums, each with the points that it is the sum of."""
    panels, points, not_shown = comparison.panel_totals, comparison.points, comparison.not_shown
    whole = comparison.total
    over_time = analysis.total_as.adds_up_over_time
    if not analysis.total_as.adds_up or not comparison.has_total:
        return
    if not panels:
        if comparison.every is None:
            yield (*points, *not_shown), whole
        elif over_time:
            yield from _of_matched(points, whole, comparison)
        return
    are_of_time = panels[0].panels is PanelsOf.CATEGORIES  # the points within each
    if panels[0].panels is PanelsOf.PERIODS:
        yield from _of_matched(panels, whole, comparison) if over_time else ()
    else:
        yield (*panels, *(not_shown if are_of_time else ())), whole
    by_panel, hidden = in_panels(points), in_panels(not_shown)
    for panel in panels:
        own = by_panel.get(panel.panel, [])
        if not are_of_time:
            yield [*own, *hidden.get(panel.panel, [])], panel
        elif over_time:
            yield from _of_matched(own, panel, comparison)


def _of_matched(
    points: Sequence[Point], whole: Point, comparison: Comparison
) -> Iterator[tuple[Sequence[Point], Point]]:
    """The points of a total; nothing where it holds a part of one, as of a quarter of which one side lacks a month."""
    lone = [point for point in points if point.pair is not None and not point.pair.is_matched]
    if not any(_is_partly_in(point, comparison) for point in lone):
        yield [point for point in points if point.pair is None or point.pair.is_matched], whole


def _share_a_base(points: Sequence[Point]) -> bool:
    """Whether two of them are measured against the same days, as 28 and 29 February may be: a total has them once."""
    spans = [point.pair.base.span for point in points if point.pair is not None and point.pair.base is not None]
    return len(set(spans)) < len(spans)


def _is_partly_in(point: Point, comparison: Comparison) -> bool:
    """Whether some of a point's days are days of the two sides."""
    return any(
        run.overlaps(own.window.first, own.window.end)
        for whole, own in zip(
            (comparison.current, comparison.base), point.sides(comparison.current, comparison.base), strict=True
        )
        if whole is not None and own is not None and own.window is not None
        for run in whole.runs
    )
