"""What does the profit-and-loss say? The statement set as printed accounts are, a small variance bar in each row.

A single rule over totals, a double one under the result; several comparisons side by side.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Self

from marvex.core.compare.across import across, is_across
from marvex.core.compare.comparison import Basis
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis, JudgedComparison
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, StatementLine
from marvex.core.words.side_names import capitalised, side_heading, summed_text
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import Piece, shortened
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.look import Look
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.scale import Scale, reaching
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TALLEST_ROW, LEAST_ROW = 46.0, 1.45  # pixels; of the type size
TYPE, MOST_TYPE, LEAST_TYPE = 0.6, 24.0, 13.0  # of a row; pixels at 1280x800, where there is one statement
LEAST_BARS, MOST_BARS, BAR_HEIGHT = 60.0, 300.0, 0.5  # pixels; of a row
INDENT = 1.2  # of the type size
BETWEEN, MOST_BETWEEN = 0.85, 3.4  # of the type size, before each column
WITHOUT_BARS = 3.0  # times as much
BETWEEN_GROUPS = 1.4  # of the type size, more than between columns
WIDEST_NAME = 0.34  # of the room
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


@dataclass(frozen=True, slots=True, kw_only=True)
class StatementView(ViewOfPoints):
    """The statement as a table.

    Parameters
    ----------
    groups : the comparisons side by side; the bars are of the first.
    most_rows : of the fullest panel, so that rows are as high in each.
    """

    statement: Statement
    groups: tuple[ColumnGroup, ...]
    most_rows: float = 0.0

    @classmethod
    def made(cls, look: Look, said: Mapping[str, Any], analysis: Analysis) -> Self:
        assert analysis.statement is not None
        return cls(look=look, statement=analysis.statement, groups=column_groups(analysis), **said)

    def values(self, points: Sequence[Judged]) -> Iterable[Decimal]:
        """What the bars show: of each line its effect on the result, or its change where all are of one kind."""
        return (value for one in points if (value := self._measured(one)) is not None)

    def legend_keys(self, bands: Sequence[Band], points: Sequence[Judged]) -> list[LegendKey]:  # noqa: ARG002
        judged = any(one.band is not None for group in self.groups for one in group.judged.values())
        return band_keys(bands, self.look.style) if judged else []

    def _measured(self, one: Judged) -> Decimal | None:
        point = one.point.as_effect if self.statement.has_both_kinds else one.point
        return None if point.kind is Kind.RATIO else point.change

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[Judged]], width: float) -> StatementView:  # noqa: ARG002
        return replace(self, most_rows=max(self._rows(points) for points in panels))

    def least_width(self, canvas: Canvas, points: Sequence[Judged]) -> float:
        return self._layout(canvas, points, canvas.least, self.groups[:1]).width

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        return self._rows(points) * LEAST_ROW * canvas.least

    def _rows(self, points: Sequence[Judged]) -> float:
        """How many rows are set: the lines, the headings of sections, and the head."""
        return len(points) + sum(bool(self._line(one).section) for one in points) + 2.6

    def _line(self, one: Judged) -> StatementLine:
        return self.statement.line(one.point.label)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        row = min(TALLEST_ROW * canvas.scale, room.height / max(self.most_rows, self._rows(points)))
        layout = self._fitted(canvas, room, points, row)
        size, columns = layout.size, layout.placed(room)
        names_right = room.left + layout.names
        head = 1.1 if any(group.title for group in self.groups) else 0.0
        top = room.top + (1.1 + head) * row
        self._draw_head(canvas, columns, room.top + (head - 1.1) * row, row, size)
        scales = {id(one): self._scale(one, reach) for one in columns if one.what == BARS}
        y = top
        for one in points:
            line = self._line(one)
            if line.section:
                y += row * 0.25
                canvas.text(line.section, room.left, y + row * 0.68, size, canvas.style.soft, bold=True)
                y += row * 0.75
            if line.is_total:
                self._draw_rules(canvas, columns, y, row, line)
            weight = line.is_total
            left = room.left + line.indent * INDENT * size
            name = shortened(line.label + self.look.mark(one.point), names_right - left + 1, size, weight)
            colour = canvas.style.soft if one.point.kind is Kind.RATIO else canvas.style.ink
            canvas.text(name, left, y + row * 0.68, size, colour, bold=weight)
            for column in columns:
                judged = column.group.of(one)
                if judged is not None and column.what == BARS:
                    self._draw_bar(canvas, scales[id(column)], judged, y, row)
                elif judged is not None:
                    piece = self._piece(judged, column.what, weight)
                    piece.draw(canvas, column.right - piece.width(size), y + row * 0.68, size)
            y += row
        for scale in scales.values():
            canvas.line(scale.place(ZERO), top, scale.place(ZERO), y, canvas.style.hairline)
        return ()

    def _scale(self, column: _PlacedColumn, reach: tuple[Decimal, Decimal]) -> Scale:
        """The scale of a comparison's bars: of the first as the picture has it, of others by all that they show."""
        if column.group is not self._with_bars[0]:
            reach = reaching(self.values(list(column.group.judged.values())))
        return Scale(lowest=reach[0], highest=reach[1], start=column.left, end=column.right)

    @property
    def _with_bars(self) -> tuple[ColumnGroup, ...]:
        """The comparisons that have a change to draw."""
        return tuple(one for one in self.groups if any(what == "change" for what, _ in one.columns))

    def _piece(self, one: Judged, what: str, weight: bool) -> Piece:
        piece = self.look.piece(one, what, bold=weight, signed=what == "change")
        if what == "base":
            return replace(
                piece, colour=self.look.style.base_line if piece.text != "n/a" else piece.colour, bold=weight
            )
        return piece

    def _fitted(self, canvas: Canvas, room: Box, points: Sequence[Judged], row: float) -> _Layout:
        """The largest type in which all columns fit, with bars for every comparison, or for the first alone.

        Raises Mistake where they do not even in the least size.
        """
        largest = max(canvas.least, min(row * TYPE, MOST_TYPE * canvas.scale))
        good = canvas.least if self.look.in_panels else max(canvas.least, min(largest, LEAST_TYPE * canvas.scale))
        with_bars = self._with_bars
        last = canvas.least
        for least, groups in ((good, with_bars), (good, with_bars[:1]), (last, with_bars[:1]), (last, ())):
            size = largest
            while size >= least:
                layout = self._layout(canvas, points, size, groups)
                if layout.width <= room.width:
                    return layout.spread(room.width - layout.width, canvas.scale)
                if size == least:
                    break
                size = max(least, size * 0.96)
        raise Mistake(
            f"{sum(len(one.columns) for one in self.groups)} columns of figures do not fit legibly in "
            f"{canvas.width} pixels",
            f"Give {setting('size', f'{canvas.width * 3 // 2}x{canvas.height}')}, or fewer comparisons.",
        )

    def _layout(
        self, canvas: Canvas, points: Sequence[Judged], size: float, with_bars: Sequence[ColumnGroup]
    ) -> _Layout:
        """All columns as narrow as they can be.

        Parameters
        ----------
        with_bars : the comparisons that have a column of bars.
        """
        names = max(
            widest([self._line(one).label + self.look.mark(one.point)], size, self._line(one).is_total)
            + self._line(one).indent * INDENT * size
            for one in points
        )
        columns: list[_Column] = []
        for place, group in enumerate(self.groups):
            begins = bool(place) and bool(group.title)
            for what, heading in group.columns:
                known = (group.of(one) for one in points)
                figures = [self._piece(one, what, True).width(size) for one in known if one is not None]
                width = max(*figures, widest([heading], canvas.smaller(size)), 0.0)
                before = (BETWEEN + (BETWEEN_GROUPS if begins and what == group.columns[0][0] else 0.0)) * size
                columns.append(_Column(group=group, what=what, heading=heading, width=width, before=before))
            if group in with_bars:
                heading = "Effect on result" if self.statement.has_both_kinds else "Change"
                width = max(LEAST_BARS * canvas.scale, widest([heading], canvas.smaller(size)))
                column = _Column(group=group, what=BARS, heading=heading, width=width, before=BETWEEN * size * 1.6)
                columns.append(column)
        return _Layout(size=size, names=min(names, WIDEST_NAME * canvas.width), columns=_titled(columns, size))

    def _draw_head(
        self, canvas: Canvas, columns: Sequence[_PlacedColumn], top: float, row: float, size: float
    ) -> None:
        """The headings, and over them the titles of the groups, each over a thin line."""
        style = canvas.style
        begun = [place for place, one in enumerate(columns) if one.group.title and _begins(columns, place)]
        for place, start in enumerate(begun):
            end = (begun[place + 1] if place + 1 < len(begun) else len(columns)) - 1
            left, right = columns[start].left, columns[end].right
            title = columns[start].group.title
            canvas.text(title, right, top + row * 0.7, canvas.smaller(size), style.ink, bold=True, align="right")
            canvas.line(left, top + row, right, top + row, style.hairline)
        for column in columns:
            y, type_size = top + row * 1.75, canvas.smaller(size)
            if column.what == BARS:
                canvas.text(column.heading, column.left, y, type_size, style.soft)
            else:
                canvas.text(column.heading, column.right, y, type_size, style.soft, align="right")

    def _draw_rules(
        self, canvas: Canvas, columns: Sequence[_PlacedColumn], y: float, row: float, line: StatementLine
    ) -> None:
        """A single rule over a total's amounts, a double one under the result."""
        style, result = canvas.style, self.statement.result
        for column in columns:
            if column.what not in ("current", "base", "change"):
                continue
            canvas.line(column.left, y + row * 0.04, column.right, y + row * 0.04, style.ink)
            if result is not None and line.label == result.label:
                for below in (0.93, 1.03):
                    canvas.line(column.left, y + row * below, column.right, y + row * below, style.ink)

    def _draw_bar(self, canvas: Canvas, scale: Scale, one: Judged, y: float, row: float) -> None:
        value = self._measured(one)
        if not value:
            return
        left, right = sorted((scale.place(ZERO), scale.place(value)))
        middle, half = y + row / 2, row * BAR_HEIGHT / 2
        box = Box(left=left, top=middle - half, right=right, bottom=middle + half)
        canvas.rectangle(box, self.look.fill(one), None, self.sentence(one))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Column:
    """A column that is not placed yet: how wide it is, and how much room is left before it."""

    group: ColumnGroup
    what: str
    heading: str
    width: float
    before: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _PlacedColumn:
    """A column of figures, from its widest figure's left to where all end; or one of bars."""

    group: ColumnGroup
    what: str
    heading: str
    left: float
    right: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Layout:
    """The names and the columns beside them, in one size of type."""

    size: float
    names: float
    columns: tuple[_Column, ...]

    @property
    def width(self) -> float:
        return self.names + sum(one.before + one.width for one in self.columns)

    def spread(self, room: float, scale: float) -> _Layout:
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

    def placed(self, room: Box) -> list[_PlacedColumn]:
        """The columns from left to right."""
        found, x = [], room.left + self.names
        for one in self.columns:
            x += one.before
            end = x + one.width
            found.append(_PlacedColumn(group=one.group, what=one.what, heading=one.heading, left=x, right=end))
            x += one.width
        return found


def _titled(columns: Sequence[_Column], size: float) -> tuple[_Column, ...]:
    """The columns with room for the titles of their groups, each over all columns up to the next title."""
    found = list(columns)
    begun = [place for place, one in enumerate(found) if one.group.title and _begins(found, place)]
    for place, start in enumerate(begun):
        end = begun[place + 1] if place + 1 < len(begun) else len(found)
        under = sum(one.before + one.width for one in found[start:end]) - found[start].before
        over = widest([found[start].group.title], size, True) - under
        if over > 0:
            found[start] = replace(found[start], before=found[start].before + over)
    return tuple(found)


def _begins(columns: Sequence[_Column] | Sequence[_PlacedColumn], place: int) -> bool:
    return place == 0 or columns[place - 1].group is not columns[place].group


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


ABOUT = About(
    question="what does the profit-and-loss say?",
    also=("income statement", "P&L table"),
    drawn="The statement set as printed accounts are, with a small variance bar and a sign in each row.",
    example="""\
  marvex draw statement ledger.csv --statement statement.toml --for 2026-10 --for 2026 \\
      --versus budget --versus year-ago""",
    view=StatementView,
    on_axes=False,
    needs_statement=True,
    several=True,
)
