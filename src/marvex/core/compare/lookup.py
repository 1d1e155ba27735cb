"""The point that a person names: `CATEGORY`, `PERIOD` or `CATEGORY@PERIOD`."""

from __future__ import annotations

from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.rules.judging import Judged


def judged_at(analysis: Analysis, label: str, field: str = "at") -> Judged:
    """The point so named, or the total; raises Mistake with the nearest name, or where several are called so.

    Case does not matter where only one name fits.
    """
    points = analysis.first.shown
    exact = [judged for judged in points if name_at(judged.point) == label]
    alike = exact or [judged for judged in points if name_at(judged.point).casefold() == label.casefold()]
    if not alike and label.casefold() == "total":  # which is called "Total (not a sum)" where it is none
        alike = [judged for judged in points if _is_total(judged.point) and judged.point.panel is None]
    if len(alike) == 1:
        return alike[0]
    if alike:
        raise Mistake(
            f"{setting(field)}: {len(alike)} points are called '{label}'",
            "Give each its own name in the source.",
        )
    names = [name_at(judged.point) for judged in points]
    raise Mistake(
        f"{setting(field)}: there is no '{label}'", did_you_mean(label, names, f"There are {listed(names, 6)}.")
    )


def name_at(point: Point) -> str:
    """What `--at` calls a point: `CATEGORY`, `PERIOD` or `CATEGORY@PERIOD`."""
    if point.panel is None:
        return point.label
    return point.panel if _is_total(point) else f"{point.panel}@{point.label}"


def _is_total(point: Point) -> bool:
    """Whether it is the total of all, or of its panel, and no line of a statement."""
    return point.kind is Kind.TOTAL and point.is_cost is None
