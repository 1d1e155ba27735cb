"""The words about a picture or a table: its title, its subtitle, and the foot line with source and checks."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Point
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import Shown
from marvex.core.compare.totals import TotalAs
from marvex.core.errors import listed
from marvex.core.structure.statement import sums_of
from marvex.core.words.side_names import EVERYTHING, capitalised, closing_text, scenario_words
from marvex.core.words.units import visibly_adds_up
from marvex.request.settings import Settings

ROUNDING_NOTE = "Figures may not add up because of rounding"


@dataclass(frozen=True, slots=True, eq=False)
class Words:
    """The words about a picture or table: its own, or those that the call gives."""

    title: str
    subtitle: str
    foot: str


def words_of(shown: Shown, settings: Settings, remark: str = "") -> Words:
    """Title, subtitle and foot line, each the call's own where it gives one.

    `remark` is what the picture has to say of itself, for the foot.
    """
    analysis = shown.analysis
    title = analysis.finding if settings.title is None else settings.title
    subtitle = _subtitle(analysis) if settings.subtitle is None else settings.subtitle
    return Words(title, subtitle, _foot(shown, settings, remark))


def _subtitle(analysis: Analysis) -> str:
    by = analysis.by
    sides = "; ".join(dict.fromkeys(one.names.both for one in analysis.comparisons))
    comma = "," if "," in analysis.subject else ""
    subject = f"{analysis.subject}{f'{comma} by {by}' if by else ''}"
    parts = [
        subject if analysis.statement is None else by,
        sides,
        closing_text(analysis.first.comparison, analysis.figures.locale),
    ]
    parts += analysis.spread
    if sides == EVERYTHING:
        parts[1] = ""
    if analysis.figures.unit_words:
        parts.append(analysis.figures.unit_words)
    return ", ".join(part for part in parts if part)


def _foot(shown: Shown, settings: Settings, remark: str) -> str:
    source = shown.analysis.source
    parts = [f"Source: {source.name}, {source.rows_used:,} of {source.rows_read:,} {source.counted}"]
    if shown.analysis.filtered:
        parts[0] += f" ({shown.analysis.filtered})"
    outlooks = dict.fromkeys(
        scenario_words(one.comparison.current, shown.analysis.figures.locale)
        for one in shown.analysis.comparisons
        if one.comparison.current.is_mixed
    )
    parts += [capitalised(one) for one in outlooks]
    checks = [one.name for one in shown.checks if one.ok]
    parts.append(" and ".join([", ".join(checks[:-1]), checks[-1]] if len(checks) > 1 else checks).capitalize())
    if shown.analysis.kept_totals and settings.walk != "movement":
        parts.append(f"Added up with their own parts: {listed(shown.analysis.kept_totals, 4)}")
    if not _adds_up(shown.analysis):
        parts.append(ROUNDING_NOTE)
    if remark:
        parts.append(remark)
    if settings.note:
        parts.append(settings.note.rstrip("."))
    return ". ".join(parts) + "."


def _adds_up(analysis: Analysis) -> bool:
    """Whether the displayed figures of every comparison add up to the displayed totals."""
    unit, decimals = analysis.figures.unit, analysis.figures.decimals
    total_as = analysis.total_as
    if analysis.statement is not None:
        sums = (pair for one in analysis.comparisons for pair in sums_of(one.comparison.points, analysis.statement))
        return all(visibly_adds_up(parts, whole, unit, decimals) for parts, whole in sums)
    for one in analysis.comparisons:
        for points, whole in _sums_shown(one.comparison, total_as):
            columns = [
                ([p.current for p in points if p.current is not None], whole.current),
                ([p.base for p in points if p.base is not None], whole.base),
            ]
            if one.comparison.base is not None:
                columns.append(([p.movement for p in points], whole.movement))
            if not all(total is None or visibly_adds_up(parts, total, unit, decimals) for parts, total in columns):
                return False
    return True


def _sums_shown(comparison: Comparison, total_as: TotalAs) -> Iterator[tuple[Sequence[Point], Point]]:
    """The totals that are shown as sums, each with the points that it is the sum of."""
    if not total_as.adds_up or not comparison.has_total:
        return
    if comparison.every is None or comparison.panel_totals:
        yield comparison.panel_totals or comparison.points, comparison.total
    if comparison.every is not None and total_as.adds_up_over_time:
        for whole in comparison.panel_totals or (comparison.total,):
            own = [point for point in comparison.points if point.panel == whole.panel]
            matched = [point for point in own if point.pair is None or point.pair.is_matched]
            # A quarter of which one side lacks a month is not in the total as it is shown.
            if all(point.change is None for point in own if point not in matched):
                yield matched, whole
