"""The variance table as rows of text: headings, figures as displayed, one group a comparison.

What the terminal, Markdown and CSV share; how each lays it out is its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis, JudgedComparison
from marvex.core.exact import ZERO
from marvex.core.rules.judging import Judged
from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass
from marvex.core.words.side_names import SideNames, days_of_total, weekday, window_text
from marvex.core.words.units import ABSENT, FigureFormat
from marvex.core.words.wording import point_name, state_words

FIGURES = ("current", "base", "change", "percent", "contribution")
DRIVERS = ("Volume", "Mix", "Price", "New", "Ended", "Without volume")
RISE, FALL, NO_CHANGE = "▲", "▼", "·"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Row:
    """One point over all comparisons: judged in each, None where it has no place there.

    Parameters
    ----------
    label : the category, or the period in the notation of a command.
    days : what a total is of, where that is not all of the periods above it.
    """

    label: str
    judged: tuple[Judged | None, ...]
    panel: str | None = None
    is_total: bool = False
    days: str = ""

    @property
    def point(self) -> Point:
        return next(one.point for one in self.judged if one is not None)

    def name(self, locale: str) -> str:
        """What a reader calls it: the period as the locale writes it, with its weekday where it is a day."""
        pair = self.point.pair
        name = point_name(self.point.without_panel, locale)
        if pair is not None and pair.period.grain is Grain.DAY:
            name = f"{weekday(pair.period.first, locale)} {name}"
        if pair is not None and pair.current is not None and pair.current.goes_on:
            name = f"{name}, {pair.current.in_use}"
        return f"{name}, {self.days}" if self.days else name


def table_rows(analysis: Analysis) -> tuple[Row, ...]:
    """The points in order, panel by panel, each with its total; Other last, and the total."""
    by_key = [{_key(one.point): one for one in group.shown} for group in analysis.comparisons]
    rows = []
    for key in _in_one_order([list(group) for group in by_key]):
        judged = tuple(group.get(key) for group in by_key)
        point = next(one.point for one in judged if one is not None)
        is_total = point.kind is Kind.TOTAL
        days = days_of_total(analysis.first.comparison, analysis.figures.locale) if is_total else ""
        rows.append(Row(label=point.label, judged=judged, panel=point.panel, is_total=is_total, days=days))
    # Each is sorted by its place alone: rows of one place stay in order.
    return tuple(sorted(rows, key=_place))


def _place(row: Row) -> int:
    """0 for what stands in order, 1 for Other, 2 for the total of all."""
    if row.panel is not None:
        return 0
    if row.is_total:
        return 0 if row.point.is_cost is not None else 2
    return 1 if row.point.gathered else 0


_Key = tuple[str | None, Kind, int | None, str]


def _key(point: Point) -> _Key:
    # A gathered point is the same one in every comparison, and so is a total, whatever it is called.
    label = "" if point.kind is Kind.TOTAL and point.is_cost is None else point.label
    return point.panel, point.kind, point.row, label


def _in_one_order(groups: Sequence[list[_Key]]) -> list[_Key]:
    """All keys, those that only a later group has each after the one that it follows there."""
    order = dict.fromkeys(groups[0])
    for group in groups[1:]:
        if all(key in order for key in group):
            continue
        following: dict[_Key | None, list[_Key]] = {}  # what is new, by the known key that it comes after
        before: _Key | None = None
        for key in group:
            if key in order:
                before = key
            else:
                following.setdefault(before, []).append(key)
        keys = [*following.get(None, ()), *(new for key in order for new in (key, *following.get(key, ())))]
        order = dict.fromkeys(keys)
    return list(order)


def has_panels(analysis: Analysis) -> bool:
    return any(one.panel_totals for one in analysis.comparisons)


def shows_base_days(one: JudgedComparison) -> bool:
    """Whether each day should say which day it is measured against: one of another weekday, as a rule."""
    comparison = one.comparison
    return comparison.every is Grain.DAY and comparison.basis in (Basis.YEAR_AGO, Basis.WINDOW)


def base_day_text(judged: Judged | None, locale: str) -> str:
    """The day that a day is measured against: 'Wed 1 Oct 2025'."""
    pair = judged.point.pair if judged else None
    if pair is None or pair.base is None or pair.base.window is None:
        return ""
    return f"{weekday(pair.base.window.first, locale)} {window_text(pair.base.window, locale)}"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ComparisonColumns:
    """The columns of one comparison, worked out once for all rows.

    Parameters
    ----------
    place : which of the comparisons it is.
    shows_current : it needs its own column of the current side, and has not the one before it.
    drivers : what drove the changes, as the headings of columns.
    lowest, highest : the ends of the scale on which its bars are drawn; zero is between them.
    show : which figures have a column, in the order of the columns.
    """

    place: int
    one: JudgedComparison
    shows_current: bool
    drivers: tuple[str, ...]
    lowest: Decimal
    highest: Decimal
    show: tuple[str, ...]

    @property
    def has_base(self) -> bool:
        return self.one.comparison.base is not None


def groups_of(analysis: Analysis) -> tuple[ComparisonColumns, ...]:
    """The groups of columns of a table, in order."""
    groups = []
    for place, one in enumerate(analysis.comparisons):
        is_other = place == 0 or one.comparison.current != analysis.comparisons[place - 1].comparison.current
        known = {driver.name for judged in one.shown for driver in judged.point.drivers}
        drivers = tuple(name for name in DRIVERS if name in known)
        changes = [
            found.point.change
            for found in one.points
            if found.point.change is not None and found.point.kind is not Kind.TOTAL
        ]
        groups.append(
            ComparisonColumns(
                place=place,
                one=one,
                shows_current=is_other,
                drivers=drivers,
                lowest=min([ZERO, *changes]),
                highest=max([ZERO, *changes]),
                show=tuple(what for what in FIGURES if what in (analysis.show or FIGURES[:-1])),
            )
        )
    return tuple(groups)


def driver_amount(judged: Judged | None, name: str) -> Decimal | None:
    """What one of them did to a point; None where it has no part in it."""
    drivers = judged.point.drivers if judged else ()
    return next((one.amount for one in drivers if one.name == name), None)


def direction_mark(point: Point) -> str:
    """▲ or ▼ beside the colour, for those who do not see it."""
    if not point.movement or point.change is None:
        return NO_CHANGE
    return RISE if point.movement > 0 else FALL


def ratio_text(point: Point, figures: FigureFormat, names: SideNames) -> str:
    """The ratio, or the word for a category that has one side only."""
    return "" if point.kind is Kind.RATIO else state_words(point, names) or figures.ratio(point)


def variance_texts(
    judged: Judged | None, group: ComparisonColumns, figures: FigureFormat
) -> tuple[tuple[str, str], ...]:
    """What the columns of a base and of a change show of a point: which figure, and its text."""
    texts = []
    for what in group.show:
        if judged is None:
            text = ABSENT if what == "base" else ""
        elif what == "percent":
            text = ratio_text(judged.point, figures, group.one.names)
        elif what == "change":
            text = figures.change_of(judged.point)
        elif what == "contribution":
            text = figures.contribution(judged.point)
        else:
            text = amount_text(judged, False, figures)
        if what != "current":
            texts.append((what, text))
    return tuple(texts)


def variance_headings(group: ComparisonColumns) -> tuple[tuple[str, str], ...]:
    """The figures of a base and of a change that have a column, each with its heading."""
    names = {"base": group.one.names.base, "change": "Change", "percent": "Change %", "contribution": "Contribution"}
    return tuple((what, names[what]) for what in group.show if what != "current")


def amount_text(judged: Judged | None, is_current: bool, figures: FigureFormat) -> str:
    if judged is None:
        return ABSENT
    return figures.amount_of(judged.point, judged.point.current if is_current else judged.point.base)
