"""The variance table as rows of text: headings, figures as displayed, one group a comparison.

What the terminal, Markdown and CSV share; how each lays it out is its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from marvex.core.comparison import Point, State
from marvex.core.judging import Judged
from marvex.core.result import Analysis, JudgedComparison
from marvex.core.units import ABSENT, FigureFormat

RISE, FALL, NO_CHANGE = "▲", "▼", "·"


@dataclass(frozen=True, slots=True)
class Row:
    """One category over all comparisons: its judged point in each, None where it has no row there."""

    label: str
    judged: tuple[Judged | None, ...]
    is_total: bool = False


def table_rows(analysis: Analysis) -> tuple[Row, ...]:
    """The categories in order, Other last, and the total."""
    by_key = [{one.point.key: one for one in group.points} for group in analysis.comparisons]
    keys = dict.fromkeys(key for group in by_key for key in group)
    gathered = [key for key in keys if any(key in g and g[key].point.gathered for g in by_key)]
    order = [*(key for key in keys if key not in gathered), *gathered]
    rows = [Row(key[1], tuple(group.get(key) for group in by_key)) for key in order]
    return (
        *rows,
        Row(analysis.first.total.point.label, tuple(one.total for one in analysis.comparisons), is_total=True),
    )


def shows_current(comparisons: Sequence[JudgedComparison], place: int) -> bool:
    """Whether a group needs its own column of the current side, or has the one before it."""
    return place == 0 or comparisons[place].comparison.current != comparisons[place - 1].comparison.current


def direction_mark(point: Point) -> str:
    """▲ or ▼ beside the colour, for those who do not see it."""
    if not point.movement or point.change is None:
        return NO_CHANGE
    return RISE if point.movement > 0 else FALL


def ratio_text(point: Point, figures: FigureFormat) -> str:
    """The ratio, or the word for a category that has one side only."""
    if point.state is State.NEW:
        return "new"
    return "ended" if point.state is State.ENDED else figures.ratio(point)


def change_text(point: Point, figures: FigureFormat) -> str:
    return figures.change(point.change)


def amount_text(judged: Judged | None, is_current: bool, figures: FigureFormat) -> str:
    if judged is None:
        return ABSENT
    return figures.amount(judged.point.current if is_current else judged.point.base)
