"""What moved, and how much? Variance bars around zero: periods in columns, categories in rows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.point import Point
from marvex.core.rules.judging import Judged
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
    horizontal : rows for periods too.
    """

    horizontal: bool = False

    def note(self, points: Sequence[Judged]) -> str:
        """What the picture has to say of itself, for the foot."""
        return self.look.note(points)

    def values(self, points: Sequence[Judged]) -> Iterable[Decimal]:
        return (one.point.change for one in points if one.point.change is not None)

    def least_height(self, canvas: Canvas, points: Sequence[Judged], width: float) -> float:  # noqa: ARG002
        if stand_as_periods(points, horizontal=self.horizontal):
            return lane.least_height_of_columns(canvas, self.look, LEAST_LINES)
        return lane.least_height_of_rows(canvas, len(points))

    def draw(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Point, ...]:
        lanes, labels = self._lanes(canvas, room, points, reach)
        placer = Placer(canvas, Box(left=lanes.box.left, top=room.top, right=room.right, bottom=lanes.box.bottom))
        bars.draw_bars(canvas, lanes, points, self.look, placer)
        for place, label in labels.items():
            bars.ask_for_label(canvas, placer, lanes, place, points[place], label)
        return placer.settle()

    def _lanes(
        self, canvas: Canvas, room: Box, points: Sequence[Judged], reach: tuple[Decimal, Decimal]
    ) -> tuple[Lanes, dict[int, Label]]:
        look = self.look
        axis = (
            look.grid
            or look.labels != "all"
            or (stand_as_periods(points, horizontal=self.horizontal) and look.is_crowded(points))
        )
        if stand_as_periods(points, horizontal=self.horizontal):
            labels = bars.column_labels(look, points)
            low, high = bars.rooms(canvas, look, points, labels)
            needs = Needs(low=low, high=high, axis=axis)
            return lane.columns(canvas, room, points, look, reach, needs), labels
        labels = {place: look.label(points[place]).joined for place in look.labelled(points)}
        low, high = bars.rooms(canvas, look, points, labels, horizontal=True)
        needs = Needs(low=low, high=high, axis=axis)
        return lane.rows(canvas, room, points, lane.row_names(points, look), look, reach, needs), labels


ABOUT = About(
    question="what moved, and how much?",
    also=("deviation bars", "difference chart"),
    drawn="Variance bars around zero: periods in columns, categories in rows.",
    example="""\
  marvex draw variance ledger.csv --by route --versus year-ago --order change
  marvex draw variance tickets.csv --every day --for 2026-09 --versus year-ago --match weekday""",
    view=Variance,
    takes=("horizontal",),
    needs_base=True,
    shows_changes=True,
)
