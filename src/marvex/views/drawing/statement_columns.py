"""The columns of a statement set as printed accounts are: what each comparison shows, and how wide it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.compare.across import across, is_across
from marvex.core.compare.comparison import Basis
from marvex.core.compare.result import Analysis, JudgedComparison
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.side_names import capitalised, side_heading, summed_text
from marvex.views.drawing.box import Box
from marvex.views.drawing.text_metrics import widest

MOST_BETWEEN = 3.4  # of the type size, before each column
WITHOUT_BARS = 3.0  # times as much
MOST_BARS = 300.0  # pixels
BARS = "bars"  # what a column of variance bars shows


@dataclass(frozen=True, slots=True)
class ColumnGroup:
    """One comparison's columns: what they are called, and the judged points by their panels and lines.

    Parameters
    ----------
    title : over the whole group, where it begins one; several bases of one window share it.
    columns : what is shown (`current`, `base`, `change`, `ratio`), each with its heading.
    """

    title: str
    columns: tuple[tuple[str, str], ...]
    judged: Mapping[tuple[str | None, str], Judged]

    def of(self, one: Judged) -> Judged | None:
        """The point of the same line, in the same panel."""
        return self.judged.get((one.point.panel, one.point.label))


def column_groups(analysis: Analysis) -> tuple[ColumnGroup, ...]:
    """The columns of each comparison: the current side once for each window, titled by it where there are several."""
    if is_across(analysis):
        return _groups_across(analysis)
    locale, groups = analysis.figures.locale, []
    windows = {one.comparison.current.window for one in analysis.comparisons}
    for place, one in enumerate(analysis.comparisons):
        now, then = one.comparison.current, one.comparison.base
        is_first = place == 0 or analysis.comparisons[place - 1].comparison.current != now
        columns = [("current", capitalised(one.names.current))] if is_first else []
        title = ""
        if now.window is not None and len(windows) > 1:
            # Without a scenario the window itself is what its one column is of.
            scenario = side_heading(now)
            title = summed_text(now, locale) if is_first and scenario else ""
            columns = [("current", scenario or summed_text(now, locale))] if is_first else []
        if then is not None:
            is_same_time = then.window is None or then.summed == now.summed
            base = side_heading(then) if is_same_time else summed_text(then, locale)
            if one.comparison.every is not None and one.comparison.basis in (Basis.YEAR_AGO, Basis.PRIOR):
                # Each panel has a base of its own.
                is_year = one.comparison.basis is Basis.YEAR_AGO
                base = f"{'Year' if is_year else one.comparison.every.value.capitalize()} before"
            columns += [("base", base), ("change", "Change"), ("percent", "Change %")]
        groups.append(ColumnGroup(title, tuple(columns), _by_line(one)))
    return tuple(groups)


def _groups_across(analysis: Analysis) -> tuple[ColumnGroup, ...]:
    """A column a period, under the name of its scenario where that begins; then all of them, and the base."""
    groups: list[ColumnGroup] = []
    *periods, whole = across(analysis).comparisons
    scenario = None
    for one in periods:
        now = one.comparison.current
        name = capitalised(now.in_use or "")
        heading = one.names.both
        groups.append(ColumnGroup(name if now.in_use != scenario else "", (("current", heading),), _by_line(one)))
        scenario = now.in_use
    columns = [("current", "Total")]
    if whole.comparison.base is not None:
        columns += [("base", capitalised(whole.names.base)), ("change", "Change"), ("percent", "Change %")]
    locale = analysis.figures.locale
    title = summed_text(whole.comparison.current, locale)
    return (*groups, ColumnGroup(title, tuple(columns), _by_line(whole)))


def _by_line(one: JudgedComparison) -> dict[tuple[str | None, str], Judged]:
    return {(judged.point.panel, judged.point.label): judged for judged in one.points}


@dataclass(frozen=True, slots=True, kw_only=True)
class StatementColumn:
    """A column that is not placed yet: how wide it is, and how much room is left before it."""

    group: ColumnGroup
    what: str
    heading: str
    width: float
    before: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedColumn:
    """A column of figures, from its widest figure's left to where all end; or one of bars."""

    group: ColumnGroup
    what: str
    heading: str
    left: float
    right: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StatementLayout:
    """The names and the columns beside them, in one size of type."""

    size: float
    names: float
    columns: tuple[StatementColumn, ...]

    @property
    def width(self) -> float:
        return self.names + sum(one.before + one.width for one in self.columns)

    def spread(self, room: float, scale: float) -> StatementLayout:
        """The same with more room between columns, and wider bars, as far as that helps reading."""
        # Without bars the figures alone fill the page.
        has_bars = any(one.what == BARS for one in self.columns)
        most = MOST_BETWEEN * self.size * (1.0 if has_bars else WITHOUT_BARS)
        lacking = sum(max(0.0, most - one.before) for one in self.columns)
        part = min(1.0, room / lacking) if lacking else 0.0
        left = room - part * lacking
        bars = [one for one in self.columns if one.what == BARS]
        wider = left / len(bars) if bars else 0.0
        columns = (
            replace(
                one,
                before=one.before + part * max(0.0, most - one.before),
                width=min(max(one.width, MOST_BARS * scale), one.width + wider) if one.what == BARS else one.width,
            )
            for one in self.columns
        )
        return replace(self, columns=tuple(columns))

    def placed(self, room: Box) -> list[PlacedColumn]:
        """The columns from left to right."""
        found, x = [], room.left + self.names
        for one in self.columns:
            x += one.before
            end = x + one.width
            found.append(PlacedColumn(group=one.group, what=one.what, heading=one.heading, left=x, right=end))
            x += one.width
        return found


def titled(columns: Sequence[StatementColumn], size: float) -> tuple[StatementColumn, ...]:
    """The columns with room for the titles of their groups, each over all columns up to the next title."""
    found = list(columns)
    begun = [place for place, one in enumerate(found) if one.group.title and begins_group(found, place)]
    for place, start in enumerate(begun):
        end = begun[place + 1] if place + 1 < len(begun) else len(found)
        under = sum(one.before + one.width for one in found[start:end]) - found[start].before
        over = widest([found[start].group.title], size, True) - under
        if over > 0:
            found[start] = replace(found[start], before=found[start].before + over)
    return tuple(found)


def begins_group(columns: Sequence[StatementColumn] | Sequence[PlacedColumn], place: int) -> bool:
    return place == 0 or columns[place - 1].group is not columns[place].group
