"""A statement with its periods across: a column a period and one of them all, and one base at the end."""

from __future__ import annotations

from dataclasses import replace

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import PanelsOf, Point
from marvex.core.compare.result import Analysis, JudgedComparison
from marvex.core.compare.side import Pair
from marvex.core.rules.judging import Judged
from marvex.core.words.side_names import SideNames, days_of_total, side_names, window_text


def is_across(analysis: Analysis) -> bool:
    """Whether it is of a statement along time, whose periods are set side by side."""
    one = analysis.first
    points = one.comparison.points
    return (
        analysis.statement is not None
        and one.comparison.every is not None
        and any(point.panels is PanelsOf.CATEGORIES for point in points)
    )


def across(analysis: Analysis) -> Analysis:
    """The analysis with a comparison for each period, without a base, and one of all of them; else unchanged."""
    if not is_across(analysis):
        return analysis
    one = analysis.first
    pairs = {judged.point.pair.period: judged.point.pair for judged in one.points if judged.point.pair}
    periods = [_of_period(analysis, pair) for pair in pairs.values() if pair.current is not None]
    return replace(analysis, comparisons=(*periods, _of_all(one, analysis.figures.locale)))


def _of_period(analysis: Analysis, pair: Pair) -> JudgedComparison:
    one = analysis.first
    assert pair.current is not None
    points = tuple(
        Judged(replace(_alone(judged.point), base=None), None) for judged in one.points if judged.point.pair == pair
    )
    name = window_text(pair.period, analysis.figures.locale)
    names = SideNames(
        current=f"{name}, {pair.current.in_use}" if pair.current.goes_on else name,
        base="",
        base_in_sentence="",
        both=name,
    )
    return _with(one, points, replace(one.comparison, current=pair.current, base=None), names)


def _of_all(one: JudgedComparison, locale: str) -> JudgedComparison:
    """The lines over all periods, against their base, called by what they are of; chained ones have no total."""
    kinds = {judged.point.category: judged.point.kind for judged in one.points}
    points = tuple(
        replace(whole, point=replace(_alone(whole.point), kind=kinds.get(whole.point.category, whole.point.kind)))
        for whole in one.panel_totals
    )
    comparison = one.comparison
    if comparison.is_chained:
        comparison = replace(comparison, base=None)
        points = tuple(Judged(replace(judged.point, base=None), None) for judged in points)
    names = replace(one.names, current="Total")
    if days := days_of_total(comparison, locale):
        names = replace(side_names(replace(comparison, every=None), locale), current=f"Total, {days}")
    return _with(one, points, comparison, names)


def _with(
    one: JudgedComparison, points: tuple[Judged, ...], comparison: Comparison, names: SideNames
) -> JudgedComparison:
    comparison = replace(
        comparison,
        points=tuple(judged.point for judged in points),
        panel_totals=(),
        every=None,
        has_total=False,
        unmatched=(),
    )
    return replace(one, comparison=comparison, points=points, panel_totals=(), names=names)


def _alone(point: Point) -> Point:
    """A line without its period and its panel."""
    return replace(point, name=None, pair=None, panels=PanelsOf.NOTHING)
