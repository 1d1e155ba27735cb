"""The point that a person names: `CATEGORY`, `PERIOD` or `CATEGORY@PERIOD`."""

from __future__ import annotations

from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.rules.judging import Judged


def judged_at(analysis: Analysis, label: str, field: str = "at") -> Judged:
    """The point so named, or the total; raises Mistake with the nearest name.

    Case does not matter where only one name fits.
    """
    points = analysis.first.shown
    exact = [judged for judged in points if name_at(judged.point) == label]
    alike = exact or [judged for judged in points if name_at(judged.point).casefold() == label.casefold()]
    if len(alike) == 1 or (alike and exact):
        return alike[0]
    names = [name_at(judged.point) for judged in points]
    raise Mistake(
        f"{setting(field)}: there is no '{label}'", did_you_mean(label, names, f"There are {listed(names, 6)}.")
    )


def name_at(point: Point) -> str:
    """What `--at` calls a point: `CATEGORY`, `PERIOD` or `CATEGORY@PERIOD`."""
    if point.panel is None:
        return point.label
    return point.panel if point.kind is Kind.TOTAL else f"{point.panel}@{point.label}"
