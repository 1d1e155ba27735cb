"""The waterfall's bars from an analysis: one walk, or one for each panel, with cut, closing and brackets."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import groupby
from typing import Any

from marvex.core.comparison import Comparison, Point
from marvex.core.errors import MarvexError
from marvex.core.judging import judged_steps
from marvex.core.result import Analysis, Check
from marvex.core.shown import Shown, ShownPoint
from marvex.core.walk import Walk, can_cut_at, fitting_cut, walk_change
from marvex.pack.settings import Settings


@dataclass(frozen=True, slots=True)
class Walked:
    """The walks to draw, what is shown of them, and where their standing bars are cut.

    Parameters
    ----------
    groups : the group of each step's category, for the brackets.
    note : what the picture has to say of a cut, for the foot.
    """

    walks: tuple[tuple[str | None, Walk], ...]
    shown: Shown
    cut: Decimal | None
    note: str
    groups: Mapping[str, str]

    def panels(self, analysis: Analysis) -> list[Any]:
        from marvex.pack.pictures import panel_words
        from marvex.views.picture import Panel

        totals = {total.point.panel: total for total in analysis.first.panel_totals}
        return [
            Panel(walk.bars, *panel_words(analysis, name, [bar.judged for bar in walk.steps], totals.get(name)))
            for name, walk in self.walks
        ]


def walked(analysis: Analysis, settings: Settings) -> Walked:
    """The walk from base to current, in every panel."""
    if not analysis.total_as.adds_up:
        raise MarvexError(
            f"a waterfall adds its steps up, and {analysis.total_as.spoken} does not add up",
            "marvex table shows it, category by category.",
        )
    if analysis.first.comparison.base is None:
        raise MarvexError(
            "a waterfall of changes needs a base to walk from",
            "Name one with --versus, such as year-ago or budget.",
        )
    closing = analysis.first.names.current if settings.closing is None else settings.closing
    walks = tuple((name, _walk(analysis, comparison, closing)) for name, comparison in _by_panel(analysis))
    missing = sum((abs(walk.difference) for _, walk in walks), Decimal(0))
    points = tuple(
        ShownPoint(replace(bar.judged, point=replace(bar.point, panel=name)), 0, bar.start, bar.end)
        for name, walk in walks
        for bar in walk.bars
    )
    shown = Shown("waterfall", analysis, points, (analysis.first.ties_out, Check("foots", missing)))
    cut = _cut(walks[0][1], settings) if len(walks) == 1 else None
    note = "" if cut is None else f"The standing bars are cut: all up to {analysis.figures.headline(cut)} is left out"
    return Walked(walks, shown, cut, note, _groups(analysis) if settings.brackets else {})


def _by_panel(analysis: Analysis) -> list[tuple[str | None, Comparison]]:
    """The comparison of each panel, with the panel's own total; the whole one where there are none."""
    whole = analysis.first.comparison
    if not whole.panel_totals:
        return [(None, whole)]
    totals = {total.panel: total for total in whole.panel_totals}
    return [
        (name, replace(whole, points=tuple(group), total=totals[name]))
        for name, group in groupby(whole.points, key=lambda point: point.panel)
    ]


def _walk(analysis: Analysis, comparison: Comparison, closing: str) -> Walk:
    one = analysis.first
    walk = walk_change(comparison, judged_steps(comparison, one.rules), one.names.base, closing)
    return replace(walk, bars=walk.bars[:-1]) if closing == "none" else walk


def _groups(analysis: Analysis) -> dict[str, str]:
    """The group of each category, by the column that the brackets are of; stops where one is in several."""
    groups = {}
    for point in analysis.first.comparison.points:
        names: list[Point] = list(point.parts)
        if len(names) > 1:
            raise MarvexError(
                f"--brackets: '{point.label}' is in {len(names)} groups, such as {names[0].label} and {names[1].label}",
                "Name a column in which each category has one value.",
            )
        if names:
            groups[point.label] = names[0].label
    return groups


def _cut(walk: Walk, settings: Settings) -> Decimal | None:
    """Where the standing bars are cut: as asked, or where that is needed."""
    if isinstance(settings.cut, str):
        return fitting_cut(walk) if settings.cut == "auto" and settings.axis is None else None
    if not can_cut_at(walk, settings.cut):
        raise MarvexError(
            f"--cut {settings.cut} does not lie between zero and the lowest step",
            "Give an amount nearer to zero.",
        )
    return settings.cut
