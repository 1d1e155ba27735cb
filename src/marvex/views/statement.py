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
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, StatementLine
from marvex.core.words.side_names import capitalised, side_heading, summed_text
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import Piece, shortened
from marvex.views.drawing.look import Look
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.scale import Scale, reaching
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TALLEST_ROW, LEAST_ROW = 30.0, 15.5
TYPE = 0.58  # of a row
BAR_WIDTH, LEAST_BARS, BAR_HEIGHT = 96.0, 60.0, 0.5  # pixels, in a panel; of a row
INDENT = 1.2  # of the type size
BETWEEN, BETWEEN_GROUPS = 1.1, 2.4  # of the type size, or wider where there is room
WIDER = (2.8, 2.0, 1.4, 1.0)
WIDEST_BARS = 0.36  # of the room
WIDEST_NAME = 0.34  # of the room


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
        """The changes that the bars show: those of amounts."""
        return (
            one.point.change for one in points if one.point.change is not None and one.point.kind is not Kind.RATIO
        )

    def alike(self, canvas: Canvas, panels: Sequence[Sequence[Judged]], width: float) -> StatementView:  # noqa: ARG002
        return replace(self, most_rows=max(self._rows(points) for points in panels))

    def least_width(self, canvas: Canvas, points: Sequence[Judged]) -> float:
        size, room = canvas.least, Box(left=0, top=0, right=10_000, bottom=100)
        names = (
            widest([one.point.label], size, self._line(one).is_total) + self._line(one).indent * INDENT * size
            for one in points
        )
        _, left = self._placed(points, room, size, 1.0)
        return room.right - left + max(names) + 2.5 * size + LEAST_BARS * canvas.scale

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        return self._rows(points) * LEAST_ROW * canvas.least / canvas.style.least_size

    def _rows(self, points: Sequence[Judged]) -> float:
        """How many rows are set: the lines, the headings of sections, and the head."""
        return len(points) + sum(bool(self._line(one).section) for one in points) + 2.6

    def _line(self, one: Judged) -> StatementLine:
        return self.statement.line(one.point.label)

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        row = min(TALLEST_ROW * canvas.scale, room.height / max(self.most_rows, self._rows(points)))
        size, columns, bars = self._fitted(canvas, room, points, row)
        names_right = bars.left - size
        head = 1.1 if any(group.title for group in self.groups) else 0.0
        top = room.top + (1.1 + head) * row
        self._draw_head(canvas, columns, room.top + (head - 1.1) * row, row, size)
        lowest, highest = reaching(self.values(points)) if reach == (ZERO, ZERO) else reach
        scale = Scale(lowest=lowest, highest=highest, start=bars.left, end=bars.right)
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
            name = shortened(line.label + self.look.mark(one.point), names_right - left, size, weight)
            colour = canvas.style.soft if one.point.kind is Kind.RATIO else canvas.style.ink
            canvas.text(name, left, y + row * 0.68, size, colour, bold=weight)
            self._draw_bar(canvas, scale, one, y, row)
            for column in columns:
                judged = column.group.of(one)
                if judged is not None:
                    piece = self._piece(judged, column.what, weight)
                    piece.draw(canvas, column.right - piece.width(size), y + row * 0.68, size)
            y += row
        canvas.line(scale.place(ZERO), top, scale.place(ZERO), y, canvas.style.hairline)
        return ()

    def _piece(self, one: Judged, what: str, weight: bool) -> Piece:
        piece = self.look.piece(one, what, bold=weight, signed=what == "change")
        if what == "base":
            return replace(
                piece, colour=self.look.style.base_line if piece.text != "n/a" else piece.colour, bold=weight
            )
        return piece

    def _fitted(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], row: float
    ) -> tuple[float, list[_PlacedColumn], Box]:
        """The type size in which all columns fit, where each ends, and the room of the bars.

        Raises Mistake where they do not even in the least size.
        """
        size = max(canvas.least, row * TYPE)
        least_bars = min(BAR_WIDTH * canvas.scale, room.width * 0.12)
        while True:
            widths = (
                widest([one.point.label], size, self._line(one).is_total) + self._line(one).indent * INDENT * size
                for one in points
            )
            names = min(max(widths), room.width * WIDEST_NAME)
            for wider in WIDER:
                columns, end = self._placed(points, room, size, wider)
                bars = min(end - size - room.left - names - 1.5 * size, WIDEST_BARS * room.width)
                if bars >= least_bars * (wider if wider > 1 else 1):
                    return (
                        size,
                        columns,
                        Box(left=end - size - bars, top=room.top, right=end - size, bottom=room.bottom),
                    )
            if size <= canvas.least:
                raise Mistake(
                    f"{len(columns)} columns of figures do not fit legibly in {canvas.width} pixels",
                    f"Give {setting('size', f'{canvas.width * 3 // 2}x{canvas.height}')}, or fewer comparisons.",
                )
            size = max(canvas.least, size * 0.95)

    def _placed(
        self, points: Sequence[Judged], room: Box, size: float, wider: float
    ) -> tuple[list[_PlacedColumn], float]:
        """The columns, which end at the right, and where the first begins."""
        between = BETWEEN * size * wider
        right = room.right
        found: list[_PlacedColumn] = []
        for group in reversed(self.groups):
            for what, heading in reversed(group.columns):
                known = (group.of(one) for one in points)
                figures = [self._piece(one, what, True).width(size) for one in known if one is not None]
                width = max(*figures, widest([heading], size * 0.94), 0.0)
                found.append(_PlacedColumn(group=group, what=what, heading=heading, left=right - width, right=right))
                right -= width + between
            if group.title:
                title = widest([group.title], size * 0.94, True)
                over = title - (found[_first_of_title(self.groups, group, found)].right - (right + between))
                right -= max(0.0, over) + BETWEEN_GROUPS * size - between
        return found[::-1], right

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
            canvas.text(title, right, top + row * 0.7, size * 0.94, style.ink, bold=True, align="right")
            canvas.line(left, top + row, right, top + row, style.hairline)
        for column in columns:
            canvas.text(column.heading, column.right, top + row * 1.75, size * 0.94, style.soft, align="right")

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
        change = one.point.change
        if not change or one.point.kind is Kind.RATIO:
            return
        left, right = sorted((scale.place(ZERO), scale.place(change)))
        middle, half = y + row / 2, row * BAR_HEIGHT / 2
        canvas.rectangle(
            Box(left=left, top=middle - half, right=right, bottom=middle + half),
            self.look.fill(one),
            None,
            self.sentence(one),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class _PlacedColumn:
    """A column of figures, from its widest figure's left to where all end."""

    group: ColumnGroup
    what: str
    heading: str
    left: float
    right: float


def _begins(columns: Sequence[_PlacedColumn], place: int) -> bool:
    return place == 0 or columns[place - 1].group is not columns[place].group


def _first_of_title(groups: Sequence[ColumnGroup], group: ColumnGroup, found: Sequence[_PlacedColumn]) -> int:
    """The place, from the right, of the last column under a group's title."""
    after = list(groups)[list(groups).index(group) + 1 :]
    following = next((one for one in after if one.title), None)
    if following is None:
        return 0
    return 1 + max(place for place, one in enumerate(found) if one.group is following)


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
            title = summed_text(now, locale) if is_first else ""
            columns = [("current", side_heading(now) or "Current")] if is_first else []
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
