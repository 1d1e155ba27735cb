"""What moved, and how much? Variance bars around zero: periods in columns, categories in rows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.exact import rounded_ratio
from marvex.core.rules.judging import Judged
from marvex.core.values import dataclass
from marvex.core.words.units import ABSENT, NOT_MEANINGFUL, FigureFormat, Unit
from marvex.views.drawing import lanes as lane
from marvex.views.drawing import variance_bars as bars
from marvex.views.drawing.about import About
from marvex.views.drawing.box import Box
from marvex.views.drawing.direction import stand_as_periods
from marvex.views.drawing.labels import Label, Placer
from marvex.views.drawing.lanes import Lanes, Needs
from marvex.views.drawing.point_view import ViewOfPoints

if TYPE_CHECKING:
    from marvex.views.drawing.canvas import Canvas

LEAST_LINES = 8.0  # of text: the height of a plot in a panel


@dataclass(frozen=True, slots=True)
class Variance(ViewOfPoints):
    """Bars around zero.

    Parameters
    ----------
    stands : in columns or not, where that is asked for.
    plot : what the bars measure, the `change` or the `percent` that it is of the base.
    """

    stands: bool | None = None
    plot: str = "change"

    def note(self, points: Sequence[Judged]) -> str:
        """What the picture has to say of itself, for the foot."""
        what = "The bars measure the change in per cent of the base" if self.plot == "percent" else ""
        return ". ".join(part for part in (what, self.look.note(points)) if part)

    def measured(self, one: Judged) -> Decimal | None:
        """What a bar measures: the change, or its ratio where that means something."""
        point = one.point.as_effect if self.look.by_effect else one.point
        if self.plot == "change":
            return point.change
        is_told = self.look.figures.ratio(point) not in (ABSENT, NOT_MEANINGFUL, "")
        return rounded_ratio(point.change_ratio, 6) if is_told and point.change_ratio is not None else None

    def values(self, points: Sequence[Judged]) -> Iterable[Decimal]:
        return (value for one in points if (value := self.measured(one)) is not None)

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        if stand_as_periods(points, self.stands):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return lane.least_height_of_rows(canvas, len(points))

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        lanes, labels = self._lanes(canvas, room, points, reach)
        placer = Placer(canvas, Box(left=lanes.box.left, top=room.top, right=room.right, bottom=lanes.box.bottom))
        measured = [(one, self.measured(one)) for one in points]
        bars.draw_bars(canvas, lanes, measured, self.look, placer)
        for box in lanes.words:
            placer.block(box)
        for place, label in labels.items():
            bars.ask_for_label(canvas, placer, lanes, place, measured[place], label)
        return placer.settle()

    def _lanes(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Lanes, dict[int, Label]]:
        look = self.look
        axis = (
            look.grid or look.labels != "all" or (stand_as_periods(points, self.stands) and look.is_crowded(points))
        )
        if stand_as_periods(points, self.stands):
            labels = bars.column_labels(canvas, look, points, room.width)
            low, high = bars.rooms(canvas, look, points, labels, measure=self.measured)
            needs = Needs(low=low, high=high, axis=axis, axis_figures=self._axis_figures)
            return lane.columns(canvas, room, points, look, reach, needs), labels
        labels = {place: look.label(points[place]).joined for place in look.labelled(points)}
        low, high = bars.rooms(canvas, look, points, labels, measure=self.measured, horizontal=True)
        needs = Needs(low=low, high=high, axis=axis, axis_figures=self._axis_figures)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs), labels

    @property
    def _axis_figures(self) -> FigureFormat | None:
        return replace(self.look.figures, unit=Unit.PERCENT) if self.plot == "percent" else None


ABOUT = About(
    question="what moved, and how much?",
    also=("deviation bars", "difference chart"),
    drawn="Variance bars around zero: periods in columns, categories in rows.",
    example="""\
  marvex draw variance ledger.csv --by route --versus year-ago --order change
  marvex draw variance tickets.csv --every day --for 2026-09 --versus year-ago --match weekday""",
    view=Variance,
    turns=True,
    takes=("horizontal", "upright", "plot"),
    by_effect=True,
    needs_base=True,
    shows_changes=True,
)
