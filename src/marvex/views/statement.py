"""What does the profit-and-loss say? The statement set as printed accounts are, a small variance bar in each row.

A single rule over totals, a double one under the result; several comparisons side by side.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING, Any, Self

from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.errors import Mistake, setting
from marvex.core.exact import ZERO
from marvex.core.rules.bands import Band
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, StatementLine
from marvex.core.values import dataclass
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.labels import Piece, shortened
from marvex.views.drawing.lanes import Needs
from marvex.views.drawing.legend import LegendKey, band_keys
from marvex.views.drawing.look import Look
from marvex.views.drawing.point_view import ViewOfPoints
from marvex.views.drawing.scale import Scale, reaching
from marvex.views.drawing.statement_columns import (
    BARS,
    ColumnGroup,
    PlacedColumn,
    StatementColumn,
    StatementLayout,
    begins_group,
    column_groups,
    titled,
)
from marvex.views.drawing.text_metrics import widest

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

TALLEST_ROW, LEAST_ROW = 46.0, 1.45  # pixels; of the type size
TYPE, MOST_TYPE, LEAST_TYPE = 0.6, 24.0, 13.0  # of a row; pixels at 1280x800, where there is one statement
LEAST_BARS, BAR_HEIGHT = 60.0, 0.5  # pixels; of a row
INDENT = 1.2  # of the type size
BETWEEN = 0.85  # of the type size, before each column
BETWEEN_GROUPS = 1.4  # of the type size, more than between columns
WIDEST_NAME = 0.34  # of the room


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
        scales = {id(one): self._scale(canvas, one, reach) for one in columns if one.what == BARS}
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

    def _scale(self, canvas: Canvas, column: PlacedColumn, reach: tuple[Decimal, Decimal]) -> Scale:
        """The scale of a comparison's bars: of the first as the picture has it, of others by all that they show."""
        if column.group is not self._with_bars[0]:
            reach = reaching(self.values(list(column.group.judged.values())))
        return Needs(of=str(self.groups.index(column.group))).scale(canvas, reach, column.left, column.right)

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

    def _fitted(self, canvas: Canvas, room: Box, points: Sequence[Judged], row: float) -> StatementLayout:
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
    ) -> StatementLayout:
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
        columns: list[StatementColumn] = []
        for place, group in enumerate(self.groups):
            begins = bool(place) and bool(group.title)
            for what, heading in group.columns:
                known = (group.of(one) for one in points)
                figures = [self._piece(one, what, True).width(size) for one in known if one is not None]
                width = max(*figures, widest([heading], canvas.smaller(size)), 0.0)
                before = (BETWEEN + (BETWEEN_GROUPS if begins and what == group.columns[0][0] else 0.0)) * size
                column = StatementColumn(group=group, what=what, heading=heading, width=width, before=before)
                columns.append(column)
            if group in with_bars:
                heading = "Effect on result" if self.statement.has_both_kinds else "Change"
                width = max(LEAST_BARS * canvas.scale, widest([heading], canvas.smaller(size)))
                column = StatementColumn(
                    group=group, what=BARS, heading=heading, width=width, before=BETWEEN * size * 1.6
                )
                columns.append(column)
        return StatementLayout(size=size, names=min(names, WIDEST_NAME * canvas.width), columns=titled(columns, size))

    def _draw_head(
        self, canvas: Canvas, columns: Sequence[PlacedColumn], top: float, row: float, size: float
    ) -> None:
        """The headings, and over them the titles of the groups, each over a thin line."""
        style = canvas.style
        begun = [place for place, one in enumerate(columns) if one.group.title and begins_group(columns, place)]
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
        self, canvas: Canvas, columns: Sequence[PlacedColumn], y: float, row: float, line: StatementLine
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
